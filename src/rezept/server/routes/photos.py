"""Photographs of plates: brought in, put right, looked at."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flask import Response, make_response, request
from flask_openapi3 import APIBlueprint

from rezept.actions import looks, photos
from rezept.core.colour import read_hex
from rezept.server import shapes
from rezept.server.here import me, shop

bp = APIBlueprint("photos", __name__, url_prefix="/api")


@bp.post("/photos", responses={"201": shapes.photos.BroughtPhoto})
def add_photo(query: shapes.photos.BroughtTo, raw: shapes.photos.PhotoBytes) -> tuple[dict[str, Any], int]:
    """Bring in a photo: its plate is known by its code, else by the burn it is brought to. The body is the file."""
    return photos.bring_in(shop(), me(), raw.get_data(), query.burn, query.face), 201


@bp.put("/burns/<int:id>/photos/<string:face>", responses={"200": shapes.photos.BroughtPhoto})
def put_photo(path: shapes.photos.FacePath, raw: shapes.photos.PhotoBytes) -> dict[str, Any]:
    """Bring in a photo of one face of a burn: the body is the file itself."""
    return photos.bring_in(shop(), me(), raw.get_data(), path.id, path.face)


@bp.put("/plate-photos/<int:id>", responses={"200": shapes.photos.BroughtPhoto, "409": shapes.common.Problem})
def change_photo(path: shapes.common.IdPath, body: shapes.photos.PhotoChange) -> dict[str, Any]:
    """Taken after cleaning, read by, taken away or brought back."""
    document = body.model_dump(exclude={"edit"}, exclude_none=True)
    return photos.change(shop(), me(), path.id, body.edit, document)


@bp.put("/plate-photos/<int:id>/corners", responses={"200": shapes.photos.BroughtPhoto, "409": shapes.common.Problem})
def put_corners(path: shapes.common.IdPath, body: shapes.photos.Corners) -> dict[str, Any]:
    """Lay the plate on its photo by hand, and read it anew."""
    return photos.point(shop(), me(), path.id, body.edit, body.model_dump(exclude={"edit"}))


@bp.get("/plate-photos/<int:id>/flat")
def get_flat(path: shapes.common.IdPath, query: shapes.photos.FlatQuery) -> Response:
    """The plate from straight above, a JPEG."""
    return _asked_again(photos.version_of(shop(), path.id), lambda: ("image/jpeg", photos.flat(shop(), path.id)))


@bp.get("/plate-photos/<int:id>/upright")
def get_upright(path: shapes.common.IdPath) -> Response:
    """The photo itself as any browser shows it, a JPEG."""
    return _asked_again(photos.version_of(shop(), path.id), lambda: ("image/jpeg", photos.upright(shop(), path.id)))


@bp.get("/burns/<int:id>/measured", responses={"200": shapes.photos.Measured})
def get_measured(path: shapes.common.IdPath, query: shapes.photos.MeasuredQuery) -> dict[str, Any]:
    """What the photos of a burn show of each patch."""
    return photos.measured(shop(), path.id, query.photo)


@bp.get("/looks", responses={"200": shapes.photos.Looks})
def get_looks(query: shapes.photos.LooksQuery) -> dict[str, Any]:
    """Which patches of the shop look like this?"""
    lab = None if query.lightness is None else (query.lightness, query.a, query.b)
    if query.colour is not None:
        lab = read_hex(query.colour, "colour")
    return looks.looks(shop(), lab, query.head, query.material, query.process, query.most, query.darkness_only)


@bp.get("/photos/<string:sha256>")
def get_photo(path: shapes.photos.FilePath, query: shapes.photos.PhotoQuery) -> Response:
    """A photo as it was taken, without where and by what; with it (`untouched`) for the keeper."""
    version = f"{path.sha256}{'-untouched' if query.untouched else ''}"
    return _asked_again(version, lambda: photos.handed_out(shop(), me(), path.sha256, query.untouched))


def _asked_again(version: str, made: Callable[[], tuple[str, bytes]]) -> Response:
    """A picture the browser may keep but asks after each time: whoever has signed out sees it no more. One it has
    is not made again."""
    response = make_response()
    response.set_etag(version)
    response.headers["Cache-Control"] = "private, no-cache"
    response.make_conditional(request)
    if response.status_code != 304:
        kind, data = made()
        response.set_data(data)
        response.content_type = kind
    return response
