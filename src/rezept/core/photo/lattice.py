"""The patches themselves as marks: where their edges are, and the middle between opposite edges."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from rezept.core.photo.pose import Pose

Floats = NDArray[np.float64]
Grey = NDArray[np.float32]

STEP_MM = 0.06
ALONG = 24
LEAST_EDGE = 0.05


@dataclass(frozen=True)
class Lattice:
    """Middles of patches, on the plate ``(n, 2)`` mm and in the picture ``(n, 2)`` pixels, and how sharp their edges
    were, 0 where none was found."""

    mm: Floats
    pixels: Floats
    sharpness: Floats


def _edge_profiles(grey: Grey, pose: Pose, boxes: Floats, reach_mm: float) -> tuple[Floats, Floats]:
    """``(n, 4, k)`` mean luminance across the left, right, lower and upper edge of each box ``(n, 4)`` (x, y, width,
    height), from outside to inside, and the ``(k,)`` offsets in mm."""
    offsets = np.arange(-reach_mm, reach_mm + STEP_MM / 2, STEP_MM)
    shares = np.linspace(0.2, 0.8, ALONG)
    x, y, w, h = (boxes[:, i][:, None, None] for i in range(4))
    along_x, along_y = x + w * shares[None, :, None], y + h * shares[None, :, None]
    inward = offsets[None, None, :]
    zero = np.zeros_like(along_x) + 0 * inward
    sides = np.stack(
        [
            np.stack([x + inward + zero, along_y + zero], axis=-1),
            np.stack([x + w - inward + zero, along_y + zero], axis=-1),
            np.stack([along_x + zero, y + inward + zero], axis=-1),
            np.stack([along_x + zero, y + h - inward + zero], axis=-1),
        ],
        axis=1,
    )
    pixels = pose.to_pixels(sides)
    seen = ndimage.map_coordinates(grey, [pixels[..., 1], pixels[..., 0]], order=1, mode="nearest")
    return np.asarray(seen.mean(axis=2), float), offsets


def _outer_edge(profiles: Floats, offsets: Floats, lighter: bool) -> tuple[Floats, Floats]:
    """``(..., )`` place of the steepest fall (or rise) from outside in, and how steep it is."""
    slope = np.diff(profiles, axis=-1) * (1 if lighter else -1)
    middle = (offsets[1:] + offsets[:-1]) / 2
    best = slope.argmax(axis=-1)
    inner = np.clip(best, 1, slope.shape[-1] - 2)
    take = np.take_along_axis
    before, at, after = (take(slope, (inner + i)[..., None], -1)[..., 0] for i in (-1, 0, 1))
    bend = before - 2 * at + after
    shift = np.where(bend < 0, 0.5 * (before - after) / np.where(bend == 0, -1, bend), 0.0)
    return middle[inner] + np.clip(shift, -0.5, 0.5) * STEP_MM, at


def find_lattice(grey: Grey, pose: Pose, boxes: Floats, reach_mm: float, lighter: bool) -> Lattice:
    """The middles of patches ``(n, 4)`` as seen near a pose that is off by less than `reach_mm`.

    A cut's kerf moves opposite edges apart by the same way, so that the middle stays.
    """
    profiles, offsets = _edge_profiles(grey, pose, boxes, reach_mm)
    place, steep = _outer_edge(profiles, offsets, lighter)
    # Off by the same kerf outward: what opposite edges have in common is no shift of the patch.
    shift = np.stack([(place[:, 0] - place[:, 1]) / 2, (place[:, 2] - place[:, 3]) / 2], axis=-1)
    spread = np.abs(np.stack([place[:, 0] + place[:, 1], place[:, 2] + place[:, 3]], axis=-1)).max(axis=-1)
    sharpness = steep.min(axis=-1)
    good = (sharpness > LEAST_EDGE * max(1e-6, float(np.median(grey)))) & (spread < 1.2)
    middles = boxes[:, :2] + boxes[:, 2:] / 2
    return Lattice(middles, pose.to_pixels(middles + shift), np.where(good, sharpness, 0.0))
