"""The plate seen from straight above, and what its bare ground looks like everywhere on it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.colour import srgb_to_linear
from rezept.core.photo.noise import sigma_of
from rezept.core.photo.pose import Pose

Floats = NDArray[np.float64]
Light = NDArray[np.float32]
Colours = NDArray[np.uint8]

FINEST_MM = 0.1
LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)
LINEAR = srgb_to_linear(np.arange(256) / 255.0).astype(np.float32)
# Places on the ground that are looked at to learn how it is lit, and how far its rim is left alone.
MOST_SPOTS, RIM_MM = 2500, 1.0
# Fewer bare places say nothing of how the light falls; then it is taken to be level.
LEAST_SPOTS = 50
# Of weighing anew, at most; when no term changes by more than this, log light, there is no more to be gained.
ROUNDS, SETTLED = 8, 1e-4


def nearest(rgb: Colours, pixels: Floats) -> Colours:
    """``(..., 3)`` the pixels of a picture nearest to places ``(..., 2)``; beyond it those at its edge."""
    picked: Colours = np.ascontiguousarray(rgb).reshape(-1, 3).take(_index(rgb, pixels[..., 0], pixels[..., 1]), axis=0)
    return picked


def nearest_planes(rgb: Colours, columns: NDArray[np.floating[Any]], rows: NDArray[np.floating[Any]]) -> Colours:
    """The same channel by channel, ``(3, ...)`` at columns and rows ``(...)``: what is calculated of each channel by
    itself lies together."""
    index = _index(rgb, columns, rows) * 3
    coded = np.ascontiguousarray(rgb).reshape(-1)
    picked = np.empty((3, *index.shape), np.uint8)
    for channel in range(3):
        np.take(coded, index + channel, out=picked[channel], mode="clip")
    return picked


def _index(rgb: Colours, columns: NDArray[np.floating[Any]], rows: NDArray[np.floating[Any]]) -> NDArray[np.int32]:
    """Of the nearest pixels in a picture as one row of pixels, which is faster to take from than by two."""
    height, width = rgb.shape[:2]
    index = np.clip(rows + 0.5, 0, height - 1).astype(np.int32)
    index *= width
    index += np.clip(columns + 0.5, 0, width - 1).astype(np.int32)
    return index


class Seen:
    """A plate as a picture shows it: what is seen at places on it.

    curve : ``(256, 3)`` linear light of each coded value, channel by channel; sRGB where nothing better is known
    step_mm : how far apart places have to be to be told apart
    """

    curve: Light
    step_mm: float

    def coded(self, mm: Floats) -> Colours:
        """``(3, ...)`` coded pixels nearest to plate points ``(..., 2)``."""
        raise NotImplementedError

    def typical(self) -> Colours:
        """``(n, 3)`` pixels from all over it."""
        raise NotImplementedError

    def light_across(self, mm: Floats, outward: Floats, offsets: Floats) -> Light:
        """``(3, k, ...)`` linear light at offsets ``(k,)`` mm from plate points ``(..., 2)`` along unit vectors."""
        return self.linear(self.coded(mm + outward * offsets.reshape(-1, *[1] * mm.ndim)))

    def linear(self, coded: Colours) -> Light:
        """``(3, ...)`` linear light of coded pixels ``(3, ...)``."""
        light = np.empty(coded.shape, np.float32)
        for curve, plane, out in zip(np.ascontiguousarray(self.curve.T), coded, light, strict=True):
            # No coded value is beyond the curve; so said, nothing is looked at twice.
            np.take(curve, plane, out=out, mode="clip")
        return light


@dataclass(frozen=True)
class Photographed(Seen):
    """The plate where it lies in the picture ``(height, width, 3)``: right for places that are few."""

    rgb: Colours
    pose: Pose
    curve: Light
    step_mm: float

    def coded(self, mm: Floats) -> Colours:
        return nearest_planes(self.rgb, *np.moveaxis(self.pose.to_pixels(mm), -1, 0))

    def light_across(self, mm: Floats, outward: Floats, offsets: Floats) -> Light:
        return self.linear(nearest_planes(self.rgb, *self.pose.across(mm, outward, offsets)))

    def typical(self) -> Colours:
        return self.rgb[::16, ::16].reshape(-1, 3)


@dataclass(frozen=True)
class Flat(Seen):
    """The plate flattened.

    rgb : ``(rows, columns, 3)`` coded pixels, rows running up, cell (row, column) centred at ``((column + 1/2) step,
        (row + 1/2) step)`` mm on the plate
    curve : ``(256, 3)`` linear light of each coded value, channel by channel; sRGB where nothing better is known
    """

    rgb: Colours
    step_mm: float
    curve: Light

    def cells(self, mm: Floats) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
        """Rows and columns of the cells nearest to plate points ``(..., 2)``."""
        rows, columns = self.rgb.shape[:2]
        column = np.clip((mm[..., 0] / self.step_mm).astype(np.intp), 0, columns - 1)
        row = np.clip((mm[..., 1] / self.step_mm).astype(np.intp), 0, rows - 1)
        return row, column

    def coded(self, mm: Floats) -> Colours:
        return np.ascontiguousarray(np.moveaxis(self.rgb[self.cells(mm)], -1, 0))

    def typical(self) -> Colours:
        return self.rgb.reshape(-1, 3)

    def luminance(self) -> Light:
        """``(rows, columns)`` of the whole plate."""
        weighed = np.ascontiguousarray((self.curve * LUMINANCE).T)
        plane: Light = weighed[0].take(self.rgb[..., 0])
        for channel in (1, 2):
            plane += weighed[channel].take(self.rgb[..., channel])
        return plane


@dataclass(frozen=True)
class Ground:
    """What the bare ground would look like everywhere: the exponential of a surface of second order, channel by
    channel.

    terms : ``(6, 3)`` of 1, u, v, u^2, u v, v^2, both running from -1 to 1 over the plate
    scatter : of the ground about that, as a share of it: its grain and the noise
    """

    terms: Floats
    size_mm: tuple[float, float]
    scatter: float

    def at(self, mm: Floats) -> Light:
        """``(3, ...)`` linear light of the ground at plate points ``(..., 2)``."""
        u, v = (2 * mm[..., i].astype(np.float32) / np.float32(self.size_mm[i]) - 1 for i in (0, 1))
        light = np.empty((3, *u.shape), np.float32)
        for channel, c in enumerate(self.terms.T.astype(np.float32)):
            light[channel] = np.exp(surface(c, u, v))
        return light


def weighed(planes: Light, weights: Light) -> Light:
    """``(...)`` the weighed sum of three channels ``(3, ...)``."""
    total: Light = planes[0] * weights[0]
    for channel in (1, 2):
        total += planes[channel] * weights[channel]
    return total


def surface(c: NDArray[np.floating[Any]], u: Light, v: Light) -> Light:
    """A surface of second order at u and v, with the factors ``(6,)`` that `second_order` has them in."""
    high: Light = c[0] + u * (c[1] + u * c[3] + v * c[4]) + v * (c[2] + v * c[5])
    return high


def second_order(places: Floats, size: tuple[float, float]) -> Floats:
    """``(..., 6)`` of 1, u, v, u^2, u v, v^2 at places ``(..., 2)``, both running from -1 to 1 over a size."""
    u, v = 2 * places[..., 0] / size[0] - 1, 2 * places[..., 1] / size[1] - 1
    return np.stack([np.ones_like(u), u, v, u * u, u * v, v * v], axis=-1)


def ground_of(flat: Seen, size_mm: tuple[float, float], boxes: Floats, margin_mm: float) -> Ground:
    """The ground through what is bare between the patches ``(n, 4)`` (x, y, width, height), letters and soot counting
    little there (weights of A. Cauchy's distribution, twice the median scatter)."""
    width, height = size_mm
    apart = max(flat.step_mm, float(np.sqrt(width * height / (4 * MOST_SPOTS))))
    x, y = (np.arange(RIM_MM, side - RIM_MM, apart) for side in size_mm)
    taken = np.zeros((len(y), len(x)), bool)
    low, high = boxes[:, :2] - margin_mm, boxes[:, :2] + boxes[:, 2:] + margin_mm
    ends = zip(*(np.searchsorted(at, side[:, i]) for i, at in ((0, x), (1, y)) for side in (low, high)), strict=True)
    for left, right, bottom, top in ends:
        taken[bottom:top, left:right] = True
    spots = np.stack(np.meshgrid(x, y), axis=-1)[~taken]
    spots = spots[:: max(1, len(spots) // MOST_SPOTS)]
    coded = flat.coded(spots)
    # What lies outside the picture is black.
    shown = coded.any(axis=0)
    spots, coded = spots[shown], coded[:, shown]
    if len(spots) < LEAST_SPOTS:
        level = np.median(LINEAR[flat.typical()], axis=0)
        flatly = np.concatenate([np.log(np.maximum(level, 1e-4))[None], np.zeros((5, 3))])
        return Ground(flatly, size_mm, 0.2)
    design = second_order(spots, size_mm)
    products = (design[:, :, None] * design[:, None]).reshape(len(spots), -1)
    seen = np.log(np.maximum(flat.linear(coded).astype(float), 1e-4))
    found, weights = np.zeros((3, 6)), np.ones_like(seen)
    for _ in range(ROUNDS):
        normal = (weights @ products).reshape(3, 6, 6) + 1e-9 * np.eye(6)
        before, found = found, np.linalg.solve(normal, ((weights * seen) @ design)[..., None])[..., 0]
        off = seen - found @ design.T
        spread = sigma_of(off, axis=1) + 1e-3
        if np.abs(found - before).max() < SETTLED:
            break
        weights = 1 / (1 + (off / (2 * spread[:, None])) ** 2)
    return Ground(found.T, size_mm, float(np.median(spread)))
