"""Setting up a shop: its name, members, machines with heads, materials and lots."""

from __future__ import annotations

import sqlite3
from typing import Any

from rezept.actions.open_shop import Shop
from rezept.actions.people import ROLES, Member, clean_name, require
from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.machine import Machine, read_machine
from rezept.core.material import Material, read_material
from rezept.core.process import PROCESSES
from rezept.store import shop as shop_table
from rezept.store.rows import Row

TAG_LETTERS = frozenset("0123456789ABCDEFGHJKLMNPQRSTUVWXYZ")


def found_shop(shop: Shop, name: str, tag: str, keeper: str, demo: bool = False) -> Member:
    """First run: the shop and its first member, who keeps it."""
    if len(tag) != 4 or not set(tag) <= TAG_LETTERS:
        raise InvalidInput("A shop's tag has four capital letters or digits.", "tag", tag)
    with shop.database.writing() as db:
        if shop_table.shop(db) is not None:
            raise InvalidInput("This shop has been founded already.", "name")
        shop_table.create_shop(db, clean_name(name), tag, demo, shop.now())
        keeper = clean_name(keeper)
        return Member(shop_table.add_member(db, keeper, "keeper", shop.now()), keeper, "keeper")


def add_member(shop: Shop, by: Member, name: str, role: str) -> Member:
    require(by, "keeper", "add members")
    if role not in ROLES:
        raise InvalidInput(f"A role is one of {', '.join(ROLES)}.", "role", role)
    name = clean_name(name)
    with shop.database.writing() as db:
        try:
            return Member(shop_table.add_member(db, name, role, shop.now()), name, role)
        except sqlite3.IntegrityError as error:
            raise InvalidInput(f"There is a member called {name} already.", "name", name) from error


def add_machine(shop: Shop, by: Member, document: dict[str, Any], heads: list[dict[str, Any]]) -> list[int]:
    """A machine with its heads, as in a trial file; returns the heads' ids in order."""
    require(by, "technician", "add machines")
    if not heads:
        raise InvalidInput("A machine needs at least one head.", "heads")
    machines = [read_machine(Fields({**document, "head": head}, f"heads[{i}]")) for i, head in enumerate(heads)]
    facts = machines[0].document()
    facts.pop("head")
    with shop.database.writing() as db:
        try:
            machine_id = shop_table.add_machine(db, machines[0].name, facts, by.id, shop.now())
            return [
                shop_table.add_head(db, machine_id, machine.head.name, machine.head.document(), by.id, shop.now())
                for machine in machines
            ]
        except sqlite3.IntegrityError as error:
            raise InvalidInput("There is a machine or head of that name already.", "name", document["name"]) from error


def add_material(shop: Shop, by: Member, document: dict[str, Any], processes: list[str]) -> int:
    """A material as in a trial file, with the processes it is meant for."""
    require(by, "technician", "add materials")
    for process in processes:
        if process not in PROCESSES:
            raise InvalidInput(f"{process!r} is not a process.", "processes", process)
    facts = read_material(Fields(document)).document()
    with shop.database.writing() as db:
        try:
            return shop_table.add_material(db, facts, processes, by.id, shop.now())
        except sqlite3.IntegrityError as error:
            raise InvalidInput("There is such a material of that thickness already.", "name", facts["name"]) from error


def add_lot(shop: Shop, by: Member, material_id: int, name: str, measured_mm: float | None) -> int:
    require(by, "member", "add lots")
    with shop.database.writing() as db:
        shop_table.material(db, material_id)
        return shop_table.add_lot(db, material_id, clean_name(name), measured_mm, by.id, shop.now())


def machine_of(head: Row) -> Machine:
    """The core's machine from a head's row."""
    return read_machine(Fields({**head["machine_facts"], "head": head["facts"]}, "machine"))


MATERIAL_KEYS = ("name", "family", "thickness_mm", "mark", "hazards", "ground_lab")


def material_of(row: Row) -> Material:
    """The core's material from its row."""
    return read_material(Fields({key: row[key] for key in MATERIAL_KEYS}, "material"))


def inventory(shop: Shop) -> Row:
    """The shop with everything in it, as the interface needs it to begin."""
    with shop.database.reading() as db:
        return {
            "shop": shop_table.shop(db),
            "members": shop_table.members(db),
            "heads": shop_table.heads(db),
            "materials": shop_table.materials(db),
            "lots": shop_table.lots(db),
        }
