"""The shapes an element can have, each a builder of its figure in a box whose lower left is the origin."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import lru_cache
from typing import Literal

import numpy as np

from rezept.core.path.figure import Figure
from rezept.core.path.lettering import text_points, text_width
from rezept.core.path.outline_letters import letter_outlines
from rezept.core.path.outlines import coupon, disc, rectangle


def _lettering(width_mm: float, height_mm: float, text: str) -> Figure:
    """A text as large as the box allows, its capitals in its middle where what hangs below them has room."""
    ink = text_points(text, 1.0, 0.0, 0.0)[0][:, 1]
    hangs, rises = max(0.0, -float(ink.min())), max(1.0, float(ink.max()))
    height = min(height_mm / (rises + hangs), width_mm / text_width(text, 1.0))
    left = (width_mm - text_width(text, height)) / 2
    baseline = min(max((height_mm - height) / 2, hangs * height), height_mm - rises * height)
    points, begins = text_points(text, height, left, baseline)
    return Figure(np.split(points, np.flatnonzero(begins)[1:]))


LETTERING = "lettering"
SHAPES: Mapping[str, Callable[[float, float, str], Figure]] = {
    "rectangle": lambda width, height, _text: Figure([rectangle(width, height)]),
    "disc": lambda width, height, _text: Figure([disc(width, height)]),
    "coupon": lambda width, height, _text: Figure(coupon(width, height)),
    LETTERING: _lettering,
}
# How letters are drawn: in single strokes for a beam that follows lines, or as outlines to fill or to cut round.
Letters = Literal["strokes", "outlines"]
LETTERS: tuple[Letters, ...] = ("strokes", "outlines")


@lru_cache(maxsize=64)
def shaped(
    shape: str, width_mm: float, height_mm: float, text: str | None = None, letters: Letters = "strokes"
) -> Figure:
    """The figure of a shape; shared, as figures are never written to."""
    if shape == LETTERING and letters == "outlines":
        return letter_outlines(width_mm, height_mm, text or "")
    return SHAPES[shape](width_mm, height_mm, text or "")
