"""The plate as it was really burned: passes that add up, corrections made meanwhile.

The one way from a plate and its runs to what was burned: screens, margins, finer steps and recipes all go it.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from rezept.actions.frozen import frozen_plate
from rezept.core import burned
from rezept.core.plan import Plate
from rezept.store import burns as burn_table
from rezept.store import runs as run_table


def as_burned(db: sqlite3.Connection, burn_id: int, plate: Mapping[str, Any]) -> dict[str, Any]:
    """A plate document with the settings and doses its elements really got in a burn."""
    return burned.document_as_burned(plate, burned.runs_of(run_table.runs_of_burn(db, burn_id)))


def plate_as_burned(db: sqlite3.Connection, burn_id: int) -> Plate:
    """The same as a plate of the core."""
    plate = frozen_plate(db, burn_table.burn(db, burn_id)["revision_id"])
    return burned.plate_as_burned(plate, burned.runs_of(run_table.runs_of_burn(db, burn_id)))
