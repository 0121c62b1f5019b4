"""A burn as a readings file: its plate, how it was burned, and what was read of it."""

from __future__ import annotations

import math
from typing import Any

from rezept.actions.open_shop import Shop
from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.observed import Observed, measured
from rezept.core.names import trial_name
from rezept.core.plan.step_documents import document_in_step
from rezept.core.reading import FORMAT, SCORED, SCORED_SOMETIMES, VERSION
from rezept.core.scales import SCALES
from rezept.store import trials as trial_table
from rezept.store.readings import ReadElement

_MEASURED = ("kerf_mm", "depth_mm")
_TAGS = tuple(key for key, scale in SCALES.items() if scale.kind == "yes")


def readings_file(shop: Shop, burn_id: int, step: int | None = None) -> tuple[str, dict[str, Any]]:
    """The name of the file and its document, as `rezept decide` reads it (`docs/formats/readings.md`); `step` as in
    `observed`."""
    with shop.database.reading() as db:
        burn = measured(db, burn_id, step)
        frozen = trial_table.plate_of_revision(db, burn.burn["revision_id"])
        # Who reads it needs the figures, where a step has its own.
        several = len(burn.plate.elements.figures) > 1
        whole = frozen_plate(db, burn.burn["revision_id"]).document() if several else frozen["plate"]
    by_step = document_in_step(frozen["plate"], burn.step.number)
    planned = {patch["id"]: patch["settings"] for patch in by_step["patches"]}
    document = {
        "format": FORMAT,
        "version": VERSION,
        "plate": whole,
        **({} if burn.step.only else {"step": burn.plate.trial.step.name}),
        "faces": [],
        "lot": burn.burn["lot"],
        "measured_mm": burn.burn["measured_mm"],
        "at": burn.burn["at"],
        "patches": [_patch(burn, index, planned) for index in range(len(burn.seen))],
    }
    return f"{trial_name(frozen['trial_number'])}-burn-{burn_id}.readings.json", document


def _patch(burn: Observed, index: int, planned: dict[str, dict[str, float]]) -> dict[str, Any]:
    seen, process = burn.seen, burn.plate.trial.process
    name, state = seen.element[index], seen.state[index]
    said = next((one for one in burn.readings if (one["patch"], one["face"]) == (name, process.deciding_face)), None)
    values = _values(burn.readings, name)
    got = seen.settings_of(index)
    changed = {key: value for key, value in got.items() if not math.isclose(value, planned[name].get(key, math.inf))}
    lightness = seen.others.get("lightness")
    patch = {
        "id": name,
        "face": process.deciding_face,
        "burned": state not in ("not_burned", "left_out"),
        **{key: None if key not in values else int(values[key]) for key in SCORED},
        **{key: int(values[key]) for key in SCORED_SOMETIMES if key in values},
        **{key: values[key] for key in _MEASURED if key in values},
        "tags": [key for key in _TAGS if values.get(key)],
        "by": "person" if said is None else said["said_by"],
        "confidence": None if said is None else said["sure"],
        "note": "" if said is None else said["note"],
    }
    if lightness is not None and not math.isnan(lightness[index]):
        patch["lightness"] = round(float(lightness[index]), 2)
    flags: dict[str, bool] = {key: True for key in ("mixed", "uncertain") if state == key}
    return {**patch, **flags, **({"received": changed} if changed and state != "left_out" else {})}


def _values(readings: list[ReadElement], name: str) -> dict[str, float]:
    """Whatever was read of an element, whichever face showed it."""
    return {key: value for one in readings if one["patch"] == name for key, value in one["values"].items()}
