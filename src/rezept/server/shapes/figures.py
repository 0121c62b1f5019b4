"""Figures people bring, as they are understood."""

from __future__ import annotations

from flask_openapi3 import RawModel
from pydantic import Field

from rezept.core.plan.own_figure import MOST_GAP_MM
from rezept.server.shapes.common import Shape


class DrawingBytes(RawModel):
    mimetypes = ["image/svg+xml", "image/vnd.dxf"]


class OwnFigureOut(Shape):
    """The figure of a patch: SVG text, up to which gap ends are joined, and whether it is drawn out of proportion."""

    svg: str
    close_gaps_mm: float | None = None
    stretched: bool | None = None


class LeftOutOut(Shape):
    what: str
    why: str


class BroughtOut(Shape):
    """How many outlines and holes a figure has, how many of its lines do not close, and by which gap: one small enough
    to be closed, else null."""

    outlines: int
    holes: int
    open: int
    small_gap_mm: float | None


class BroughtFigure(Shape):
    """The figure of a drawing, its size in mm, and what was left out of it."""

    figure: OwnFigureOut
    width_mm: float
    height_mm: float
    brought: BroughtOut
    left_out: list[LeftOutOut]


class PictureOut(Shape):
    """A small picture of a figure, as paths in mm, y down: its outlines (even-odd), and its lines that do not close."""

    outlines: str
    lines: str


class KeptFigure(Shape):
    """A figure the shop keeps, by whom and since when."""

    id: int
    name: str
    width_mm: float
    height_mm: float
    picture: PictureOut
    by_member: int
    by_name: str
    at: str


class KeptFigures(Shape):
    figures: list[KeptFigure]


class KeepFigure(Shape):
    """A figure to be kept under a name; ends of its lines that lie no farther apart than said are joined."""

    name: str = Field(min_length=1, max_length=80)
    svg: str = Field(min_length=1)
    close_gaps_mm: float = Field(0.0, ge=0, le=MOST_GAP_MM)
