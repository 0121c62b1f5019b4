"""The plate seen from straight above, and what its bare ground looks like everywhere on it."""

from __future__ import annotations

from dataclasses import dataclass

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
# Of weighing anew.
ROUNDS = 8


def nearest(rgb: Colours, pixels: Floats) -> Colours:
    """``(..., 3)`` the pixels of a picture nearest to places ``(..., 2)``; beyond it those at its edge."""
    height, width = rgb.shape[:2]
    column = np.clip(pixels[..., 0] + 0.5, 0, width - 1).astype(np.intp)
    row = np.clip(pixels[..., 1] + 0.5, 0, height - 1).astype(np.intp)
    # By one index, which is faster than by two.
    row *= width
    row += column
    picked: Colours = np.ascontiguousarray(rgb).reshape(-1, 3).take(row, axis=0)
    return picked


class Seen:
    """A plate as a picture shows it: what is seen at places on it.

    curve : ``(256, 3)`` linear light of each coded value, channel by channel; sRGB where nothing better is known
    step_mm : how far apart places have to be to be told apart
    """

    curve: Light
    step_mm: float

    def coded(self, mm: Floats) -> Colours:
        """``(..., 3)`` coded pixels nearest to plate points ``(..., 2)``."""
        raise NotImplementedError

    def typical(self) -> Colours:
        """``(n, 3)`` pixels from all over it."""
        raise NotImplementedError

    def light(self, mm: Floats) -> Light:
        """``(..., 3)`` linear light nearest to plate points."""
        return self._linear(self.coded(mm))

    def light_across(self, mm: Floats, outward: Floats, offsets: Floats) -> Light:
        """``(..., k, 3)`` linear light at offsets ``(k,)`` mm from plate points ``(..., 2)`` along unit vectors."""
        return self.light(mm[..., None, :] + outward[..., None, :] * offsets[:, None])

    def _linear(self, coded: Colours) -> Light:
        light = np.empty(coded.shape, np.float32)
        for channel in range(3):
            np.take(self.curve[:, channel], coded[..., channel], out=light[..., channel])
        return light


@dataclass(frozen=True)
class Photographed(Seen):
    """The plate where it lies in the picture ``(height, width, 3)``: right for places that are few."""

    rgb: Colours
    pose: Pose
    curve: Light
    step_mm: float

    def coded(self, mm: Floats) -> Colours:
        return nearest(self.rgb, self.pose.to_pixels(mm))

    def light_across(self, mm: Floats, outward: Floats, offsets: Floats) -> Light:
        return self._linear(nearest(self.rgb, self.pose.across(mm, outward, offsets)))

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
        """``(..., 3)`` coded pixels nearest to plate points."""
        picked: Colours = self.rgb[self.cells(mm)]
        return picked

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
        """``(..., 3)`` linear light of the ground at plate points."""
        return np.exp(second_order(mm, self.size_mm) @ self.terms).astype(np.float32)


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
    # What lies outside the picture is black.
    spots = spots[flat.coded(spots).any(axis=-1)]
    if len(spots) < LEAST_SPOTS:
        level = np.median(LINEAR[flat.typical()], axis=0)
        flatly = np.concatenate([np.log(np.maximum(level, 1e-4))[None], np.zeros((5, 3))])
        return Ground(flatly, size_mm, 0.2)
    spots = spots[:: max(1, len(spots) // MOST_SPOTS)]
    design = second_order(spots, size_mm)
    seen = np.log(np.maximum(flat.light(spots).astype(float), 1e-4))
    found = np.empty((6, 3))
    scatters = []
    for channel in range(3):
        weights = np.ones(len(spots))
        for _ in range(ROUNDS):
            weighed = design * weights[:, None]
            found[:, channel] = np.linalg.solve(weighed.T @ design + 1e-9 * np.eye(6), weighed.T @ seen[:, channel])
            off = seen[:, channel] - design @ found[:, channel]
            spread = float(sigma_of(off)) + 1e-3
            weights = 1 / (1 + (off / (2 * spread)) ** 2)
        scatters.append(spread)
    return Ground(found, size_mm, float(np.median(scatters)))
