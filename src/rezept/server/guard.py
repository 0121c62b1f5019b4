"""What every request must pass: the right host, writes from our own pages only, strict JSON."""

from __future__ import annotations

from urllib.parse import urlsplit

from flask import Flask, Response, request
from werkzeug.exceptions import Forbidden, UnsupportedMediaType

from rezept.formats.strict_json import read_json

LOCAL_NAMES = ("127.0.0.1", "localhost", "[::1]")
WRITES = ("POST", "PUT", "PATCH", "DELETE")
CONTENT_SECURITY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; object-src 'none';"
    " base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)


def _name_of(host: str) -> str:
    """The name in a Host header, without its port."""
    return host.rsplit(":", 1)[0] if host.rsplit(":", 1)[-1].isdecimal() else host


def register(app: Flask) -> None:
    @app.before_request
    def check_host_and_origin() -> None:
        # Another name pointing at this machine would let a foreign page read the shop.
        if _name_of(request.host) not in LOCAL_NAMES:
            raise Forbidden(f"Rezept answers on this machine only, not as {request.host}.")
        if request.method in WRITES:
            origin = request.headers.get("Origin")
            if origin is not None and urlsplit(origin).netloc != request.host:
                raise Forbidden("This change came from another site's page; it was not made.")

    @app.before_request
    def read_strictly() -> None:
        if request.routing_exception or request.method not in WRITES or not request.path.startswith("/api/"):
            return
        if request.mimetype.startswith("image/"):
            return
        if not request.is_json:
            raise UnsupportedMediaType("Send JSON (application/json).")
        read_json(request.get_data(cache=True), "The request")

    @app.after_request
    def add_headers(response: Response) -> Response:
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers.setdefault("Content-Security-Policy", CONTENT_SECURITY)
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
