"""Single-stroke lettering: text as polylines for a beam that follows lines.

The strokes are the public-domain Hershey simplex tables. They know ASCII only; other characters are
written out (``µm`` as ``um``, ``ä`` as ``ae``) and what cannot be is refused, never dropped.
"""

from __future__ import annotations

import unicodedata
from functools import lru_cache

import numpy as np
from HersheyFonts import HersheyFonts
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput, quoted
from rezept.core.kept import kept

Polyline = NDArray[np.float64]

WRITTEN_OUT = {
    "µ": "u",
    "μ": "u",
    "²": "2",
    "³": "3",
    "°": " deg",
    "·": "-",
    "×": "x",
    "ä": "ae",
    "ö": "oe",
    "ü": "ue",
    "ß": "ss",
    "Ä": "Ae",
    "Ö": "Oe",
    "Ü": "Ue",
    "é": "e",
    "è": "e",
    "ê": "e",
    "á": "a",
    "à": "a",
    "â": "a",
    "ó": "o",
    "ò": "o",
    "ô": "o",
    "í": "i",
    "ú": "u",
    "ñ": "n",
    "ç": "c",
    "å": "aa",
    "ø": "oe",
    "æ": "ae",
    "–": "-",
    "—": "-",
    "‘": "'",
    "’": "'",
    "“": '"',
    "”": '"',
    "…": "...",
    "\n": " ",
    "\t": " ",
}
_WRITTEN_OUT = str.maketrans(WRITTEN_OUT)
# Hershey units: capitals stand 21 high on the baseline.
_CAPITAL = 21.0


def writable(text: str) -> str:
    """`text` in characters there are strokes for: written out where there is a way, without its accents where that
    helps, else a ``?``."""
    if text.isascii() and text.isprintable():
        return text
    bare = unicodedata.normalize("NFKD", text.translate(_WRITTEN_OUT))
    kept = (letter for letter in bare if not unicodedata.combining(letter))
    return "".join(letter if 32 <= ord(letter) < 127 else "?" for letter in kept)


def lacking(text: str) -> str:
    """The letters of `text` there are no strokes for, each once."""
    return "".join(dict.fromkeys(letter for letter in text if letter != "?" and "?" in writable(letter)))


def must_be_writable(text: str, path: str) -> None:
    """
    Raises
    ------
    InvalidInput : a letter that is to be burned has no strokes
    """
    missing = lacking(text)
    if missing:
        raise InvalidInput(f"There are no strokes for {quoted(missing)}; spell it another way.", path, missing)


@lru_cache(maxsize=1)
def _font() -> HersheyFonts:
    font = HersheyFonts()
    font.load_default_font("futural")
    return font


@lru_cache(maxsize=128)
def _glyph(letter: str) -> tuple[tuple[Polyline, ...], float]:
    """Strokes and advance of one letter, capital height 1, baseline at y = 0."""
    glyph = next(iter(_font().glyphs_for_text(letter)))
    strokes = []
    for stroke in glyph.strokes:
        points = np.array(stroke, float)
        # Left edge to 0; Hershey's y runs down with the baseline at 9.
        points = np.column_stack([points[:, 0] - glyph.left_offset, 9.0 - points[:, 1]])
        strokes.append(points / _CAPITAL)
    return tuple(strokes), glyph.char_width / _CAPITAL


@lru_cache(maxsize=128)
def _glyph_path(letter: str) -> tuple[str, float]:
    """A letter as path data that goes on from where its baseline starts, and its advance: a line is put together from
    letters that were written once."""
    strokes, advance = _glyph(letter)
    path, at = "", np.zeros(2)
    for stroke in strokes:
        # What is rounded is where a point lies, so that no error adds up from step to step.
        points = np.round(stroke, 3)
        steps = [f"{x:.4g},{y:.4g}" for x, y in (np.diff(np.vstack([at, points]), axis=0) + 0.0).tolist()]
        path += f"m{steps[0]}" + (f"l{' '.join(steps[1:])}" if len(steps) > 1 else "")
        at = points[-1]
    return path, advance


@kept(16 * 2**20)
def _line(text: str) -> tuple[Polyline, NDArray[np.bool_], float]:
    """Points of a line at capital height 1, which of them begin a stroke, and its advance."""
    points: list[Polyline] = [np.zeros((0, 2))]
    begins: list[bool] = []
    pen = 0.0
    for letter in writable(text):
        strokes, advance = _glyph(letter)
        for stroke in strokes:
            points.append(stroke + np.array((pen, 0.0)))
            begins += [True] + [False] * (len(stroke) - 1)
        pen += advance
    return np.concatenate(points), np.array(begins, bool), pen


def text_width(text: str, height_mm: float) -> float:
    """Advance width in mm of a line whose capitals are `height_mm` high."""
    return height_mm * _line(text)[2]


def text_points(text: str, height_mm: float, x_mm: float, y_mm: float) -> tuple[Polyline, NDArray[np.bool_]]:
    """Points ``(n, 2)`` in mm of `text`, its baseline starting at (x, y), and which of them begin a stroke."""
    points, begins, _ = _line(text)
    return points * height_mm + (x_mm, y_mm), begins


@kept(16 * 2**20)
def text_path(text: str) -> str:
    """SVG path data of a line at capital height 1, y up, its baseline starting at the origin."""
    data, pen = "", 0.0
    for letter in writable(text):
        path, advance = _glyph_path(letter)
        data += f"M{round(pen, 3):g},0{path}" if path else ""
        pen += advance
    return data


def wrapped(words: list[str], height_mm: float, width_mm: float) -> list[str]:
    """`words` (each unbreakable) set in lines no wider than `width_mm` where that is possible."""
    lines: list[str] = []
    for word in words:
        candidate = f"{lines[-1]}  {word}" if lines else word
        if lines and text_width(candidate, height_mm) <= width_mm:
            lines[-1] = candidate
        else:
            lines.append(word)
    return lines
