"""Machines and materials as the core knows them, and all that a shop has."""

from __future__ import annotations

from rezept.actions.open_shop import Shop
from rezept.core.fields import Fields
from rezept.core.machine import Machine, read_machine
from rezept.core.material import Material, read_material
from rezept.core.plan.holding import settings_on
from rezept.core.process import PROCESSES
from rezept.store import changes
from rezept.store import equipment as equipment_table
from rezept.store import people as people_table
from rezept.store import shop as shop_table
from rezept.store.equipment import HeadRow, MaterialRow
from rezept.store.rows import Row

MATERIAL_KEYS = ("name", "family", "thickness_mm", "mark", "hazards", "ground_lab")


def machine_of(head: HeadRow) -> Machine:
    """The core's machine from a head's row."""
    return read_machine(Fields({**head["machine_facts"], "head": head["facts"]}, "machine"))


def material_of(material: MaterialRow) -> Material:
    """The core's material from its row."""
    plain = {key: value for key, value in material.items() if key in MATERIAL_KEYS}
    return read_material(Fields({**plain, **material["facts"]}, "material"))


def inventory(shop: Shop) -> Row:
    """The shop with everything in it, as the interface needs it to begin."""
    with shop.database.reading() as db:
        heads = equipment_table.heads(db)
        machines = {head["id"]: machine_of(head) for head in heads}
        return {
            "shop": shop_table.shop(db),
            "members": people_table.members(db),
            "latest_change": changes.latest_id(db),
            **{f"{kind}s": equipment_table.all_of(db, kind) for kind in equipment_table.KINDS if kind != "head"},
            "heads": heads,
            "settings_on": {
                head: {process: settings_on(machine, process) for process in PROCESSES}
                for head, machine in machines.items()
            },
        }
