"""Lettering as areas: the outlines of letters, to be filled or cut round.

The letters are those of Barlow Medium (SIL Open Font Licence 1.1), which lies beside this as a constant of the code
does: Latin letters and signs, with their accents. What it has no outline for is refused, never dropped.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from importlib import resources

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput, quoted
from rezept.core.path.brought import CURVE_MM, Path, by_rule, signed_area
from rezept.core.path.figure import Figure
from rezept.core.path.pen_ways import PenStep, ways_of

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class _Glyph:
    """What a letter is drawn by, in font units, how far on the next begins, and whether it is put together of parts."""

    recorded: tuple[PenStep, ...]
    advance: float
    composite: bool


@lru_cache(maxsize=1)
def _glyphs() -> Mapping[str, _Glyph]:
    """All letters of the font, read at once: the font itself reads on as it is asked, which threads must not share."""
    # What reads fonts takes longer to import than a plan takes.
    from fontTools.pens.recordingPen import DecomposingRecordingPen
    from fontTools.ttLib import TTFont

    with (resources.files("rezept.core.path") / "fonts" / "Barlow-Medium.ttf").open("rb") as file:
        font = TTFont(file)
        drawn, letters = font.getGlyphSet(), {}
        for code, name in font.getBestCmap().items():
            if chr(code).isprintable():
                pen = DecomposingRecordingPen(drawn)
                drawn[name].draw(pen)
                letters[chr(code)] = _Glyph(tuple(pen.value), drawn[name].width, font["glyf"][name].isComposite())
    return letters


def lacking(text: str) -> str:
    """The letters of `text` there are no outlines for, each once."""
    return "".join(dict.fromkeys(letter for letter in text if letter not in _glyphs()))


def must_be_drawable(text: str, path: str) -> None:
    """
    Raises
    ------
    InvalidInput : a letter has no outline, or there is nothing but room in it
    """
    missing = lacking(text)
    if missing:
        raise InvalidInput(f"There are no outlines for {quoted(missing)}; spell it another way.", path, missing)
    if not text.strip():
        raise InvalidInput("Lettering has a letter or more.", path, text)


@lru_cache(maxsize=64)
def _loops(text: str, error: float) -> tuple[Floats, ...]:
    """The outlines of a line in font units, curves within `error` of them, its baseline beginning at the origin."""
    loops: list[Floats] = []
    pen_x = 0.0
    for letter in text:
        glyph = _glyphs()[letter]
        drawn = tuple(ways_of(glyph.recorded, lambda *points: np.array(points, float), error))
        # What is put together of a letter and its sign may overlap.
        drawn = tuple(by_rule(Path(drawn, "nonzero"))) if glyph.composite else drawn
        loops += [loop + (pen_x, 0.0) for loop in drawn]
        pen_x += glyph.advance
    return tuple(loops)


def letter_outlines(width_mm: float, height_mm: float, text: str) -> Figure:
    """A text as large as the box allows, in its middle; nothing of it reaches out of the box.

    Raises
    ------
    InvalidInput : see `must_be_drawable`
    """
    must_be_drawable(text, "text")
    # Once roughly for its size, and then as finely as that size needs.
    points = np.concatenate(_loops(text, 10.0))
    scale = float((np.array([width_mm, height_mm]) / np.ptp(points, axis=0)).min())
    loops = _loops(text, CURVE_MM / scale)
    points = np.concatenate(loops)
    low, size = points.min(axis=0), np.ptp(points, axis=0)
    scale = float((np.array([width_mm, height_mm]) / size).min())
    shift = (np.array([width_mm, height_mm]) - size * scale) / 2
    placed = [(loop - low) * scale + shift for loop in loops]
    # All go round counter-clockwise, and the holes of letters come before what is around them, as in every figure.
    placed = [loop if signed_area(loop) > 0 else loop[::-1] for loop in placed]
    return Figure(sorted(placed, key=lambda loop: abs(signed_area(loop))))
