"""Keeping a patch as a recipe, and changing what the book says of it."""

from __future__ import annotations

from typing import Any

from rezept.actions.burning import patch_of_burn
from rezept.actions.open_shop import Shop
from rezept.actions.people import Member, NotAllowed, require
from rezept.core.errors import InvalidInput, Refused
from rezept.core.fields import Fields
from rezept.core.process import PROCESSES
from rezept.core.reading import deciding_face
from rezept.core.recipe import STANDINGS, STANDINGS_BY_MEMBERS
from rezept.store import book as book_table
from rezept.store import burns as burn_table
from rezept.store.rows import Row


def _may_say(by: Member, standing: str) -> None:
    if standing not in STANDINGS_BY_MEMBERS and not by.may("technician"):
        raise NotAllowed(
            f"Only technicians mark a recipe as {standing}; {by.name} is here as {by.role}.", "technician", "standing"
        )


def keep_recipe(shop: Shop, by: Member, burn_id: int, patch: str, document: Any) -> int:
    """Keep the settings of a burned and read patch; no number is typed again. Returns the recipe's id."""
    require(by, "member", "keep recipes")
    fields = Fields(document)
    standing = fields.choice("standing", ("tried", "proven"), "tried")
    purpose = (fields.text("purpose", "", longest=80) or "").strip()
    note = fields.text("note", "", longest=4000)
    fields.finish()
    _may_say(by, standing)
    with shop.database.writing() as db:
        frozen, planned = patch_of_burn(db, burn_id, patch)
        process = PROCESSES[frozen["process"]]
        if patch in burn_table.patches_not_burned(db, burn_id):
            raise Refused(f"{patch} was not burned, so there is nothing to keep.", "patch", patch)
        reading = burn_table.reading(db, burn_id, patch, deciding_face(process))
        if reading is None or reading[process.outcome] is None:
            raise Refused(f"{patch} has not been read yet. Score it first.", "patch", patch)
        for kept in book_table.recipes_of_burn(db, burn_id):
            if kept["patch"] == patch and kept["purpose"] == purpose and kept["standing"] != "retired":
                raise Refused(f"{patch} is in the book already.", "patch", patch)
        recipe = {
            "head_id": frozen["head_id"],
            "material_id": frozen["material_id"],
            "process": frozen["process"],
            "purpose": purpose,
            "standing": standing,
            "note": note,
            "burn_id": burn_id,
            "patch": patch,
        }
        step = {"name": process.name, "process": process.key, "settings": planned["settings"]}
        return book_table.add_recipe(db, recipe, [step], by.id, shop.now())


def change_recipe(shop: Shop, by: Member, recipe_id: int, edit: int, document: Any) -> Row:
    """Change standing, purpose or note of a recipe, made from its version `edit`."""
    require(by, "member", "change recipes")
    fields = Fields(document)
    change: Row = {}
    if "standing" in fields.data:
        change["standing"] = fields.choice("standing", STANDINGS)
    if "purpose" in fields.data:
        change["purpose"] = fields.text("purpose", longest=80).strip()
    if "note" in fields.data:
        change["note"] = fields.text("note", longest=4000)
    fields.finish()
    if not change:
        raise InvalidInput("Nothing to change was named: standing, purpose or note.", "")
    with shop.database.writing() as db:
        before = book_table.recipe(db, recipe_id)
        if change.get("standing", before["standing"]) != before["standing"]:
            _may_say(by, change["standing"])
            if before["standing"] == "proven":
                require(by, "technician", "take back that it is proven")
        return book_table.change_recipe(db, recipe_id, edit, change, by.id, shop.now())
