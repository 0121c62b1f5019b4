"""The open shop and the member of the current request."""

from __future__ import annotations

from flask import current_app, g, request

from rezept.actions.members import Member
from rezept.actions.open_shop import Shop
from rezept.actions.running.live_burns import LiveBurns
from rezept.actions.running.worker import Jobs
from rezept.server.identity import current_member


def shop() -> Shop:
    opened: Shop = current_app.extensions["rezept"]
    return opened


def live() -> LiveBurns:
    """Where burns go on."""
    burning: LiveBurns = current_app.extensions["rezept_live"]
    return burning


def worker() -> Jobs:
    """What is done one after the other, beside the requests."""
    jobs: Jobs = current_app.extensions["rezept_worker"]
    return jobs


def outside_address() -> str:
    """Where this server is reached: by its proxy, else as whoever asks has called it."""
    proxy: str | None = current_app.config["proxy"]
    return proxy or request.host_url.rstrip("/")


def me() -> Member:
    """The member of this request, looked up once.

    Raises
    ------
    NotSignedIn : nobody has signed in
    """
    if "member" not in g:
        g.member = current_member(shop())
    member: Member = g.member
    return member
