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
from rezept.core.path.proof import proof_piece


def _lettering(width_mm: float, height_mm: float, text: str) -> Figure:
    """A text as large as the box allows, in its middle; what hangs below the line (g, j) hangs below the box where the
    text is as high as it. Plates of before were burned so."""
    height = min(height_mm, width_mm / text_width(text, 1.0))
    left = (width_mm - text_width(text, height)) / 2
    points, begins = text_points(text, height, left, (height_mm - height) / 2)
    return Figure(np.split(points, np.flatnonzero(begins)[1:]))


LETTERING, PROOF = "lettering", "proof"
SHAPES: Mapping[str, Callable[[float, float, str], Figure]] = {
    "rectangle": lambda width, height, _text: Figure([rectangle(width, height)]),
    "disc": lambda width, height, _text: Figure([disc(width, height)]),
    "coupon": lambda width, height, _text: Figure(coupon(width, height)),
    LETTERING: _lettering,
    PROOF: lambda width, height, _text: proof_piece(width, height),
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
