"""The burn log: who burned what, when and how."""

from __future__ import annotations

from typing import Any

from rezept.actions import equipment
from rezept.actions.exporting import freeze_latest
from rezept.actions.open_shop import Shop
from rezept.actions.people import Member, clean_name, require
from rezept.actions.planning import log_trial
from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.units import read_quantity
from rezept.store import burns as burn_table
from rezept.store import equipment as equipment_table
from rezept.store import trials as trial_table
from rezept.store.rows import Row


def _conditions(document: Any) -> Row:
    fields = Fields(document)
    measured = fields.take("measured_mm", None)
    if isinstance(measured, str):
        measured = read_quantity(measured, "length", "measured_mm", "The thickness") if measured.strip() else None
    conditions = {
        "lot": (fields.text("lot", "", longest=80) or "").strip(),
        "measured_mm": measured,
        "focus": fields.text("focus", "", longest=200),
        "air": fields.text("air", "", longest=200),
        "note": fields.text("note", "", longest=2000),
    }
    if measured is not None:
        Fields({"measured_mm": measured}).number("measured_mm", above=0.0, at_most=1000.0)
    fields.finish()
    return conditions


def mark_burned(shop: Shop, by: Member, trial_id: int, edit: int, document: Any) -> int:
    """Record that the latest design was burned; returns the burn's id.

    A draft is frozen first: what was burned never changes again. A lot that is new is added to the material.
    """
    require(by, "member", "burn")
    conditions = _conditions(document)
    revision = freeze_latest(shop, by, trial_id, edit)
    with shop.database.writing() as db:
        trial = trial_table.trial(db, trial_id)
        frozen = trial_table.revision(db, trial_id, revision)
        conditions["lot_id"] = None
        if conditions["lot"]:
            name = clean_name(conditions["lot"], "lot")
            known = equipment_table.lot_named(db, trial["material_id"], name)
            conditions["lot_id"] = (
                known["id"]
                if known
                else equipment.added_lot(db, shop, by, trial["material_id"], name, conditions["measured_mm"])
            )
        del conditions["lot"]
        log_trial(db, shop, by, trial, "burned")
        return burn_table.add_burn(db, frozen["id"], conditions, by.id, shop.now())


def patch_of_burn(db: Any, burn_id: int, patch: str) -> tuple[Row, Row]:
    """The frozen revision of a burn and the document of one of its patches that was to burn."""
    burn = burn_table.burn(db, burn_id)
    frozen = trial_table.plate_of_revision(db, burn["revision_id"])
    for document in frozen["plate"]["patches"]:
        if document["id"] == patch:
            if not document["burn"]:
                raise InvalidInput(f"{patch} was switched off in this plan.", "patch", patch)
            return frozen, document
    raise InvalidInput(f"There is no patch {patch} on this plate.", "patch", patch)


def mark_not_burned(shop: Shop, by: Member, burn_id: int, patch: str, not_burned: bool) -> None:
    """Say that a patch of a burn stayed bare, or take that back."""
    require(by, "member", "keep the burn log")
    with shop.database.writing() as db:
        frozen, _ = patch_of_burn(db, burn_id, patch)
        log_trial(db, shop, by, trial_table.trial(db, frozen["trial_id"]), "kept the burn log of")
        burn_table.mark_not_burned(db, burn_id, patch, not_burned, by.id, shop.now())
