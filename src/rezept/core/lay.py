"""How a piece lay while it burned: a figure for one way says nothing of another."""

from __future__ import annotations

from typing import Literal

LayKey = Literal["flat", "roller", "through"]
LAYS: dict[LayKey, str] = {"flat": "flat", "roller": "on a roller", "through": "passed through"}
# What is usually below a piece, offered while one types.
BELOW = ("cells", "slats", "a mat", "spacers", "a second sheet", "nothing")


def lay_of(lay: str) -> LayKey:
    """How it lay; where nobody said it, flat, as nearly everything does."""
    return next((key for key in LAYS if key == lay), "flat")


def lay_words(lay: str, roller_mm: float | None) -> str:
    """``on a roller, Ø 60 mm``; empty where it lay flat."""
    kind = lay_of(lay)
    if kind == "flat":
        return ""
    return LAYS[kind] if roller_mm is None else f"{LAYS[kind]}, Ø {roller_mm:g} mm"
