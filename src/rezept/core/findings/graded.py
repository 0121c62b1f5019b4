"""Graded outcomes (lightness, char, depth, kerf ...): a dose law plus a smooth remainder, free to turn.

A Gaussian process (C. E. Rasmussen, C. K. I. Williams, Gaussian Processes for Machine Learning, 2006) over the log of
the dose, the log of the speed and whatever else was varied: a straight line in the log of the dose, plus a Matern-5/2
remainder, plus the luck of each sheet, which shifts its dose and so tells by the slope, plus scatter of patches. How
far settings are alike is not chosen but averaged over (ch. 5.2), each choice by how well it explains the plates.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, fields, replace

import numpy as np
from numpy.typing import NDArray
from scipy import linalg

from rezept.core.findings.coding import Coding
from rezept.core.findings.observations import BURNS
from rezept.core.scales import SCALES

Floats = NDArray[np.float64]
Indices = NDArray[np.int64]

# How far apart, in logs, settings say something of each other: along the dose, and across it.
_ALONG, _ACROSS = (0.35, 0.7, 1.4), (0.8, 2.0, 5.0)
# Scatter of patches, as a share of what the smooth part spans; least by little as rounding and grain are always there.
_SCATTER = (0.03, 0.06, 0.12, 0.25, 0.5)
_LEAST_WEIGHT = 0.03
# More than so many patches tell nothing new of how far settings are alike.
_ENOUGH, _MANY = 120, 300
SHEETS = 0.08
# What is only there or not is not expected where no more than so many patches have it.
_SLACK = 0.2
# What the amplitude comes to before anything is known, in units of the span.
_USUAL_AMPLITUDE = 0.3
# So many standard deviations off all around it, a reading counts for little and is to be looked at again.
STRANGE = 3.5


@dataclass(frozen=True)
class _Choice:
    """How far settings are alike along and across the dose, and how much patches scatter; its weight among others."""

    along: float
    across: float
    scatter: float
    weight: float


@dataclass(frozen=True)
class _Solved:
    choice: _Choice
    factor: Floats
    solved: Floats
    amplitude: float


@dataclass(frozen=True)
class Expected:
    """What is expected of m settings, each ``(m,)``: on the middle sheet, and how unsure that is.

    unsure : standard deviation of not knowing; sheets : of a fresh sheet about the middle one; patches : of patches
    """

    mean: Floats
    unsure: Floats
    sheets: Floats
    patches: Floats

    @property
    def fresh(self) -> Floats:
        """Standard deviation of one fresh patch on a fresh sheet."""
        return np.sqrt(self.unsure**2 + self.sheets**2 + self.patches**2)


@dataclass(frozen=True)
class GradedModel:
    """What plates say of a graded outcome.

    low, high : what the outcome can be at all
    strange : ``(n,)`` standard deviations each reading lies off what all others say of it
    """

    coding: Coding
    features: Floats
    middle: float
    span: float
    low: float
    high: float
    choices: tuple[_Solved, ...]
    strange: Floats

    def expected(self, settings: Mapping[str, Floats]) -> Expected:
        return self._at(features_of(self.coding, settings))

    def _at(self, places: Floats) -> Expected:
        # The slope by finite differences of the mean: what a sheet that needs less does to it.
        step = np.zeros(places.shape[1])
        step[0] = 0.05
        both = np.concatenate([places, places + step, places - step])
        count = len(places)
        means, unsures, patches = [], [], []
        for one in self.choices:
            across = _smooth(both, self.features, one.choice)
            mean = across @ one.solved
            seen = linalg.solve_triangular(one.factor, across[:count].T, lower=True)
            own = _own(places)
            variance = np.maximum(own - (seen**2).sum(axis=0), 0.0) * one.amplitude
            means.append(mean)
            unsures.append(variance)
            patches.append(np.full(count, one.choice.scatter**2 * one.amplitude))
        weight = np.array([one.choice.weight for one in self.choices])[:, None]
        every = np.array(means)
        mean = (weight * every).sum(axis=0)
        between = (weight * (every[:, :count] - mean[:count]) ** 2).sum(axis=0)
        slope = (mean[count : 2 * count] - mean[2 * count :]) / 0.1
        span = self.span
        return Expected(
            mean=np.clip(self.middle + span * mean[:count], self.low, self.high),
            unsure=span * np.sqrt((weight * np.array(unsures)).sum(axis=0) + between),
            sheets=span * np.abs(slope) * SHEETS,
            patches=span * np.sqrt((weight * np.array(patches)).sum(axis=0)),
        )


def within(
    models: Mapping[str, GradedModel], bounds: Mapping[str, float], settings: Mapping[str, Floats]
) -> NDArray[np.bool_]:
    """``(n,)`` where what is expected of each outcome stays within its bound, which of what is better the more there is
    is its least; what has no model bounds nothing."""
    fine = np.ones(len(settings["speed_mm_s"]), bool)
    for key, bound in bounds.items():
        if key not in models:
            continue
        expected, scale = models[key].expected(settings).mean, SCALES[key]
        # What is scored in whole degrees is meant as a whole degree.
        slack = 0.05 if scale.kind == "degrees" else _SLACK * (scale.high - scale.low) if scale.kind == "yes" else 0.0
        fine &= expected >= bound - slack if scale.more_is_better else expected <= bound + slack
    return fine


def features_of(coding: Coding, settings: Mapping[str, Floats]) -> Floats:
    """``(n, m)`` columns: log dose, log speed, and whatever else was varied."""
    coded = coding.matrix(settings)
    dose = coded[:, 0] - coded[:, 1]
    for i, key in enumerate(coding.keys[2:], start=2):
        # What adds up to the dose: passes, and lines that lie nearer.
        dose = dose + coded[:, i] * {"passes": 1.0, "line_spacing_mm": -1.0}.get(key, 0.0)
    return np.column_stack([dose, coded[:, 1:]])


def _own(places: Floats) -> Floats:
    """``(n,)`` prior variance of the smooth part."""
    return np.asarray(5.0 + 2.0 * places[:, 0] ** 2)


def _smooth(one: Floats, other: Floats, choice: _Choice) -> Floats:
    """``(n, m)`` covariance of the smooth part: a straight line in the log dose, and a Matern-5/2 remainder."""
    scales = np.full(one.shape[1], choice.across)
    scales[0] = choice.along
    a, b = one / scales, other / scales
    squared = np.maximum((a**2).sum(axis=1)[:, None] + (b**2).sum(axis=1)[None, :] - 2 * a @ b.T, 0.0)
    far = np.sqrt(5.0 * squared)
    line = 4.0 + 2.0 * np.outer(one[:, 0], other[:, 0])
    return np.asarray(line + (1 + far + far**2 / 3) * np.exp(-far))


@dataclass(frozen=True)
class _Read:
    """What was read: features ``(n, m)``, and ``(n,)`` each on which sheet and in which burn of it, what their luck
    does, values in units of the
    span, variance as a multiple of how patches scatter, and what reading adds to it in units of the amplitude."""

    features: Floats
    lot: Indices
    burn: Indices
    slope: Floats
    values: Floats
    noise: Floats
    known: Floats

    def some(self, rows: Indices) -> _Read:
        return _Read(*(getattr(self, one.name)[rows] for one in fields(self)))


def _solve(smooth: Floats, read: _Read, choice: _Choice) -> _Solved:
    """The process by one choice: `smooth` is the covariance of its smooth part. The weight is its log likelihood."""
    lot, burn, slope, values = read.lot, read.burn, read.slope, read.values
    alike = SHEETS**2 * (lot[:, None] == lot[None, :])
    if (burn >= 0).any():
        alike = alike + BURNS**2 * ((burn[:, None] == burn[None, :]) & (burn >= 0)[:, None])
    every = smooth + alike * np.outer(slope, slope)
    every[np.diag_indices(len(every))] += choice.scatter**2 * read.noise + read.known + 1e-8
    factor = linalg.cholesky(every, lower=True, overwrite_a=True, check_finite=False)
    solved = linalg.cho_solve((factor, True), values, check_finite=False)
    # Amplitude by a weak inverse gamma about one: with few patches the span says how much is possible.
    amplitude = float((values @ solved + 4.0 * 0.25) / (len(values) + 4.0))
    likely = -0.5 * (len(values) + 4.0) * np.log(amplitude) - np.log(np.diag(factor)).sum()
    return _Solved(replace(choice, weight=float(likely)), factor, solved, amplitude)


def _solve_each(read: _Read, choices: Sequence[_Choice]) -> list[_Solved]:
    """By each choice; those that differ in scatter only share the costly part."""
    smooth: dict[tuple[float, float], Floats] = {}
    for one in choices:
        alike = one.along, one.across
        if alike not in smooth:
            smooth[alike] = _smooth(read.features, read.features, one)
    return [_solve(smooth[one.along, one.across], read, one) for one in choices]


def _worth_keeping(weight: Floats, count: int) -> Indices:
    """The choices to average over; of very many readings the two likeliest say the same and cost less."""
    most = 8 if count <= _MANY else 2
    likeliest = np.argsort(weight)[-most:]
    return np.asarray(likeliest[weight[likeliest] > min(_LEAST_WEIGHT, weight.max() / 2)])


def fit_graded(
    settings: Mapping[str, Floats],
    coding: Coding,
    values: Floats,
    lot: Indices,
    burn: Indices,
    unsure: Floats,
    *,
    low: float,
    high: float,
) -> GradedModel:
    """A graded outcome by n readings, at least one.

    Parameters
    ----------
    settings : ``(n,)`` columns
    values, lot : ``(n,)`` what was read, and on which sheet
    burn : ``(n,)`` which burn of those that share a sheet with others; -1 for one that is its sheet's only one
    unsure : ``(n,)`` standard deviation of each reading about what is there, in the unit of the values
    low, high : what the outcome can be at all
    """
    features = features_of(coding, settings)
    middle = float(np.median(values))
    span = max(float(np.ptp(values)) / 2, (high - low) * 0.02)
    scaled = (values - middle) / span
    few = np.unique(np.linspace(0, len(values) - 1, _ENOUGH).astype(int))
    nothing = np.zeros(len(values))
    read = _Read(features, lot, burn, nothing, scaled, np.ones(len(values)), (unsure / span) ** 2 / _USUAL_AMPLITUDE)
    tried = [_Choice(along, across, scatter, 0.0)
             for along in _ALONG for across in _ACROSS for scatter in _SCATTER]  # fmt: skip
    choices: list[_Choice] = []
    for turn in range(2):
        solved = _solve_each(read.some(few), tried)
        likely = np.array([one.choice.weight for one in solved])
        weight = np.exp(likely - likely.max())
        weight /= weight.sum()
        kept = np.argsort(weight)[-8:] if turn == 0 else _worth_keeping(weight, len(values))
        choices = [
            _Choice(one.along, one.across, one.scatter, float(share))
            for one, share in zip([tried[i] for i in kept], weight[kept] / weight[kept].sum(), strict=True)
        ]
        best = max(solved, key=lambda one: one.choice.weight)
        # The slope along the dose, by which a sheet's luck tells; a first round knows nothing of sheets.
        step = np.zeros(features.shape[1])
        step[0] = 0.05
        slope = (
            (
                _smooth(features + step, features[few], best.choice)
                - _smooth(features - step, features[few], best.choice)
            )
            @ best.solved
            / 0.1
        )
        # In units of the amplitude, as the smooth part is.
        slope = slope / np.sqrt(best.amplitude)
        read = replace(read, slope=slope, known=(unsure / span) ** 2 / best.amplitude)
        tried = choices if turn == 0 else tried
    strange = nothing
    solved = []
    for again in range(2):
        every = _solve_each(read, choices)
        solved = [
            replace(one, choice=replace(one.choice, weight=chosen.weight))
            for one, chosen in zip(every, choices, strict=True)
        ]
        best = max(solved, key=lambda one: one.choice.weight)
        # What each lies off is told without fitting again: Rasmussen and Williams, eq. 5.12.
        half, _ = linalg.lapack.dtrtri(best.factor, lower=1)
        precision = (half**2).sum(axis=0)
        off = np.abs(best.solved) / np.sqrt(best.amplitude * precision)
        strange = np.maximum(strange, off) if again == 0 else strange
        if again or not (off > STRANGE).any() or len(values) < 6:
            break
        read = replace(read, noise=np.where(off > STRANGE, 100.0, 1.0))
    return GradedModel(coding, features, middle, span, low, high, tuple(solved), strange)
