"""Signing in by name and PIN or passphrase; sessions that run out and can be ended."""

from __future__ import annotations

import hashlib
import hmac
import ipaddress
import math
import secrets
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta

from rezept.actions.commands import people
from rezept.actions.commands.passphrases import fits, hashed, hashed_anew, is_of_today
from rezept.actions.commands.people import found_shop, must_be_unfounded
from rezept.actions.members import Member, member_of, require
from rezept.actions.open_shop import Shop, stamp
from rezept.core.errors import InvalidInput, NotFound, Refused, RezeptError
from rezept.core.names import name_key
from rezept.store import changes
from rezept.store import people as people_table
from rezept.store.errors import NotSaved
from rezept.store.rows import Row

LASTS = timedelta(days=30)
IDLE = timedelta(days=7)
# A session's last use is written at most this often: reading a page should not cost a write.
SEEN_EVERY = timedelta(minutes=10)
# How long one waits after a wrong try: twice as long each time, for that name from that address. Nobody is locked out
# by what others do elsewhere.
FIRST_WAIT_S, LONGEST_WAIT_S = 1.0, 60.0
FORGOTTEN_AFTER_S = 3600.0
# More of a typed name than any name has is not looked at.
LONGEST_TYPED = 200


class NotSignedIn(RezeptError):
    """Nobody is signed in, or name and passphrase do not fit together."""


class TooManyAttempts(RezeptError):
    """Signing in failed too often; the sentence says how long to wait.

    seconds : until the next try is judged
    """

    def __init__(self, seconds: int) -> None:
        unit = "second" if seconds == 1 else "seconds"
        super().__init__(f"After a wrong try one waits: {seconds} {unit} more.", "secret")
        self.seconds = seconds


@dataclass(frozen=True)
class Session:
    """A live session: `member` uses it; `token` is what the browser keeps."""

    id: int
    member: Member
    token: str

    @property
    def form_token(self) -> str:
        """What every write of this session must carry: a foreign page cannot read it (OWASP CSRF, HMAC pattern)."""
        return hmac.new(self.token.encode(), b"rezept form", hashlib.sha256).hexdigest()


def _before(shop: Shop, span: timedelta) -> str:
    return stamp(shop.clock() - span)


def _network(address: str) -> str:
    """Whom an address stands for: an IPv6 subscriber has a whole /64 of them (RFC 6177)."""
    with suppress(ValueError):
        known = ipaddress.ip_address(address.partition("%")[0])
        if known.version == 6:
            return str(ipaddress.ip_network((known, 64), strict=False))
    return address


def _wait_s(tries: int, last_s: float, now_s: float) -> float:
    """Seconds until one may try again after so many wrong tries; 0 where one may now."""
    since = now_s - last_s
    # A clock that was set back must lock nobody out.
    if tries == 0 or since < 0 or since > FORGOTTEN_AFTER_S:
        return 0.0
    return max(0.0, min(LONGEST_WAIT_S, FIRST_WAIT_S * 2.0 ** min(tries - 1, 30)) - since)


def _count_try(shop: Shop, key: str, address: str) -> None:
    """Count a try before it is judged: of many that are sent at once, one is.

    Raises
    ------
    TooManyAttempts : one has to wait; this try was neither counted nor judged
    """
    now_s = shop.clock().timestamp()
    with shop.database.writing() as db:
        tries, last_s = people_table.tries(db, key, address)
        wait = _wait_s(tries, last_s, now_s)
        if wait <= 0:
            forgotten = last_s > now_s or now_s - last_s > FORGOTTEN_AFTER_S
            people_table.count_try(db, key, address, 1 if forgotten else tries + 1, now_s, FORGOTTEN_AFTER_S)
    if wait > 0:
        raise TooManyAttempts(math.ceil(wait))


def sign_in(shop: Shop, name: str, secret: str, address: str, device: str) -> Session:
    """A new session for the member of that name.

    Raises
    ------
    NotSignedIn : no such member, or another secret; which of both is not told
    TooManyAttempts : wrong ones came from that address for that name, and the wait is not over
    """
    key, address = name_key(name[:LONGEST_TYPED]), _network(address)
    _count_try(shop, key, address)
    with shop.database.reading() as db:
        known = people_table.secret_of(db, key)
    if not fits(secret, known[1] if known else None):
        raise NotSignedIn("That name and passphrase do not fit together.", "secret")
    assert known is not None
    fresh = None if is_of_today(known[1]) else hashed_anew(secret)
    with shop.database.writing() as db:
        people_table.forget_tries(db, key, address)
        if fresh:
            people_table.set_secret(db, known[0], fresh)
    return start_session(shop, known[0], device)


