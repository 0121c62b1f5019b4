"""What one setting costs in another: along the curve of equal outcome, and where equal dose stops being equal."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.findings.candidates import Candidate
from rezept.core.findings.choices import Choices
from rezept.core.findings.coding import held_beside
from rezept.core.findings.mark_aims import STEP_LIGHTNESS, MarkAims
from rezept.core.findings.ordered_aims import OrderedAims

Floats = NDArray[np.float64]

FASTER = 1.12
# A degree of char more is plainly more.
PLAINLY_MORE = 1.0
ALIKE = "Over all of it settings of one dose come out alike."
# Beyond this share the outcome of one dose is not the same any more.
_UNEQUAL = 0.12


@dataclass(frozen=True)
class Trade:
    """The curve along which it comes out alike: ``(p,)`` powers and speeds, and what it means in words."""

    powers: Floats
    speeds: Floats
    words: str


@dataclass(frozen=True)
class _Costs:
    """What is said of a curve of three points at least, from the weakest power on."""

    choices: Choices
    powers: Floats
    speeds: Floats

    def _shown(self, speed: float) -> str:
        return f"{self.choices.slower(speed):g} mm/s"

    @property
    def faster(self) -> str:
        weight = float(np.polyfit(np.log(self.powers), np.log(self.speeds), 1)[0])
        machine, top = self.choices.machine, float(self.powers[-1])
        more = 100 * (FASTER ** (1 / max(weight, 0.2)) - 1)
        ceiling = f"{machine.name}'s ceiling, " if top >= machine.max_power_pct else ""
        faster = f"{100 * (FASTER - 1):.0f} % faster needs {more:.0f} % more power"
        return f"{faster}, up to {ceiling}{top:g} % at {self._shown(float(self.speeds[-1]))}."

    def unequal(self, too_little: str, too_much: str) -> str | None:
        """Where settings of the dose at the strong end come out otherwise; None where they nowhere do."""
        # Of equal dose the speed goes as the power does.
        off = np.log(self.speeds / self.speeds[-1]) - np.log(self.powers / self.powers[-1])
        unequal = np.flatnonzero(np.abs(off) > _UNEQUAL)
        if not len(unequal):
            return None
        at = int(unequal[-1])
        where = f"Below {self.powers[at]:g} % and {self._shown(float(self.speeds[at]))}"
        return f"{where} the same dose {too_little if off[at] < 0 else too_much}."


def trade_of(aims: OrderedAims, fastest: Candidate) -> Trade | None:
    """Along the settings that hold, with the others as the fastest has them; None where fewer than three are known."""
    held = held_beside(fastest.settings)
    curve = next(one for one in aims.holding if dict(one.held) == held)
    known = ~np.isnan(curve.speeds)
    powers, speeds = aims.choices.powers[known], curve.speeds[known]
    if len(powers) < 3:
        return None
    costs = _Costs(aims.choices, powers, speeds)
    unequal, chars = costs.unequal("is not enough", "is more than enough"), _chars_below(aims, fastest)
    words = [costs.faster]
    if unequal is not None:
        words.append(unequal)
    if chars is not None:
        words.append(f"Below {aims.choices.slower(chars):g} mm/s the same dose chars.")
    if len(words) == 1:
        words.append(ALIKE)
    return Trade(powers, speeds, " ".join(words))


def trade_of_mark(aims: MarkAims, chosen: Candidate) -> Trade | None:
    """Along the settings of the same lightness as the chosen one, where that is known; None where fewer than three
    powers have one."""
    target, settings = chosen.predicted.value, chosen.settings
    choices, held = aims.choices, held_beside(settings)
    which = next((i for i, one in enumerate(choices.held) if one == held), None)
    if which is None:
        return None
    columns, expected, _ = aims.every
    shape = len(choices.held), len(choices.powers), len(choices.speeds)
    speed, away = columns["speed_mm_s"].reshape(shape)[which], (expected.mean - target).reshape(shape)[which]
    known = (expected.unsure < STEP_LIGHTNESS).reshape(shape)[which]
    powers, speeds = [], []
    for i, power in enumerate(choices.powers.tolist()):
        # A mark may turn: of several speeds with that lightness the one nearest to equal dose.
        alike = settings["speed_mm_s"] * power / settings["power_pct"]
        found = _crossings(np.log(speed[i]), away[i], known[i])
        if len(found):
            powers.append(power)
            speeds.append(float(np.exp(found[np.argmin(np.abs(found - np.log(alike)))])))
    if len(powers) < 3:
        return None
    costs = _Costs(choices, np.array(powers), np.array(speeds))
    # Where less speed than of equal dose is needed, equal dose leaves a mark nearer to the ground.
    less, more = ("lighter", "darker") if target < aims.ground else ("darker", "lighter")
    unequal = costs.unequal(f"comes out {less}", f"comes out {more}")
    return Trade(costs.powers, costs.speeds, f"For the same shade {costs.faster} {unequal or ALIKE}")


def _crossings(at: Floats, values: Floats, known: NDArray[np.bool_]) -> Floats:
    """Places where values between known points change their sign."""
    turns = np.flatnonzero((np.sign(values[1:]) != np.sign(values[:-1])) & known[1:] & known[:-1])
    share = values[turns] / (values[turns] - values[turns + 1])
    return np.asarray(at[turns] + share * (at[turns + 1] - at[turns]))


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
