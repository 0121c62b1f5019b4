"""Which points lie inside a closed outline."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]


def inside(points: Floats, outline: Floats) -> Mask:
    """``(n,)`` which points ``(n, 2)`` lie in a closed outline ``(m, 2)``, by the even-odd rule."""
    start, end = outline, np.roll(outline, -1, axis=0)
    x, y = points[:, :1], points[:, 1:]
    spans = (start[:, 1] > y) != (end[:, 1] > y)
    with np.errstate(divide="ignore", invalid="ignore"):
        crossing = start[:, 0] + (y - start[:, 1]) / (end[:, 1] - start[:, 1]) * (end[:, 0] - start[:, 0])
    return np.asarray((spans & (x < crossing)).sum(axis=1) % 2 == 1)
