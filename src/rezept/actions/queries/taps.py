"""Taps on recipes of one thing, as evidence: it held on a fresh sheet, or it was too little for it."""

from __future__ import annotations

import sqlite3

from rezept.core.findings.coding import ALWAYS
from rezept.core.findings.ordered_fit import Tap
from rezept.core.lay import LayKey
from rezept.core.recipe import says_of_dose
from rezept.store import book as book_table
from rezept.store import confirmations as confirmation_table


def taps_of(
    db: sqlite3.Connection, material_id: int, head_id: int, process: str, lay: LayKey, stack_of: int | None
) -> list[Tap]:
    """Taps on all recipes of one step of a material, head, process and way to lie (of stacks: of as many sheets), as
    far as they say something of the dose."""
    found = []
    for recipe in book_table.known_recipes(db, material_id=material_id, head_id=head_id, process=process, lay=lay):
        if recipe["stack_of"] != stack_of:
            continue
        settings = recipe["steps"][0]["settings"] if len(recipe["steps"]) == 1 else {}
        if not set(ALWAYS) <= set(settings):
            continue
        for one in confirmation_table.of_recipe(db, recipe["id"]):
            held = True if one["held"] else says_of_dose(one["reason"])
            if held is not None:
                found.append(Tap(settings, held))
    return found
