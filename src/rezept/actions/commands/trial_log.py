"""The line of the log that every change of a trial leaves."""

from __future__ import annotations

import sqlite3

from rezept.actions.members import Member
from rezept.actions.open_shop import Shop
from rezept.core.names import trial_name
from rezept.store import changes
from rezept.store.trials import TrialRow


def log_trial(db: sqlite3.Connection, shop: Shop, by: Member, trial: TrialRow, verb: str) -> None:
    changes.log(db, "trial", trial["id"], verb, trial_name(trial["number"]), by.id, shop.now())
