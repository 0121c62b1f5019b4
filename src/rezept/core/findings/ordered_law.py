"""How what comes out in steps follows the dose (a cut: not, partly, with a push, drops out): a cumulative logit in the
log of the dose.

Proportional odds: P. McCullagh, J. R. Stat. Soc. B 42 (1980), 109.

A patch that got the log dose x, as far as its settings reach, comes out at least at level k with

    P(Y >= k) = L((x + lot - t_k) / s),    L(z) = 1 / (1 + exp(-z)),

t_k the log dose at which half of all patches do, s how much patches of one sheet differ, lot how much less dose this
sheet needs than the middle one of its kind. Sheets differ by a normal law of standard deviation tau. Whatever the law
says, a share `STRAY` of all scores is of something else (a slip, a knot, a score entered wrongly): heavy tails, so
that one strange patch does not bend it.

What is wanted may be the last level (a cut that drops out) or one between (a layer that is off, and what lies below
still whole): then it is a window of the dose, P(Y >= wanted) less P(Y > wanted).

Everything is broadcast over draws: parameters are ``(s, 1)`` columns where there are several sets of them.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.special import expit, ndtr

from rezept.core.scales import SCALES

Floats = NDArray[np.float64]
LEVELS = 4
STRAY = 0.02


@dataclass(frozen=True)
class Steps:
    """What is told apart of an ordered outcome.

    wanted : the least and the greatest level that are as wanted
    gap_2, gap_3 : how much more log dose takes it from level 1 to 2 and from 2 to 3, before anything is known: mean and
        standard deviation of the log
    """

    wanted: tuple[int, int]
    gap_2: tuple[float, float]
    gap_3: tuple[float, float]

    @property
    def is_window(self) -> bool:
        """Whether too much is as wrong as too little."""
        return self.wanted[1] < LEVELS - 1

    def as_wanted(self, outcome: Floats) -> NDArray[np.bool_]:
        """``(n,)`` which of outcomes are as wanted; none that is NaN."""
        least, most = self.wanted
        return (outcome >= least) & (outcome <= most)


def _steps(outcome: str, gap_2: tuple[float, float], gap_3: tuple[float, float]) -> Steps:
    scale = SCALES[outcome]
    assert scale.wanted_from is not None and scale.high == LEVELS - 1
    return Steps((scale.wanted_from, int(scale.most_to_work_by)), gap_2, gap_3)


# From one level of a cut to the next it takes some per cent more. A layer comes off over a wider range, and what lies
# below stands about half as much again before it is hurt; both are known by their order of magnitude only.
STEPS: dict[str, Steps] = {
    "through": _steps("through", (np.log(0.09), 0.7), (np.log(0.09), 0.7)),
    "layer": _steps("layer", (np.log(0.15), 0.8), (np.log(0.4), 0.8)),
}
# The logistic law as a mixture of three normal ones, to 0.0005 everywhere (J. F. Monahan, L. A. Stefanski, in
# N. Balakrishnan, Handbook of the Logistic Distribution, 1992, ch. 8): with them the luck of a fresh sheet, which is
# normal, can be added exactly. A rule of few nodes would see stairs where sheets differ more than patches do.
_SHARES = (0.25220, 0.58523, 0.16257)
_STEEPNESS = (0.90793, 0.57778, 0.36403)
# Beyond this a logistic is 0 or 1 to the last bit, and its derivative is 0.
_FAR = 40.0


def level_bounds(outcome: Floats, thresholds: Floats) -> tuple[Floats, Floats]:
    """Lower and upper bound of the log dose at which a patch comes out so.

    Parameters
    ----------
    outcome : ``(n,)`` levels 0 to 3
    thresholds : ``(..., 3)`` t_1 to t_3

    Returns
    -------
    two ``(..., n)`` arrays; -inf below level 0, inf above level 3
    """
    edge = np.full((*thresholds.shape[:-1], 1), np.inf)
    every = np.concatenate([-edge, thresholds, edge], axis=-1)
    level = outcome.astype(int)
    return every[..., level], every[..., level + 1]


def score_share(dose: Any, low: Any, high: Any, scale: Any) -> tuple[Floats, Floats, Floats]:
    """P(low <= patch < high) of the law without strays, and the two arguments it comes from."""
    a = np.clip((dose - low) / scale, -_FAR, _FAR)
    b = np.clip((dose - high) / scale, -_FAR, _FAR)
    # The difference of two nearly equal numbers: of the two tails the one that is small.
    upper = a + b > 0
    share = np.where(upper, expit(-b) - expit(-a), expit(a) - expit(b))
    return np.maximum(share, 1e-300), a, b


def share_of_fresh_sheets(margin: Floats, scale: Any, tau: Any) -> Floats:
    """The share of patches on fresh sheets that reach a level, where the law says `margin` beyond its threshold: the
    mean of ``L((margin + lot) / s)`` over lots.

    Parameters
    ----------
    margin : ``(..., n)`` log dose beyond t_k on the middle sheet
    scale, tau : ``(..., 1)`` or plain numbers
    """
    variance = np.square(tau)
    return sum(
        weight * ndtr(margin / np.sqrt(variance + np.square(scale / steepness)))
        for weight, steepness in zip(_SHARES, _STEEPNESS, strict=True)
    )
