"""The part of a trial that its author edits: one table of its keys.

What may stand in a design, what of it is typed and in which quantity, what a kept array holds and what goes on to the
next trial all follow this table; so do the wire, and what a conflict shows. A new key is a new row here, and a reader
in `core.plan.trial`.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from rezept.core.errors import UnknownKey, quoted

# How a key's value is shown in words: a text, yes or no, a word of several, a number with its unit, settings by name,
# settings of single patches by name, a list, or an object of several of these; `axes` are an array's own, `rows` the
# settings of patches one by one, `steps` what is done to each patch in turn.
Kind = Literal["text", "flag", "choice", "number", "settings", "by_patch", "list", "object", "axes", "rows", "steps"]


@dataclass(frozen=True)
class DesignKey:
    """One key of a design.

    Parameters
    ----------
    name : as people call it, where two designs are held against one another
    quantity : of a number that may be typed (`core.units`); parts : likewise of the numbers in an object
    unit : which a number is shown with
    settings_in : key of an object's part that holds settings
    in_arrays : whether a kept array holds it
    carried : whether the next trial of a series begins with it
    of_array : whether it names patches of one array, and says nothing any more where that is another one
    """

    key: str
    name: str
    kind: Kind
    quantity: str | None = None
    unit: str = ""
    parts: Mapping[str, str] = field(default_factory=dict)
    settings_in: str | None = None
    in_arrays: bool = False
    carried: bool = False
    of_array: bool = False


_LENGTH = "length"


def _dose(end: str, name: str) -> tuple[DesignKey, ...]:
    return tuple(
        DesignKey(f"dose_{end}_{key}", name, "number", quantity="count", unit=unit)
        for key, unit in (("j_mm", "J/mm"), ("j_mm2", "J/mm²"))
    )


DESIGN: dict[str, DesignKey] = {
    row.key: row
    for row in (
        DesignKey("title", "Title", "text"),
        DesignKey("axes", "What varies", "axes", in_arrays=True),
        DesignKey("listed", "Settings one by one", "rows", parts={"wrap": "count"}),
        DesignKey("added", "Burned beside it", "rows", parts={"wrap": "count"}),
        DesignKey("repeats", "Times each", "number", quantity="count"),
        DesignKey("hold", "Held", "settings", in_arrays=True),
        DesignKey("steps", "Steps", "steps"),
        DesignKey("rounds", "Rounds", "number", quantity="count"),
        DesignKey("steps_order", "Steps by", "choice"),
        DesignKey(
            "patch",
            "Patch",
            "object",
            parts=dict.fromkeys(("width_mm", "height_mm", "gap_mm", "block_gap_mm"), _LENGTH),
            in_arrays=True,
            carried=True,
        ),
        DesignKey(
            "labels",
            "Labels",
            "object",
            parts={"height_mm": _LENGTH},
            settings_in="settings",
            in_arrays=True,
            carried=True,
        ),
        DesignKey("order", "Order", "choice", in_arrays=True, carried=True),
        DesignKey("fit", "Fit", "choice"),
        DesignKey("piece", "Piece", "object", parts=dict.fromkeys(("width_mm", "height_mm", "margin_mm"), _LENGTH)),
        DesignKey("piece_id", "Piece from the shelf", "number"),
        DesignKey("piece_face", "Face of the piece", "choice"),
        DesignKey("place", "Place", "object", parts={"x_mm": _LENGTH, "y_mm": _LENGTH, "turn_deg": "angle"}),
        DesignKey("zero", "Zero", "object", parts={"x_mm": _LENGTH, "y_mm": _LENGTH}),
        DesignKey("off", "Left out", "list", of_array=True),
        DesignKey("overrides", "Set by hand", "by_patch", of_array=True),
        DesignKey("cut_out", "Cut out", "flag", in_arrays=True),
        DesignKey("hang_hole_mm", "Hang hole", "number", quantity=_LENGTH, unit="mm", in_arrays=True),
        DesignKey("cut_settings", "Settings of its cuts", "settings"),
        *_dose("floor", "Least dose"),
        *_dose("ceiling", "Greatest dose"),
        *(
            DesignKey(f"starting_dose_{key}", "Starting dose", "number", unit=unit)
            for key, unit in (("j_mm", "J/mm"), ("j_mm2", "J/mm²"))
        ),
        DesignKey("accepted_hazards", "Answered for", "list"),
    )
}
# What is typed in a step beside its settings, and in which quantity.
STEP_PARTS = {
    "inset_mm": _LENGTH,
    **dict.fromkeys((key for key, row in DESIGN.items() if key.startswith(("dose_", "starting_dose_"))), "count"),
}
IN_ARRAYS = tuple(key for key, row in DESIGN.items() if row.in_arrays)
CARRIED = tuple(key for key, row in DESIGN.items() if row.carried)


def refuse_unknown(design: Mapping[str, Any]) -> None:
    """
    Raises
    ------
    UnknownKey : something is not part of a design
    """
    for key in design:
        if key not in DESIGN:
            raise UnknownKey(f"{quoted(key)} is not part of a design.", key, key)


def without_patches_of_an_array() -> dict[str, Any]:
    """What of a design names patches, as it is where nothing is left out or set by hand."""
    return {key: [] if row.kind == "list" else {} for key, row in DESIGN.items() if row.of_array}
