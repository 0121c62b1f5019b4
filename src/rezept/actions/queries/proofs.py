"""What was proven on real shapes, and what a plate that proves something came to."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from typing import Any

from rezept.actions.queries.observed import Observed, observed
from rezept.actions.queries.shop_facts import machine_of
from rezept.core.findings.proof import ProofResult, is_crowded, more_passes, result_of
from rezept.core.path.proof import fineness
from rezept.core.path.shapes import PROOF
from rezept.core.plan import Plate
from rezept.core.recipe import are_settings_of
from rezept.store import burns as burn_table
from rezept.store import equipment as equipment_table
from rezept.store import trials as trial_table
from rezept.store.trials import TrialRow


def proves(trial: TrialRow) -> bool:
    """Whether a trial was begun to prove something on a real shape."""
    return trial["proof_of_burn"] is not None or trial["proof_of_recipe"] is not None


def crowded(trial: TrialRow, known: Observed) -> bool:
    return is_crowded(known.plate.trial.patch.shape, proves(trial))


def results(known: Observed) -> dict[str, ProofResult]:
    """How the shapes of a plate that proves something came out, those of which somebody has said it."""
    values: dict[str, dict[str, float]] = {}
    for reading in known.readings:
        values.setdefault(reading["patch"], {}).update(reading["values"])
    process = known.step.process
    found = {patch: result_of(process, values.get(patch, {})) for patch in known.seen.element}
    return {patch: result for patch, result in found.items() if result is not None}


def _as_shown(patch: str, result: ProofResult) -> dict[str, Any]:
    return {"patch": patch, "result": result.key, "words": result.words, "reason": result.reason}


def proof_page(db: sqlite3.Connection, trial: TrialRow, known: Observed | None, plate: Plate | None) -> Any:
    """What the page of a trial that proves something says of it; None of any other.

    `of`: the trial it proves something of; `more`: by patch the same dose in more and faster passes.
    """
    if not proves(trial):
        return None
    of = None
    if trial["proof_of_burn"] is not None:
        before = trial_table.trial(db, burn_table.burn(db, trial["proof_of_burn"])["trial_id"])
        of = {"trial_id": before["id"], "number": before["number"], "burn_id": trial["proof_of_burn"]}
    patch = None if plate is None else plate.trial.patch
    said = {} if known is None else results(known)
    machine = machine_of(equipment_table.head(db, trial["head_id"]))
    more = {}
    if known is not None:
        for row, name in enumerate(known.seen.element):
            result = said.get(name)
            if result is not None and result.key in ("burned", "flame") and known.seen.state[row] == "burned":
                more[name] = more_passes(known.seen.settings_of(row), machine)
    return {
        "of": of,
        "recipe_id": trial["proof_of_recipe"],
        "fineness": fineness(patch.width_mm, patch.height_mm).words if patch and patch.shape == PROOF else None,
        "results": [_as_shown(name, result) for name, result in said.items()],
        "more": more,
    }


def proofs_of(db: sqlite3.Connection, burn_id: int) -> list[dict[str, Any]]:
    """What was proven of a burn: trial by trial, shape by shape, with what each was burned with; one
    that is not read yet says its number and no more."""
    found: list[dict[str, Any]] = []
    for trial in trial_table.proofs(db, burn_id):
        said: list[dict[str, Any]] = []
        for burn in burn_table.burns_of_trial(db, trial["id"]):
            known = observed(db, burn["id"])
            for patch, result in results(known).items():
                settings = known.seen.settings_of(known.seen.element.index(patch))
                said.append({**_as_shown(patch, result), "settings": dict(settings)})
        found.append({"trial_id": trial["id"], "number": trial["number"], "results": said})
    return found


def burned_crowded(db: sqlite3.Connection, burn_id: int, patch: str, step: int | None = None) -> bool:
    """Whether a patch of a plate of real shapes burned although it came out."""
    known = observed(db, burn_id, step=step)
    if not crowded(trial_table.trial(db, known.burn["trial_id"]), known):
        return False
    result = results(known).get(patch)
    return result is not None and result.key in ("burned", "flame")


def with_settings(proofs: Sequence[Mapping[str, Any]], settings: Mapping[str, float]) -> list[dict[str, Any]]:
    """What came of real shapes with these very settings, of all that was proven of a burn; the latest last."""
    return [
        {"trial_id": trial["trial_id"], "number": trial["number"], "result": one["result"], "words": one["words"]}
        for trial in proofs
        for one in trial["results"]
        if are_settings_of(settings, one["settings"])
    ]


def simple_only(db: sqlite3.Connection, burn_id: int, settings: Mapping[str, float]) -> bool:
    """Whether some settings burned a real shape, and did not hold on one since."""
    said = with_settings(proofs_of(db, burn_id), settings)
    return bool(said) and said[-1]["result"] in ("burned", "flame")
