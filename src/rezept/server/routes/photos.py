"""Photographs of plates: brought in, put right, looked at."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from flask import Response, make_response, request
from flask_openapi3 import APIBlueprint
from werkzeug.exceptions import ServiceUnavailable

from rezept.actions.commands import part_photos, photos
from rezept.actions.queries import looks
from rezept.actions.queries import photos as photos_seen
from rezept.core.colour import read_hex
from rezept.server import shapes
from rezept.server.here import me, shop, worker
from rezept.server.routes.jobs import described

# A photo is read within a second mostly: then one answer says all. A picture is waited for.
DONE_WITHIN_S, MADE_WITHIN_S = 1.0, 25.0

bp = APIBlueprint("photos", __name__, url_prefix="/api")


@bp.post("/photos", responses={"202": shapes.jobs.JobOut})
def add_photo(query: shapes.photos.BroughtTo, raw: shapes.photos.PhotoBytes) -> tuple[dict[str, Any], int]:
    """Bring in a photo: its plate is known by its code, else by the burn it is brought to. The body is the file."""
    return _begun("bring_in", photos.take_in(shop(), me(), raw.get_data(), query.burn, query.face)), 202


@bp.put("/burns/<int:id>/photos/<string:face>", responses={"202": shapes.jobs.JobOut})
def put_photo(path: shapes.photos.FacePath, raw: shapes.photos.PhotoBytes) -> tuple[dict[str, Any], int]:
    """Bring in a photo of one face of a burn: the body is the file itself."""
    return _begun("bring_in", photos.take_in(shop(), me(), raw.get_data(), path.id, path.face)), 202


@bp.post("/burns/<int:id>/parts/<string:patch>/photos", responses={"201": shapes.common.Created})
def add_part_photo(path: shapes.photos.PartPath, raw: shapes.photos.PhotoBytes) -> tuple[dict[str, int], int]:
    """Bring in a photo of the part a patch was cut as, in the hand. The body is the file."""
    return {"id": part_photos.add_part_photo(shop(), me(), path.id, path.patch, raw.get_data())}, 201


@bp.put("/part-photos/<int:id>", responses={"204": None})
def change_part_photo(path: shapes.common.IdPath, body: shapes.photos.PartPhotoChange) -> tuple[str, int]:
    """Take a photo of a part away, or bring it back."""
    part_photos.remove_part_photo(shop(), me(), path.id, body.removed)
    return "", 204


@bp.post("/pieces/outline", responses={"202": shapes.jobs.JobOut})
def outline_of_piece(raw: shapes.photos.PhotoBytes) -> tuple[dict[str, Any], int]:
    """The outline of a piece from a photo with the reference card beside it; the photo is not kept. The body is the
    file."""
    return _begun("outline", photos.take_in_piece(shop(), me(), raw.get_data())), 202


def _begun(kind: str, task: dict[str, Any]) -> dict[str, Any]:
    return described(worker().wait(worker().submit(me(), kind, task, urgent=True), DONE_WITHIN_S))


@bp.put("/plate-photos/<int:id>", responses={"200": shapes.photos.BroughtPhoto, "409": shapes.common.Problem})
def change_photo(path: shapes.common.IdPath, body: shapes.photos.PhotoChange) -> dict[str, Any]:
    """Taken after cleaning, read by, taken away or brought back."""
    document = body.model_dump(exclude={"edit"}, exclude_none=True)
    return photos.change(shop(), me(), path.id, body.edit, document)


@bp.put("/plate-photos/<int:id>/corners", responses={"202": shapes.jobs.JobOut, "409": shapes.common.Problem})
def put_corners(path: shapes.common.IdPath, body: shapes.photos.Corners) -> tuple[dict[str, Any], int]:
    """Lay the plate on its photo by hand, and read it anew."""
    corners = photos.corners_of(shop(), me(), path.id, body.edit, body.model_dump(exclude={"edit"}))
    return _begun("lay", {"photo": path.id, "edit": body.edit, "corners": corners}), 202


@bp.get("/plate-photos/<int:id>/flat")
def get_flat(path: shapes.common.IdPath, query: shapes.photos.FlatQuery) -> Response:
    """The plate from straight above, a JPEG."""
    photo = photos_seen.must_be_found(photos_seen.photo(shop(), path.id))
    name = f"{photo['sha256'][:32]}-{path.id}-{photo['edit']}-flat"
    return _asked_again(name, lambda: _made(name, {"what": "flat", "photo": path.id, "name": name}))


@bp.get("/plate-photos/<int:id>/upright")
def get_upright(path: shapes.common.IdPath) -> Response:
    """The photo itself as any browser shows it, a JPEG."""
    return _upright(photos_seen.photo(shop(), path.id)["sha256"])


def _upright(sha256: str) -> Response:
    name = f"{sha256}-upright"
    return _asked_again(name, lambda: _made(name, {"what": "upright", "sha256": sha256, "name": name}))


def _made(name: str, task: dict[str, Any]) -> tuple[str, bytes]:
    """A picture that is there, or is made now."""
    data = shop().made.get(name)
    if data is None:
        job = worker().wait(worker().submit(me(), "picture", task, urgent=True), MADE_WITHIN_S)
        data = shop().made.get(name)
        if data is None:
            sentence = "The picture is not made yet; look again in a moment."
            raise ServiceUnavailable(job["sentence"] or sentence)
    return "image/jpeg", data


@bp.get("/burns/<int:id>/measured", responses={"200": shapes.photos.Measured})
def get_measured(path: shapes.common.IdPath, query: shapes.photos.MeasuredQuery) -> dict[str, Any]:
    """What the photos of a burn show of each patch."""
    return photos_seen.measured(shop(), path.id, query.photo, query.step)


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
    handed = photos_seen.handed_out(shop(), me(), path.sha256, query.untouched)
    if handed is None:
        return _upright(path.sha256)
    return _asked_again(f"{path.sha256}{'-untouched' if query.untouched else ''}", lambda: handed)


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
