"""A figure: closed loops, holes among them, and open strokes.

It is what is drawn, cut, filled and looked for in photographs.
"""

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
    """Closed loops (their first point stands again at the end) and open strokes, mm, in burn order: what lies inside
    comes before what lies around it.

    The lower left of the element's box is the origin. Two figures of the same ways are equal, so that what is worked
    out of one, such as its hatch lines, can be kept by it.
    """

    def __init__(self, ways: Sequence[Floats]) -> None:
        kept = []
        for way in ways:
            points = np.array(way, float)
            points.flags.writeable = False
            kept.append(points)
        self.ways: tuple[Floats, ...] = tuple(kept)
        self.digest = hashlib.sha256(b"|".join(way.tobytes() for way in self.ways)).digest()

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Figure) and self.digest == other.digest

    def __hash__(self) -> int:
        return hash(self.digest)

    @cached_property
    def loops(self) -> tuple[Floats, ...]:
        """Those of its ways that are closed; the last one is the outermost, the others are its holes."""
        return tuple(way for way in self.ways if is_closed(way))

    @cached_property
    def strokes(self) -> tuple[Floats, ...]:
        """Those of its ways that are open."""
        return tuple(way for way in self.ways if not is_closed(way))

    @cached_property
    def box(self) -> tuple[Floats, Floats]:
        """``(2,)`` lowest and highest of all its points."""
        points = np.concatenate(self.ways)
        return points.min(axis=0), points.max(axis=0)
