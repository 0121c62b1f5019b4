"""Figures people bring, as they are understood."""

from __future__ import annotations

from flask_openapi3 import RawModel

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
