"""Fitting the law of ordered outcomes to what was burned: few parameters, priors towards equal dose, sheets as random
shifts."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.special import expit

from rezept.core.findings.coding import Coding, columns_of
from rezept.core.findings.observations import BURNS
from rezept.core.findings.ordered_law import LEVELS, STRAY, Steps, level_bounds, score_share, share_of_fresh_sheets
from rezept.core.findings.posterior import PROPOSED, posterior

Floats = NDArray[np.float64]
Indices = NDArray[np.int64]

DRAWS = 256
# So many scores leave little to propose.
MANY = 300
# Priors, as mean and standard deviation; logs where they are of what is positive. Power and speed weigh as in the dose
# to a quarter; patches of one sheet scatter by some 5 % in dose (a logistic law of scale s has pi s / sqrt(3)), sheets
# by 3 to 12 %.
_OPEN = (0.0, 1.5)
_WEIGHT = (0.0, 0.2)
_BEND = (0.0, 0.12)
_SCALE = (np.log(0.028), 0.45)
_SHEETS = (np.log(0.07), 0.38)


@dataclass(frozen=True)
class Scores:
    """n scores the law is fitted to.

    coded : ``(n, m)`` settings as `Coding.matrix` gives them: log power, log speed, and the others
    least, most : ``(n,)`` levels between which each came out; the same where a score says it exactly
    lot : ``(n,)`` which sheet, from 0; burn : which burn of those that share a sheet with others, from 0, -1 for one
        that is its sheet's only one
    stray : ``(n,)`` how likely the score says nothing
    """

    coded: Floats
    least: Floats
    most: Floats
    lot: Indices
    burn: Indices
    stray: Floats


@dataclass(frozen=True)
class Tap:
    """What was seen of settings on a fresh sheet that nobody scored: it held, or it did not."""

    settings: Mapping[str, float]
    held: bool


@dataclass(frozen=True)
class OrderedDraws:
    """Sets of parameters of the law, each ``(s,)``; of the `others`, `lots` and `burns` there are several a set."""

    threshold: Floats
    by_power: Floats
    by_speed: Floats
    bend_power: Floats
    bend_speed: Floats
    others: Floats
    scale: Floats
    gap_2: Floats
    gap_3: Floats
    tau: Floats
    lots: Floats
    burns: Floats

    def luck(self, lot: Indices, burn: Indices) -> Floats:
        """``(s, n)`` how much less dose sheets and burns need than the middle one; of burns -1 is none."""
        burns = np.pad(self.burns, ((0, 0), (0, 1)))
        return np.asarray(self.lots[:, lot] + burns[:, burn])

    def dose(self, coded: Floats) -> Floats:
        """``(s, n)`` log dose as far as it reaches, of ``(n, m)`` coded settings."""
        power, speed = coded[:, 0], coded[:, 1]
        reach = self.by_power[:, None] * (power + self.bend_power[:, None] * (power**2 / 2))
        reach = reach - self.by_speed[:, None] * (speed + self.bend_speed[:, None] * (speed**2 / 2))
        if coded.shape[1] > 2:
            reach = reach + self.others @ coded[:, 2:].T
        return np.asarray(reach)

    @property
    def scatter(self) -> Floats:
        """``(s,)`` standard deviation of patches of one sheet, in log dose."""
        return self.scale * np.pi / np.sqrt(3)

    @property
    def thresholds(self) -> Floats:
        """``(s, 3)`` t_1 to t_3."""
        third = self.threshold
        return np.stack([third - self.gap_3 - self.gap_2, third - self.gap_3, third], axis=-1)


@dataclass(frozen=True)
class OrderedModel:
    """What plates say of an ordered outcome: draws of the law, and the coding of settings they belong to.

    lots : names of the sheets whose luck is known
    """

    coding: Coding
    draws: OrderedDraws
    lots: tuple[str, ...]
    steps: Steps

    def margin(self, settings: Mapping[str, Floats], level: int) -> Floats:
        """``(s, n)`` log dose beyond what reaches a level (1 to 3) on the middle sheet."""
        return self.draws.dose(self.coding.matrix(settings)) - self.draws.thresholds[:, level - 1, None]

    def shares_from(self, level: int, settings: Mapping[str, Floats]) -> Floats:
        """``(s, n)`` the share of fresh sheets that reach a level (1 to 3), by each draw."""
        margin = self.margin(settings, level)
        return share_of_fresh_sheets(margin, self.draws.scale[:, None], self.draws.tau[:, None])

    def shares(self, settings: Mapping[str, Floats]) -> Floats:
        """``(s, n)`` the share of fresh sheets that come out as wanted, by each draw."""
        least, most = self.steps.wanted
        enough = self.shares_from(least, settings)
        return enough - self.shares_from(most + 1, settings) if self.steps.is_window else enough

    def every(self, step: int) -> OrderedModel:
        """The model by every so many-th of its draws: what is only drawn as a line needs no more."""
        draws = OrderedDraws(**{name: column[::step] for name, column in vars(self.draws).items()})
        return replace(self, draws=draws)

    def weights(self, taps: Sequence[Tap]) -> Floats:
        """``(s,)`` how much each draw counts after taps: a sheet of its own each, its luck integrated over."""
        log_weight = np.zeros(len(self.draws.threshold))
        for tap in taps:
            share = self.shares(columns_of(tap.settings))[:, 0]
            share = (1 - STRAY) * share + STRAY / 2
            log_weight += np.log(share if tap.held else 1 - share)
        weight = np.exp(log_weight - log_weight.max())
        return np.asarray(weight / weight.sum())

    def after(self, taps: Sequence[Tap]) -> OrderedModel:
        """The model with taps as evidence, too: its draws drawn again by weight."""
        weights = self.weights(taps)
        at = (np.arange(len(weights)) + 0.5) / len(weights)
        chosen = np.minimum(np.searchsorted(np.cumsum(weights), at), len(weights) - 1)
        draws = OrderedDraws(**{name: column[chosen] for name, column in vars(self.draws).items()})
        return replace(self, draws=draws)

    def shares_on(self, lot: int, level: int, settings: Mapping[str, Floats]) -> Floats:
        """``(s, n)`` the share of patches that reach a level on a sheet that was burned."""
        margin = self.margin(settings, level) + self.draws.lots[:, lot, None]
        return np.asarray(expit(margin / self.draws.scale[:, None]))


class _Law:
    """The log density of the parameters, given scores.

    Parameters in a row: threshold, log weights of power and speed, their bends, the others, logs of scale, gaps and
    tau, then the luck of each sheet in units of tau, then that of each burn in units of `BURNS`.
    """

    def __init__(self, scores: Scores, coding: Coding, steps: Steps) -> None:
        self.scores = scores
        others = scores.coded.shape[1] - 2
        self.others = slice(5, 5 + others)
        self.scale, self.gap_2, self.gap_3, self.tau = (5 + others + i for i in range(4))
        sheets, burns = (int(column.max()) + 1 for column in (scores.lot, scores.burn))
        self.lots = slice(self.tau + 1, self.tau + 1 + sheets)
        self.burns = slice(self.tau + 1 + sheets, self.tau + 1 + sheets + burns)
        rows = [_OPEN, _WEIGHT, _WEIGHT, _BEND, _BEND, *coding.priors, _SCALE, steps.gap_2, steps.gap_3, _SHEETS]
        rows += [(0.0, 1.0)] * (sheets + burns)
        self.mean, self.sd = np.array(rows, float).T

    def draws(self, places: Floats) -> OrderedDraws:
        """``(s, d)`` places in words."""
        tau = np.exp(places[:, self.tau])
        return OrderedDraws(
            threshold=places[:, 0],
            by_power=np.exp(places[:, 1]),
            by_speed=np.exp(places[:, 2]),
            bend_power=places[:, 3],
            bend_speed=places[:, 4],
            others=places[:, self.others],
            scale=np.exp(places[:, self.scale]),
            gap_2=np.exp(places[:, self.gap_2]),
            gap_3=np.exp(places[:, self.gap_3]),
            tau=tau,
            lots=places[:, self.lots] * tau[:, None],
            burns=places[:, self.burns] * BURNS,
        )

    def _bounds(self, draws: OrderedDraws) -> tuple[Floats, Floats]:
        thresholds = draws.thresholds
        return level_bounds(self.scores.least, thresholds)[0], level_bounds(self.scores.most, thresholds)[1]

    def density(self, places: Floats) -> Floats:
        """``(s,)`` log density at ``(s, d)`` places."""
        draws = self.draws(places)
        dose = draws.dose(self.scores.coded) + draws.luck(self.scores.lot, self.scores.burn)
        share, _, _ = score_share(dose, *self._bounds(draws), draws.scale[:, None])
        stray = self.scores.stray
        likely = np.log((1 - stray) * share + stray / LEVELS).sum(axis=1)
        return np.asarray(likely - 0.5 * (((places - self.mean) / self.sd) ** 2).sum(axis=1))

    def slope(self, at: Floats) -> tuple[float, Floats]:
        """Log density and its gradient at one place."""
        draws, scores = self.draws(at[None, :]), self.scores
        coded = scores.coded
        dose = (draws.dose(coded) + draws.luck(scores.lot, scores.burn))[0]
        (low,), (high,) = self._bounds(draws)
        scale, tau = draws.scale[0], draws.tau[0]
        share, a, b = score_share(dose, low, high, scale)
        mixed = (1 - scores.stray) * share + scores.stray / LEVELS
        weight = (1 - scores.stray) / mixed
        steep_a, steep_b = expit(a) * expit(-a), expit(b) * expit(-b)
        by_low, by_high = -weight * steep_a / scale, weight * steep_b / scale
        by_dose = -(by_low + by_high)
        power, speed = coded[:, 0], coded[:, 1]
        slope = np.empty(len(at))
        slope[0] = (by_low + by_high).sum()
        alpha, beta, bend_p, bend_v = draws.by_power[0], draws.by_speed[0], at[3], at[4]
        slope[1] = by_dose @ (alpha * (power + bend_p * power**2 / 2))
        slope[2] = -by_dose @ (beta * (speed + bend_v * speed**2 / 2))
        slope[3] = by_dose @ (alpha * power**2 / 2)
        slope[4] = -by_dose @ (beta * speed**2 / 2)
        slope[self.others] = by_dose @ coded[:, 2:]
        slope[self.scale] = -(weight * (a * steep_a - b * steep_b)).sum()
        # t_1 lies below t_3 by both gaps, t_2 by the second; bounds at infinity have no slope.
        of_1 = by_low[scores.least == 1].sum() + by_high[scores.most == 0].sum()
        of_2 = by_low[scores.least == 2].sum() + by_high[scores.most == 1].sum()
        slope[self.gap_2] = -of_1 * draws.gap_2[0]
        slope[self.gap_3] = -(of_1 + of_2) * draws.gap_3[0]
        by_lot = np.bincount(scores.lot, by_dose, draws.lots.shape[1])
        slope[self.lots] = by_lot * tau
        shared = scores.burn >= 0
        slope[self.burns] = np.bincount(scores.burn[shared], by_dose[shared], draws.burns.shape[1]) * BURNS
        slope[self.tau] = by_lot @ draws.lots[0]
        far = (at - self.mean) / self.sd
        return float(np.log(mixed).sum() - 0.5 * (far**2).sum()), slope - far / self.sd


def fit_ordered(scores: Scores, coding: Coding, lots: tuple[str, ...], steps: Steps) -> OrderedModel:
    """The law by n scores, at least one.

    With little to go by it says what the priors say, and how little that is.
    """
    law = _Law(scores, coding, steps)
    start = law.mean.copy()
    # Half-way between what reached the last level and what did not, by equal dose.
    reach = scores.coded[:, 0] - scores.coded[:, 1]
    out, short = reach[scores.least == LEVELS - 1], reach[scores.most < LEVELS - 1]
    inner = [np.median(part) for part in (out, short) if len(part)]
    start[0] = float(np.mean(inner)) + (0.0 if len(inner) == 2 else -0.3 if len(out) else 0.3)
    found = posterior(law.slope, law.density, start, DRAWS, PROPOSED if len(scores.lot) <= MANY else PROPOSED // 2)
    return OrderedModel(coding, law.draws(found.draws), lots, steps)


def stray_share(doubt: Floats) -> Floats:
    """How likely a score says nothing, by its doubt: a slip at least, and a guess half the time where it is doubted."""
    return np.clip(STRAY + doubt, STRAY, 0.9)
