"""Lettering as areas: the outlines of letters, to be filled or cut round.

The letters are those of Barlow Medium (SIL Open Font Licence 1.1), which lies beside this as a constant of the code
does: Latin letters and signs, with their accents. What it has no outline for is refused, never dropped.
"""

from __future__ import annotations

from functools import lru_cache
from importlib import resources
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput, quoted
from rezept.core.path.brought import CURVE_MM, Path, by_rule, signed_area
from rezept.core.path.figure import Figure
from rezept.core.path.pen_ways import ways_of

if TYPE_CHECKING:
    from fontTools.ttLib import TTFont

Floats = NDArray[np.float64]


@lru_cache(maxsize=1)
def _font() -> TTFont:
    # What reads fonts takes longer to import than a plan takes.
    from fontTools.ttLib import TTFont

    file = resources.files("rezept.core.path") / "fonts" / "Barlow-Medium.ttf"
    with file.open("rb") as opened:
        return TTFont(opened, lazy=False)


def lacking(text: str) -> str:
    """The letters of `text` there are no outlines for, each once."""
    drawn = _font().getBestCmap()
    return "".join(dict.fromkeys(letter for letter in text if ord(letter) not in drawn or not letter.isprintable()))


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
    from fontTools.pens.recordingPen import DecomposingRecordingPen

    font = _font()
    glyphs, names = font.getGlyphSet(), font.getBestCmap()
    loops: list[Floats] = []
    pen_x = 0.0
    for letter in text:
        name = names[ord(letter)]
        pen = DecomposingRecordingPen(glyphs)
        glyphs[name].draw(pen)
        drawn = tuple(ways_of(pen.value, lambda *points: np.array(points, float), error))
        # What is put together of a letter and its sign may overlap.
        drawn = tuple(by_rule(Path(drawn, "nonzero"))) if font["glyf"][name].isComposite() else drawn
        loops += [loop + (pen_x, 0.0) for loop in drawn]
        pen_x += glyphs[name].width
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