def found_and_enter(shop: Shop, name: str, tag: str, keeper: str, secret: str, device: str) -> Session:
    """First run: found the shop and sign its keeper in."""
    return start_session(shop, found_with(shop, name, tag, keeper, secret).id, device)


def found_with(shop: Shop, name: str, tag: str, keeper: str, secret: str, path: str = "secret") -> Member:
    """Found the shop with a keeper who can sign in. Whether it can be founded is looked at before a slow hash."""
    must_be_unfounded(shop)
    return found_shop(shop, name, tag, keeper, hashed(secret, (keeper, name), path))


def start_session(shop: Shop, member_id: int, device: str) -> Session:
    token = secrets.token_urlsafe(32)
    with shop.database.writing() as db:
        member = member_of(people_table.member(db, member_id))
        session_id = people_table.add_session(db, _sha256(token), member.id, device[:120], shop.now())
    return Session(session_id, member, token)


def _sha256(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def session_of(shop: Shop, token: str) -> Session | None:
    """The live session a browser's token stands for."""
    now = shop.clock()
    with shop.database.reading() as db:
        row = people_table.live_session(db, _sha256(token), _before(shop, LASTS), _before(shop, IDLE))
        if row is None:
            return None
        member = member_of(people_table.member(db, row["member_id"]))
    if now - datetime.fromisoformat(row["seen_at"]) > SEEN_EVERY:
        _note_seen(shop, row["id"])
    return Session(row["id"], member, token)


def _note_seen(shop: Shop, session_id: int) -> None:
    """Note that a session is in use, if the records are free this moment; a request never waits for it, nor fails."""
    with suppress(NotSaved), shop.database.writing(patience_s=0.0) as db:
        people_table.seen(db, session_id, shop.now())


def sign_out(shop: Shop, session: Session) -> None:
    with shop.database.writing() as db:
        people_table.end_session(db, session.id, shop.now())


def sessions(shop: Shop, by: Member) -> list[Row]:
    """Where one is signed in, the device used last first."""
    with shop.database.reading() as db:
        return people_table.sessions_of(db, by.id, _before(shop, LASTS), _before(shop, IDLE))


def end_session(shop: Shop, by: Member, session_id: int) -> None:
    """End one of one's own sessions."""
    with shop.database.writing() as db:
        if people_table.session(db, session_id)["member_id"] != by.id:
            raise NotFound(f"There is no session {session_id}.")
        people_table.end_session(db, session_id, shop.now())


def end_sessions_of(shop: Shop, by: Member, member_id: int) -> None:
    """The keeper signs a member out everywhere."""
    require(by, "keeper", "sign others out")
    with shop.database.writing() as db:
        member = people_table.member(db, member_id)
        people_table.end_sessions_of(db, member_id, shop.now())
        changes.log(db, "member", member_id, "signed out", member["name"], by.id, shop.now())


def change_own_secret(shop: Shop, session: Session, old: str, new: str, address: str) -> None:
    """Change one's own PIN or passphrase; every other session of this member ends."""
    key, address = name_key(session.member.name), _network(address)
    _count_try(shop, key, address)
    with shop.database.reading() as db:
        known = people_table.secret_of(db, key)
    if not fits(old, known[1] if known else None):
        raise InvalidInput("That is not your passphrase.", "old")
    with shop.database.writing() as db:
        people_table.forget_tries(db, key, address)
    fresh = hashed(new, _names(shop, session.member.name), "new")
    with shop.database.writing() as db:
        people_table.set_secret(db, session.member.id, fresh)
        people_table.end_sessions_of(db, session.member.id, shop.now(), but=session.id)


def set_secret(shop: Shop, by: Member, member_id: int, secret: str) -> None:
    """The keeper gives a member a new PIN or passphrase; the member is signed out everywhere, and need not wait."""
    require(by, "keeper", "give out passphrases")
    with shop.database.reading() as db:
        name = people_table.member(db, member_id)["name"]
    fresh = hashed(secret, _names(shop, name))
    with shop.database.writing() as db:
        member = people_table.member(db, member_id)
        if member["retired"]:
            raise Refused(f"{member['name']} is no longer here.", "member")
        people_table.set_secret(db, member_id, fresh)
        people_table.forget_tries(db, name_key(member["name"]))
        people_table.end_sessions_of(db, member_id, shop.now())
        changes.log(db, "member", member_id, "gave a new passphrase to", member["name"], by.id, shop.now())


def add_member(shop: Shop, by: Member, name: str, role: str, secret: str) -> Member:
    """Add a member, with a first PIN or passphrase unless it is empty."""
    require(by, "keeper", "add members")
    return people.add_member(shop, by, name, role, hashed(secret, _names(shop, name)) if secret else None)


def _names(shop: Shop, member: str) -> tuple[str, ...]:
    """What no passphrase of that member may be."""
    return (member, people.shop_name(shop) or "")
