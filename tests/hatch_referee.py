"""What hatch lines should be, by a polygon library: it shares nothing with what hatches."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely


def polygon(ways: Sequence[Sequence[Sequence[float]]]) -> shapely.Geometry:
    """What lies inside an odd number of the closed ones among these ways."""
    inside: shapely.Geometry = shapely.Polygon()
    for way in ways:
        if len(way) > 3 and list(way[0]) == list(way[-1]):
            inside = inside.symmetric_difference(shapely.make_valid(shapely.Polygon(way)))
    return inside


def rows(inside: shapely.Geometry, spacing_mm: float, angle_deg: float) -> list[shapely.Geometry]:
    """The stretches of each row, lowest first: ``max(1, round(H / spacing))`` of them, evenly over the height H across
    the lines (docs/formats/plate.md)."""
    upright = shapely.affinity.rotate(inside, -angle_deg, origin=(0, 0))
    left, bottom, right, top = upright.bounds
    count = max(1, round((top - bottom) / spacing_mm))
    levels = bottom + (np.arange(count) + 0.5) * (top - bottom) / count
    lines = [shapely.LineString([(left - 1, level), (right + 1, level)]) for level in levels]
    return [shapely.affinity.rotate(line.intersection(upright), angle_deg, origin=(0, 0)) for line in lines]


def length(inside: shapely.Geometry, spacing_mm: float, angle_deg: float) -> float:
    return math.fsum(row.length for row in rows(inside, spacing_mm, angle_deg))
