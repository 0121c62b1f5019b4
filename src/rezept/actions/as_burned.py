"""The plate as it was really burned: passes that add up, corrections made meanwhile."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from rezept.core.burned import Received, Share, received
from rezept.core.plan import Plate
from rezept.store import runs as run_table

# What burns at this moment is counted when it is known how it ended.
REACHED = ("done", "uncertain")


def _shares(db: sqlite3.Connection, burn_id: int) -> tuple[bool, dict[str, list[Share]]]:
    """Whether the burn was logged by hand, and what each patch got from runs."""
    runs = run_table.runs_of_burn(db, burn_id)
    shares: dict[str, list[Share]] = {}
    for run in runs:
        for part in run["parts"]:
            if part["kind"] == "patch" and part["state"] in REACHED:
                sure = part["state"] == "done" and not part["mixed"]
                share = Share(part["passes"], part["power"], part["speed"], part["focus_mm"], sure)
                shares.setdefault(part["name"], []).append(share)
    return not any(run["kind"] == "whole" for run in runs), shares


def _received(
    db: sqlite3.Connection, burn_id: int, planned: Mapping[str, tuple[Mapping[str, float], float]]
) -> dict[str, Received]:
    """What the patches got that did not get just what was planned; `planned` holds settings and dose."""
    by_hand, shares = _shares(db, burn_id)
    changed = {}
    for patch, got in shares.items():
        if patch in planned:
            settings, dose = planned[patch]
            whole = [Share(settings["passes"]), *got] if by_hand else got
            if whole != [Share(settings["passes"])]:
                changed[patch] = received(settings, dose, whole)
    return changed


def as_burned(db: sqlite3.Connection, burn_id: int, plate: Mapping[str, Any]) -> dict[str, Any]:
    """A plate document with the settings and doses its patches really got; `mixed` where no setting says it."""
    dose_key = next((key for key in ("dose_j_mm", "dose_j_mm2") if key in plate["patches"][0]), "dose_j_mm")
    planned = {patch["id"]: (patch["settings"], patch[dose_key]) for patch in plate["patches"]}
    changed = _received(db, burn_id, planned)
    if not changed:
        return dict(plate)
    return {
        **plate,
        "patches": [
            {
                **patch,
                "settings": changed[patch["id"]].settings,
                dose_key: changed[patch["id"]].dose,
                "mixed": changed[patch["id"]].mixed,
            }
            if patch["id"] in changed
            else patch
            for patch in plate["patches"]
        ],
    }


def plate_as_burned(db: sqlite3.Connection, burn_id: int, plate: Plate) -> Plate:
    """The same for a plate of the core."""
    planned = {patch: (plate.settings_of(i), float(plate.dose[i])) for i, patch in enumerate(plate.ids)}
    changed = _received(db, burn_id, planned)
    if not changed:
        return plate
    settings = {key: column.copy() for key, column in plate.settings.items()}
    dose = plate.dose.copy()
    for i, patch in enumerate(plate.ids):
        if patch in changed:
            dose[i] = changed[patch].dose
            for key, value in changed[patch].settings.items():
                settings.setdefault(key, dose * 0.0)[i] = value
    return replace(plate, settings=settings, dose=dose)
