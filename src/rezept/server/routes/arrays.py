"""Kept arrays."""

from __future__ import annotations

from typing import Any

from flask import Response, make_response
from flask_openapi3 import APIBlueprint

from rezept.actions.commands import arrays
from rezept.actions.queries import arrays as arrays_seen
from rezept.formats.strict_json import write_json
from rezept.server import shapes
from rezept.server.here import me, shop

bp = APIBlueprint("arrays", __name__, url_prefix="/api/arrays")


@bp.get("", responses={"200": shapes.arrays.KeptArrays})
def list_arrays() -> dict[str, Any]:
    """The kept arrays, by name."""
    return {"arrays": arrays_seen.kept_arrays(shop())}


@bp.post("", responses={"201": shapes.common.Created})
def add_array(body: shapes.arrays.KeepArray) -> tuple[dict[str, Any], int]:
    """Keep the array of a design under a name; one of the same name is replaced."""
    return {"id": arrays.keep_array(shop(), me(), body.trial, body.name, body.design, body.units)}, 201


@bp.post("/file", responses={"201": shapes.common.Created})
def bring_in(body: shapes.arrays.ArrayFile) -> tuple[dict[str, Any], int]:
    """Keep an array that came as a file."""
    return {"id": arrays.bring_in(shop(), me(), body.document)}, 201


@bp.get("/<int:id>/file")
def get_file(path: shapes.common.IdPath) -> Response:
    """A kept array as a file for others."""
    response = make_response(write_json(arrays_seen.array_file(shop(), path.id)))
    response.content_type = "application/json"
    response.headers["Content-Disposition"] = f'attachment; filename="array-{path.id}.array.json"'
    return response


@bp.post("/<int:id>/design", responses={"200": shapes.arrays.ArrayDesign})
def get_design(path: shapes.common.IdPath, body: shapes.arrays.OfTrial) -> dict[str, Any]:
    """The array laid round what the book knows of a trial's material and machine; nothing is stored."""
    return arrays_seen.design_from(shop(), path.id, body.trial)


@bp.delete("/<int:id>", responses={"204": None})
def retire(path: shapes.common.IdPath) -> tuple[str, int]:
    """Retire a kept array."""
    arrays.retire(shop(), me(), path.id)
    return "", 204
