"""The outline of a plate shown on the piece before it burns."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.outlines import CHORD_ERROR_MM, arc

Floats = NDArray[np.float64]

CORNER_SHARE = 0.08


def rounded_frame(width_mm: float, height_mm: float) -> Floats:
    """A closed way round a plate with rounded corners, from the middle of its lower edge, counter-clockwise.

    Round, because a head that need not slow at the corners puts no more into them than into the straights.
    """
    radius = CORNER_SHARE * min(width_mm, height_mm)
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
