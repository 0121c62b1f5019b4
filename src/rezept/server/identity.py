"""Who is asking. Until there is sign-in, one picks oneself in the top bar; nobody picked is the first member."""

from __future__ import annotations

from flask import Response, request

from rezept.actions.open_shop import Shop
from rezept.actions.people import Member, NotAllowed, first_member, member_by_id
from rezept.core.errors import NotFound

COOKIE = "rezept_member"
A_YEAR_S = 365 * 24 * 3600


def current_member(shop: Shop) -> Member:
    """The member of this request.

    Raises
    ------
    NotAllowed : the shop has no members yet
    """
    picked = request.cookies.get(COOKIE, "")
    if picked.isdecimal() and len(picked) < 10:
        try:
            return member_by_id(shop, int(picked))
        except NotFound:
            pass  # a cookie from another shop on this port: fall back as if nobody was picked
    member = first_member(shop)
    if member is None:
        raise NotAllowed("This shop has no members yet; found it with `rezept found`.")
    return member


def remember(response: Response, member: Member) -> None:
    response.set_cookie(COOKIE, str(member.id), max_age=A_YEAR_S, httponly=True, samesite="Strict")
