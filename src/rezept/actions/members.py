"""Members, and what they may."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from rezept.core.errors import RezeptError
from rezept.store.people import MemberRow

RoleKey = Literal["guest", "member", "technician", "keeper"]
# What each does here beside what those before it do.
ROLES: dict[str, str] = {
    "guest": "reads",
    "member": "plans, burns, reads, keeps",
    "technician": "also proves, looks after machines and materials",
    "keeper": "also people and backup",
}


def reach(role: str) -> tuple[str, ...]:
    """The roles whose work somebody of that role may do."""
    known = tuple(ROLES)
    return known[: known.index(role) + 1]


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
        return least in reach(self.role)


def require(member: Member, least: str, what: str) -> None:
    """Raise `NotAllowed` unless the member's role is at least `least`."""
    if not member.may(least):
        raise NotAllowed(f"{member.name} is here as {member.role}; to {what}, ask a {least}.", least)


def member_of(row: MemberRow) -> Member:
    return Member(row["id"], row["name"], row["role"])
