"""Members, and what they may."""

from __future__ import annotations

from dataclasses import dataclass

from rezept.core.errors import RezeptError
from rezept.store.rows import Row

# Each may do what those before it may.
ROLES = ("guest", "member", "technician", "keeper")


class NotAllowed(RezeptError):
    """The member's role does not reach that far.

    least : the role that would; None where no role helps
    """

    def __init__(self, sentence: str, least: str | None, path: str = "") -> None:
        super().__init__(sentence, path)
        self.least = least


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
        raise NotAllowed(f"{member.name} is here as {member.role}; to {what}, ask a {least}.", least)


def member_of(row: Row) -> Member:
    return Member(row["id"], row["name"], row["role"])
