"""A plan against the trial before it on the same material."""

from __future__ import annotations

import sqlite3
from typing import Any

from rezept.core.plan import Plate
from rezept.core.plan.changed import changes
from rezept.store import burns as burn_table
from rezept.store import trials as trial_table
from rezept.store.trials import TrialRow


def _before(db: sqlite3.Connection, trial: TrialRow) -> tuple[TrialRow, dict[str, Any]] | None:
    """The latest trial with a lower number that was burned on this material for the same process, and its plate."""
    for other in trial_table.trials(db, material_id=trial["material_id"]):
        if other["number"] < trial["number"] and other["process"] == trial["process"]:
            burns = burn_table.burns_of_trial(db, other["id"])
            if burns:
                return other, trial_table.plate_of_revision(db, burns[0]["revision_id"])["plate"]
    return None


def against_the_one_before(db: sqlite3.Connection, trial: TrialRow, plate: Plate) -> dict[str, Any] | None:
    """What else changed since the last burned trial on this material; None where there is none."""
    found = _before(db, trial)
    if found is None:
        return None
    other, burned = found
    return {
        "trial": other["id"],
        "number": other["number"],
        "changes": changes(burned["trial"], plate.trial.document()),
    }
