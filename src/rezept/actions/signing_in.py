"""Signing in by name and PIN or passphrase; sessions that run out and can be ended."""

from __future__ import annotations

import hashlib
import hmac
import secrets
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from rezept.actions.open_shop import Shop
from rezept.actions.people import Member, member_of, require
from rezept.core.errors import InvalidInput, NotFound, Refused, RezeptError
from rezept.store import changes
from rezept.store import people as people_table
from rezept.store.errors import NotSaved
from rezept.store.rows import Row

SHORTEST_SECRET = 6
LONGEST_SECRET = 200
LASTS = timedelta(days=30)
IDLE = timedelta(days=7)
# A session's last use is written at most this often: reading a page should not cost a write.
SEEN_EVERY = timedelta(minutes=10)
FAILURES_WITHIN = timedelta(minutes=15)
MOST_FAILURES_OF_NAME = 5
MOST_FAILURES_FROM_ADDRESS = 30
# scrypt at N = 2^15, r = 8, p = 1 takes 32 MiB and about a tenth of a second (RFC 7914).
_N, _R, _P, _LENGTH = 2**15, 8, 1, 32


class NotSignedIn(RezeptError):
    """Nobody is signed in, or name and passphrase do not fit together."""


class TooManyAttempts(RezeptError):
    """Signing in failed too often; the sentence says how long to wait."""


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


def _scrypt(secret: str, salt: bytes) -> bytes:
    return hashlib.scrypt(
        secret.encode(), salt=salt, n=_N, r=_R, p=_P, dklen=_LENGTH, maxmem=2 * 128 * _N * _R * _P + 2**20
    )


def hashed(secret: str, path: str = "secret") -> str:
    """The salted slow hash of a new PIN or passphrase, after checking that it is worth having."""
    if not SHORTEST_SECRET <= len(secret) <= LONGEST_SECRET:
        raise InvalidInput(f"A PIN or passphrase has {SHORTEST_SECRET} to {LONGEST_SECRET} signs.", path, len(secret))
    if len(set(secret)) == 1:
        raise InvalidInput("One sign over and over is too easy to guess.", path)
    salt = secrets.token_bytes(16)
    return f"scrypt${salt.hex()}${_scrypt(secret, salt).hex()}"


def _fits(secret: str, stored: str | None) -> bool:
    """Whether a secret belongs to its hash; an unknown member costs the same time as a known one."""
    salt, wanted = (b"\0" * 16, b"") if stored is None else map(bytes.fromhex, stored.split("$")[1:])
    return hmac.compare_digest(_scrypt(secret[:LONGEST_SECRET], salt), wanted)


def _stamp(moment: datetime) -> str:
    return moment.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


def _before(shop: Shop, span: timedelta) -> str:
    return _stamp(shop.clock() - span)


def _wait_for(shop: Shop, failures: list[str], most: int) -> int | None:
    """Minutes until one may try again, or None where one may now."""
    if len(failures) < most:
        return None
    free = datetime.fromisoformat(failures[-most]) + FAILURES_WITHIN
    return max(1, -int((shop.clock() - free).total_seconds() // 60))


def _refuse_too_many(shop: Shop, name: str, address: str) -> None:
    with shop.database.reading() as db:
        of_name, of_address = people_table.failures(db, name, address, _before(shop, FAILURES_WITHIN))
    waits = (
        _wait_for(shop, of_name, MOST_FAILURES_OF_NAME),
        _wait_for(shop, of_address, MOST_FAILURES_FROM_ADDRESS),
    )
    minutes = max((wait for wait in waits if wait), default=0)
    if minutes:
        raise TooManyAttempts(
            f"Signing in failed too often. Try again in {minutes} {'minute' if minutes == 1 else 'minutes'}.", "secret"
        )


def sign_in(shop: Shop, name: str, secret: str, address: str, device: str) -> Session:
    """A new session for the member of that name.

    Raises
    ------
    NotSignedIn : no such member, or another secret; which of both is not told
    TooManyAttempts : too many failures for that name or from that address lately
    """
    name = " ".join(name.split())[:80]
    _refuse_too_many(shop, name, address)
    with shop.database.reading() as db:
        known = people_table.secret_of(db, name)
    if not _fits(secret, known[1] if known else None):
        with shop.database.writing() as db:
            people_table.add_failure(db, name, address, shop.now())
        raise NotSignedIn("That name and passphrase do not fit together.", "secret")
    assert known is not None
    with shop.database.writing() as db:
        people_table.forget_failures(db, name, _before(shop, FAILURES_WITHIN))
    return start_session(shop, known[0], device)


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
    _refuse_too_many(shop, session.member.name, address)
    fresh = hashed(new, "new")
    with shop.database.reading() as db:
        known = people_table.secret_of(db, session.member.name)
    if not _fits(old, known[1] if known else None):
        with shop.database.writing() as db:
            people_table.add_failure(db, session.member.name, address, shop.now())
        raise InvalidInput("That is not your passphrase.", "old")
    with shop.database.writing() as db:
        people_table.set_secret(db, session.member.id, fresh)
        people_table.end_sessions_of(db, session.member.id, shop.now(), but=session.id)


def set_secret(shop: Shop, by: Member, member_id: int, secret: str) -> None:
    """The keeper gives a member a new PIN or passphrase; the member is signed out everywhere."""
    require(by, "keeper", "give out passphrases")
    fresh = hashed(secret)
    with shop.database.writing() as db:
        member = people_table.member(db, member_id)
        if member["retired"]:
            raise Refused(f"{member['name']} is no longer here.", "member")
        people_table.set_secret(db, member_id, fresh)
        people_table.end_sessions_of(db, member_id, shop.now())
        changes.log(db, "member", member_id, "gave a new passphrase to", member["name"], by.id, shop.now())
