"""What burns of the shop say, from its records."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.steps import AskedStep, asked_step
from rezept.core import burned
from rezept.core.findings.from_readings import ground_lightness
from rezept.core.findings.observations import Burned, Observations, Outcome, observations_of
from rezept.core.plan import Plate
from rezept.core.reading import SPOILING
from rezept.core.scales import darkness_to_lightness, lightness_unsure_by_eye, mark_of
from rezept.core.treatment import TreatmentKey
from rezept.store import burns as burn_table
from rezept.store import photos as photo_table
from rezept.store import readings as reading_table
from rezept.store import runs as run_table
from rezept.store.burns import BurnRow
from rezept.store.readings import ReadElement
from rezept.store.runs import RunRow

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Observed:
    """A burn with its runs, its plate as it was burned, what was read of one of its steps and what stayed bare, and
    what its elements say by all that."""

    step: AskedStep
    burn: BurnRow
    runs: list[RunRow]
    plate: Plate
    readings: list[ReadElement]
    not_burned: list[str]
    seen: Observations

    @property
    def outcomes(self) -> dict[str, int | None]:
        """How each element came out; None where it is not read."""
        said = zip(self.seen.element, self.seen.outcome.tolist(), strict=True)
        return {element: None if np.isnan(value) else int(value) for element, value in said}


def _others(readings: list[ReadElement]) -> dict[str, dict[str, float]]:
    """Whatever else was read, by scale, whichever face showed it."""
    found: dict[str, dict[str, float]] = {}
    for row in readings:
        for key, value in row["values"].items():
            found.setdefault(key, {})[row["patch"]] = value
    return found


def measured(db: sqlite3.Connection, burn_id: int, step: int | None = None) -> Observed:
    """A burn, with what photographs measure, too: of cuts the kerf, where nobody had callipers at it; of marks their
    lightness and colour, from the score where only an eye told. `step` as in `observed`."""
    known = observed(db, burn_id, step=step)
    plate, seen = known.plate, known.seen
    front = photo_table.read_by(photo_table.photos_of(db, burn_id)).get("front")
    figures = {} if front is None else photo_table.figures(db, front["id"], known.step.read_as)
    figures = {patch: row for patch, row in figures.items() if not SPOILING & set(row["flags"])}
    nothing = np.full(len(seen), np.nan)

    def column(key: str, otherwise: Floats) -> Floats:
        """What was measured of each element, else what is said otherwise."""
        said = [figures.get(name, {}).get(key) for name in seen.element]
        return np.array([other if one is None else one for one, other in zip(said, otherwise.tolist(), strict=True)])

    if plate.trial.process.passes_through:
        typed = seen.others.get("kerf_mm", nothing)
        kerf = np.where(np.isnan(typed), column("kerf_mm", nothing), typed)
        return replace(known, seen=replace(seen, others={**seen.others, "kerf_mm": kerf}))
    ground, usual = ground_lightness(plate), plate.trial.material.mark
    marks = [mark_of(turned, usual) for turned in seen.others.get("turned", nothing).tolist()]
    darkness = seen.others.get("darkness", nothing).tolist()
    by_eye = np.array([darkness_to_lightness(value, ground, mark) for value, mark in zip(darkness, marks, strict=True)])
    eye_unsure = np.array([lightness_unsure_by_eye(ground, mark) for mark in marks])
    lightness = column("lightness", by_eye)
    told = ~np.isnan(column("lightness", nothing))
    unsure = np.where(told, column("lightness_unsure", np.zeros(len(seen))), eye_unsure)
    colour = {key: np.where(told, column(key, nothing), np.nan) for key in ("a", "b")}
    others = {**seen.others, "lightness": lightness, **colour}
    return replace(known, seen=replace(seen, others=others, unsure={"lightness": unsure}))


def observed(
    db: sqlite3.Connection, burn_id: int, treatment: TreatmentKey | None = None, step: int | None = None
) -> Observed:
    """What a burn says of one of its steps, counted from 1 (None: of what its trial set out to do), by its piece
    treated so (None: as it is judged)."""
    asked = asked_step(db, burn_id, step)
    burn = burn_table.burn(db, burn_id)
    run_rows = run_table.runs_of_burn(db, burn_id)
    runs = burned.runs_of(run_rows)
    not_burned = burn_table.patches_not_burned(db, burn_id)
    plate = burned.plate_as_burned(frozen_plate(db, burn["revision_id"]), runs).of_step(asked.number)
    process = plate.trial.process
    readings = reading_table.readings(db, burn_id, treatment, asked.read_as)
    outcomes = {
        row["patch"]: Outcome(row["values"][process.outcome], 0.0 if row["sure"] is None else 1.0 - row["sure"])
        for row in readings
        if row["face"] == process.deciding_face and process.outcome in row["values"]
    }
    names = {
        plate.part_name(index, step): plate.elements.ids[index]
        for index in range(len(plate.elements))
        for step in plate.judged_numbers
    }
    bare = {*not_burned, *(names[part] for part in runs.never_reached if part in names)}
    seen = observations_of(
        plate,
        outcomes,
        others=_others(readings),
        bare=bare,
        uncertain={names[part] for part in runs.uncertain if part in names},
        burned=Burned(burn_id, burn["at"][:10], burn["lot"], burn["measured_mm"]),
    )
    return Observed(asked, burn, run_rows, plate, readings, sorted(bare), seen)
