"""Figures a person would choose: the ends of a range, and steps between them without odd decimals."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.holding import limits_of

Spacing = Literal["linear", "geometric"]

# So many steps a range has where nobody has said.
STEPS = 5

# Beyond this ratio of its ends a range goes in even ratios: with even steps nearly all of them would lie at its top.
EVEN_STEPS_UP_TO = 4.0
# Differences between steps one counts in.
_STEPS = (1.0, 1.5, 2.0, 2.5, 3.0, 4.0, 5.0, 6.0, 8.0)
# A step moves by no more than an eighth of the way to its neighbour.
_MOST_OF_GAP = 1 / 4


def spacing_of(start: float, end: float) -> Spacing:
    """How the steps from one end to the other lie: ``geometric`` where the range spans more than 4 : 1."""
    low, high = sorted((start, end))
    return "geometric" if low > 0 and high / low > EVEN_STEPS_UP_TO + 1e-9 else "linear"


def round_steps(values: NDArray[np.float64]) -> NDArray[np.float64]:
    """``(n,)`` steps as one would write them: each rounded to the coarsest 1 or 5 times a power of ten that moves it
    by at most an eighth of the way to its nearer neighbour. The ends stay as they are.

    >>> round_steps(np.geomspace(4, 40, 5)).tolist()
    [4.0, 7.0, 13.0, 22.0, 40.0]
    """
    if len(values) < 3:
        return values
    away = np.abs(np.diff(values))
    unit = np.minimum(away[:-1], away[1:]) * _MOST_OF_GAP
    if not np.all(unit > 0):
        return values
    power = 10.0 ** np.floor(np.log10(unit) + 1e-9)
    unit = np.where(unit / power >= 5 - 1e-9, 5 * power, power)
    inner = np.round(values[1:-1] / unit) * unit
    return np.array([values[0], *(float(f"{value:.10g}") for value in inner), values[-1]])


@dataclass(frozen=True)
class Span:
    """The ends of a range, and how its steps lie."""

    start: float
    end: float
    spacing: Spacing

    @property
    def middle(self) -> float:
        """The mean of ratios of its ends."""
        return math.sqrt(self.start * self.end)


def chosen_span(low: float, high: float, least: float, most: float, steps: int, finest: float | None = None) -> Span:
    """A range with ends near `low` and `high`, both within `least` and `most`, as one would choose them.

    Up to 4 : 1 it goes in even steps, and all of them are round; beyond it in even ratios, its ends having two digits.

    Parameters
    ----------
    finest : what the machine's control can show; ends and even steps are multiples of it
    """
    low, high = max(low, least), min(high, most)
    spacing = spacing_of(low, high)
    best = None
    for step, start in _even(low, high, steps) if spacing == "linear" else []:
        end = float(f"{start + step * (steps - 1):.10g}")
        even = spacing_of(start, end) == "linear"
        if (
            not even
            or start < least - 1e-9
            or end > most + 1e-9
            or not (_shown(start, finest) and _shown(step, finest))
        ):
            continue
        away = abs(math.log(start / low)) + abs(math.log(end / high)) + (0.0 if _whole(start / step) else 0.05)
        if best is None or away < best[0] - 1e-12:
            best = (away, start, end)
    if best is None:
        return Span(_end(low, least, most, finest), _end(high, least, most, finest), spacing)
    return Span(best[1], best[2], spacing)


def span_on(
    machine: Machine, key: str, low: float, high: float, within: tuple[float, float] | None = None, steps: int = STEPS
) -> Span:
    """`chosen_span` of a setting in steps that a machine can show and do.

    within : its bounds there, where they are narrower than the machine's own
    """
    row, (least, most) = PARAMETERS[key], within or limits_of(machine, key)
    return chosen_span(low, high, max(least, row.step), most, steps, machine.finest(key) or row.step)


def _whole(value: float) -> bool:
    return abs(value - round(value)) < 1e-6


def _shown(value: float, finest: float | None) -> bool:
    return finest is None or _whole(value / finest)


def _even(low: float, high: float, steps: int) -> list[tuple[float, float]]:
    """Pairs of a round difference and a start of two digits that is a multiple of half of it, about right for a
    range."""
    wanted = max((high - low) / (steps - 1), 1e-6)
    power = 10.0 ** math.floor(math.log10(wanted))
    pairs = []
    for step in [figure * scale for scale in (power / 10, power, power * 10) for figure in _STEPS]:
        if 0.5 <= step / wanted <= 1.6:
            first = math.floor(low / step * 2)
            starts = [float(f"{k * step / 2:.10g}") for k in range(max(first - 1, 1), first + 4)]
            pairs += [(step, start) for start in starts if start == float(f"{start:.2g}")]
    return pairs


def _end(value: float, least: float, most: float, finest: float | None) -> float:
    """Two digits, and what the machine shows, without leaving its limits."""
    chosen = float(f"{value:.2g}")
    if finest is not None:
        chosen = round(chosen / finest) * finest
    chosen = float(f"{chosen:.10g}")
    return chosen if least <= chosen <= most else value
