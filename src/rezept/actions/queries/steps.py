"""Which step of a burned plate somebody asks about."""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass

from rezept.core.errors import NotFound
from rezept.core.process import PROCESSES, Process
from rezept.store import burns as burn_table
from rezept.store import trials as trial_table
from rezept.store.book import RecipeRow


@dataclass(frozen=True)
class AskedStep:
    """A step of a plate.

    number : its place among the steps of the trial, from 0
    read_as : under which of them its outcome is read, from 1
    alone : no other step works its ground, so that it can be held against other plates
    only : the plate has no other
    """

    number: int
    process: Process
    read_as: int
    alone: bool
    only: bool


def step_of_recipe(db: sqlite3.Connection, recipe: RecipeRow) -> int | None:
    """Which step of its plate a recipe was kept from, from 1; None where no patch stands behind it."""
    if recipe["burn_id"] is None:
        return None
    steps = trial_table.steps_of(db, burn_table.burn(db, recipe["burn_id"])["revision_id"])
    own = [one["step"] for one in steps if (one["process"], one["read_as"]) == (recipe["process"], recipe["read_as"])]
    return own[0] if own else None


def asked_step(db: sqlite3.Connection, burn_id: int, step: int | None = None) -> AskedStep:
    """The step of a burn that is asked about, counted from 1; None: the first of what its trial set out to do.

    Raises
    ------
    NotFound : its plate has no such step
    """
    burn = burn_table.burn(db, burn_id)
    steps = trial_table.steps_of(db, burn["revision_id"])
    if step is None:
        process = trial_table.trial(db, burn["trial_id"])["process"]
        found = next((one for one in steps if one["process"] == process), None)
    else:
        found = next((one for one in steps if one["step"] == step), None)
    if found is None:
        raise NotFound("This plate has no such step.", "step", step)
    return AskedStep(found["step"] - 1, PROCESSES[found["process"]], found["read_as"], found["alone"], len(steps) == 1)
