"""What every request must pass: the right host, writes from our own pages only, strict JSON."""

from __future__ import annotations

import hmac
import ipaddress
from collections.abc import Sequence
from urllib.parse import urlsplit

from flask import Flask, Response, request
from werkzeug.exceptions import Forbidden, UnsupportedMediaType

from rezept.formats.strict_json import read_json
from rezept.server.here import shop
from rezept.server.identity import FORM_TOKEN_HEADER, current_session

LOCAL_NAMES = ("127.0.0.1", "localhost", "[::1]")
WRITES = ("POST", "PUT", "PATCH", "DELETE")
CONTENT_SECURITY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; object-src 'none';"
    " base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)


def _name_of(host: str) -> str:
    """The name in a Host header, without its port."""
    return host.rsplit(":", 1)[0] if host.rsplit(":", 1)[-1].isdecimal() else host


def _is_address(name: str) -> bool:
    """Whether a host is a literal IP address: no foreign name can be pointed at us that way."""
    try:
        ipaddress.ip_address(name.strip("[]"))
    except ValueError:
        return False
    return True


def register(app: Flask, names: Sequence[str] | None) -> None:
    """`names` are what the shop is called in its network; None: it answers on this machine only."""

    def answers_as(name: str) -> bool:
        if name in LOCAL_NAMES:
            return True
        return names is not None and (_is_address(name) or name.lower() in names)

    @app.before_request
    def check_host_and_origin() -> None:
        # Another name pointing at this machine would let a foreign page read the shop.
        if not answers_as(_name_of(request.host)):
            where = "on this machine only" if names is None else f"as {', '.join(names)} or by its number"
            raise Forbidden(f"Rezept answers {where}, not as {request.host}.")
        if request.method in WRITES:
            origin = request.headers.get("Origin")
            if origin is not None and urlsplit(origin).netloc != request.host:
                raise Forbidden("This change came from another site's page; it was not made.")

    @app.before_request
    def check_form_token() -> None:
        # A browser sends its cookie with whatever page asks; only our own pages can read the form token.
        if request.method not in WRITES:
            return
        session = current_session(shop())
        if session is not None and not hmac.compare_digest(
            request.headers.get(FORM_TOKEN_HEADER, "").encode(), session.form_token.encode()
        ):
            raise Forbidden("This change did not come from Rezept's own page. Load the page again.")

    @app.before_request
    def read_strictly() -> None:
        if request.routing_exception or request.method not in WRITES or not request.path.startswith("/api/"):
            return
        if request.mimetype.startswith("image/"):
            return
        if request.method == "DELETE" and not request.get_data(cache=True):
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
