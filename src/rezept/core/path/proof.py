"""The proof piece: a small intricate shape of our own, on which a setting is proven before it is believed.

Work that lies close heats up: what held on a lonely coupon may burn on thin ribs, between close holes, in letters and
around narrow gaps. All of these are on it, from fine to coarse, so that one sees where it gives way.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.figure import Figure
from rezept.core.path.outline_letters import letter_outlines
from rezept.core.path.outlines import disc, rectangle

Floats = NDArray[np.float64]
# As large as it is drawn, and what it has then, in mm; smaller pieces have all of it smaller.
WIDTH_MM, HEIGHT_MM = 40.0, 30.0
RIBS_MM = (0.5, 0.8, 1.2, 2.0)
BRIDGES_MM = (0.5, 0.8, 1.2, 2.0)
GAPS_MM = (0.3, 0.5, 0.8, 1.2)
LETTERS = "Kerb"
_EDGE, _SLOT, _RIB_HIGH = 3.0, 2.2, 14.0
_LARGE_HOLE, _SMALL_HOLE = 2.4, 1.2
_LETTERS_WIDE, _LETTERS_HIGH = 17.0, 6.0


@dataclass(frozen=True)
class Fineness:
    """What is fine on a proof piece of some size, each from fine to coarse, mm: ribs between slots, bridges between
    holes, gaps; and how high its letters are."""

    ribs_mm: tuple[float, ...]
    bridges_mm: tuple[float, ...]
    gaps_mm: tuple[float, ...]
    letters_mm: float

    @property
    def words(self) -> str:
        def span(sizes: Sequence[float]) -> str:
            return f"{min(sizes):.2g} to {max(sizes):.2g} mm"

        return (
            f"Ribs of {span(self.ribs_mm)}, bridges between holes of {span(self.bridges_mm)}, gaps of"
            f" {span(self.gaps_mm)}, letters {self.letters_mm:.2g} mm high."
        )


def _scale(width_mm: float, height_mm: float) -> float:
    return min(width_mm / WIDTH_MM, height_mm / HEIGHT_MM)


def fineness(width_mm: float, height_mm: float) -> Fineness:
    """What is fine on a proof piece in a box of this size."""
    scale = _scale(width_mm, height_mm)

    def sized(sizes: Sequence[float]) -> tuple[float, ...]:
        return tuple(scale * size for size in sizes)

    return Fineness(sized(RIBS_MM), sized(BRIDGES_MM), sized(GAPS_MM), scale * _LETTERS_HIGH)


def _row(widths: Sequence[float], between: Sequence[float]) -> list[float]:
    """Where each of a row of so wide things begins, so far between one and the next."""
    steps = [width + gap for width, gap in zip(widths, [*between, 0.0], strict=True)]
    return [0.0, *np.cumsum(steps[:-1]).tolist()]


def proof_piece(width_mm: float, height_mm: float) -> Figure:
    """The proof piece in a box: its pattern in the middle, as large as the box allows, its edge the box."""
    ways: list[Floats] = []
    for x in _row([_SLOT] * 5, RIBS_MM):
        ways.append(rectangle(_SLOT, _RIB_HIGH) + (_EDGE + x, _EDGE))
    for diameter, y in ((_LARGE_HOLE, _EDGE), (_SMALL_HOLE, _EDGE + 4.0)):
        for x in _row([diameter] * 5, BRIDGES_MM):
            ways.append(disc(diameter, diameter) + (21.0 + x, y))
    for x, gap in zip(_row(GAPS_MM, [3.2] * 3), GAPS_MM, strict=True):
        ways.append(rectangle(gap, 7.0) + (_EDGE + x, 20.0))
    letters = letter_outlines(_LETTERS_WIDE, _LETTERS_HIGH, LETTERS)
    # What lies in a letter comes before the letter, and all of it before the edge around it.
    ways += [loop + (20.5, 17.0) for loop in letters.ways]
    scale = _scale(width_mm, height_mm)
    middle = (np.array([width_mm, height_mm]) - scale * np.array([WIDTH_MM, HEIGHT_MM])) / 2
    return Figure([*(way * scale + middle for way in ways), rectangle(width_mm, height_mm)])
