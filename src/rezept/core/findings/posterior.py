"""What data and prior say of a few parameters: the most likely ones, and draws from all that are likely.

Newton's method on the log density finds the mode; a multivariate t about it (5 degrees of freedom, the curvature there
as its precision) proposes draws, importance weights make them right, and they are drawn again by weight (systematic
resampling), so that what is computed from them is a plain mean. A. Gelman et al., Bayesian Data Analysis, 3rd ed.,
ch. 10.4 and 13.3.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import linalg, optimize
from scipy.special import ndtri

Floats = NDArray[np.float64]
# Log density and its gradient at one place.
Slope = Callable[[Floats], tuple[float, Floats]]
# Log density at many places, (s, d) to (s,).
Density = Callable[[Floats], Floats]

PROPOSED = 768
DEGREES = 5.0
_STEP = 1e-4


@dataclass(frozen=True)
class Posterior:
    """The mode ``(d,)``, draws ``(s, d)`` of equal weight, and how many independent ones they are worth."""

    mode: Floats
    draws: Floats
    worth: float


def _curvature(slope: Slope, at: Floats) -> Floats:
    """``(d, d)`` minus the second derivatives of the log density, made positive definite."""
    steps = np.eye(len(at)) * _STEP
    rows = [slope(at + step)[1] - slope(at - step)[1] for step in steps]
    second = -np.array(rows) / (2 * _STEP)
    values, vectors = linalg.eigh((second + second.T) / 2)
    # What the data and the prior leave open is taken as spread over one: no parameter here is wider than that.
    return np.asarray((vectors * np.maximum(values, 0.3)) @ vectors.T)


def _spread(count: int, dimensions: int) -> tuple[Floats, Floats]:
    """``(s, d)`` standard normal numbers and ``(s,)`` chi-squared ones, the same every time: what a page says must not
    change by being loaded again. Evenly spread, as a Latin hypercube (M. D. McKay et al., Technometrics 21 (1979),
    239).
    """
    chance = np.random.default_rng(20261128)
    rows = chance.permuted(np.tile(np.arange(count), (dimensions + 1, 1)), axis=1).T
    points = (rows + chance.random(rows.shape)) / count
    # Wilson and Hilferty's cube: close enough for weights that are computed from the same numbers.
    root = 1 - 2 / (9 * DEGREES) + ndtri(points[:, -1]) * np.sqrt(2 / (9 * DEGREES))
    return ndtri(points[:, :-1]), DEGREES * np.maximum(root, 0.05) ** 3


def posterior(slope: Slope, density: Density, start: Floats, draws: int, proposed: int = PROPOSED) -> Posterior:
    """The posterior of a log density that has one mode near `start`.

    Parameters
    ----------
    slope, density : the same log density, once with its gradient and once for many places
    start : ``(d,)`` where to begin
    draws : how many are wanted; proposed : of how many they are chosen
    """
    found = optimize.minimize(lambda at: [-part for part in slope(at)], start, jac=True, method="BFGS",
                              options={"maxiter": 80, "gtol": 1e-3})  # fmt: skip
    mode = np.asarray(found.x, float)
    normal, chi = _spread(proposed, len(mode))
    factor = linalg.cholesky(_curvature(slope, mode), lower=True)
    centre = mode
    for again in range(3):
        scaled = normal * np.sqrt(DEGREES / chi)[:, None]
        away = linalg.solve_triangular(factor, scaled.T, lower=True, trans="T").T
        places = centre + away
        # The density of the proposal, from the same numbers; constants are left out.
        log_proposal = -0.5 * (DEGREES + len(mode)) * np.log1p((scaled**2).sum(axis=1) / DEGREES)
        weights = density(places) - log_proposal
        weights = np.exp(weights - weights.max())
        # A few draws that outweigh all others say that the proposal is too narrow there, not that they are right.
        weights = np.minimum(weights, weights.mean() * np.sqrt(proposed))
        weights /= weights.sum()
        worth = 1.0 / float((weights**2).sum())
        if worth > 0.25 * proposed or again == 2:
            break
        # Once more, about what the first round saw.
        centre = weights @ places
        seen = (places - centre).T @ ((places - centre) * weights[:, None])
        seen += np.eye(len(mode)) * 1e-6 * np.trace(seen) / len(mode)
        factor = linalg.cholesky(linalg.inv(seen), lower=True)
    at = (np.arange(draws) + 0.5) / draws
    chosen = np.searchsorted(np.cumsum(weights), at)
    return Posterior(mode, places[np.minimum(chosen, proposed - 1)], worth)
