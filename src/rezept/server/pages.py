"""The web app itself: one page, its scripts, styles and fonts."""

from __future__ import annotations

from pathlib import Path

from flask import Flask, Response, send_from_directory
from werkzeug.exceptions import NotFound

STATIC = Path(__file__).parent / "static"


def register(app: Flask) -> None:
    @app.get("/assets/<path:name>")
    def asset(name: str) -> Response:
        # Vite names assets by their content.
        response = send_from_directory(STATIC / "assets", name)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response

    @app.get("/")
    @app.get("/<path:place>")
    def page(place: str = "") -> Response:
        if place.startswith("api/"):
            raise NotFound(f"There is nothing at /{place}.")
        if not (STATIC / "index.html").exists():
            raise NotFound("The web app has not been built yet; run `make build`.")
        response = send_from_directory(STATIC, place if (STATIC / place).is_file() else "index.html")
        response.headers["Cache-Control"] = "no-cache"
        return response
