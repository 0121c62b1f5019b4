"""Who may do what."""

from __future__ import annotations

from dataclasses import dataclass

from rezept.actions.open_shop import Shop
from rezept.core.errors import InvalidInput, RezeptError
from rezept.store import shop as shop_table
from rezept.store.rows import Row

# Each may do what those before it may.
ROLES = ("guest", "member", "technician", "keeper")


class NotAllowed(RezeptError):
    """The member's role does not reach that far; the sentence says whose does."""


@dataclass(frozen=True)
class Member:
    id: int
    name: str
    role: str

    def may(self, least: str) -> bool:
        return ROLES.index(self.role) >= ROLES.index(least)


def require(member: Member, least: str, what: str) -> None:
    """Raise `NotAllowed` unless the member's role is at least `least`."""
    if not member.may(least):
        raise NotAllowed(f"{member.name} is here as {member.role}; to {what}, ask a {least}.")


def member_of(row: Row) -> Member:
    return Member(row["id"], row["name"], row["role"])


def member_by_id(shop: Shop, member_id: int) -> Member:
    with shop.database.reading() as db:
        return member_of(shop_table.member(db, member_id))


def first_member(shop: Shop) -> Member | None:
    """Who one is until somebody is picked: the shop's first member."""
    with shop.database.reading() as db:
        everyone = shop_table.members(db)
    return member_of(everyone[0]) if everyone else None


def clean_name(name: str, path: str = "name") -> str:
    """A name for people to read: one line, not empty, not endless."""
    cleaned = " ".join(name.split())
    if not 1 <= len(cleaned) <= 80:
        raise InvalidInput("A name has 1 to 80 letters.", path, len(cleaned))
    return cleaned
