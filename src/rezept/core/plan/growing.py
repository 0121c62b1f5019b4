"""A plate that grows patch by patch: what of it is burned already, and that none of that moves."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np

from rezept.core.errors import Refused
from rezept.core.plan.again import only
from rezept.core.plan.plate import Plate


def burned_before(plate: Plate) -> int:
    """How many patches of a plate had been burned when it was planned; 0 of one that does not grow."""
    listed = plate.trial.listed
    return 0 if listed is None or listed.burned is None else listed.burned


def still_to_burn(plate: Plate) -> Plate:
    """The plate as if only what has not been burned yet burned; lettering goes with the first of it."""
    before = burned_before(plate)
    if before == 0:
        return plate
    return only(plate, [name for index, _, name in plate.parts() if index >= before])


def refuse_moved(before: Plate, after: Plate) -> None:
    """
    Raises
    ------
    Refused : a patch of the plate that was burned has other settings on the later one, or lies elsewhere
    """
    first = len(before.elements)
    moved = "What is burned stays as it is: "
    if after.elements.ids[:first] != before.elements.ids:
        raise Refused(f"{moved}this would take patches off, or call them otherwise.", "listed")
    if not np.allclose(after.elements.boxes[:first], before.elements.boxes, atol=1e-6):
        raise Refused(f"{moved}this would move it. Lettering, margins and sizes stay while a plate grows.", "listed")
    for key, column in before.judged.settings.items():
        if not np.allclose(after.judged.settings.get(key, np.full(first, np.nan))[:first], column, rtol=1e-9):
            raise Refused(f"{moved}this would give it other settings.", "listed")


def differing(before: Mapping[str, float], now: Mapping[str, float]) -> list[str]:
    """Settings that differ between two patches."""
    return [key for key in now if not math.isclose(now[key], before.get(key, math.nan), rel_tol=1e-6)]
