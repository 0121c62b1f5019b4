"""What one setting costs in another: along the curve of equal outcome, and where equal dose stops being equal."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.findings.candidates import Candidate
from rezept.core.findings.coding import held_beside
from rezept.core.findings.ordered_aims import OrderedAims

Floats = NDArray[np.float64]

FASTER = 1.12
# A degree of char more is plainly more.
PLAINLY_MORE = 1.0
# Beyond this share the outcome of one dose is not the same any more.
_UNEQUAL = 0.12


@dataclass(frozen=True)
class Trade:
    """The curve along which a cut holds: ``(p,)`` powers and speeds, and what it means in words."""

    powers: Floats
    speeds: Floats
    words: str


def trade_of(aims: OrderedAims, fastest: Candidate) -> Trade | None:
    """Along the settings that hold, with the others as the fastest has them; None where fewer than three are known."""
    held = held_beside(fastest.settings)
    curve = next(one for one in aims.holding if dict(one.held) == held)
    known = ~np.isnan(curve.speeds)
    powers, speeds = aims.choices.powers[known], curve.speeds[known]
    if len(powers) < 3:
        return None
    weight = float(np.polyfit(np.log(powers), np.log(speeds), 1)[0])
    machine = aims.choices.machine
    more = 100 * (FASTER ** (1 / max(weight, 0.2)) - 1)
    ceiling = f"{machine.name}'s ceiling, " if powers[-1] >= machine.max_power_pct else ""
    words = (
        f"{100 * (FASTER - 1):.0f} % faster needs {more:.0f} % more power, up to {ceiling}{powers[-1]:g} % at"
        f" {aims.choices.slower(float(speeds[-1])):g} mm/s."
    )
    # Of equal dose the speed goes as the power does.
    off = np.log(speeds / speeds[-1]) - np.log(powers / powers[-1])
    unequal = np.flatnonzero(np.abs(off) > _UNEQUAL)
    chars = _chars_below(aims, fastest)
    if len(unequal):
        at = int(unequal[-1])
        does = "is not enough" if off[at] < 0 else "is more than enough"
        words += f" Below {powers[at]:g} % and {aims.choices.slower(float(speeds[at])):g} mm/s the same dose {does}."
    if chars is not None:
        words += f" Below {aims.choices.slower(chars):g} mm/s the same dose chars."
    if not len(unequal) and chars is None:
        words += " Over all of it settings of one dose come out alike."
    return Trade(powers, speeds, words)


def _chars_below(aims: OrderedAims, fastest: Candidate) -> float | None:
    """The speed below which settings of the fastest's dose char plainly more than it does; None where they do not, as
    far as one may choose, or char was not read."""
    model = aims.others.get("char")
    if model is None:
        return None
    power, speed = fastest.settings["power_pct"], fastest.settings["speed_mm_s"]
    powers = np.linspace(aims.choices.powers[0], power, 60)
    columns = aims.choices.columns(held_beside(fastest.settings), powers, speed * powers / power)
    expected = model.expected(columns)
    worse = (expected.mean >= expected.mean[-1] + PLAINLY_MORE) & (expected.unsure < PLAINLY_MORE)
    return float(columns["speed_mm_s"][worse].max()) if worse.any() else None
