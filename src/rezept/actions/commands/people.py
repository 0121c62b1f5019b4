"""The shop's members: who may do what, and how the keeper changes that."""

from __future__ import annotations

import sqlite3

from rezept.actions.members import ROLES, Member, member_of, require
from rezept.actions.open_shop import Shop
from rezept.core.errors import InvalidInput, NotFound, Refused
from rezept.core.names import clean_own_name, name_key
from rezept.store import changes, search
from rezept.store import people as people_table
from rezept.store import shop as shop_table
from rezept.store.people import MemberRow

TAG_LETTERS = frozenset("0123456789ABCDEFGHJKLMNPQRSTUVWXYZ")


def shop_name(shop: Shop) -> str | None:
    with shop.database.reading() as db:
        here = shop_table.shop(db)
    return None if here is None else str(here["name"])


def shop_address(shop: Shop) -> str | None:
    """Where the shop is reached, as its keeper has set it for printed codes; None where nobody has."""
    with shop.database.reading() as db:
        here = shop_table.shop(db)
    return None if here is None else here["address"]


def set_address(shop: Shop, by: Member, address: str | None) -> None:
    """Say where the shop is reached, for the codes on printed cards; None: wherever the card is printed from."""
    require(by, "keeper", "say where the shop is reached")
    with shop.database.writing() as db:
        shop_table.set_address(db, address)
        changes.log(db, "shop", 1, "set the address of", address or "the shop", by.id, shop.now())


def is_demo(shop: Shop) -> bool:
    with shop.database.reading() as db:
        here = shop_table.shop(db)
    return here is not None and bool(here["demo"])


def member_named(shop: Shop, name: str) -> Member:
    with shop.database.reading() as db:
        for row in _working(db):
            if name_key(row["name"]) == name_key(name):
                return member_of(row)
    raise NotFound(f"There is no member called {name}.", "name")


def member_by_id(shop: Shop, member_id: int) -> Member:
    with shop.database.reading() as db:
        return member_of(people_table.member(db, member_id))


def _working(db: sqlite3.Connection) -> list[MemberRow]:
    return [row for row in people_table.members(db) if not row["retired"]]


def other_keepers(db: sqlite3.Connection, member_id: int) -> list[MemberRow]:
    """Who keeps the shop beside a member."""
    return [row for row in _working(db) if row["role"] == "keeper" and row["id"] != member_id]


def first_keeper(shop: Shop) -> Member | None:
    """Who one is in the demo until somebody is picked, and whom the command line acts for."""
    with shop.database.reading() as db:
        return next((member_of(row) for row in _working(db) if row["role"] == "keeper"), None)


def who_may(shop: Shop, least: str) -> list[str]:
    """The names of those whose role reaches as far as `least`."""
    with shop.database.reading() as db:
        return [row["name"] for row in _working(db) if member_of(row).may(least)]


def must_be_unfounded(shop: Shop) -> None:
    if shop_name(shop) is not None:
        raise InvalidInput("This shop has been founded already.", "name")


def found_shop(
    shop: Shop, name: str, tag: str, keeper: str, secret_hash: str | None = None, demo: bool = False
) -> Member:
    """First run: the shop and its first member, who keeps it."""
    if len(tag) != 4 or not set(tag) <= TAG_LETTERS:
        raise InvalidInput("A shop's tag has four capital letters or digits, no I and no O.", "tag", tag)
    name, keeper = clean_own_name(name), clean_own_name(keeper, "keeper")
    with shop.database.writing() as db:
        if shop_table.shop(db) is not None:
            raise InvalidInput("This shop has been founded already.", "name")
        shop_table.create_shop(db, name, tag, demo, shop.now())
        member = Member(people_table.add_member(db, keeper, "keeper", secret_hash, shop.now()), keeper, "keeper")
        changes.log(db, "shop", 1, "founded", name, member.id, shop.now())
        return member


def _known_role(role: str) -> str:
    if role not in ROLES:
        raise InvalidInput(f"A role is one of {', '.join(ROLES)}.", "role", role)
    return role


def _taken(name: str) -> InvalidInput:
    return InvalidInput(f"There is a member called {name} already.", "name", name)


def add_member(shop: Shop, by: Member, name: str, role: str, secret_hash: str | None = None) -> Member:
    require(by, "keeper", "add members")
    name, role = clean_own_name(name), _known_role(role)
    with shop.database.writing() as db:
        try:
            member = Member(people_table.add_member(db, name, role, secret_hash, shop.now()), name, role)
        except sqlite3.IntegrityError as error:
            raise _taken(name) from error
        changes.log(db, "member", member.id, "added", name, by.id, shop.now())
        return member


def change_member(shop: Shop, by: Member, member_id: int, edit: int, name: str, role: str, retired: bool) -> MemberRow:
    """Rename a member, give them another role, or let them go; whoever goes is signed out everywhere.

    Raises
    ------
    Refused : the shop would be left without a keeper
    Stale : somebody changed this member since `edit`
    """
    require(by, "keeper", "change members")
    name, role = clean_own_name(name), _known_role(role)
    with shop.database.writing() as db:
        before = people_table.member(db, member_id)
        if before["removed"]:
            raise Refused("Who was removed for good does not come back; add them anew.", "member")
        others = other_keepers(db, member_id)
        if not others and (retired or role != "keeper") and before["role"] == "keeper" and not before["retired"]:
            raise Refused(f"{before['name']} is the only keeper. Make somebody else keeper first.", "role", role)
        try:
            after = people_table.change_member(db, member_id, edit, name, role, shop.now() if retired else None)
        except sqlite3.IntegrityError as error:
            raise _taken(name) from error
        search.index(db, "member", member_id)
        if retired:
            people_table.end_sessions_of(db, member_id, shop.now())
        changes.log(db, "member", member_id, "changed", name, by.id, shop.now(), before, after)
        return after
