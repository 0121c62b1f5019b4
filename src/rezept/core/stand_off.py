"""How far a head has to be from a piece, said the way the head's height is set.

A focus offset f > 0 puts the focus above the surface: the head then stands higher by f. With the piece's top at `rise`
above the bed, the focus lies at ``rise + f`` above it. A head that is read off a scale stands at ``datum + rise + f``,
datum being what the scale shows in focus on the bed itself; one whose height is entered is told ``datum + rise + f``,
its datum mostly 0; a spacer or a ruler measures from the surface, so that the rise does not matter to it: a spacer as
high as `datum` brings the focus onto the surface, a ruler then reads `datum`.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

import numpy as np

from rezept.core.dose import rayleigh_length_mm

HeightBy = Literal["scale", "spacer", "ruler", "entered"]
HEIGHT_BY: dict[HeightBy, str] = {
    "scale": "a scale to read",
    "spacer": "a spacer",
    "ruler": "a ruler that touches",
    "entered": "autofocus and an entered height",
}
TopKey = Literal["level", "tapered", "round", "tilted"]
TOPS: dict[TopKey, str] = {"level": "level", "tapered": "tapered", "round": "round", "tilted": "not level"}
MOST_RISE_MM, MOST_DATUM_MM = 1000.0, 5000.0
assert tuple(HEIGHT_BY) == get_args(HeightBy)


@dataclass(frozen=True)
class StandOff:
    """What to do with the head, in words, and the figures of a small drawing, mm.

    set_mm : what is read or entered, or lies between head and surface in the end; None where nobody has said how its
        height is set
    rise_mm, focus_mm : the surface and the focus above the bed; None where the rise is not known
    """

    words: str
    height_by: HeightBy | None
    set_mm: float | None
    rise_mm: float | None
    offset_mm: float

    @property
    def focus_mm(self) -> float | None:
        return None if self.rise_mm is None else self.rise_mm + self.offset_mm


def _mm(value: float) -> str:
    return f"{round(value, 3):g} mm"


def _where(offset_mm: float) -> str:
    if offset_mm == 0:
        return "the focus lies on its surface"
    return f"the focus lies {_mm(abs(offset_mm))} {'above' if offset_mm > 0 else 'below'} its surface"


def stand_off(height_by: HeightBy | None, datum_mm: float | None, rise_mm: float | None, offset_mm: float) -> StandOff:
    """Where a head has to stand for a piece and a focus offset, in the form its height is set.

    rise_mm : how far the top of the piece lies above the bed; None where nobody knows
    """

    def said(words: str, set_mm: float | None = None) -> StandOff:
        return StandOff(words, height_by, set_mm, rise_mm, offset_mm)

    if height_by is None:
        return said("Nobody has said how the height of this head is set: say it in the Shop.")
    if datum_mm is None and height_by != "entered":
        return said(f"It is set by {HEIGHT_BY[height_by]}; at which figure it is in focus, nobody has said.")
    datum = datum_mm or 0.0
    if height_by in ("scale", "entered"):
        if rise_mm is None:
            return said("How far the top of this piece lies above the bed, nobody has said: measure it.")
        to = datum + rise_mm + offset_mm
        why = f"the piece rises {_mm(rise_mm)}, and {_where(offset_mm)}."
        if height_by == "scale":
            return said(f"Set the scale to {_mm(to)}: on the bed it is in focus at {_mm(datum)}, {why}", to)
        zero = f"it counts from {_mm(datum)}, " if datum else ""
        return said(f"Enter {_mm(to)}: {zero}{why}", to)
    if height_by == "ruler":
        to = datum + offset_mm
        if to <= 0:
            return said(f"An offset of {offset_mm:+g} mm is out of reach: the head would touch the piece.")
        return said(f"Lower the head until its ruler touches the piece at {_mm(to)}: {_where(offset_mm)}.", to)
    lowered = f"Lower the head until the spacer of {_mm(datum)} just fits on the piece"
    if offset_mm == 0:
        return said(f"{lowered}: {_where(0.0)}.", datum)
    if datum + offset_mm <= 0:
        return said(f"An offset of {offset_mm:+g} mm is out of reach: the head would touch the piece.")
    way = "raise" if offset_mm > 0 else "lower"
    return said(
        f"{lowered}, take it out and {way} the head by {_mm(abs(offset_mm))}: {_where(offset_mm)}.", datum + offset_mm
    )


def focus_cost(
    top: TopKey, varies_mm: float | None, spot_mm: float | None, wavelength_nm: float, m2: float | None
) -> str:
    """What it costs in focus that a top is not level, in a sentence; empty where it is.

    Set at half its height, the ends lie ``z = varies / 2`` out of focus; the spot grows there to
    ``d sqrt(1 + (z / zR)^2)`` and the energy on an area falls by its square (ISO 11146-1).
    """
    if top == "level":
        return ""
    what = f"Its top is {TOPS[top]}"
    if varies_mm is None:
        return f"{what}: say by how much it varies where the plate lies, to see what that costs in focus."
    if spot_mm is None:
        return f"{what} and varies by {_mm(varies_mm)}. Set the head at half of that; the spot of it nobody has said."
    out = varies_mm / 2
    grown = float(np.sqrt(1 + (out / float(rayleigh_length_mm(spot_mm, wavelength_nm, m2 or 1.0))) ** 2))
    left = round(100 / grown**2)
    words = f"{what} and varies by {_mm(varies_mm)}: set at half its height, its ends are {_mm(out)} out of focus"
    if left >= 99:
        return f"{words}, which costs nothing."
    return (
        f"{words}, the spot {_mm(spot_mm * grown)} instead of {_mm(spot_mm)}, with {left} % of the energy on an area."
    )
