"""A figure somebody brought, as the patch of a trial."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.path.brought import Brought
from rezept.core.path.figure import Figure
from rezept.core.path.svg import read_svg

# A width and a height that differ by no more than so much from the figure's own proportions are these.
_IN_PROPORTION = 0.005
MOST_GAP_MM = 10.0


@dataclass(frozen=True)
class OwnFigure:
    """The drawing it was brought as (SVG text), and up to which gap the ends of its lines are joined.

    stretched : its width and height are drawn out of proportion
    """

    svg: str
    close_gaps_mm: float = 0.0
    stretched: bool = False

    @property
    def brought(self) -> Brought:
        return read_svg(self.svg, self.close_gaps_mm)

    def in_box(self, width_mm: float, height_mm: float) -> Figure:
        return _in_box(self, width_mm, height_mm)

    def document(self) -> dict[str, Any]:
        gaps = {"close_gaps_mm": self.close_gaps_mm} if self.close_gaps_mm else {}
        return {"svg": self.svg, **gaps, **({"stretched": True} if self.stretched else {})}


@lru_cache(maxsize=64)
def _in_box(own: OwnFigure, width_mm: float, height_mm: float) -> Figure:
    brought = own.brought
    scale = np.array([width_mm, height_mm]) / brought.size_mm
    return Figure([way * scale for way in brought.figure.ways])


def read_own_figure(fields: Fields) -> OwnFigure:
    """
    Raises
    ------
    InvalidInput : nothing in it can be drawn
    """
    svg = fields.text("svg", longest=None, empty=False)
    own = OwnFigure(
        svg,
        fields.number("close_gaps_mm", 0.0, at_least=0.0, at_most=MOST_GAP_MM),
        fields.flag("stretched", False),
    )
    try:
        own.brought  # noqa: B018
    except InvalidInput as error:
        raise InvalidInput(error.sentence, fields.at("svg")) from error
    fields.finish()
    return own


def sized(own: OwnFigure, fields: Fields, least_mm: float, most_mm: float) -> tuple[float, float]:
    """Width and height as said; what is not said follows from the figure, whose proportions are kept.

    Raises
    ------
    InvalidInput : both are said, and not in proportion
    """
    width, height = own.brought.size_mm
    said = {
        key: fields.number(key, at_least=least_mm, at_most=most_mm)
        for key in ("width_mm", "height_mm")
        if fields.is_said(key)
    }
    across = said.get("width_mm", round(said.get("height_mm", height) * width / height, 4))
    meant = across * height / width
    up = said.get("height_mm", round(meant, 4))
    if len(said) == 2 and not own.stretched and abs(up - meant) > _IN_PROPORTION * meant:
        raise InvalidInput(
            f"At a width of {across:g} mm this figure is {meant:.4g} mm high. Say that it is stretched, or leave one"
            " out.",
            fields.at("height_mm"),
            up,
            round(meant, 4),
        )
    for key, side in (("width_mm", across), ("height_mm", up)):
        if not least_mm <= side <= most_mm:
            raise InvalidInput(
                f"The figure would be {across:g} x {up:g} mm; a patch is from {least_mm:g} to {most_mm:g} mm.",
                fields.at(key),
                side,
            )
    return across, up
