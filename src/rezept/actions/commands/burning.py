"""The burn log: who burned what, when and how."""

from __future__ import annotations

import sqlite3
from typing import Any

from rezept.actions.commands import equipment
from rezept.actions.commands.exporting import freeze_latest
from rezept.actions.commands.trial_log import log_trial
from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.as_burned import patch_of_burn
from rezept.actions.queries.clock import clock_at
from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.growing import burn_that_grows, grows, grows_beside
from rezept.actions.typed import read_length, read_sheet
from rezept.core.errors import InvalidInput, NotFound, Refused
from rezept.core.fields import Fields
from rezept.core.lay import LAYS, MOST_STACKED
from rezept.core.names import clean_name
from rezept.core.plan.clock import timetable
from rezept.core.plan.growing import still_to_burn
from rezept.core.plan.moves import PART_OF
from rezept.core.remark import IN_WORDS, REMARKS
from rezept.core.units import read_quantity
from rezept.store import book as book_table
from rezept.store import burns as burn_table
from rezept.store import clock as clock_table
from rezept.store import equipment as equipment_table
from rezept.store import failed as failed_table
from rezept.store import runs as run_table
from rezept.store import trials as trial_table
from rezept.store.burns import BurnRow
from rezept.store.rows import AnyRow, Row
from rezept.store.runs import RemarkRow
from rezept.store.trials import RevisionRow, TrialRow


def _stacked(typed: Any) -> int | None:
    """How many sheets lie on one another, as somebody typed it; None of an empty field."""
    if typed is None or (isinstance(typed, str) and not typed.strip()):
        return None
    count = read_quantity(typed, "count", "stack_of") if isinstance(typed, str) else typed
    sheets: int = Fields({"stack_of": count}).whole("stack_of", at_least=2, at_most=MOST_STACKED)
    return sheets


def _conditions(document: Any) -> Row:
    fields = Fields(document)
    measured = read_sheet(fields.take("measured_mm", None), "measured_mm", "The thickness")
    conditions = {
        "lot": (fields.text("lot", "", longest=80) or "").strip(),
        "measured_mm": measured,
        "focus": fields.text("focus", "", longest=200),
        "air": fields.text("air", "", longest=200),
        "cleaning": fields.text("cleaning", "", longest=200),
        "hold_down": fields.text("hold_down", "", longest=200),
        "lay": fields.choice("lay", tuple(LAYS), "flat"),
        "roller_mm": read_length(fields.take("roller_mm", None), "roller_mm", "The roller"),
        "stack_of": _stacked(fields.take("stack_of", None)),
        "below": fields.text("below", "", longest=200),
        "tabs": fields.text("tabs", "", longest=200),
        "note": fields.text("note", "", longest=2000),
    }
    if conditions["roller_mm"] is not None:
        Fields({"roller_mm": conditions["roller_mm"]}).number("roller_mm", above=0.0, at_most=5000.0)
    if conditions["roller_mm"] is not None and conditions["lay"] != "roller":
        raise InvalidInput("Only what lies on a roller has a diameter there.", "roller_mm", conditions["roller_mm"])
    if (conditions["stack_of"] is not None) != (conditions["lay"] == "stacked"):
        raise InvalidInput("A stack, and only a stack, is of so many sheets.", "stack_of", conditions["stack_of"])
    if measured is not None:
        Fields({"measured_mm": measured}).number("measured_mm", above=0.0, at_most=1000.0)
    fields.finish()
    return conditions


def mark_burned(shop: Shop, by: Member, trial_id: int, edit: int, document: Any) -> int:
    """Record that the latest design was burned; returns the burn's id.

    A draft is frozen first: what was burned never changes again. A lot that is new is added to the material.
    """
    require(by, "member", "burn")
    _conditions(document)
    revision = freeze_latest(shop, by, trial_id, edit)
    with shop.database.writing() as db:
        trial = trial_table.trial(db, trial_id)
        frozen = trial_table.revision(db, trial_id, revision)
        burn_id = burn_of(db, shop, by, trial, frozen, document)
        if grows(frozen["design"]):
            slots = timetable(still_to_burn(frozen_plate(db, frozen["id"])))
            parts = [slot.row for slot in slots if slot.kind == "patch"]
            run_table.add_run(db, burn_id, "whole", "hand", parts, by.id, shop.now())
        return burn_id


def burn_of(db: sqlite3.Connection, shop: Shop, by: Member, trial: TrialRow, frozen: RevisionRow, document: Any) -> int:
    """The burn of a frozen revision: a new one, or that of what was burned before where the plate grows."""
    before = burn_that_grows(db, trial["id"]) if grows(frozen["design"]) else None
    if before is None:
        return add_burn(db, shop, by, trial, frozen["id"], document)
    if before["revision_id"] == frozen["id"]:
        raise Refused("This coupon is burned already; plan the next one.", "trial")
    log_trial(db, shop, by, trial, "burned the next coupon of")
    burn_table.grow(db, before["id"], frozen["id"])
    return before["id"]


def add_burn(db: sqlite3.Connection, shop: Shop, by: Member, trial: TrialRow, revision_id: int, document: Any) -> int:
    """A burn of a frozen revision with its conditions, inside the caller's transaction."""
    conditions = _with_lot(db, shop, by, trial, _conditions(document))
    log_trial(db, shop, by, trial, "burned")
    return burn_table.add_burn(db, revision_id, conditions, by.id, shop.now())


