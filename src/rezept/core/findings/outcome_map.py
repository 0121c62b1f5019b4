"""What is expected everywhere between the patches of a plate, laid out as the plate is: a map for each of its blocks,
and for each line of a ladder that is wrapped.

Settings between two columns are what a column half-way would have: even ratios where the setting counts by ratios.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.dose import area_dose, line_dose, power_w
from rezept.core.findings.candidates import EIGHTY, PredictedKey, expected_share, seconds_for
from rezept.core.findings.coding import ALWAYS, columns_of, is_log
from rezept.core.findings.mark_aims import MarkAims
from rezept.core.findings.ordered_aims import OrderedAims
from rezept.core.findings.ordered_law import LEVELS
from rezept.core.plan import Plate
from rezept.core.plan.holding import limits_of
from rezept.core.scales import SCALES

Floats = NDArray[np.float64]

# So many steps from one column to the next; half a column beyond the outer ones. Fewer where the maps of a plate would
# have more points than that in all.
STEPS, MOST_POINTS = 6, 1600
# Lines of the other steps are by every so many-th draw.
_OF_DRAWS = 6


@dataclass(frozen=True)
class Along:
    """One edge of the map: places in mm on the plate, and the setting there."""

    parameter: str
    mm: Floats
    setting: Floats

    def place(self, value: float) -> float | None:
        """Where a setting lies, in mm; None where that is off the map."""
        scaled = np.log(self.setting) if is_log(self.parameter) else self.setting
        at = float(np.log(value)) if is_log(self.parameter) else value
        if np.ptp(scaled) == 0:
            return float(self.mm.mean()) if abs(at - scaled[0]) < 1e-6 * max(1.0, abs(at)) else None
        order = np.argsort(scaled)
        if not scaled[order[0]] - 1e-9 <= at <= scaled[order[-1]] + 1e-9:
            return None
        return float(np.interp(at, scaled[order], self.mm[order]))


@dataclass(frozen=True)
class OutcomeMap:
    """What is expected over a plate or a block of it: ``(y, x)`` from its lower left.

    held : the settings that are the same all over it
    expected : share of fresh sheets that come out as wanted, or lightness; low, high : 80 % of it
    turns : of what comes out in steps, by the word of a step that is not the wanted one: share of fresh sheets that
        reach it
    dose : in the process's unit; seconds : for the length or area somebody asked for
    """

    key: PredictedKey
    held: Mapping[str, float]
    x: Along
    y: Along
    expected: Floats
    low: Floats
    high: Floats
    dose: Floats
    seconds: Floats
    turns: Mapping[str, Floats]

    def place_of(self, settings: Mapping[str, float]) -> tuple[float, float] | None:
        """Where a setting lies, mm on the plate; None where that is off the map, or on another of its slices."""
        if any(not math.isclose(settings.get(key, value), value, rel_tol=1e-6) for key, value in self.held.items()):
            return None
        x, y = self.x.place(settings[self.x.parameter]), self.y.place(settings[self.y.parameter])
        return None if x is None or y is None else (x, y)

    def document(self) -> dict[str, Any]:
        return {
            "key": self.key,
            "held": dict(self.held),
            **{
                side: {
                    "parameter": along.parameter,
                    "mm": along.mm.round(3).tolist(),
                    "setting": [float(f"{value:.4g}") for value in along.setting],
                }
                for side, along in (("x", self.x), ("y", self.y))
            },
            **{name: getattr(self, name).round(4).tolist() for name in ("expected", "low", "high", "dose", "seconds")},
            "turns": [{"name": name, "expected": share.round(3).tolist()} for name, share in self.turns.items()],
        }


def _between(known: Floats, steps: int) -> Floats:
    """Values between the known ones and half a step beyond the outer ones."""
    number = np.arange(-0.5, len(known) - 0.5 + 1e-9, 1 / steps)
    inner = np.interp(number, np.arange(len(known), dtype=float), known)
    inner = np.where(number < 0, known[0] + number * (known[1] - known[0]), inner)
    beyond = number - (len(known) - 1)
    return np.asarray(np.where(beyond > 0, known[-1] + beyond * (known[-1] - known[-2]), inner))


@dataclass(frozen=True)
class _Part:
    """Elements of a plate that one map lies over: those of a block, of a ladder's line."""

    plate: Plate
    members: NDArray[np.int64]

    def along(self, side: str, steps: int) -> Along | None:
        """An edge of the map; None where nothing varies along it, or not step by step."""
        axis, elements = self.plate.trial.own_axis(side), self.plate.elements
        if axis is None:
            return None
        number = (elements.column if side == "x" else elements.row)[self.members]
        corner, size = (
            (elements.x_mm, elements.width_mm) if side == "x" else (elements.y_mm, elements.height_mm)
        )  # fmt: skip
        middle = (corner + size / 2)[self.members]
        values = self.plate.judged.settings[axis.parameter][self.members]
        places = np.unique(number)
        # Patches set by hand are not what their column is.
        setting = np.array([np.median(values[number == place]) for place in places])
        steady = np.diff(setting) if len(setting) > 1 else np.zeros(1)
        if not (np.all(steady > 0) or np.all(steady < 0)):
            return None
        logs = is_log(axis.parameter)
        between = _between(np.log(setting) if logs else setting, steps)
        middles = np.array([float(middle[number == place].mean()) for place in places])
        return Along(axis.parameter, _between(middles, steps), np.exp(between) if logs else between)

    def still(self, side: str, key: str, value: float) -> Along:
        """The edge along which nothing varies: a setting from one side of the elements to the other."""
        elements = self.plate.elements
        corner, size = (
            (elements.x_mm, elements.width_mm) if side == "x" else (elements.y_mm, elements.height_mm)
        )  # fmt: skip
        ends = corner[self.members].min(), (corner + size)[self.members].max()
        return Along(key, np.array(ends, float), np.array([value, value]))

    def held(self, keys: list[str]) -> dict[str, float]:
        """What these elements have of some settings."""
        columns = {key: self.plate.judged.settings[key][self.members] for key in keys}
        return {key: float(np.median(column)) for key, column in columns.items()}


