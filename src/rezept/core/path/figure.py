"""A figure: what the beam follows or fills in one patch."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def is_closed(way: Floats) -> bool:
    """Whether a way ``(k, 2)`` ends where it began."""
    return len(way) > 2 and bool(np.all(way[0] == way[-1]))


class Figure:
    """Closed loops (their first point stands again at the end) and open strokes, mm, in burn order.

    The lower left of the patch is the origin. Two figures of the same ways are equal, so that what is worked out of
    one, such as its hatch lines, can be kept by it.
    """

    def __init__(self, ways: Sequence[Floats]) -> None:
        kept = []
        for way in ways:
            points = np.array(way, float)
            points.flags.writeable = False
            kept.append(points)
        self.ways: tuple[Floats, ...] = tuple(kept)
        self._digest = hashlib.sha256(b"|".join(way.tobytes() for way in self.ways)).digest()

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Figure) and self._digest == other._digest

    def __hash__(self) -> int:
        return hash(self._digest)

    @cached_property
    def loops(self) -> tuple[Floats, ...]:
        """Those of its ways that are closed."""
        return tuple(way for way in self.ways if is_closed(way))