def _with_lot(db: sqlite3.Connection, shop: Shop, by: Member, trial: TrialRow, conditions: AnyRow) -> Row:
    """Conditions with the lot they name, which is added to the material where it is new."""
    with_lot = {key: value for key, value in conditions.items() if key != "lot"} | {"lot_id": None}
    if conditions["lot"]:
        name = clean_name(conditions["lot"], "lot")
        known = equipment_table.lot_named(db, trial["material_id"], name)
        with_lot["lot_id"] = (
            known["id"]
            if known
            else equipment.added_lot(db, shop, by, trial["material_id"], name, conditions["measured_mm"])
        )
    return with_lot


def _to_put_right(db: sqlite3.Connection, by: Member, burn_id: int, what: str) -> tuple[BurnRow, TrialRow]:
    """A burn and its trial, for whoever noted it or a technician.

    Raises
    ------
    Refused : something was kept from it
    """
    burn = burn_table.burn(db, burn_id)
    if burn["by_member"] != by.id:
        require(by, "technician", f"{what} what others noted")
    if burn["taken_back_at"] is not None:
        raise NotFound("This burn was taken back.", "burn")
    kept = book_table.recipes_of_burn(db, burn_id)
    if failed_table.failed_settings(db, burn_id=burn_id):
        raise Refused("What failed on it was kept, so this burn stays as it is.", "burn")
    if kept:
        where = f" ({kept[0]['patch']})" if kept[0]["burn_id"] == burn_id else ""
        raise Refused(f"A recipe was kept from this burn{where}, so it stays as it is.", "burn")
    return burn, trial_table.trial(db, burn["trial_id"])


def correct_burn(shop: Shop, by: Member, burn_id: int, document: Any) -> None:
    """Put right how a plate was burned, while nothing was kept from it; the burn says since when and by whom."""
    require(by, "member", "burn")
    with shop.database.writing() as db:
        _, trial = _to_put_right(db, by, burn_id, "put right")
        conditions = _with_lot(db, shop, by, trial, _conditions(document))
        burn_table.correct(db, burn_id, conditions, by.id, shop.now())
        log_trial(db, shop, by, trial, "put right the burn of")


def take_back_burn(shop: Shop, by: Member, burn_id: int) -> int:
    """Say that a plate was not burned after all, while nothing was kept from it; returns the trial's id.

    Its readings and photos rest with it. What went over the live link did happen and stays.
    """
    require(by, "member", "burn")
    with shop.database.writing() as db:
        _, trial = _to_put_right(db, by, burn_id, "take back")
        if any(run["via"] == "link" for run in run_table.runs_of_burn(db, burn_id)):
            raise Refused("This was burned over the live link: it did happen. Put right how, if that is wrong.", "burn")
        burn_table.take_back(db, burn_id, by.id, shop.now())
        log_trial(db, shop, by, trial, "took back the burn of")
        design = trial_table.latest_revision(db, trial["id"])["design"]
        if grows_beside(design):
            # Beside what is not burned nothing grows.
            whole = {key: value for key, value in design.items() if key != "added"}
            trial_table.change_draft(db, trial["id"], trial["edit"], whole, by.id, shop.now())
        return int(trial["id"])


def remark(shop: Shop, by: Member, burn_id: int, document: Any) -> RemarkRow:
    """Note what was seen while it burned, or done to it; returns the remark. While it is followed by the clock, one
    that names no patch is about what burns just now."""
    require(by, "member", "keep the burn log")
    fields = Fields(document)
    kind = fields.choice("kind", tuple(REMARKS))
    patch = fields.text("patch", None, longest=12)
    note = (fields.text("note", "", longest=500) or "").strip()
    fields.finish()
    if kind == IN_WORDS and not note:
        raise InvalidInput("Say what there is to note.", "note")
    with shop.database.writing() as db:
        burn = burn_table.burn(db, burn_id)
        by_clock = patch is None and clock_table.is_going(db, burn_id)
        if by_clock:
            current = clock_at(db, clock_table.run_by_clock(db, burn_id), shop.clock())[2].current
            # Lettering and the plate's own cuts are no patch.
            patch = None if current is None or current in PART_OF.values() else current.partition("/")[0]
        if patch is not None:
            patch_of_burn(db, burn_id, patch)
        log_trial(db, shop, by, trial_table.trial(db, burn["trial_id"]), "kept the burn log of")
        run_table.add_remark(db, burn_id, kind, patch, note, by_clock, by.id, shop.now())
        return run_table.remarks(db, burn_id)[-1]


def take_back_remark(shop: Shop, by: Member, remark_id: int) -> None:
    """Take a remark back; one's own, or as a technician."""
    require(by, "member", "keep the burn log")
    with shop.database.writing() as db:
        remark = run_table.remark(db, remark_id)
        if remark["by_member"] != by.id:
            require(by, "technician", "take back what others noted")
        burn = burn_table.burn(db, remark["burn_id"])
        run_table.take_back_remark(db, remark_id, shop.now())
        log_trial(db, shop, by, trial_table.trial(db, burn["trial_id"]), "kept the burn log of")


def mark_not_burned(shop: Shop, by: Member, burn_id: int, patch: str, not_burned: bool) -> None:
    """Say that a patch of a burn stayed bare, or take that back."""
    require(by, "member", "keep the burn log")
    with shop.database.writing() as db:
        frozen, _ = patch_of_burn(db, burn_id, patch)
        log_trial(db, shop, by, trial_table.trial(db, frozen["trial_id"]), "kept the burn log of")
        burn_table.mark_not_burned(db, burn_id, patch, not_burned, by.id, shop.now())