def _parts(plate: Plate) -> list[_Part]:
    elements, x = plate.elements, plate.trial.axis("x")
    block = np.zeros(len(elements), np.int64) if elements.block is None else np.asarray(elements.block, np.int64)
    # A ladder that is wrapped is a line above another, and another range in each.
    line = elements.row if x is not None and x.wrap is not None else np.zeros(len(elements), np.int64)
    pairs = list(dict.fromkeys(zip(block.tolist(), line.tolist(), strict=True)))
    return [_Part(plate, np.flatnonzero((block == number) & (line == row))) for number, row in pairs]


def maps_of(plate: Plate, aims: OrderedAims | MarkAims, held: Mapping[str, float]) -> tuple[OutcomeMap, ...]:
    """What is expected over a plate, a map for each of its blocks; none of what lies in no rows and columns.

    held : all settings, those the maps do not vary as they are to be shown
    """
    parts = _parts(plate)
    steps = max(min(STEPS, int(math.sqrt(MOST_POINTS / max(len(plate.elements), 1)))), 2)
    found = [_map_of(part, aims, held, steps) for part in parts]
    return tuple(one for one in found if one is not None)


def _map_of(part: _Part, aims: OrderedAims | MarkAims, held: Mapping[str, float], steps: int) -> OutcomeMap | None:
    plate = part.plate
    blocks = [axis.parameter for side in ("block_x", "block_y") if (axis := plate.trial.own_axis(side)) is not None]
    held = {**held, **part.held(blocks)}
    x, y = part.along("x", steps), part.along("y", steps)
    # A setting that varies along an edge and is not steady there has no map.
    unsteady = any(edge is None and plate.trial.own_axis(side) is not None for edge, side in ((x, "x"), (y, "y")))
    if unsteady or (x is None and y is None):
        return None
    # Of a ladder the other edge is whichever of power and speed it does not vary.
    if x is None or y is None:
        varied = {one.parameter for one in (x, y) if one is not None}
        other = next(key for key in ALWAYS if key not in varied)
        x = x or part.still("x", other, held[other])
        y = y or part.still("y", other, held[other])
    across, up = np.meshgrid(x.setting, y.setting)
    shape = across.shape
    columns = columns_of(held, across.size)
    columns |= {x.parameter: across.ravel(), y.parameter: up.ravel()}
    # Below its floor a source gives nothing; what is drawn there is what its floor would give.
    floor, _ = limits_of(plate.trial.machine, "power_pct")
    columns["power_pct"] = np.maximum(columns["power_pct"], max(floor, 0.1))
    columns["speed_mm_s"] = np.maximum(columns["speed_mm_s"], 0.01)
    expected, low, high = _expected(aims, columns)
    watts = power_w(plate.trial.machine.rated_power_w, columns["power_pct"])
    # Settings are those of a round; what is burned in rounds gets all of them.
    rounds = plate.trial.rounds
    passes = rounds * columns.get("passes", 1.0)
    dose = line_dose(watts, columns["speed_mm_s"], passes)
    if aims.process.fills:
        dose = area_dose(watts, columns["speed_mm_s"], columns.get("line_spacing_mm", 0.1), passes)
    seconds = rounds * seconds_for(aims.process, columns, aims.wish.length)
    key: PredictedKey = aims.words.key if isinstance(aims, OrderedAims) else "lightness"
    same = {name: value for name, value in held.items() if name not in (x.parameter, y.parameter)}
    turns = {name: share.reshape(shape) for name, share in _turns(aims, columns).items()}
    expected, low, high, dose, seconds = (values.reshape(shape) for values in (expected, low, high, dose, seconds))
    return OutcomeMap(key, same, x, y, expected, low, high, dose, seconds, turns)


def _turns(aims: OrderedAims | MarkAims, columns: dict[str, Floats]) -> dict[str, Floats]:
    """``(n,)`` share of fresh sheets that reach each step beside the wanted one, where that begins or is exceeded."""
    if not isinstance(aims, OrderedAims):
        return {}
    scale, steps = SCALES[aims.process.outcome], aims.model.steps
    beside = [level for level in range(1, LEVELS) if level != steps.wanted[0]]
    model = aims.model.every(_OF_DRAWS)
    return {scale.words[level]: model.shares_from(level, columns).mean(axis=0) for level in beside}


def _expected(aims: OrderedAims | MarkAims, columns: dict[str, Floats]) -> tuple[Floats, Floats, Floats]:
    """``(n,)`` what is expected, and 80 % of it."""
    if isinstance(aims, OrderedAims):
        return expected_share(aims.model.shares(columns))
    said = aims.model.expected(columns)
    low, high = (np.clip(said.mean + sign * EIGHTY * said.fresh, 0, 100) for sign in (-1, 1))
    return said.mean, low, high
