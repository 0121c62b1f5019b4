"""The plate as it was really burned: passes that add up, corrections made meanwhile.

The one way from a plate and its runs to what was burned: screens, margins, finer steps and recipes all go it.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from typing import Any, NamedTuple

from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.steps import AskedStep, asked_step
from rezept.core import burned
from rezept.core.errors import InvalidInput, Refused
from rezept.core.plan import Plate
from rezept.core.plan.step_documents import document_in_step, patch_in_step, steps_of
from rezept.core.process import PROCESSES
from rezept.store import burns as burn_table
from rezept.store import runs as run_table
from rezept.store import trials as trial_table
from rezept.store.rows import Row
from rezept.store.trials import FrozenRevisionRow


def as_burned(db: sqlite3.Connection, burn_id: int, plate: Mapping[str, Any]) -> dict[str, Any]:
    """A plate document with the settings and doses its elements really got in a burn."""
    return burned.document_as_burned(plate, burned.runs_of(run_table.runs_of_burn(db, burn_id)))


def plate_as_burned(db: sqlite3.Connection, burn_id: int) -> Plate:
    """The same as a plate of the core."""
    plate = frozen_plate(db, burn_table.burn(db, burn_id)["revision_id"])
    return burned.plate_as_burned(plate, burned.runs_of(run_table.runs_of_burn(db, burn_id)))


def patch_of_burn(
    db: sqlite3.Connection, burn_id: int, patch: str, step: int | None = None
) -> tuple[FrozenRevisionRow, Row]:
    """The frozen revision of a burn and the document of one of its patches that was to burn, as it was burned; seen by
    one of its steps, counted from 1 (None: by what its trial set out to do)."""
    frozen, documents = patches_of_burn(db, burn_id, [patch], step)
    return frozen, documents[patch]


def patches_of_burn(
    db: sqlite3.Connection, burn_id: int, patches: Sequence[str], step: int | None = None
) -> tuple[FrozenRevisionRow, dict[str, Row]]:
    """The same of several of its patches, by name."""
    burn = burn_table.burn(db, burn_id)
    frozen = trial_table.plate_of_revision(db, burn["revision_id"])
    seen = document_in_step(as_burned(db, burn_id, frozen["plate"]), asked_step(db, burn_id, step).number)
    documents = {document["id"]: document for document in seen["patches"]}
    for patch in patches:
        if patch not in documents:
            raise InvalidInput(f"There is no patch {patch} on this plate.", "patch", patch)
        if not documents[patch]["burn"]:
            raise InvalidInput(f"{patch} was switched off in this plan.", "patch", patch)
    return frozen, documents


def refuse_mixed(patch: Mapping[str, Any]) -> None:
    """Raise where no single setting says what a patch got, as it was burned."""
    if patch.get("mixed"):
        sentence = f"{burned.mixed_words(patch['id'])} Burn it once more in a fresh place."
        raise Refused(sentence, "patch", patch["id"])


class StepBurned(NamedTuple):
    """A step of a plate's trial, from 0, as the trial says it, and what a patch got in it."""

    number: int
    said: Mapping[str, Any]
    got: Row


def steps_together(
    db: sqlite3.Connection, burn_id: int, frozen: FrozenRevisionRow, patch: Row, asked: AskedStep
) -> list[StepBurned]:
    """The steps that made a patch what it is: the one that is asked about, with all that work the same ground."""
    said = steps_of(frozen["plate"])
    revision = burn_table.burn(db, burn_id)["revision_id"]
    numbers = [one["step"] - 1 for one in trial_table.steps_of(db, revision) if one["read_as"] == asked.read_as]
    return [StepBurned(number, said[number], patch_in_step(patch, number, len(said))) for number in numbers]


def step_name(frozen: FrozenRevisionRow, step: StepBurned) -> str:
    """What a step is called; that of a trial of one process as the process is."""
    process = PROCESSES[step.said["process"]]
    return process.name if "steps" not in frozen["plate"]["trial"] else str(step.said["name"])
