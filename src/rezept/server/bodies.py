"""How much a request may bring, by where it goes, and JSON that is read strictly."""

from __future__ import annotations

import re

from flask import Flask, request
from werkzeug.exceptions import UnsupportedMediaType

from rezept.formats.photo_file import LARGEST_BYTES as LARGEST_PHOTO
from rezept.formats.strict_json import read_json

WRITES = ("POST", "PUT", "PATCH", "DELETE")
# What whoever stands before the door may send; what members may; and where they bring a photo.
AT_THE_DOOR, INSIDE = 64 * 1024, 2 * 1024 * 1024
_DOOR = re.compile(r"/api/(session|door(/.*)?)")
_PHOTO = re.compile(r"/api/(photos|pieces/outline|burns/\d+/(photos/\w+|parts/[\w-]+/photos))")
# Lists, objects and values of one request; a design of 5000 settings has about 12 000.
MOST_ITEMS = 100_000


def most_bytes(path: str) -> int:
    """How large the body of a request to `path` may be."""
    if _PHOTO.fullmatch(path):
        return LARGEST_PHOTO + 1024
    return INSIDE if path.startswith("/api/") and not _DOOR.fullmatch(path) else AT_THE_DOOR


def register(app: Flask) -> None:
    @app.before_request
    def read_strictly() -> None:
        request.max_content_length = most_bytes(request.path)
        if request.routing_exception or request.method not in WRITES or not request.path.startswith("/api/"):
            return
        if request.mimetype.startswith("image/"):
            return
        if request.method == "DELETE" and not request.get_data(cache=True):
            return
        if not request.is_json:
            raise UnsupportedMediaType("Send JSON (application/json).")
        read_json(request.get_data(cache=True), "The request", MOST_ITEMS)
