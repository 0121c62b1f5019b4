"""How unlike the bare sheet a place of a picture looks, whichever way: an opening may be darker than the sheet or
lighter, patterned or lit from below, and the wall of a slit has a colour of its own."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.photo.flat import LINEAR, nearest, nearest_planes, second_order, surface
from rezept.core.photo.noise import median, sigma_of
from rezept.core.photo.pose import Pose

Floats = NDArray[np.float64]
Light = NDArray[np.float32]
Colours = NDArray[np.uint8]

# Logarithm of linear light of each coded value; below the darkest that eight bits tell apart there is nothing to tell.
LOG_LIGHT = np.log(np.maximum(LINEAR, LINEAR[4])).astype(np.float32)
# Places of the sheet that are looked at, and the rim of it, mm, that no patch ever lies in.
MOST_SPOTS, RIM_MM, INSET_MM = 4000, 3.0, 0.6
# Of weighing anew, and the logarithm of light by which bare sheet differs from itself at most.
ROUNDS, MOST_UNEVEN = 6, 0.5
# A sheet that scatters by less, as a share of its light, is taken to scatter so much: eight bits and JPEG do.
LEAST_SCATTER = 0.006
# Squared distance (P. C. Mahalanobis) within which a spot counts as bare: 90 % of chi-square with three degrees of
# freedom; what is cut off there makes the scatter smaller by the second.
BARE_WITHIN, CUT_OFF = 6.25, 1.3


@dataclass(frozen=True)
class SheetColour:
    """What the bare sheet looks like all over a picture.

    terms : ``(6, 3)`` its log light, channel by channel, of 1, u, v, u^2, u v, v^2, both -1 to 1 over the picture
    whitening : ``(3, 3)`` lower triangular: what takes deviations from that to unit scatter, grain and noise together
    size : width and height of the picture in pixels
    """

    terms: Floats
    whitening: Light
    size: tuple[int, int]

    def deviation(self, rgb: Colours, pixels: NDArray[np.floating[Any]]) -> Light:
        """``(3, ...)`` log light of the pixels nearest to columns and rows ``(2, ...)``, over the sheet's."""
        columns, rows = pixels.astype(np.float32)
        seen = LOG_LIGHT.take(nearest_planes(rgb, columns, rows), mode="clip")
        seen -= self._bare(columns, rows)
        return seen

    def distance(self, deviation: Light) -> Light:
        """``(...)`` how many standard deviations of bare sheet ``(3, ...)`` is (P. C. Mahalanobis' distance)."""
        w = self.whitening
        first, second, third = deviation
        # Row by row: the matrix product would start threads for three by three.
        squared = np.square(w[0, 0] * first)
        squared += np.square(w[1, 0] * first + w[1, 1] * second)
        squared += np.square(w[2, 0] * first + w[2, 1] * second + w[2, 2] * third)
        return np.sqrt(squared, out=squared)

    def unlike(self, rgb: Colours, pixels: Floats) -> Light:
        """``(...)`` how unlike the sheet the places ``(..., 2)`` of a picture are, in standard deviations of it."""
        return self.distance(self.deviation(rgb, np.moveaxis(pixels, -1, 0)))

    def _bare(self, columns: Light, rows: Light) -> Light:
        u, v = (2 * at / np.float32(size) - 1 for at, size in zip((columns, rows), self.size, strict=True))
        bare = np.empty((3, *u.shape), np.float32)
        for channel, c in enumerate(self.terms.T.astype(np.float32)):
            bare[channel] = surface(c, u, v)
        return bare


def _spots(width_mm: float, height_mm: float, about: Floats | None, within_mm: float) -> Floats:
    """Places all over a plate, or within so many mm of a point of it."""
    low = np.zeros(2) if about is None else np.maximum(about - within_mm, 0)
    high = np.array([width_mm, height_mm])
    if about is not None:
        high = np.minimum(about + within_mm, high)
    apart = float(np.sqrt((high - low).prod() / MOST_SPOTS))
    x, y = (np.arange(a + INSET_MM, b - INSET_MM / 2, apart) for a, b in zip(low, high, strict=True))
    return np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)


def sheet_colour(
    rgb: Colours,
    pose: Pose,
    width_mm: float,
    height_mm: float,
    about: Floats | None = None,
    within_mm: float = 0.0,
) -> SheetColour:
    """The sheet's colour where a plate lies, openings, labels and shadows counting little there.

    It starts with the rim, which stays bare; the pose may be off by some millimetres, or turned.

    about, within_mm : look no further from a point ``(2,)`` mm than that
    """
    spots = _spots(width_mm, height_mm, about, within_mm)
    spots = spots[pose.shows(spots)]
    pixels = pose.to_pixels(spots)
    seen = LOG_LIGHT[nearest(rgb, pixels)].astype(float)
    rim = np.minimum(spots, (width_mm, height_mm) - spots).min(axis=1) < RIM_MM
    start = seen[rim] if rim.sum() > 20 else seen
    design = second_order(pixels, pose.size)
    terms = np.zeros((6, 3))
    terms[0] = median(start, (0,))
    spread = sigma_of(start - terms[0], axis=0) + 0.05
    ridge = 1e-6 * len(seen) * np.eye(6)
    off = seen - design @ terms
    for _ in range(ROUNDS):
        # A. Cauchy's weights: what is far off hardly counts.
        weighed = design / (1 + ((off / (2 * spread)) ** 2).sum(axis=1))[:, None]
        terms = np.linalg.solve(weighed.T @ design + ridge, weighed.T @ seen)
        off = seen - design @ terms
        near = np.abs(off).max(axis=1) < MOST_UNEVEN
        if near.any():
            spread = np.maximum(sigma_of(off[near], axis=0), 0.01)
    bare = off[near] if near.sum() > 20 else off
    least = LEAST_SCATTER**2 * np.eye(3)
    covariance = np.cov(bare.T) + least
    within = np.einsum("ni,ij,nj->n", bare, np.linalg.inv(covariance), bare) < BARE_WITHIN
    if within.sum() > 20:
        covariance = CUT_OFF * np.cov(bare[within].T) + least
    whitening = np.linalg.inv(np.linalg.cholesky(covariance))
    return SheetColour(terms, whitening.astype(np.float32), pose.size)
