"""Where to burn next: where the decision turns, on which sheet, and whether it is worth its wood."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from rezept.core.control import own_setting_words
from rezept.core.findings.candidates import HIGH, HOLDS, LOW, Candidate, seconds_for
from rezept.core.findings.choices import is_typed, shown
from rezept.core.findings.coding import columns_of, held_beside
from rezept.core.findings.mark_aims import MarkAims
from rezept.core.findings.ordered_aims import OrderedAims
from rezept.core.machine import Machine
from rezept.core.plan.holding import limits_of
from rezept.core.wording import counted

Floats = NDArray[np.float64]
Sheet = Literal["same lot", "another lot"]

MOST_COLUMNS = 8
# Speeds at which this share of patches is expected to drop out: between them the decision turns.
_TURNS = (0.97, 0.03)
# So few patches are coupons; from here on they are rows and columns.
FEW = 4
# Less than this to be gained in speed is not worth a sheet, nor is a fifth sheet of the same kind.
WORTH_PCT, MOST_SHEETS = 2.5, 4
# What one does not know of a mark is small beside how sheets and patches differ: finer steps on this one settle little.
_FINE_ENOUGH = 0.7
# Of a cut another sheet settles more even while one knows this one only about as well as sheets are alike (make bench).
_OPEN_HERE = 1.2
_POWER_STEP = 0.82
# Of a window all that was burned may be too much: so much faster than what may be chosen, and so wide at least.
_FASTER_STILL, _WIDE = 8.0, 1.5


@dataclass(frozen=True)
class NextArray:
    """Axes and held settings of the array to burn next; None of them where none is worth it.

    listed : coupons that fit no grid, as settings one by one, in place of axes
    on : on which sheet; why : what it will settle, or why there is none
    """

    axes: tuple[dict[str, Any], ...] | None
    hold: dict[str, float]
    on: Sheet
    why: str
    listed: tuple[dict[str, float], ...] | None = None

    @property
    def is_any(self) -> bool:
        return self.axes is not None or self.listed is not None

    @property
    def count(self) -> int:
        """How many settings it has."""
        if self.listed is not None:
            return len(self.listed)
        return math.prod(len(axis["values"]) for axis in self.axes or ())

    def in_trial(self) -> tuple[list[dict[str, Any]], dict[str, float], dict[str, Any] | None]:
        """Axes, held settings and list as a trial has them."""
        listed = None if self.listed is None else {"settings": [dict(one) for one in self.listed]}
        return list(self.axes or ()), self.hold, listed

    def on_machine(self, machine: Machine) -> NextArray:
        """The same, and what it costs in typing where all of it is typed."""
        if not self.is_any or not is_typed(machine):
            return self
        return replace(self, why=f"{self.why} {counted(self.count, 'setting')} to type.")


def _listed(key: str, along: str, values: list[float]) -> dict[str, Any]:
    return {"parameter": key, "along": along, "values": values}


def _shown_between(aims: OrderedAims | MarkAims, low: float, high: float, count: int) -> list[float]:
    """Speeds from `low` to `high` in even ratios that the control can show, each once."""
    machine = aims.choices.machine
    least, most = limits_of(machine, "speed_mm_s")
    values = (shown(machine, "speed_mm_s", float(value)) for value in np.geomspace(low, high, count))
    return sorted({value for value in values if least < value <= most and value > 0})


def next_of_ordered(aims: OrderedAims, chosen: Candidate | None, sheets: int) -> NextArray:
    """The array that settles what comes out in steps: about the speeds at which it turns, at the power one would choose
    and one below; of a window from where half is too much to where all is too little.

    Parameters
    ----------
    chosen : the candidate it is for; None where nothing holds yet
    sheets : on how many sheets there is something burned
    """
    model, choices = aims.model, aims.choices
    machine = choices.machine
    hold = held_beside(chosen.settings if chosen else choices.held[0])
    power = chosen.settings["power_pct"] if chosen else float(choices.powers[-1])
    # Wider than one may choose: the array may well go where nothing was burned.
    top = min(machine.of_head("max_speed_mm_s"), aims.wish.at_most.get("speed_mm_s", np.inf))
    faster = _FASTER_STILL if model.steps.is_window else 2.0
    speeds = np.geomspace(choices.speeds[0] / 4, min(choices.speeds[-1] * faster, top), 120)
    columns = choices.columns(hold, np.full(len(speeds), power), speeds)
    # Draws in which it turns at another place on this sheet, and on another one.
    least, most = model.steps.wanted
    this = len(model.lots) - 1
    on_this = np.log(_crossing(model.shares_on(this, least, columns), speeds, 0.5))
    by_sheets = float(np.mean(model.draws.tau / model.draws.by_speed))
    same = chosen is None or float(np.std(on_this)) > _OPEN_HERE * by_sheets

    def turns(level: int, share: float) -> float:
        """The speed up to which this share is expected to reach a level."""
        reach = model.shares_on(this, level, columns) if same else model.shares_from(level, columns)
        return float(_crossing(reach.mean(axis=0)[None, :], speeds, share)[0])

    fast = turns(least, _TURNS[1])
    slow = min(turns(most + 1, 0.5), fast / _WIDE) if model.steps.is_window else turns(least, _TURNS[0])
    enough = model.shares_from(least, columns)
    holding = np.log(_crossing(enough, speeds, HOLDS))
    gain = 100.0 * (float(np.exp(holding.mean() - np.log(chosen.settings["speed_mm_s"]))) - 1) if chosen else np.inf
    on: Sheet = "same lot" if same else "another lot"
    if chosen is not None and chosen.certain and (gain < WORTH_PCT or sheets > MOST_SHEETS):
        return NextArray(None, {}, on, "No further array is worth its wood: it would not let you go plainly faster.")
    weakest, strongest = limits_of(machine, "power_pct")
    rows = sorted({power, shown(machine, "power_pct", power * _POWER_STEP)})
    rows = [one for one in rows if weakest <= one <= strongest]
    count = min(MOST_COLUMNS, max(aims.wish.most // len(rows), 1))
    if aims.wish.most < FEW:
        rows, count = [power], max(aims.wish.most, 1)
        coupons = _coupons(aims, hold, power, least, on)
        if coupons is not None:
            return coupons.on_machine(machine)
    slow, fast = slow * (1.0 if same else 0.97), max(fast, slow * 1.02)
    if count == 1:
        # One coupon halves what is open.
        slow = fast = math.sqrt(slow * fast)
    across = _shown_between(aims, slow, fast, count)
    axes = [_listed("speed_mm_s", "x", across)]
    if len(rows) > 1:
        axes.append(_listed("power_pct", "y", rows))
    else:
        hold["power_pct"] = rows[0]
    between = f"between {across[0]:g} and {across[-1]:g} mm/s" if len(across) > 1 else f"about {across[0]:g} mm/s"
    if chosen is None:
        kept_to = " within what you keep to" if aims.wish.outcome_bounds or aims.wish.at_most else ""
        turns_out = f"what {aims.words.comes_out} there settles how fast one may go"
        why = f"Nothing holds yet{kept_to}. It should turn {between}; {turns_out}."
    elif same:
        why = f"It turns {between} on this sheet; finer steps there settle where."
    else:
        why = (
            f"Where it turns on this sheet is known better than how sheets differ: the same again {between} on another"
            " sheet settles more than finer steps on this one."
        )
    return NextArray(tuple(axes), hold, on, why).on_machine(machine)


def _coupons(aims: OrderedAims, hold: Mapping[str, float], power: float, level: int, on: Sheet) -> NextArray | None:
    """One coupon each where several sets of other settings may still be the fastest, each where it halves what is open:
    between these speeds, and the same in one pass. None where only one may be."""
    choices, model = aims.choices, aims.model
    open_ones = []
    for held in sorted(choices.held, key=lambda one: dict(one) != dict(hold)):
        columns = choices.columns(held, np.full(len(choices.speeds), power), choices.speeds)
        turns = _crossing(model.shares_from(level, columns), choices.speeds, 0.5)
        slow, middle, fast = (float(value) for value in np.quantile(turns, [LOW, 0.5, HIGH]))
        seconds = [
            seconds_for(aims.process, {**held, "speed_mm_s": speed}, aims.wish.length) for speed in (middle, fast)
        ]
        open_ones.append((held, slow, middle, fast, *seconds))
    best = min(one[4] for one in open_ones)
    worth = [one for one in open_ones if one[5] <= best][: aims.wish.most]
    if len(worth) < 2:
        return None
    listed = []
    said = []
    first = worth[0][0]
    for held, slow, middle, fast, *_ in worth:
        speed = shown(choices.machine, "speed_mm_s", middle)
        listed.append({**held, "power_pct": power, "speed_mm_s": speed})
        otherwise = [
            own_setting_words(choices.machine, key, value) for key, value in held.items() if first.get(key) != value
        ]
        between = f"between {choices.slower(slow):g} and {choices.slower(fast):g} mm/s"
        said.append(f"with {', '.join(otherwise)} {between}" if otherwise else between)
    same = {key: value for key, value in listed[0].items() if all(one.get(key) == value for one in listed)}
    own = tuple({key: value for key, value in one.items() if key not in same} for one in listed)
    why = f"It turns {'; and '.join(said)}: a coupon each halves what is open."
    return NextArray(None, same, on, why, own)


def _crossing(shares: Floats, speeds: Floats, share: float) -> Floats:
    """``(s,)`` the speed at which each row of shares, falling with speed, goes below `share`; the ends where it never
    does."""
    below = shares < share
    first = np.where(below.any(axis=1), below.argmax(axis=1), shares.shape[1] - 1)
    return np.asarray(speeds[np.maximum(first - 1, 0)])


def next_of_mark(aims: MarkAims, chosen: Candidate | None, sheets: int) -> NextArray:
    """The array that settles a mark: four speeds by four powers about the candidate."""
    if chosen is None:
        return _wider(aims)
    machine, settings = aims.choices.machine, dict(chosen.settings)
    expected = aims.model.expected(columns_of(settings))
    unsure, sheet, patch = (float(one[0]) for one in (expected.unsure, expected.sheets, expected.patches))
    same = unsure > np.hypot(sheet, patch) * _FINE_ENOUGH and sheets < 2
    on: Sheet = "same lot" if same else "another lot"
    if not same and (unsure < 0.5 * np.hypot(sheet, patch) or sheets > MOST_SHEETS):
        return NextArray(None, {}, on, "No further array is worth its wood: sheets and patches differ by more than it"
                                       " would settle.")  # fmt: skip
    side = max(int(np.sqrt(aims.wish.most)), 1)
    across = _shown_between(aims, settings["speed_mm_s"] / 1.25, settings["speed_mm_s"] * 1.25, max(min(side, 4), 2))
    least, most = limits_of(machine, "power_pct")
    rows = sorted({
        shown(machine, "power_pct", float(np.clip(settings["power_pct"] * one, least, most)))
        for one in np.linspace(0.85, 1.15, min(side, 4))
    })  # fmt: skip
    hold = held_beside(settings)
    axes = [_listed("speed_mm_s", "x", across)]
    if len(rows) > 1 and len(rows) * len(across) <= aims.wish.most:
        axes.append(_listed("power_pct", "y", rows))
    else:
        hold["power_pct"] = settings["power_pct"]
    where = f"about {settings['speed_mm_s']:g} mm/s and {settings['power_pct']:g} %"
    why = (
        f"Finer steps {where} settle what comes out there."
        if same
        else f"The same again {where} on another sheet shows how sheets differ."
    )
    return NextArray(tuple(axes), hold, on, why).on_machine(machine)


def _wider(aims: MarkAims) -> NextArray:
    """Nothing that was burned comes near: on from there, to twice and half the speed."""
    choices = aims.choices
    across = _shown_between(aims, float(choices.speeds[0]), float(choices.speeds[-1]), 4)
    rows = [float(choices.powers[0]), float(choices.powers[-1])]
    axes = [_listed("speed_mm_s", "x", across)]
    hold = dict(choices.held[0])
    if rows[0] < rows[1] and 2 * len(across) <= aims.wish.most:
        axes.append(_listed("power_pct", "y", rows))
    else:
        hold["power_pct"] = rows[1]
    return NextArray(
        tuple(axes), hold, "same lot", "Nothing that was burned comes near it: a wider range first."
    ).on_machine(choices.machine)
