"""The line of the log that every change of a recipe leaves."""

from __future__ import annotations

import sqlite3

from rezept.actions.open_shop import Shop
from rezept.core.process import PROCESSES
from rezept.store import changes
from rezept.store import equipment as equipment_table
from rezept.store.rows import AnyRow


def log_recipe(db: sqlite3.Connection, shop: Shop, by: int, recipe: AnyRow, verb: str) -> None:
    material = equipment_table.material(db, recipe["material_id"])
    head = equipment_table.head(db, recipe["head_id"])
    title = f"{PROCESSES[recipe['process']].name.lower()} {material['title']} on {head['title']}"
    changes.log(db, "recipe", recipe["id"], verb, title, by, shop.now())
