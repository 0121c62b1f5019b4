"""What every request must pass before anything else: the right host, and writes from our own pages only."""

from __future__ import annotations

import hmac
import ipaddress
from collections.abc import Sequence
from urllib.parse import urlsplit

from flask import Flask, Response, request
from werkzeug.exceptions import Forbidden

from rezept.server.bodies import WRITES
from rezept.server.here import shop
from rezept.server.identity import FORM_TOKEN_HEADER, current_session

LOCAL_NAMES = ("127.0.0.1", "localhost", "[::1]")
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


def register(app: Flask, names: Sequence[str], network: bool, proxy: str | None) -> None:
    """`names` are what the shop is called beside its machine's own; `network`: also by any number it has there;
    `proxy` is the address of the proxy it stands behind."""
    known = {*LOCAL_NAMES, *(name.lower() for name in names)}
    if proxy:
        known.add(_name_of(urlsplit(proxy).netloc))

    def answers_as(name: str) -> bool:
        return name.lower() in known or (network and _is_address(name))

    @app.before_request
    def check_host_and_origin() -> None:
        # Another name pointing at this machine would let a foreign page read the shop.
        if not answers_as(_name_of(request.host)):
            others = sorted(known - set(LOCAL_NAMES))
            where = f"as {', '.join(others)}" if others else "on this machine"
            where += " or by its number" if network else " only"
            raise Forbidden(f"Rezept answers {where}, not as {request.host[:80]}.")
        if request.method in WRITES:
            origin = request.headers.get("Origin")
            # The proxy may or may not pass on the name it was asked by.
            if origin is not None and origin != proxy and urlsplit(origin).netloc != request.host:
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

    @app.after_request
    def add_headers(response: Response) -> Response:
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers.setdefault("Content-Security-Policy", CONTENT_SECURITY)
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
