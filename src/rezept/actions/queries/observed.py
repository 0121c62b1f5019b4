"""What burns of the shop say, from its records."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

import numpy as np

from rezept.actions.queries.frozen import frozen_plate
from rezept.core import burned
from rezept.core.findings.observations import Burned, Observations, Outcome, observations_of
from rezept.core.plan import Plate
from rezept.core.scales import SCALES
from rezept.store import burns as burn_table
from rezept.store import readings as reading_table
from rezept.store import runs as run_table
from rezept.store.burns import BurnRow
from rezept.store.readings import ReadElement
from rezept.store.rows import Row
from rezept.store.runs import RunRow


def picture(plate: Plate, seen: Observations) -> Row:
    """Just enough of a burned plate to draw it small: places, doses as burned, and how each element came out."""
    elements, scale = plate.elements, SCALES[seen.process.outcome]
    x, y, width, height = (column.tolist() for column in elements.boxes.T)
    shown = np.where(np.array([state == "not_burned" for state in seen.state]), np.nan, seen.outcome)
    outcomes = [None if np.isnan(value) else int(value) for value in shown.tolist()]
    columns = (elements.ids, x, y, width, height, elements.burn.tolist(), seen.dose.tolist(), outcomes)
    keys = ("id", "x_mm", "y_mm", "width_mm", "height_mm", "burn", "dose", "outcome")
    return {
        "width_mm": plate.width_mm,
        "height_mm": plate.height_mm,
        "process": seen.process.key,
        "most": int(scale.high),
        "patches": [dict(zip(keys, values, strict=True)) for values in zip(*columns, strict=True)],
    }


@dataclass(frozen=True)
class Observed:
    """A burn with its runs, its plate as it was burned, what was read of it and what stayed bare, and what its elements
    say by all that."""

    burn: BurnRow
    runs: list[RunRow]
    plate: Plate
    readings: list[ReadElement]
    not_burned: list[str]
    seen: Observations


def observed(db: sqlite3.Connection, burn_id: int) -> Observed:
    burn = burn_table.burn(db, burn_id)
    run_rows = run_table.runs_of_burn(db, burn_id)
    runs = burned.runs_of(run_rows)
    not_burned = burn_table.patches_not_burned(db, burn_id)
    plate = burned.plate_as_burned(frozen_plate(db, burn["revision_id"]), runs)
    process = plate.trial.process
    readings = reading_table.readings(db, burn_id)
    outcomes = {
        row["patch"]: Outcome(row["values"][process.outcome], 0.0 if row["sure"] is None else 1.0 - row["sure"])
        for row in readings
        if row["face"] == process.deciding_face and process.outcome in row["values"]
    }
    names = {
        plate.part_name(index, step): plate.elements.ids[index]
        for index in range(len(plate.elements))
        for step in range(len(plate.steps))
    }
    seen = observations_of(
        plate,
        outcomes,
        bare=not_burned,
        uncertain={names[part] for part in runs.uncertain if part in names},
        burned=Burned(burn_id, burn["at"][:10], burn["lot"], burn["measured_mm"]),
    )
    return Observed(burn, run_rows, plate, readings, not_burned, seen)
