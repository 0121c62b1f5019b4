"""A plate that grows coupon by coupon: the next one is planned beside what is burned, and joins its burn."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from rezept.actions.commands.trial_log import log_trial
from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.growing import burn_that_grows, burned_so_far, grows, grows_beside, pieceless
from rezept.actions.queries.previews import next_revision, plan_design
from rezept.actions.typed import Units, resolved_settings
from rezept.core.errors import Refused
from rezept.core.parameters import NEVER_DEFAULTED, PARAMETERS
from rezept.core.plan import Plate
from rezept.core.plan.growing import differing, held_in_place, refuse_moved, room_beside
from rezept.store import trials as trial_table
from rezept.store.rows import Row
from rezept.store.trials import RevisionRow, TrialRow


def refuse_other_than_burned(db: sqlite3.Connection, trial: TrialRow, design: Mapping[str, Any], plate: Plate) -> None:
    """Raise `Refused` where a plate that grows would change what of it is burned, or would grow beside nothing."""
    before = burned_so_far(db, trial["id"]) if grows(design) else None
    if before is None and grows_beside(design):
        raise Refused("An array grows beside itself once it is burned.", "added")
    if before is not None:
        refuse_moved(before, plate)


def set_coupon(shop: Shop, by: Member, trial_id: int, edit: int, settings: Mapping[str, Any], units: Units) -> Row:
    """Plan one coupon in the next free place of the plate; what waited there before is replaced. An array that was
    burned grows from then on, beside itself.

    settings : as somebody typed them; what is held and not named stays as held

    Returns
    -------
    the trial's `edit`, the `patch` and, in words, what `changed` since the coupon before where that is more than one
    thing

    Raises
    ------
    Refused : the trial is an array nobody has burned, was planned anew since, or has no room beside it
    """
    require(by, "member", "plan arrays")
    with shop.database.writing() as db:
        trial = trial_table.trial(db, trial_id)
        latest = trial_table.latest_revision(db, trial_id)
        before = burned_so_far(db, trial_id)
        design = latest["design"] if grows(latest["design"]) else _begun(db, trial_id, latest, before)
        typed = resolved_settings(settings, units, "listed.settings[0]")
        held, told = design["hold"], {*NEVER_DEFAULTED, *(axis["parameter"] for axis in design["axes"])}
        own = {key: value for key, value in typed.items() if key in told or held.get(key) != value}
        where, count = ("added", _beside(before)) if grows_beside(design) else ("listed", _coupons(before))
        rows = [*design[where]["settings"][:count], own]
        design = {**design, where: {**design[where], "settings": rows, "burned": count}}
        if before is not None:
            design |= held_in_place(before, pieceless(design))
        plate = plan_design(db, shop, trial, next_revision(trial_table.latest_number(db, trial_id)), design)
        if before is not None:
            refuse_moved(before, plate)
        trial_table.change_draft(db, trial_id, edit, design, by.id, shop.now())
        log_trial(db, shop, by, trial, "planned the next coupon of")
        return {
            "edit": edit + 1,
            "patch": plate.elements.ids[-1],
            "changed": _changed(plate) if before is not None else [],
        }


def _coupons(before: Plate | None) -> int:
    return 0 if before is None else len(before.elements)


def _beside(before: Plate | None) -> int:
    return 0 if before is None or before.trial.added is None else len(before.trial.added)


def _begun(db: sqlite3.Connection, trial_id: int, latest: RevisionRow, before: Plate | None) -> dict[str, Any]:
    """The design of an array that was burned, as it begins to grow beside itself."""
    burn = burn_that_grows(db, trial_id)
    if before is None or burn is None:
        raise Refused(
            "This trial is an array; burn it, and it can grow, or begin one that is burned coupon by coupon.", "trial"
        )
    if burn["revision_id"] != latest["id"]:
        raise Refused(
            "The plan was changed after it was burned: what it says now is another plate. Burn that, or begin one"
            " that is burned coupon by coupon.",
            "trial",
        )
    design, planned = latest["design"], before.trial.document()
    # What was fitted to the piece stays as it came out.
    as_burned = {key: planned[key] for key in ("axes", "patch", "hold")}
    room = room_beside(before, pieceless(design))
    return {**design, **as_burned, "fit": "as_given", "added": {"settings": [], **room}}


def _changed(plate: Plate) -> list[str]:
    """Names of what the last coupon has otherwise than the one before it, where that is more than one thing."""
    one, other = (plate.judged.settings_of(len(plate.elements) - which) for which in (2, 1))
    keys = differing(one, other)
    return [PARAMETERS[key].name for key in keys] if len(keys) > 1 else []
