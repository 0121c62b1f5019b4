"""The outline of a plate shown on the piece before it burns.

Round, because a head that need not slow at the corners puts no more into them than into the straights.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.outlines import CHORD_ERROR_MM, arc

Floats = NDArray[np.float64]

CORNER_SHARE = 0.08
# A line drawn tight goes round so far outside of what burns.
CLEAR_MM = 0.5
LEAST_EDGE_MM = 1e-9


def corner_radius_mm(width_mm: float, height_mm: float) -> float:
    """The radius of a frame's corners."""
    return CORNER_SHARE * min(width_mm, height_mm)


def rounded_frame(width_mm: float, height_mm: float) -> Floats:
    """A closed way round a plate with rounded corners, from the middle of its lower edge, counter-clockwise."""
    radius = corner_radius_mm(width_mm, height_mm)
    w, h = width_mm, height_mm
    corners = [
        arc((x, y), (radius, radius), start, start + 90.0, CHORD_ERROR_MM)
        for x, y, start in (
            (w - radius, radius, -90.0),
            (w - radius, h - radius, 0.0),
            (radius, h - radius, 90.0),
            (radius, radius, 180.0),
        )
    ]
    start = np.array([[w / 2, 0.0]])
    return np.concatenate([start, *corners, start])


# So few points are not worth sorting out.
_FEW = 32


def outermost(points: Floats) -> Floats:
    """``(k, 2)`` those of ``(n, 2)`` points that a hull of them touches; all where they are few or in a line."""
    # Only who asks for it waits for this much of SciPy.
    from scipy.spatial import ConvexHull, QhullError

    if len(points) <= _FEW:
        return points
    try:
        touched: Floats = points[ConvexHull(points).vertices]
    except QhullError:
        return points
    return touched


def hull_round(points: Floats) -> Floats:
    """``(k, 2)`` corners of the convex hull of ``(n, 2)`` points, each with `CLEAR_MM` of ground around it;
    counter-clockwise."""
    from scipy.spatial import ConvexHull

    around = CLEAR_MM * np.array([(-1.0, -1.0), (1.0, -1.0), (1.0, 1.0), (-1.0, 1.0)])
    every = (outermost(points)[:, None, :] + around).reshape(-1, 2)
    hull: Floats = every[ConvexHull(every).vertices]
    return hull


def rounded_hull(hull: Floats) -> tuple[Floats, float]:
    """A closed way just inside of a convex hull ``(k, 2)``, its corners rounded by one radius (morphological opening:
    what a disc of that radius reaches that stays within), from its lowest point, counter-clockwise; and the radius.

    The radius is a frame's, or what a narrow hull has room for.
    """
    radius = corner_radius_mm(*np.ptp(hull, axis=0).tolist())
    while len(core := _eroded(hull, radius)) < 3:
        radius /= 2
    edges = np.roll(core, -1, axis=0) - core
    heading = np.degrees(np.arctan2(edges[:, 1], edges[:, 0]))
    # An arc about each corner of the core, from the outward normal of the edge before it to that of the one after.
    turn = (heading - np.roll(heading, 1)) % 360.0
    first = np.roll(heading, 1) - 90.0
    arcs = [
        arc((x, y), (radius, radius), begins, begins + by, CHORD_ERROR_MM)
        for (x, y), begins, by in zip(core.tolist(), first.tolist(), turn.tolist(), strict=True)
    ]
    # The lowest point lies on the arc whose normals pass straight down.
    lowest = int(np.argmax((-90.0 - first) % 360.0 <= turn + 1e-9))
    down = float((-90.0 - first[lowest]) % 360.0)
    x, y = core[lowest].tolist()
    begins, ends = first[lowest], first[lowest] + turn[lowest]
    after = arc((x, y), (radius, radius), begins + down, ends, CHORD_ERROR_MM)
    before = arc((x, y), (radius, radius), begins, begins + down, CHORD_ERROR_MM)
    return np.concatenate([after, *arcs[lowest + 1 :], *arcs[:lowest], before]), radius


def _eroded(hull: Floats, by_mm: float) -> Floats:
    """``(m, 2)`` corners of what lies at least so far inside every edge of a convex hull; none where nothing does."""
    edges = np.roll(hull, -1, axis=0) - hull
    left = np.column_stack([-edges[:, 1], edges[:, 0]]) / np.hypot(*edges.T)[:, None]
    core = hull
    for corner, inward in zip(hull, left, strict=True):
        core = _cut(core, (core - corner) @ inward - by_mm)
        if len(core) < 3:
            return core[:0]
    apart = np.hypot(*(core - np.roll(core, 1, axis=0)).T) > LEAST_EDGE_MM
    kept: Floats = core[apart]
    return kept


def _cut(polygon: Floats, inside: Floats) -> Floats:
    """A convex polygon ``(n, 2)`` without what lies on the wrong side of a line; `inside` ``(n,)`` how far each corner
    lies on the right side."""
    points = []
    for i, here in enumerate(inside.tolist()):
        there = float(inside[(i + 1) % len(inside)])
        if here >= 0:
            points.append(polygon[i])
        if (here > 0 > there) or (here < 0 < there):
            points.append(polygon[i] + here / (here - there) * (polygon[(i + 1) % len(polygon)] - polygon[i]))
    return np.array(points) if points else np.zeros((0, 2))
