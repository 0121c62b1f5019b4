"""Figures people bring."""

from __future__ import annotations

from typing import Any

from flask_openapi3 import APIBlueprint

from rezept.actions.queries import brought_figures
from rezept.server import shapes

bp = APIBlueprint("figures", __name__, url_prefix="/api")


@bp.post("/figures", responses={"200": shapes.figures.BroughtFigure})
def understand(raw: shapes.figures.DrawingBytes) -> dict[str, Any]:
    """What is understood of an SVG or DXF file; nothing is kept. The body is the file."""
    return brought_figures.brought_figure(raw.get_data())
