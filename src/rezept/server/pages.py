"""The web app itself: one page, its scripts, styles and fonts.

A plain Flask blueprint, so that it stays out of the OpenAPI document.
"""

from __future__ import annotations

from pathlib import Path

from flask import Blueprint, Response, send_from_directory
from werkzeug.exceptions import NotFound

STATIC = Path(__file__).parent / "static"

bp = Blueprint("pages", __name__)


@bp.get("/assets/<path:name>")
def asset(name: str) -> Response:
    """Scripts, styles and fonts; Vite names them by their content, so they may be kept for ever."""
    response = send_from_directory(STATIC / "assets", name)
    response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
    return response


@bp.get("/")
@bp.get("/<path:place>")
def page(place: str = "") -> Response:
    """The one page of the app, whatever the address says; the app finds the place itself."""
    if place.startswith("api/"):
        raise NotFound(f"There is nothing at /{place}.")
    if not (STATIC / "index.html").exists():
        raise NotFound("The web app has not been built yet; run `make build`.")
    response = send_from_directory(STATIC, place if (STATIC / place).is_file() else "index.html")
    response.headers["Cache-Control"] = "no-cache"
    return response
