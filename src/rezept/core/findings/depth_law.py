"""How deep an engraving gets pass by pass, and how that falls off.

A pass takes less the deeper it works, since the beam spreads, and smoke and residue stay in the pit:
``d'(n) = a / (1 + d / R)``, so that ``d + d^2 / (2 R) = a n``. The first pass takes about ``a = c (F - F0)``, F the
area dose of one pass and F0 what it takes before anything is taken away; at the depth R a pass takes half of that. For
a given F0 and R this is a straight line in c; F0 and R are averaged over, each by how well it explains what was read
(C. M. Bishop, Pattern Recognition and Machine Learning, 2006, ch. 3.4).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.findings.candidates import HIGH, LOW
from rezept.core.wording import counted

Floats = NDArray[np.float64]
# So far off a depth may be read: a calliper's point, and the floor of a pit.
READ_MM, READ_SHARE = 0.02, 0.08
# Depths at which a pass may take half, mm, from soft foam to none within reach; thresholds as shares of the least dose.
REACHES_MM = np.concatenate([np.geomspace(0.1, 20.0, 40), [np.inf]])
THRESHOLDS = np.linspace(0.0, 0.95, 24)
# Fewer depths say nothing of a law with three unknowns.
FEWEST = 3
MOST_PASSES = 500
# A fall-off is told where a pass at the greatest depth very likely takes less by more than this share.
_TOLD = 0.05


@dataclass(frozen=True)
class Between:
    """A figure, and between which two the middle 80 in 100 of what is possible lie."""

    value: float
    low: float
    high: float


def _between(values: Floats, weights: Floats) -> Between:
    order = np.argsort(values)
    low, high = np.interp([LOW, HIGH], np.cumsum(weights[order]), values[order])
    middle = float(np.interp(0.5, np.cumsum(weights[order]), values[order]))
    return Between(middle, float(low), float(high))


@dataclass(frozen=True)
class Cleaning:
    """When a cleaning pass pays that brings back what the first pass took.

    every : after so many passes it saves most; worth : it pays where it takes less than so many of them
    """

    every: int
    worth: float


@dataclass(frozen=True)
class DepthLaw:
    """What is known of depth, as weighted draws ``(k,)``.

    slope : mm for each J/mm2 above the threshold; threshold : J/mm2; bend : 1 / R, 0 where nothing falls off
    read : of so many depths; deepest_mm : the most that was read
    """

    slope: Floats
    threshold: Floats
    bend: Floats
    weights: Floats
    read: int
    deepest_mm: float

    def _first(self, dose: float) -> Floats:
        return np.asarray(self.slope * np.maximum(dose - self.threshold, 0.0))

    def first_pass_mm(self, dose: float) -> Between:
        """What a first pass of a dose takes."""
        return _between(self._first(dose), self.weights)

    def depth_mm(self, dose: float, passes: float) -> Between:
        """How deep so many passes of a dose get: ``R (sqrt(1 + 2 a n / R) - 1)``."""
        return _between(_depth(self._first(dose), self.bend, passes), self.weights)

    @property
    def half_at_mm(self) -> float | None:
        """How deep a pass takes half of the first; None where it falls off by less than can be told."""
        bend = _between(self.bend, self.weights)
        return None if bend.low * self.deepest_mm < _TOLD else 1 / bend.value

    def passes_to(self, depth_mm: float, dose: float) -> Between | None:
        """How many passes of a dose a depth takes, whole ones; None where that is out of reach."""
        first = self._first(dose)
        needed = np.full(len(first), np.inf)
        np.divide(depth_mm + self.bend * depth_mm**2 / 2, first, out=needed, where=first > 0)
        found = _between(np.ceil(np.minimum(needed, 10 * MOST_PASSES) - 1e-9), self.weights)
        whole = Between(*(float(math.ceil(one - 1e-9)) for one in (found.value, found.low, found.high)))
        return whole if whole.value <= MOST_PASSES else None

    def cleaning(self, depth_mm: float, dose: float) -> Cleaning | None:
        """When cleaning between passes pays on the way to a depth; None where nothing falls off or the way is short."""
        alone = self.passes_to(depth_mm, dose)
        if alone is None or self.half_at_mm is None or alone.value < 2:
            return None
        first, bend = _between(self._first(dose), self.weights).value, 1 / self.half_at_mm
        best: Cleaning | None = None
        for rounds in range(2, int(alone.value) + 1):
            # So deep each round has to get, from bare ground again; whole passes, and no cleaning after the last.
            each = depth_mm / rounds
            every = math.ceil((each + bend * each**2 / 2) / first - 1e-9)
            saved = (alone.value - rounds * every) / (rounds - 1)
            if saved > 0 and (best is None or saved > best.worth):
                best = Cleaning(every, saved)
        return best


def _depth(first: Floats, bend: Floats, passes: float) -> Floats:
    """``(sqrt(1 + 2 a n b) - 1) / b``, and its limit ``a n`` where nothing bends."""
    straight = first * passes
    bent = np.divide(np.sqrt(1 + 2 * straight * bend) - 1, bend, out=np.array(straight, float), where=bend > 1e-12)
    return np.asarray(bent)


def fit_depth(dose: Floats, passes: Floats, depth_mm: Floats) -> DepthLaw | None:
    """The law of depths that were read.

    Parameters
    ----------
    dose : ``(n,)`` J/mm2 of one pass; passes : ``(n,)``; depth_mm : ``(n,)``, NaN where none was read

    Returns
    -------
    None : fewer than `FEWEST` were read, or nothing was taken away
    """
    known = ~np.isnan(depth_mm) & (dose > 0) & (passes >= 1)
    dose, passes, depth = dose[known], passes[known], depth_mm[known]
    if len(depth) < FEWEST or not (depth > 0).any():
        return None
    spread = np.hypot(READ_MM, READ_SHARE * depth)
    bends = np.divide(1.0, REACHES_MM, out=np.zeros_like(REACHES_MM), where=np.isfinite(REACHES_MM))
    thresholds = THRESHOLDS * dose.min()
    bend, threshold = (one.ravel() for one in np.meshgrid(bends, thresholds, indexing="ij"))
    # (k, n): what the straight line is through, by what it is multiplied, and how far off each may be.
    line = depth + bend[:, None] * depth**2 / 2
    times = (dose - threshold[:, None]) * passes
    off = spread * (1 + bend[:, None] * depth)
    precision = (times**2 / off**2).sum(axis=1)
    slope = (times * line / off**2).sum(axis=1) / precision
    misfit = (((line - slope[:, None] * times) / off) ** 2).sum(axis=1)
    # Scatter of patches beyond what reading explains widens all of it alike.
    scatter = max(1.0, float(misfit.min()) / max(len(depth) - 2, 1))
    # The density of a depth is that of its line, times how fast the line goes with it.
    log_weight = (
        -misfit / (2 * scatter) - 0.5 * np.log(precision) + np.log((1 + bend[:, None] * depth) / off).sum(axis=1)
    )
    weight = np.exp(log_weight - log_weight.max())
    # Each draw with its slope a little less, just so, and a little more: three points of a normal law (Gauss, Hermite).
    wide = np.sqrt(3 * scatter / precision)
    slopes = np.maximum(np.concatenate([slope - wide, slope, slope + wide]), 0.0)
    weights = np.concatenate([weight / 6, weight * 2 / 3, weight / 6])
    return DepthLaw(
        slope=slopes,
        threshold=np.tile(threshold, 3),
        bend=np.tile(bend, 3),
        weights=weights / weights.sum(),
        read=len(depth),
        deepest_mm=float(depth.max()),
    )


def depth_words(
    law: DepthLaw, dose: float, wanted_mm: float | None, seconds_a_pass: float, for_size: str, in_rounds: bool = False
) -> list[str]:
    """All there is to say of a setting, whose pass has this dose and takes so long: what a pass takes, and of the depth
    somebody wants how many passes it takes and when to clean; that not where it is burned in rounds already."""
    words = [pass_words(law, dose)]
    if wanted_mm is not None:
        words.append(way_words(law, wanted_mm, dose, seconds_a_pass, for_size))
        if not in_rounds:
            words.append(cleaning_words(law, wanted_mm, dose))
    return words


def _mm(depth_mm: float) -> str:
    return f"{depth_mm:.2g} mm" if depth_mm < 1 else f"{depth_mm:.3g} mm"


def pass_words(law: DepthLaw, dose: float) -> str:
    """What a pass takes and how that falls off, in a sentence or two."""
    first = law.first_pass_mm(dose)
    words = f"A first pass takes {_mm(first.value)} ({_mm(first.low)} to {_mm(first.high)})"
    half = law.half_at_mm
    if half is None:
        deepest = f" as far as {_mm(law.deepest_mm)}"
        return f"{words}, and the next as much{deepest}."
    return f"{words}, and half as much once it is {_mm(half)} deep."


def way_words(law: DepthLaw, depth_mm: float, dose: float, seconds_a_pass: float, for_size: str) -> str:
    """How many passes a depth takes and how long, in a sentence."""
    passes = law.passes_to(depth_mm, dose)
    if passes is None:
        return f"{_mm(depth_mm)} is out of reach at this setting: more than {MOST_PASSES} passes."
    span = "" if passes.low == passes.high else f" ({passes.low:.0f} to {passes.high:.0f})"
    beyond = " That is deeper than anything that was read." if depth_mm > 1.5 * law.deepest_mm else ""
    minutes, seconds = divmod(round(passes.value * seconds_a_pass), 60)
    return (
        f"{_mm(depth_mm)} takes {counted(int(passes.value), 'pass', 'passes')}{span}:"
        f" {minutes}:{seconds:02d} min of beam for {for_size}.{beyond}"
    )


def cleaning_words(law: DepthLaw, depth_mm: float, dose: float) -> str:
    """When cleaning pays, in a sentence."""
    cleaning = law.cleaning(depth_mm, dose)
    if cleaning is None:
        return "Cleaning between passes saves nothing here."
    return (
        f"Cleaning every {counted(cleaning.every, 'pass', 'passes')} pays where it takes less than"
        f" {cleaning.worth:.1f} of a pass and brings the first depth back: try it as bulk and clean in rounds."
    )
