"""The light across the outlines of patches: slits, kerfs, edges."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from rezept.core.photo.course import Course
from rezept.core.photo.flat import LUMINANCE, Flat, Ground, Light, weighed
from rezept.core.photo.noise import known_median, median

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]

# How far to look across an outline: inward, outward, and in which steps.
INWARD_MM, OUTWARD_MM, STEP_MM = 0.8, 2.0, 0.07
NEAR_MM = 0.4
LEAST_KERF_MM = 0.02
# The ground on either side of a slit, from and to; and where a part has fallen out, outside alone.
BESIDE_MM, OUTSIDE_MM = (0.45, 0.8), (0.45, 1.1)
# An opening just inside of its outline, from and to, and by what share of the ground's light it differs at least.
JUST_INSIDE_MM, LEAST_DEPTH = (-0.4, -0.15), 0.15


@dataclass(frozen=True)
class Profiles:
    """``(k, n, m)`` luminance over the ground's, across every outline at `offsets` ``(k,)`` mm, outward positive."""

    seen: Light
    offsets: Floats
    every_mm: float

    @property
    def step_mm(self) -> float:
        return float(self.offsets[1] - self.offsets[0])

    def beyond(self, low: float, high: float) -> Light:
        """What lies between two offsets."""
        part: Light = self.seen[between(self.offsets, low, high)]
        return part


def between(offsets: Floats, low: float, high: float) -> slice:
    """Which of rising offsets lie between two of them."""
    return slice(*np.searchsorted(offsets, [low - 1e-6, high + 1e-6]).tolist())


def _sampled(plane: Light, mm: Floats, step_mm: float) -> Light:
    """A plane between its cells, at plate points ``(..., 2)``."""
    points = mm / step_mm - 0.5
    seen = ndimage.map_coordinates(plane, [points[..., 1], points[..., 0]], order=1, mode="nearest")
    return np.asarray(seen, np.float32)


def profiles_across(flat: Flat, ground: Ground, corners: Floats, way: Course, gap_mm: float) -> Profiles:
    # Not into the neighbour's own ground.
    outward = min(OUTWARD_MM, max(0.5, 0.6 * gap_mm))
    offsets = np.arange(-INWARD_MM, outward + STEP_MM / 2, STEP_MM)
    across = way.points + way.outward * offsets[:, None, None]
    places = corners[:, None] + across[:, None]
    seen = _sampled(flat.luminance(), places, flat.step_mm)
    bare = weighed(ground.at(corners[:, None] + way.points[None]), LUMINANCE)
    length = float(np.linalg.norm(np.diff(way.points, axis=0), axis=1).mean())
    return Profiles(seen / bare, offsets, length)


def longest_run(held: Flags) -> NDArray[np.int_]:
    """``(n,)`` the longest stretch of True round each closed row ``(n, m)``."""
    count = held.shape[1]
    twice = np.concatenate([held, held], axis=1)
    at = np.arange(2 * count)
    # Since where each has held: the last place before it that does not.
    runs = at - np.maximum.accumulate(np.where(twice, -1, at), axis=1)
    return np.minimum(runs.max(axis=1, initial=0), count)


def _black_mm(profiles: Profiles, low: float, high: float, usual: NDArray[np.floating[Any]]) -> Floats:
    """``(n, m)`` how wide a black line would be that takes as much light as is missing between two offsets from what is
    usual there."""
    # Noise goes both ways: what is lighter than usual counts against it.
    missing = np.clip(1 - profiles.beyond(low, high) / np.maximum(usual, 0.3), -1, 1)
    return missing.sum(axis=0).astype(float) * profiles.step_mm


def slit_mm(profiles: Profiles, middle: float, one_sided: Flags) -> Floats:
    """``(n, m)`` the black width of what runs along the outline, so far out from it.

    The usual light lies on a straight line from the ground on one side to that on the other, so that neither uneven
    light nor the side of a broad streak takes part; where the inside has fallen out, it is that outside alone.
    """
    outer = profiles.beyond(middle + BESIDE_MM[0], middle + BESIDE_MM[1]).mean(axis=0)
    inner = profiles.beyond(middle - BESIDE_MM[1], middle - BESIDE_MM[0]).mean(axis=0)
    inner = np.where(one_sided[:, None], outer, inner)
    at = profiles.offsets[between(profiles.offsets, middle - NEAR_MM, middle + NEAR_MM), None, None] - middle
    rising = (at / (BESIDE_MM[0] + BESIDE_MM[1])).astype(np.float32)
    return _black_mm(profiles, middle - NEAR_MM, middle + NEAR_MM, (inner + outer) / 2 + (outer - inner) * rising)


def _reach_mm(profiles: Profiles) -> Floats:
    """``(n, m)`` how far an opening reaches beyond the outline: what differs from the ground outside, over how much it
    does just inside; NaN where that is next to nothing."""
    usual = np.maximum(median(profiles.beyond(*OUTSIDE_MM), (0,)), 0.02)
    depth = 1 - median(profiles.beyond(*JUST_INSIDE_MM), (0,)) / usual
    outside = 1 - profiles.beyond(0.0, NEAR_MM) / usual
    # The first of them stands on the outline: half of its step is inside.
    reach = (outside.sum(axis=0) - outside[0] / 2) * profiles.step_mm
    return np.where(np.abs(depth) > LEAST_DEPTH, reach / np.where(depth == 0, 1, depth), np.nan)


def kerf_mm(profiles: Profiles, slit: Floats, open_line: Flags, dropped: Flags) -> Floats:
    """Width of the cut where it is through.

    Fallen out, it is twice as far as the open reaches beyond the outline; with the part still in, that of the slit
    ``(n, m)``.
    """
    width = np.where(dropped[:, None], 2 * _reach_mm(profiles), slit)
    usable = np.where(open_line, width, np.nan)
    middle = known_median(usable)
    # As wide as a black line: light that shines through says nothing of the width.
    return np.where(middle > LEAST_KERF_MM, middle, np.nan)


def crossing(values: Floats, offsets: Floats, level: Floats) -> Floats:
    """Offset at which each row ``(n, k)`` first rises to its level; NaN where it never does."""
    over = values >= level[:, None]
    first = over.argmax(axis=1)
    found = over.any(axis=1) & (first > 0)
    before = np.clip(first - 1, 0, None)
    rows = np.arange(len(values))
    low, high = values[rows, before], values[rows, first]
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.clip((level - low) / (high - low), 0, 1)
    place = offsets[before] + share * (offsets[first] - offsets[before])
    return np.where(found, place, np.nan)


def edge_mm(profile: Floats, offsets: Floats) -> Floats:
    """Width of the step from a patch ``(n, k)`` outward to its ground, from a tenth to nine tenths of it."""
    inner = profile[:, : max(1, len(offsets) // 8)].mean(axis=1)
    outer = np.median(profile[:, -8:], axis=1)
    depth = outer - inner
    with np.errstate(divide="ignore", invalid="ignore"):
        step = (profile - inner[:, None]) / depth[:, None]
    tenth = crossing(step, offsets, np.full(len(step), 0.1))
    most = crossing(step, offsets, np.full(len(step), 0.9))
    return np.where(np.abs(depth) > 0.08, most - tenth, np.nan)
