"""What burns of the shop say, from its records."""

from __future__ import annotations

import sqlite3

from rezept.actions.queries.frozen import frozen_plate
from rezept.core import burned
from rezept.core.findings.observations import Burned, Observations, Outcome, observations_of
from rezept.core.plan import Plate
from rezept.store import burns as burn_table
from rezept.store import readings as reading_table
from rezept.store import runs as run_table


def observed(db: sqlite3.Connection, burn_id: int) -> tuple[Plate, Observations]:
    """A burn's plate as it was burned, and what its elements say."""
    burn = burn_table.burn(db, burn_id)
    runs = burned.runs_of(run_table.runs_of_burn(db, burn_id))
    plate = burned.plate_as_burned(frozen_plate(db, burn["revision_id"]), runs)
    process = plate.trial.process
    outcomes = {
        row["patch"]: Outcome(row["values"][process.outcome], 0.0 if row["sure"] is None else 1.0 - row["sure"])
        for row in reading_table.readings(db, burn_id)
        if row["face"] == process.deciding_face and process.outcome in row["values"]
    }
    names = {
        plate.part_name(index, step): plate.elements.ids[index]
        for index in range(len(plate.elements))
        for step in range(len(plate.steps))
    }
    return plate, observations_of(
        plate,
        outcomes,
        bare=burn_table.patches_not_burned(db, burn_id),
        uncertain={names[part] for part in runs.uncertain if part in names},
        burned=Burned(burn_id, burn["at"][:10], burn["lot"], burn["measured_mm"]),
    )
