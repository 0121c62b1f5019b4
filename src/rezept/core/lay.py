"""How a piece lay while it burned: a figure for one way says nothing of another."""

from __future__ import annotations

from typing import Literal

LayKey = Literal["flat", "roller", "through", "stacked"]
LAYS: dict[LayKey, str] = {
    "flat": "flat",
    "roller": "on a roller",
    "through": "passed through",
    "stacked": "in a stack of sheets",
}
# What is usually below a piece, offered while one types.
BELOW = ("cells", "slats", "a mat", "spacers", "a second sheet", "nothing")
# A cut goes no deeper than so many sheets.
MOST_STACKED = 100


def lay_words(lay: LayKey, roller_mm: float | None, stack_of: int | None = None) -> str:
    """``on a roller, Ø 60 mm``; empty where it lay flat, as nearly everything does."""
    if lay == "flat":
        return ""
    if lay == "stacked" and stack_of is not None:
        return f"in a stack of {stack_of}"
    return LAYS[lay] if roller_mm is None else f"{LAYS[lay]}, Ø {roller_mm:g} mm"
