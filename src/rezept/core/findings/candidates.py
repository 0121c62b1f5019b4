"""A setting worth choosing, for one aim, with what to expect of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from rezept.core.findings.coding import columns_of
from rezept.core.process import Process

Floats = NDArray[np.float64]
# Of columns of settings, which are nothing any more.
IsLost = Callable[[Mapping[str, Floats]], NDArray[np.bool_]]
Aim = Literal["fastest", "gentlest", "forgiving", "cleanest", "darkness", "depth", "colour"]
PredictedKey = Literal["p_drops_out", "p_layer_off", "lightness"]
# The middle 80 in 100 of what is possible.
LOW, HIGH = 0.1, 0.9
# Of a normal law they lie so many standard deviations to either side.
EIGHTY = 1.2816
# So far a setting alone is changed to see where it is lost.
FAR = np.geomspace(1.0, 2.5, 60)
# From here on it is said to hold: 99 of 100 fresh sheets.
HOLDS = 0.99


def expected_share(shares: Floats, weights: Floats | None = None) -> tuple[Floats, Floats, Floats]:
    """The share to expect over the draws of a model ``(d, ...)``, and between which the middle 80 in 100 of them lie.

    Where nearly all draws lie at one end and a few far from it, the mean lies beyond that middle: the span then reaches
    to it, so that nobody reads a figure outside its own bounds.

    weights : ``(d,)`` of the draws, together 1; alike where there are none
    """
    if weights is None:
        value, (low, high) = shares.mean(axis=0), np.quantile(shares, [LOW, HIGH], axis=0)
    else:
        order = np.argsort(shares)
        value = np.asarray(weights @ shares)
        low, high = np.interp([LOW, HIGH], np.cumsum(weights[order]), shares[order])
    return value, np.minimum(low, value), np.maximum(high, value)


@dataclass(frozen=True)
class Predicted:
    """What to expect: the share of fresh sheets that drop out or lose their layer and no more, or the lightness of one
    fresh patch; 80 % lie between `low` and `high`."""

    key: PredictedKey
    value: float
    low: float
    high: float

    def document(self) -> dict[str, float]:
        return {self.key: self.value, "low": self.low, "high": self.high}


@dataclass(frozen=True)
class Candidate:
    """A setting for an aim.

    power_down_pct, speed_up_pct : how far either alone may go before it is lost; None where it is not lost within what
        can be said
    seconds : for the length or area somebody asked for
    certain : what the aim promises is as good as sure
    """

    aim: Aim
    settings: Mapping[str, float]
    predicted: Predicted
    power_down_pct: float | None
    speed_up_pct: float | None
    seconds: float
    certain: bool
    why: str

    def document(self) -> dict[str, Any]:
        return {
            "aim": self.aim,
            "settings": dict(self.settings),
            "predicted": self.predicted.document(),
            "margin": {"power_down_pct": self.power_down_pct, "speed_up_pct": self.speed_up_pct},
            "seconds": round(self.seconds, 2),
            "certain": self.certain,
            "why": self.why,
        }


def lost_at(settings: Mapping[str, float], key: str, factors: Floats, is_lost: IsLost) -> float | None:
    """Per cent by which a setting alone can change, by `factors` from 1 on, before `is_lost`; None: it never is."""
    columns = columns_of(settings, len(factors))
    columns[key] = columns[key] * factors
    lost = np.flatnonzero(is_lost(columns))
    return None if not len(lost) else round(abs(float(factors[max(lost[0] - 1, 0)]) - 1) * 100, 1)


def seconds_for(process: Process, settings: Mapping[str, Any], size: float) -> Any:
    """Seconds of beam for a length in mm, or for what fills for an area in mm2; turns and travel come on top. Of one
    setting or of columns of them."""
    passes = settings.get("passes", 1.0)
    if process.fills:
        return passes * size / (settings["speed_mm_s"] * settings.get("line_spacing_mm", 0.1))
    return passes * size / settings["speed_mm_s"]
