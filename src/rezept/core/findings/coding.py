"""Settings as models see them: logs about the middle of what was burned, one column for each that varied."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.findings.observations import Observations
from rezept.core.parameters import PARAMETERS

Floats = NDArray[np.float64]
# What every setting says, in this order; all else beside it is held or varied as a trial likes.
ALWAYS = ("power_pct", "speed_mm_s")
THICKNESS = "measured_mm"
# What another setting may do to the log of the dose over its range, as mean and standard deviation. Passes add up;
# thicker sheets need more than in proportion.
_PRIORS = {"passes": (1.0, 0.25), THICKNESS: (-1.2, 0.35)}
_OTHER = (0.0, 0.3)


@dataclass(frozen=True)
class Coding:
    """How settings become columns: power and speed first, then the others that varied.

    middle : ``(m,)`` of each column before it is taken off; width : ``(m,)`` what it is divided by (1 for logs)
    """

    keys: tuple[str, ...]
    middle: Floats
    width: Floats

    @property
    def priors(self) -> list[tuple[float, float]]:
        """Mean and standard deviation of what each other setting does."""
        return [_PRIORS.get(key, _OTHER) for key in self.keys[len(ALWAYS) :]]

    def matrix(self, settings: Mapping[str, Floats]) -> Floats:
        """``(n, m)`` columns of ``(n,)`` settings; what is not said lies in the middle."""
        count = len(np.atleast_1d(settings[ALWAYS[0]]))
        columns = []
        for i, key in enumerate(self.keys):
            values = settings.get(key)
            if values is None:
                columns.append(np.zeros(count))
                continue
            plain = (_scaled(key, np.asarray(values, float)) - self.middle[i]) / self.width[i]
            columns.append(np.where(np.isnan(plain), 0.0, plain))
        return np.column_stack(columns)


def columns_of(settings: Mapping[str, float], count: int = 1) -> dict[str, Floats]:
    """One setting as ``(count,)`` columns."""
    return {key: np.full(count, value) for key, value in settings.items()}


def held_beside(settings: Mapping[str, float]) -> dict[str, float]:
    """What is set beside power and speed."""
    return {key: value for key, value in settings.items() if key not in ALWAYS}


def is_log(key: str) -> bool:
    """Whether a setting counts by its ratios."""
    return key in ("passes", "power_pct", THICKNESS) or (key in PARAMETERS and PARAMETERS[key].scale == "geometric")


def _scaled(key: str, values: Floats) -> Floats:
    return np.log(values) if is_log(key) else values


def varied_in(seen: Observations, rows: NDArray[np.bool_]) -> list[str]:
    """Settings beside power and speed that differ between the rows, in the order of the table."""
    found = []
    for key in PARAMETERS:
        values = seen.settings.get(key, np.full(len(seen), np.nan))[rows]
        values = values[~np.isnan(values)]
        if key not in ALWAYS and len(values) and np.ptp(values) > 1e-9 * max(1.0, float(np.abs(values).max())):
            found.append(key)
    return found


def coding_of(seen: Observations, rows: NDArray[np.bool_]) -> Coding:
    """The coding of the rows that count: settings that varied, and the measured thickness where sheets differ in it."""
    columns = {key: seen.settings[key][rows] for key in (*ALWAYS, *varied_in(seen, rows))}
    measured = seen.measured_mm[rows]
    known = measured[~np.isnan(measured)]
    if len(known) and np.ptp(known) > 0.01 * float(known.mean()):
        columns[THICKNESS] = measured
    middle, width = [], []
    for key, values in columns.items():
        scaled = _scaled(key, values)
        middle.append(float(np.nanmean(scaled)))
        width.append(1.0 if is_log(key) else float(np.nanstd(scaled)) or 1.0)
    return Coding(tuple(columns), np.array(middle), np.array(width))
