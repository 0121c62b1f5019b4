"""A figure: closed loops, holes among them, and open strokes.

It is what is drawn, cut, filled and looked for in photographs.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.inside import inside

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
        """Those of its ways that are closed; what lies in an odd number of them is its inside."""
        return tuple(way for way in self.ways if is_closed(way))

    @cached_property
    def _around(self) -> tuple[int, ...]:
        """In how many others each of the loops lies."""
        if len(self.loops) == 1:
            return (0,)
        lows = np.array([loop.min(axis=0) for loop in self.loops]).reshape(-1, 2)
        highs = np.array([loop.max(axis=0) for loop in self.loops]).reshape(-1, 2)
        around = np.zeros(len(self.loops), np.int64)
        for number, loop in enumerate(self.loops):
            # Only what lies in the box of a loop can lie in the loop; where they touch, most of the corners say.
            boxed = np.flatnonzero((lows >= lows[number]).all(axis=1) & (highs <= highs[number]).all(axis=1))
            for other in boxed[boxed != number].tolist():
                around[other] += inside(self.loops[other][:-1], loop[:-1]).mean() > 0.5
        return tuple(around.tolist())

    @cached_property
    def faces(self) -> tuple[Floats, ...]:
        """The loops around its inside, each from without."""
        return tuple(loop for loop, around in zip(self.loops, self._around, strict=True) if around % 2 == 0)

    @cached_property
    def holes(self) -> tuple[Floats, ...]:
        """The loops around what is no inside: a hole may hold a face again."""
        return tuple(loop for loop, around in zip(self.loops, self._around, strict=True) if around % 2 == 1)

    def encloses(self, points: Floats) -> NDArray[np.bool_]:
        """``(n,)`` which points ``(n, 2)`` lie inside: in an odd number of its loops."""
        within = np.zeros(len(points), bool)
        for loop in self.loops:
            within ^= inside(points, loop)
        return within

    @cached_property
    def strokes(self) -> tuple[Floats, ...]:
        """Those of its ways that are open."""
        return tuple(way for way in self.ways if not is_closed(way))

    @cached_property
    def box(self) -> tuple[Floats, Floats]:
        """``(2,)`` lowest and highest of all its points."""
        points = np.concatenate(self.ways)
        return points.min(axis=0), points.max(axis=0)
