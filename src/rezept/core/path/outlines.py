"""Outlines of patches: closed polylines from the lower left, counter-clockwise."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def rectangle(width_mm: float, height_mm: float) -> NDArray[np.float64]:
    """``(5, 2)`` points of a rectangle whose lower left is the origin; the last is the first again."""
    w, h = width_mm, height_mm
    return np.array([(0.0, 0.0), (w, 0.0), (w, h), (0.0, h), (0.0, 0.0)])
