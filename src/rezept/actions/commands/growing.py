"""A plate that grows coupon by coupon: the next one is planned beside what is burned, and joins its burn."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from rezept.actions.commands.trial_log import log_trial
from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.previews import next_revision, plan_design
from rezept.actions.typed import Units, resolved
from rezept.core.errors import Refused
from rezept.core.parameters import NEVER_DEFAULTED, PARAMETERS
from rezept.core.plan import Plate
from rezept.core.plan.growing import differing, pinned, refuse_moved
from rezept.store import burns as burn_table
from rezept.store import trials as trial_table
from rezept.store.burns import BurnRow
from rezept.store.rows import Row
from rezept.store.trials import TrialRow


def grows(design: Mapping[str, Any]) -> bool:
    """Whether a design is burned coupon by coupon."""
    listed = design.get("listed")
    return isinstance(listed, dict) and listed.get("burned") is not None


def burn_that_grows(db: sqlite3.Connection, trial_id: int) -> BurnRow | None:
    """The burn a trial's next coupon joins; None before its first."""
    burns = burn_table.burns_of_trial(db, trial_id)
    return burns[0] if burns else None


def _burned(db: sqlite3.Connection, trial_id: int) -> Plate | None:
    """The plate of what has been burned so far."""
    burn = burn_that_grows(db, trial_id)
    return None if burn is None else frozen_plate(db, burn["revision_id"])


def refuse_other_than_burned(db: sqlite3.Connection, trial: TrialRow, design: Mapping[str, Any], plate: Plate) -> None:
    """Raise `Refused` where a plate that grows would change what of it is burned."""
    before = _burned(db, trial["id"]) if grows(design) else None
    if before is not None:
        refuse_moved(before, plate)


def set_coupon(shop: Shop, by: Member, trial_id: int, edit: int, settings: Mapping[str, Any], units: Units) -> Row:
    """Plan one coupon in the next free place of the plate; what waited there before is replaced.

    settings : as somebody typed them; what is held and not named stays as held

    Returns
    -------
    the trial's `edit`, the `patch` and, in words, what `changed` since the coupon before where that is more than one
    thing

    Raises
    ------
    Refused : the trial is an array
    """
    require(by, "member", "plan arrays")
    with shop.database.writing() as db:
        trial = trial_table.trial(db, trial_id)
        latest = trial_table.latest_revision(db, trial_id)
        design = latest["design"]
        if not grows(design):
            raise Refused("This trial is an array; begin one that is burned coupon by coupon.", "trial")
        before = _burned(db, trial_id)
        count = 0 if before is None else len(before.elements)
        [typed] = resolved({"listed": {"settings": [dict(settings)]}}, units)["listed"]["settings"]
        held = design["hold"]
        own = {key: value for key, value in typed.items() if key in NEVER_DEFAULTED or held.get(key) != value}
        rows = [*design["listed"]["settings"][:count], own]
        design = {**design, "listed": {**design["listed"], "settings": rows, "burned": count}}
        if before is not None:
            design |= pinned(before, pieceless=design.get("piece") is None and design.get("piece_id") is None)
        plate = plan_design(db, shop, trial, next_revision(trial_table.latest_number(db, trial_id)), design)
        if before is not None:
            refuse_moved(before, plate)
        trial_table.change_draft(db, trial_id, edit, design, by.id, shop.now())
        log_trial(db, shop, by, trial, "planned the next coupon of")
        return {
            "edit": edit + 1,
            "patch": plate.elements.ids[-1],
            "changed": _changed(plate) if count else [],
        }


def _changed(plate: Plate) -> list[str]:
    """Names of what the last coupon has otherwise than the one before it, where that is more than one thing."""
    one, other = (plate.judged.settings_of(len(plate.elements) - which) for which in (2, 1))
    keys = differing(one, other)
    return [PARAMETERS[key].name for key in keys] if len(keys) > 1 else []
