"""Rules about where the head goes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from rezept.core.machine import Machine
from rezept.core.plan.cautions import Caution
from rezept.core.plan.gate.asked import Asked
from rezept.core.plan.place import field_mm
from rezept.core.wording import rounded

Floats = NDArray[np.float64]


def beyond_field(machine: Machine, low: Floats, high: Floats) -> Floats:
    """How far ``(k,)`` extents go beyond the field; not more than 0 where they fit.

    A gantry's work zero is the piece's corner, which can be put where the leftmost run-up just fits, and to which the
    head comes back; a galvo's field is centred on its work zero.
    """
    field = field_mm(machine)
    if machine.motion == "galvo":
        return np.maximum(high - field / 2, -field / 2 - low).max(axis=1)
    return (np.maximum(high, 0.0) - np.minimum(0.0, low.min(axis=0)) - field).max(axis=1)


def within_field(asked: Asked) -> list[Caution]:
    """All moves of the program together, run-ups included."""
    worst = beyond_field(asked.today.machine, asked.moves.low, asked.moves.high)
    width, height = field_mm(asked.today.machine)
    name = asked.today.machine.name

    def sentence(value: float, _limit: float) -> str:
        return (
            f"with its run-up it reaches {rounded(value)} mm beyond the field of {name} ({width:g} x {height:g} mm);"
            " move the plate, or go slower there."
        )

    return [Caution("field", "refusal", "place", worst > 1e-6, worst, np.zeros(len(worst)), sentence)]
