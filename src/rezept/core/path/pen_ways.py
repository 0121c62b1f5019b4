"""What a font pen recorded, as ways: curves become short straight edges."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.curves import bezier

Floats = NDArray[np.float64]
# What a pen did, and the points it did it with.
PenStep = tuple[str, tuple[tuple[float, float], ...]]


def ways_of(recorded: Iterable[PenStep], moved: Callable[..., Floats], error_mm: float) -> Iterator[Floats]:
    """The ways ``(k, 2)`` of recorded pen steps, `moved` where they belong (points in, ``(n, 2)`` out); a curve is off
    by `error_mm` at most. Those that were closed end where they began."""
    way: list[Floats] = []
    for step, points in recorded:
        if step == "moveTo":
            way = [moved(*points)]
        elif step == "lineTo":
            way.append(moved(*points))
        elif step in ("curveTo", "qCurveTo"):
            for control in _curves(step, points):
                way.append(bezier(np.concatenate([way[-1][-1:], moved(*control)]), error_mm))
        elif way:
            line = np.concatenate(way)
            if step == "closePath" and np.any(line[0] != line[-1]):
                line = np.concatenate([line, line[:1]])
            yield line
            way = []


def _curves(step: str, points: tuple[tuple[float, float], ...]) -> list[tuple[tuple[float, float], ...]]:
    """Control points curve by curve: quadratic ones may leave out the points between them, which lie half way."""
    if step == "curveTo" or len(points) == 2:
        return [points]
    from fontTools.pens.basePen import decomposeQuadraticSegment

    return list(decomposeQuadraticSegment(points))
