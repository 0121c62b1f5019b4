"""PINs and passphrases: what is worth having, and how it is kept."""

from __future__ import annotations

import hashlib
import hmac
import secrets
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from functools import cache
from importlib import resources

from rezept.core.errors import InvalidInput, RezeptError
from rezept.core.names import name_key

SHORTEST_SECRET = 6
LONGEST_SECRET = 200
# scrypt at N = 2^15, r = 8, p = 1 takes 32 MiB and about a tenth of a second (RFC 7914).
COST = (2**15, 8, 1)
_LENGTH = 32
# What a hash may ask for at most, whoever wrote it into the records: 128 MiB.
_MOST_MEMORY = 128 * 2**20
# So many are hashed at the same time, and so many more may wait; the rest of the server goes on meanwhile.
AT_ONCE, MOST_WAITING = 2, 16

_turns = threading.BoundedSemaphore(AT_ONCE)
_places = threading.BoundedSemaphore(AT_ONCE + MOST_WAITING)


class TooManyAtOnce(RezeptError):
    """More passphrases wait to be looked at than the machine should bother with."""


@contextmanager
def _in_turn() -> Iterator[None]:
    if not _places.acquire(blocking=False):
        raise TooManyAtOnce("Too many people are signing in at this moment. Try again in a few seconds.")
    try:
        with _turns:
            yield
    finally:
        _places.release()


def _scrypt(secret: str, salt: bytes, cost: Sequence[int]) -> bytes:
    n, r, p = cost
    with _in_turn():
        return hashlib.scrypt(
            secret.encode("utf-8", "surrogatepass"),
            salt=salt,
            n=n,
            r=r,
            p=p,
            dklen=_LENGTH,
            maxmem=128 * n * r * p + 2**21,
        )


@cache
def weakest() -> frozenset[str]:
    """The thousand secrets that are tried first by whoever guesses, case folded."""
    text = (resources.files("rezept.actions.commands") / "weakest_secrets.txt").read_text("utf-8")
    return frozenset(text.split())


def hashed(secret: str, names: Sequence[str] = (), path: str = "secret") -> str:
    """The salted slow hash of a new PIN or passphrase, after checking that it is worth having.

    names : what it must not be: the member's own name, the shop's
    """
    if not SHORTEST_SECRET <= len(secret) <= LONGEST_SECRET:
        raise InvalidInput(
            f"A PIN or passphrase has {SHORTEST_SECRET} to {LONGEST_SECRET} characters.", path, len(secret)
        )
    key = name_key(secret)
    if len(set(key)) < 2:
        raise InvalidInput("One sign over and over is too easy to guess.", path)
    if key in weakest():
        raise InvalidInput("This is one of the thousand that are tried first. Choose another.", path)
    if key.replace(" ", "") in {name_key(name).replace(" ", "") for name in names}:
        raise InvalidInput("A name is what everybody tries first. Choose another PIN or passphrase.", path)
    return hashed_anew(secret)


def hashed_anew(secret: str) -> str:
    """The salted slow hash of a secret that somebody has already, at today's cost."""
    salt = secrets.token_bytes(16)
    return f"scrypt${'$'.join(map(str, COST))}${salt.hex()}${_scrypt(secret, salt, COST).hex()}"


def _parts(stored: str) -> tuple[tuple[int, ...], bytes, bytes]:
    """Cost, salt and hash; those kept before the cost stood with them had the one there was."""
    *cost, salt, wanted = stored.split("$")[1:]
    return tuple(map(int, cost)) or COST, bytes.fromhex(salt), bytes.fromhex(wanted)


def fits(secret: str, stored: str | None) -> bool:
    """Whether a secret belongs to its hash; an unknown member costs the same time as a known one."""
    cost, salt, wanted = (COST, b"\0" * 16, b"") if stored is None else _parts(stored)
    if 128 * cost[0] * cost[1] * cost[2] > _MOST_MEMORY:
        return False
    return hmac.compare_digest(_scrypt(secret[:LONGEST_SECRET], salt, cost), wanted)


def is_of_today(stored: str) -> bool:
    """Whether a hash was made at today's cost, and says so."""
    return stored.split("$")[1:-2] == [str(one) for one in COST]
