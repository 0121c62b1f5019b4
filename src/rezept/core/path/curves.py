"""Curves as short straight edges that stay within a given distance of them."""

from __future__ import annotations

from math import ceil, comb, hypot, sqrt

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.outlines import arc

Floats = NDArray[np.float64]


def bezier(control: Floats, error_mm: float) -> Floats:
    """``(n, 2)`` points along a Bezier curve of control points ``(d + 1, 2)``, its first left out and its last in.

    As many even steps as keep every chord within `error_mm`: ``n >= sqrt(d (d - 1) M / (8 error))``, M the largest
    second difference of the control points (Wang, Cagan 1989).
    """
    degree = len(control) - 1
    bend = np.linalg.norm(np.diff(control, n=2, axis=0), axis=1).max() if degree > 1 else 0.0
    count = max(1, ceil(sqrt(degree * (degree - 1) * float(bend) / (8 * error_mm))))
    t = np.arange(1, count + 1)[:, None] / count
    points: Floats = np.zeros((count, 2))
    for k, point in enumerate(control):
        points += comb(degree, k) * t**k * (1 - t) ** (degree - k) * point
    points[-1] = control[-1]
    return points


def ellipse(centre: tuple[float, float], radii: tuple[float, float], matrix: Floats, error_mm: float) -> Floats:
    """A closed ellipse ``(n + 1, 2)``, moved by `matrix` (2 x 3, acting on columns ``x, y, 1``), within `error_mm`."""
    enlarged = max(hypot(*matrix[:, 0]), hypot(*matrix[:, 1]))
    if enlarged == 0:
        return np.tile(matrix[:, 2], (2, 1))
    around = arc(centre, radii, 0.0, 360.0, error_mm / enlarged)
    points: Floats = around @ matrix[:, :2].T + matrix[:, 2]
    points[-1] = points[0]
    return points
