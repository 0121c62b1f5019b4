"""A plate that grows coupon by coupon: which of a trial's designs do, and what of it is burned."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from rezept.actions.queries.frozen import frozen_plate
from rezept.core.plan import Plate
from rezept.store import burns as burn_table
from rezept.store.burns import BurnRow


def grows(design: Mapping[str, Any]) -> bool:
    """Whether a design is burned coupon by coupon: from the first one on, or beside an array."""
    listed = design.get("listed")
    return grows_beside(design) or (isinstance(listed, dict) and listed.get("burned") is not None)


def grows_beside(design: Mapping[str, Any]) -> bool:
    """Whether its coupons lie beside what was burned as a whole."""
    return design.get("added") is not None


def pieceless(design: Mapping[str, Any]) -> bool:
    """Whether nobody has said how large the piece is."""
    return design.get("piece") is None and design.get("piece_id") is None


def burn_that_grows(db: sqlite3.Connection, trial_id: int) -> BurnRow | None:
    """The burn a trial's next coupon joins; None before its first."""
    burns = burn_table.burns_of_trial(db, trial_id)
    return burns[0] if burns else None


def burned_so_far(db: sqlite3.Connection, trial_id: int) -> Plate | None:
    """The plate of what has been burned so far."""
    burn = burn_that_grows(db, trial_id)
    return None if burn is None else frozen_plate(db, burn["revision_id"])
