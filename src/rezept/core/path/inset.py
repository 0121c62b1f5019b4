"""A figure drawn in from its outlines: what lies at least so far inside."""

from __future__ import annotations

from functools import lru_cache
from math import ceil, pi

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.path.figure import Figure
from rezept.core.path.outlines import chord_step
from rezept.core.path.polygon import polygon_of

# The arcs round inner corners are drawn so near to what they should be.
_CHORD_ERROR_MM = 0.005
# What is left of less area than a spot burns is nothing.
_LEAST_AREA_MM2 = 1e-4


def _quarter_segments(radius_mm: float) -> int:
    """Segments of a quarter circle whose chords stay within the error."""
    if radius_mm <= _CHORD_ERROR_MM:
        return 1
    return max(2, ceil(pi / 2 / chord_step(radius_mm, _CHORD_ERROR_MM)))


@lru_cache(maxsize=64)
def inset(figure: Figure, by_mm: float) -> Figure:
    """The loops of a figure drawn in by so many mm, holes grown by it; its open strokes stay as they are.

    Raises
    ------
    InvalidInput : nothing of the figure lies so far inside
    """
    if by_mm == 0:
        return figure
    left = polygon_of(figure).buffer(-by_mm, quad_segs=_quarter_segments(by_mm))
    parts = [one for one in getattr(left, "geoms", [left]) if one.area > _LEAST_AREA_MM2]
    if not parts:
        raise InvalidInput(f"Nothing of the figure lies {by_mm:g} mm inside it; take less.", "inset_mm", by_mm)
    loops = [ring for one in sorted(parts, key=lambda one: one.area) for ring in (*one.interiors, one.exterior)]
    return Figure([*figure.strokes, *(np.array(ring.coords) for ring in loops)])
