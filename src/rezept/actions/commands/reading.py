"""Reading a burned plate by eye."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from rezept.actions.commands.joining import join_evidence
from rezept.actions.commands.reading_photos import score_anew
from rezept.actions.commands.trial_log import log_trial
from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.as_burned import patches_of_burn
from rezept.actions.queries.steps import asked_step
from rezept.actions.typed import read_length
from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.plan.fit_slots import kerf_of_reading
from rezept.core.reading import read_reading
from rezept.core.scales import SCALES
from rezept.core.treatment import TREATMENTS
from rezept.store import burns as burn_table
from rezept.store import readings as reading_table
from rezept.store import trials as trial_table
from rezept.store.readings import ReadElement


def _with_lengths(document: Any) -> Any:
    """What was typed, with lengths in the units people use as numbers in mm."""
    values = document.get("values") if isinstance(document, dict) else None
    if not isinstance(values, dict):
        return document
    read = {
        key: read_length(value, f"values.{key}", f"The {SCALES[key].name}")
        if key in SCALES and SCALES[key].kind == "length"
        else value
        for key, value in values.items()
    }
    read |= {
        key: int(value)
        for key, value in values.items()
        if key in SCALES and SCALES[key].kind == "count" and isinstance(value, str) and value.strip().isdecimal()
    }
    # A field that was emptied says nothing.
    return {**document, "values": {key: value for key, value in read.items() if value is not None}}


def judge_by(shop: Shop, by: Member, burn_id: int, treatment: str) -> None:
    """Judge a burn from now on by its piece treated so; what was read of it otherwise stays beside it."""
    require(by, "member", "score")
    if treatment not in TREATMENTS:
        raise InvalidInput(f"A piece is {', '.join(TREATMENTS.values())}.", "treatment", treatment)
    with shop.database.writing() as db:
        burn = burn_table.burn(db, burn_id)
        burn_table.judge_by(db, burn_id, treatment)
        score_anew(shop, db, burn_id)
        said = f"reads {TREATMENTS[treatment]}"
        log_trial(db, shop, by, trial_table.trial(db, burn["trial_id"]), said)


def score(
    shop: Shop, by: Member, burn_id: int, patch: str, edit: int, document: Any, step: int | None = None
) -> ReadElement:
    """Keep what a person says of one patch; returns the reading as stored. `step` as in `score_several`.

    Raises
    ------
    Stale : somebody has read this patch since version `edit` (0: there was no reading)
    """
    return score_several(shop, by, burn_id, [(patch, edit, document)], step)[0]


def score_several(
    shop: Shop, by: Member, burn_id: int, said: Sequence[tuple[str, int, Any]], step: int | None = None
) -> list[ReadElement]:
    """Keep what a person says of some patches (patch, edit, scores), all of it or nothing.

    step : which of several steps it is about, from 1; None: what the trial set out to do
    """
    require(by, "member", "score")
    with shop.database.writing() as db:
        frozen, _ = patches_of_burn(db, burn_id, [patch for patch, _, _ in said])
        asked = asked_step(db, burn_id, step)
        process, as_step = asked.process, asked.read_as
        face = process.deciding_face
        for patch, edit, document in said:
            said_of = read_reading(Fields(_with_lengths(document)), process)
            kerf = kerf_of_reading(frozen["plate"]["trial"]["patch"], said_of.values)
            if kerf is not None:
                said_of = replace(said_of, values={**said_of.values, "kerf_mm": kerf})
            reading_table.put_reading(db, burn_id, patch, as_step, face, edit, said_of, by.id, shop.now())
        log_trial(db, shop, by, trial_table.trial(db, frozen["trial_id"]), "scored")
        join_evidence(db, shop, burn_id, by)
        patches = [patch for patch, _, _ in said]
        found = reading_table.readings_of(db, [burn_id], patches, step=as_step)[burn_id]
    stored = {reading["patch"]: reading for reading in found if reading["face"] == face}
    return [stored[patch] for patch in patches]
