"""Who is asking: in a shop whoever signed in, in the demo whoever was picked."""

from __future__ import annotations

from flask import Response, g, request

from rezept.actions.commands.people import first_keeper, member_by_id
from rezept.actions.commands.signing_in import LASTS, NotSignedIn, Session, session_of
from rezept.actions.members import Member, NotAllowed
from rezept.actions.open_shop import Shop
from rezept.core.errors import NotFound
from rezept.store import shop as shop_table

FORM_TOKEN_HEADER = "X-Rezept-Form"
A_YEAR_S = 365 * 24 * 3600


def session_cookie(key: str) -> str:
    """What the cookie of a session is called. Browsers keep cookies by machine and not by port: two shops on one
    machine must not sign each other out."""
    return f"rezept_session_{key}"


def pick_cookie(key: str) -> str:
    return f"rezept_member_{key}"


def _key(shop: Shop) -> str:
    with shop.database.reading() as db:
        return shop_table.key(db)


def door_state(shop: Shop) -> str:
    """`empty`: nobody has founded a shop here; `demo`: one picks oneself; `shop`: one signs in."""
    with shop.database.reading() as db:
        here = shop_table.shop(db)
    return "empty" if here is None else "demo" if here["demo"] else "shop"


def current_session(shop: Shop) -> Session | None:
    """The live session of this request, looked up once."""
    if "session" not in g:
        token = request.cookies.get(session_cookie(_key(shop)), "")
        g.session = session_of(shop, token) if token and door_state(shop) == "shop" else None
    session: Session | None = g.session
    return session


def _picked(shop: Shop) -> Member:
    picked = request.cookies.get(pick_cookie(_key(shop)), "")
    if picked.isdecimal() and len(picked) < 10:
        try:
            return member_by_id(shop, int(picked))
        except NotFound:
            pass  # a cookie of before the demo was made anew: fall back as if nobody was picked
    member = first_keeper(shop)
    if member is None:
        raise NotSignedIn("The demo shop has lost its members; make it again with `rezept demo --fresh`.")
    return member


def current_member(shop: Shop) -> Member:
    """The member of this request.

    Raises
    ------
    NotSignedIn : nobody has signed in, or there is no shop yet
    """
    state = door_state(shop)
    if state == "demo":
        return _picked(shop)
    session = current_session(shop)
    if session is None:
        raise NotSignedIn("Sign in first." if state == "shop" else "There is no shop here yet; found it first.")
    return session.member


def may_enter(shop: Shop) -> bool:
    """Whether whoever asks is inside already: always in the demo, in a shop once they have signed in."""
    return door_state(shop) == "demo" or current_session(shop) is not None


def pick(shop: Shop, response: Response, member: Member) -> None:
    """Remember who one is in the demo."""
    if door_state(shop) != "demo":
        raise NotAllowed("Here one signs in; only in the demo can one pick who one is.", None, "member")
    response.set_cookie(pick_cookie(_key(shop)), str(member.id), max_age=A_YEAR_S, httponly=True, samesite="Strict")


def begin(shop: Shop, response: Response, session: Session) -> None:
    """Give the browser its session."""
    response.set_cookie(
        session_cookie(_key(shop)),
        session.token,
        max_age=int(LASTS.total_seconds()),
        httponly=True,
        samesite="Strict",
        secure=request.is_secure,
    )


def end(shop: Shop, response: Response) -> None:
    response.delete_cookie(session_cookie(_key(shop)), httponly=True, samesite="Strict", secure=request.is_secure)
