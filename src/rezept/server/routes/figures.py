"""Figures people bring, and those the shop keeps."""

from __future__ import annotations

from typing import Any

from flask import Response, make_response
from flask_openapi3 import APIBlueprint

from rezept.actions.commands import figures
from rezept.actions.queries import figures as figures_seen
from rezept.server import shapes
from rezept.server.here import me, shop

bp = APIBlueprint("figures", __name__, url_prefix="/api")


@bp.post("/figures", responses={"200": shapes.figures.BroughtFigure})
def understand(raw: shapes.figures.DrawingBytes) -> dict[str, Any]:
    """What is understood of an SVG or DXF file; nothing is kept. The body is the file."""
    return figures_seen.brought_figure(raw.get_data())


@bp.get("/kept-figures", responses={"200": shapes.figures.KeptFigures})
def list_kept() -> dict[str, Any]:
    """The figures the shop keeps, by name."""
    return {"figures": figures_seen.kept_figures(shop())}


@bp.post("/kept-figures", responses={"201": shapes.common.Created})
def keep(body: shapes.figures.KeepFigure) -> tuple[dict[str, Any], int]:
    """Keep a figure under a name."""
    return {"id": figures.keep_figure(shop(), me(), body.name, body.svg, body.close_gaps_mm)}, 201


@bp.get("/kept-figures/<int:id>", responses={"200": shapes.figures.BroughtFigure})
def get_kept(path: shapes.common.IdPath) -> dict[str, Any]:
    """A kept figure as a trial has it."""
    return figures_seen.kept_figure(shop(), path.id)


@bp.get("/kept-figures/<int:id>/file")
def get_file(path: shapes.common.IdPath) -> Response:
    """A kept figure as an SVG drawing for others."""
    response = make_response(figures_seen.kept_drawing(shop(), path.id))
    response.content_type = "image/svg+xml"
    response.headers["Content-Disposition"] = f'attachment; filename="figure-{path.id}.svg"'
    return response


@bp.delete("/kept-figures/<int:id>", responses={"204": None})
def retire(path: shapes.common.IdPath) -> tuple[str, int]:
    """Take a figure off the shelf; what was planned with it keeps it."""
    figures.retire(shop(), me(), path.id)
    return "", 204
