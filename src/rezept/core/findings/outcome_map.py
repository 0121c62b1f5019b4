"""What is expected everywhere between the patches of a plate, laid out as the plate is.

Settings between two columns are what a column half-way would have: even ratios where the setting counts by ratios.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.dose import area_dose, line_dose, power_w
from rezept.core.findings.candidates import EIGHTY, HIGH, LOW, PredictedKey, seconds_for
from rezept.core.findings.coding import columns_of, is_log
from rezept.core.findings.cut_aims import CutAims
from rezept.core.findings.mark_aims import MarkAims
from rezept.core.plan import Plate
from rezept.core.plan.holding import limits_of

Floats = NDArray[np.float64]

# So many steps from one column to the next; half a column beyond the outer ones.
STEPS = 6


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
        order = np.argsort(scaled)
        if not scaled[order[0]] - 1e-9 <= at <= scaled[order[-1]] + 1e-9:
            return None
        return float(np.interp(at, scaled[order], self.mm[order]))


@dataclass(frozen=True)
class OutcomeMap:
    """What is expected over a plate: ``(y, x)`` from its lower left.

    expected : share of fresh sheets that drop out, or lightness; low, high : 80 % of it
    dose : in the process's unit; seconds : for the length or area somebody asked for
    """

    key: PredictedKey
    x: Along
    y: Along
    expected: Floats
    low: Floats
    high: Floats
    dose: Floats
    seconds: Floats

    def document(self) -> dict[str, Any]:
        return {
            "key": self.key,
            **{
                side: {
                    "parameter": along.parameter,
                    "mm": along.mm.round(3).tolist(),
                    "setting": [float(f"{value:.4g}") for value in along.setting],
                }
                for side, along in (("x", self.x), ("y", self.y))
            },
            **{name: getattr(self, name).round(3).tolist() for name in ("expected", "low", "high", "dose", "seconds")},
        }


def _along(plate: Plate, side: str) -> Along | None:
    axis = plate.trial.axis(side)
    if axis is None or axis.wrap is not None or len(axis.values) < 2:
        return None
    elements = plate.elements
    index = elements.column if side == "x" else elements.row
    size = elements.width_mm if side == "x" else elements.height_mm
    corner = elements.x_mm if side == "x" else elements.y_mm
    middles = np.array([
        float((corner + size / 2)[index == number].mean()) for number in range(1, len(axis.values) + 1)
    ])  # fmt: skip
    values = np.array(axis.values)
    scaled = np.log(values) if is_log(axis.parameter) else values
    number = np.arange(-0.5, len(values) - 0.5 + 1e-9, 1 / STEPS)
    whole = np.arange(len(values), dtype=float)

    def between(known: Floats) -> Floats:
        inner = np.interp(number, whole, known)
        inner = np.where(number < 0, known[0] + number * (known[1] - known[0]), inner)
        beyond = number - whole[-1]
        return np.asarray(np.where(beyond > 0, known[-1] + beyond * (known[-1] - known[-2]), inner))

    setting = between(scaled)
    setting = np.exp(setting) if is_log(axis.parameter) else setting
    return Along(axis.parameter, between(middles), setting)


def map_of(plate: Plate, aims: CutAims | MarkAims, held: Mapping[str, float]) -> OutcomeMap | None:
    """What is expected over a plate that varies two settings in rows and columns; None of any other.

    held : the settings that do not vary in the plane of the map
    """
    x, y = _along(plate, "x"), _along(plate, "y")
    if x is None or y is None or plate.elements.block is not None:
        return None
    across, up = np.meshgrid(x.setting, y.setting)
    shape = across.shape
    columns = columns_of(held, across.size)
    columns |= {x.parameter: across.ravel(), y.parameter: up.ravel()}
    # Below its floor a source gives nothing; what is drawn there is what its floor would give.
    floor, _ = limits_of(plate.trial.machine, "power_pct")
    columns["power_pct"] = np.maximum(columns["power_pct"], max(floor, 0.1))
    columns["speed_mm_s"] = np.maximum(columns["speed_mm_s"], 0.01)
    if isinstance(aims, CutAims):
        shares = aims.model.shares(columns)
        expected = shares.mean(axis=0)
        low, high = np.quantile(shares, [LOW, HIGH], axis=0)
        key: PredictedKey = "p_drops_out"
    else:
        said = aims.model.expected(columns)
        expected, key = said.mean, "lightness"
        low, high = (np.clip(expected + sign * EIGHTY * said.fresh, 0, 100) for sign in (-1, 1))
    watts = power_w(plate.trial.machine.rated_power_w, columns["power_pct"])
    passes = columns.get("passes", 1.0)
    dose = line_dose(watts, columns["speed_mm_s"], passes)
    if aims.process.fills:
        dose = area_dose(watts, columns["speed_mm_s"], columns.get("line_spacing_mm", 0.1), passes)
    seconds = seconds_for(aims.process, columns, aims.wish.length)
    return OutcomeMap(key, x, y, *(values.reshape(shape) for values in (expected, low, high, dose, seconds)))
