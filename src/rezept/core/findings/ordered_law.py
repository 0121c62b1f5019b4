"""How what comes out in steps follows the dose (a cut: not, partly, with a push, drops out): a cumulative logit in the
log of the dose.

Proportional odds: P. McCullagh, J. R. Stat. Soc. B 42 (1980), 109.

A patch that got the log dose x, as far as its settings reach, comes out at least at level k with

    P(Y >= k) = L((x + lot - t_k) / s),    L(z) = 1 / (1 + exp(-z)),

t_k the log dose at which half of all patches do, s how much patches of one sheet differ, lot how much less dose this
sheet needs than the middle one of its kind. Sheets differ by a normal law of standard deviation tau. Whatever the law
says, a share `STRAY` of all scores is of something else (a slip, a knot, a score entered wrongly): heavy tails, so
that one strange patch does not bend it.

Everything is broadcast over draws: parameters are ``(s, 1)`` columns where there are several sets of them.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.special import expit, ndtr

Floats = NDArray[np.float64]
LEVELS = 4
STRAY = 0.02
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
    """The share of patches on fresh sheets that drop out, where the law says `margin` beyond the threshold: the mean of
    ``L((margin + lot) / s)`` over lots.

    Parameters
    ----------
    margin : ``(..., n)`` log dose beyond t_3 on the middle sheet
    scale, tau : ``(..., 1)`` or plain numbers
    """
    variance = np.square(tau)
    return sum(
        weight * ndtr(margin / np.sqrt(variance + np.square(scale / steepness)))
        for weight, steepness in zip(_SHARES, _STEEPNESS, strict=True)
    )
