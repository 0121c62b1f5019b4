"""Curves as short straight edges that stay within a given distance of them."""

from __future__ import annotations

from math import acos, ceil, comb, hypot, sqrt, tau

import numpy as np
from numpy.typing import NDArray

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


def arc_pieces(radius_mm: float, error_mm: float) -> int:
    """How many chords of a circle stay within `error_mm` of it: the sagitta of each is ``r (1 - cos(step / 2))``."""
    return max(12, ceil(tau / (2 * acos(max(0.0, 1 - min(error_mm / radius_mm, 1.0))))))


def ellipse(centre: tuple[float, float], radii: tuple[float, float], matrix: Floats, error_mm: float) -> Floats:
    """A closed ellipse ``(n + 1, 2)``, moved by `matrix` (2 x 3, acting on columns ``x, y, 1``), within `error_mm`."""
    largest = max(radii) * max(hypot(*matrix[:, 0]), hypot(*matrix[:, 1]))
    angle = tau * np.arange(arc_pieces(largest, error_mm)) / arc_pieces(largest, error_mm)
    around = np.column_stack([centre[0] + radii[0] * np.cos(angle), centre[1] + radii[1] * np.sin(angle)])
    points = around @ matrix[:, :2].T + matrix[:, 2]
    return np.concatenate([points, points[:1]])
