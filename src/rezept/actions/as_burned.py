"""The plate as it was really burned: passes that add up, corrections made meanwhile."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from rezept.actions.frozen import frozen_plate
from rezept.core.burned import Share, received
from rezept.core.plan import Plate
from rezept.store import burns as burn_table
from rezept.store import runs as run_table
from rezept.store import trials as trial_table

# What burns at this moment is counted when it is known how it ended.
REACHED = ("done", "uncertain")


def _shares(runs: Sequence[Mapping[str, Any]]) -> tuple[bool, dict[str, list[Share]]]:
    """Whether the burn was logged by hand, and what each patch got from runs."""
    shares: dict[str, list[Share]] = {}
    for run in runs:
        for part in run["parts"]:
            if part["kind"] == "patch" and part["state"] in REACHED:
                sure = part["state"] == "done" and not part["mixed"]
                share = Share(part["passes"], part["power"], part["speed"], part["focus_mm"], sure)
                shares.setdefault(part["name"], []).append(share)
    return not any(run["kind"] == "whole" for run in runs), shares


def as_burned(db: sqlite3.Connection, burn_id: int, plate: Mapping[str, Any]) -> dict[str, Any]:
    """A plate document with the settings and doses its patches really got; `mixed` where no setting says it.

    The one way from a plate and its runs to what was burned: screens, margins, finer steps and recipes all go it.
    """
    return as_run(plate, run_table.runs_of_burn(db, burn_id))


def as_run(plate: Mapping[str, Any], runs: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    """The same from the runs of its burn."""
    by_hand, shares = _shares(runs)
    if not shares:
        return dict(plate)
    dose_key = next((key for key in ("dose_j_mm", "dose_j_mm2") if key in plate["patches"][0]), "dose_j_mm")
    patches = []
    for patch in plate["patches"]:
        planned = Share(patch["settings"]["passes"])
        got = shares.get(patch["id"], [])
        whole = [planned, *got] if by_hand and got else got
        if whole and whole != [planned]:
            really = received(patch["settings"], patch[dose_key], whole)
            patch = {**patch, "settings": really.settings, dose_key: really.dose, "mixed": really.mixed}
        patches.append(patch)
    return {**plate, "patches": patches}


def plate_as_burned(db: sqlite3.Connection, burn_id: int) -> Plate:
    """The same as a plate of the core, its mixed patches named."""
    revision_id = burn_table.burn(db, burn_id)["revision_id"]
    plate = frozen_plate(db, revision_id)
    burned = as_burned(db, burn_id, trial_table.plate_of_revision(db, revision_id)["plate"])
    # A focus nudged while it burned is a setting the plan did not have.
    keys = dict.fromkeys([*plate.settings, *(key for patch in burned["patches"] for key in patch["settings"])])
    return replace(
        plate,
        settings={key: np.array([patch["settings"].get(key, 0.0) for patch in burned["patches"]]) for key in keys},
        dose=np.array([patch[plate.trial.process.dose_key] for patch in burned["patches"]]),
        mixed=frozenset(patch["id"] for patch in burned["patches"] if patch.get("mixed")),
    )
