"""Outlines in a box whose lower left is the origin, mm.

Closed ones begin at the lower left where they have one there and run counter-clockwise; what lies inside comes
before what lies around it, so that nothing is cut out of a part that has already fallen.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

Loop = NDArray[np.float64]

CHORD_ERROR_MM = 0.01
HOLE_SHARE = 0.22


def rectangle(width_mm: float, height_mm: float) -> Loop:
    """``(5, 2)`` points of a rectangle whose lower left is the origin; the last is the first again."""
    w, h = width_mm, height_mm
    return np.array([(0.0, 0.0), (w, 0.0), (w, h), (0.0, h), (0.0, 0.0)])


def chord_step(radius_mm: float, error_mm: float) -> float:
    """The angle, radians, of a chord that stays within `error_mm` of a circle: sagitta ``r (1 - cos(step / 2))``."""
    return 2.0 * math.acos(max(0.0, 1.0 - min(error_mm / radius_mm, 1.0)))


def arc(
    centre: tuple[float, float], radii: tuple[float, float], from_deg: float, to_deg: float, error_mm: float
) -> Loop:
    """``(n, 2)`` points of an elliptic arc whose chords stay within `error_mm` of it (by the larger radius), both ends
    included."""
    step = chord_step(max(radii), error_mm)
    turn = math.radians(to_deg - from_deg)
    count = max(8, math.ceil(abs(turn) / step))
    angle = math.radians(from_deg) + turn * np.arange(count + 1) / count
    points: Loop = np.column_stack([centre[0] + radii[0] * np.cos(angle), centre[1] + radii[1] * np.sin(angle)])
    return points


def disc(width_mm: float, height_mm: float) -> Loop:
    """A closed ellipse that fills the box, from its lowest point."""
    half = (width_mm / 2, height_mm / 2)
    points = arc(half, half, -90.0, 270.0, CHORD_ERROR_MM)
    points[-1] = points[0]
    return points


def coupon(width_mm: float, height_mm: float) -> tuple[Loop, Loop]:
    """The cut coupon: a small hole, and around it a sharp corner, a straight edge and an arc.

    From the sharp corner at the lower left the straight edge runs along the bottom to the middle, goes over
    smoothly into half an ellipse on the right, and comes back from the top in a straight line.
    """
    w, h = width_mm, height_mm
    radius = HOLE_SHARE * min(w, h) / 2
    centre = (0.55 * w, 0.46 * h)
    hole = arc(centre, (radius, radius), -90.0, 270.0, CHORD_ERROR_MM)
    hole[-1] = hole[0]
    bend = arc((w / 2, h / 2), (w / 2, h / 2), -90.0, 90.0, CHORD_ERROR_MM)
    return hole, np.concatenate([np.zeros((1, 2)), bend, np.zeros((1, 2))])
