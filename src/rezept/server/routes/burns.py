"""Burned plates: patches left out, scores, photos, margins."""

from __future__ import annotations

from typing import Any

from flask import Response, make_response, request
from flask_openapi3 import APIBlueprint

from rezept.actions import burning, deciding, planning, reading
from rezept.server import shapes
from rezept.server.here import me, shop

bp = APIBlueprint("burns", __name__, url_prefix="/api")


@bp.put("/burns/<int:id>/patches/<string:patch>/not-burned", responses={"204": None})
def put_not_burned(path: shapes.burns.PatchPath, body: shapes.burns.NotBurned) -> tuple[str, int]:
    """Say that a patch stayed bare, or take that back."""
    burning.mark_not_burned(shop(), me(), path.id, path.patch, body.not_burned)
    return "", 204


@bp.put(
    "/burns/<int:id>/patches/<string:patch>/reading",
    responses={"200": shapes.burns.ReadingOut, "409": shapes.common.Problem},
)
def put_reading(path: shapes.burns.PatchPath, body: shapes.burns.Score) -> dict[str, Any]:
    """Score a patch by eye."""
    document = body.model_dump(exclude={"edit"})
    return reading.score(shop(), me(), path.id, path.patch, body.edit, document)


@bp.get("/burns/<int:id>/decision", responses={"200": shapes.burns.Decision})
def get_decision(path: shapes.common.IdPath) -> dict[str, Any]:
    """The margin of every patch that was read."""
    return deciding.decision(shop(), path.id)


@bp.post("/burns/<int:id>/finer", responses={"201": shapes.common.Created})
def add_finer(path: shapes.common.IdPath, body: shapes.burns.Between) -> tuple[dict[str, Any], int]:
    """Begin the finer array between a patch that failed and one that worked."""
    return {"id": planning.finer_trial(shop(), me(), path.id, body.failed, body.worked)}, 201


@bp.put("/burns/<int:id>/photos/<string:face>", responses={"200": shapes.burns.FacePhoto})
def put_photo(path: shapes.burns.FacePath, raw: shapes.burns.PhotoBytes) -> dict[str, Any]:
    """Attach a photo of one face: the body is the JPEG or PNG itself."""
    return reading.attach_photo(shop(), me(), path.id, path.face, raw.get_data())


@bp.get("/photos/<string:sha256>")
def get_photo(path: shapes.burns.PhotoPath) -> Response:
    """A photo as it was taken. Its name is its content, so it may be kept for ever."""
    row, data = reading.photo(shop(), path.sha256)
    response = make_response(data)
    response.content_type = row["media_type"]
    response.headers["Cache-Control"] = "private, max-age=31536000, immutable"
    response.set_etag(path.sha256)
    response.make_conditional(request)
    return response
