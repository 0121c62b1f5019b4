"""Filling a patch with parallel lines."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray


def line_count(extent_mm: float, spacing_mm: float) -> int:
    """How many lines fill `extent_mm` across them: ``max(1, round(extent / spacing))``."""
    return max(1, round(extent_mm / spacing_mm))


@lru_cache(maxsize=512)
def hatch_rectangle(width_mm: float, height_mm: float, spacing_mm: float, angle_deg: float) -> NDArray[np.float64]:
    """Lines that fill a rectangle whose lower left is the origin, burned two-way.

    With ``H`` the extent of the rectangle across the lines and ``N`` lines, the true spacing is ``H / N`` and
    line k lies ``(k + 1/2) H / N`` from the lowest point across. At 0 degrees the lines run along x, bottom
    first; the angle turns them counter-clockwise. Every second line runs backward.

    Returns
    -------
    (N, 2, 2) array : start and end of each line, mm; read-only, since it is shared
    """
    angle = np.deg2rad(angle_deg)
    along = np.array([np.cos(angle), np.sin(angle)])
    across = np.array([-along[1], along[0]])
    # cos(90 deg) is 6e-17; a direction that should be an axis is made one.
    along[np.abs(along) < 1e-12] = 0.0
    across[np.abs(across) < 1e-12] = 0.0
    corners = np.array([(0.0, 0.0), (width_mm, 0.0), (width_mm, height_mm), (0.0, height_mm)])
    offsets = corners @ across
    extent = float(offsets.max() - offsets.min())
    count = line_count(extent, spacing_mm)
    offset = offsets.min() + (np.arange(count) + 0.5) * extent / count
    # A point of the line is offset * across + t * along; clip t against both slabs of the rectangle.
    base = offset[:, None] * across
    low, high = np.full(count, -np.inf), np.full(count, np.inf)
    for axis, size in ((0, width_mm), (1, height_mm)):
        if along[axis] != 0.0:
            ends = np.stack([-base[:, axis], size - base[:, axis]]) / along[axis]
            low, high = np.maximum(low, ends.min(axis=0)), np.minimum(high, ends.max(axis=0))
    high = np.maximum(low, high)
    start, end = base + low[:, None] * along, base + high[:, None] * along
    lines = np.stack([start, end], axis=1)
    lines[1::2] = lines[1::2, ::-1]
    lines.flags.writeable = False
    return lines
