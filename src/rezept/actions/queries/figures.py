"""What is understood of a drawing before it becomes the figure of a trial, and the figures the shop keeps."""

from __future__ import annotations

from typing import Any

from rezept.actions.open_shop import Shop
from rezept.core.path.brought import Brought
from rezept.core.path.svg import read_svg
from rezept.formats.drawing import read_figure
from rezept.store import figures as figure_table


def brought_figure(data: bytes) -> dict[str, Any]:
    """The figure of an SVG or DXF file as a trial has it, its size, and what was left out.

    Raises
    ------
    InvalidInput : it is neither, or has no outline
    """
    brought = read_figure(data)
    return _understood(brought, brought.svg())


def _understood(brought: Brought, svg: str) -> dict[str, Any]:
    width, height = brought.size_mm
    return {
        "figure": {"svg": svg},
        "width_mm": round(width, 4),
        "height_mm": round(height, 4),
        "brought": brought.summary(),
        "left_out": [dict(vars(one)) for one in brought.left_out],
    }


def kept_figures(shop: Shop) -> list[figure_table.FigureRow]:
    with shop.database.reading() as db:
        return figure_table.figures(db)


def kept_figure(shop: Shop, figure_id: int) -> dict[str, Any]:
    """A kept figure as a trial has it."""
    svg = kept_drawing(shop, figure_id)
    return _understood(read_svg(svg), svg)


def kept_drawing(shop: Shop, figure_id: int) -> str:
    """A kept figure as an SVG drawing, for others."""
    with shop.database.reading() as db:
        return figure_table.svg(db, figure_id)
