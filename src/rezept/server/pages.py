"""The web app itself: one page, its scripts, styles and fonts.

A plain Flask blueprint, so that it stays out of the OpenAPI document.
"""

from __future__ import annotations

import gzip
from functools import lru_cache
from pathlib import Path

from flask import Blueprint, Response, make_response, request, send_from_directory
from werkzeug.exceptions import NotFound
from werkzeug.security import safe_join

from rezept.server.here import shop
from rezept.server.identity import may_enter

STATIC = Path(__file__).parent / "static"

bp = Blueprint("pages", __name__)


# What the app asks for first once one is inside; the browser may fetch it while it still reads the scripts.
FIRST_ASKED = ("/api/shop", "/api/me")

PACKED = {".js": "text/javascript; charset=utf-8", ".css": "text/css; charset=utf-8"}


@lru_cache(maxsize=256)
def _packed(path: Path) -> bytes:
    """A script or style, gzipped once for as long as the server runs."""
    return gzip.compress(path.read_bytes(), compresslevel=6, mtime=0)


@bp.get("/assets/<path:name>")
def asset(name: str) -> Response:
    """Scripts, styles and fonts; Vite names them by their content, so they may be kept for ever."""
    path = safe_join(str(STATIC / "assets"), name)
    kind = PACKED.get(Path(name).suffix)
    if path and kind and request.accept_encodings["gzip"] > 0 and _is_there(path):
        response = make_response(_packed(Path(path)))
        response.content_type = kind
        response.headers["Content-Encoding"] = "gzip"
    else:
        if not _is_there(path):
            raise NotFound("There is no such file.")
        response = send_from_directory(STATIC / "assets", name)
    response.headers["Vary"] = "Accept-Encoding"
    response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
    return response


def _is_there(file: str | None) -> bool:
    try:
        return file is not None and Path(file).is_file()
    except (OSError, ValueError):
        # A name no file system has: too long, or with a zero in it.
        return False


@bp.get("/")
@bp.get("/<path:place>")
def page(place: str = "") -> Response:
    """The one page of the app, whatever the address says; the app finds the place itself."""
    if place.startswith("api/"):
        raise NotFound(f"There is nothing at /{place[:80]}.")
    if not (STATIC / "index.html").exists():
        raise NotFound("The web app has not been built yet; run `make build`.")
    # What lies outside is not looked at, so that nobody can tell what is there.
    response = send_from_directory(STATIC, place if _is_there(safe_join(str(STATIC), place)) else "index.html")
    response.headers["Cache-Control"] = "no-cache"
    if response.mimetype == "text/html" and may_enter(shop()):
        for address in FIRST_ASKED:
            response.headers.add("Link", f"<{address}>; rel=preload; as=fetch; crossorigin=anonymous")
    return response
