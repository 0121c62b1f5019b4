"""Reading a burned plate by eye."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from rezept.actions.burning import patches_of_burn
from rezept.actions.open_shop import Shop
from rezept.actions.people import Member, require
from rezept.actions.planning import log_trial
from rezept.actions.typed import read_length
from rezept.core.fields import Fields
from rezept.core.process import PROCESSES
from rezept.core.reading import read_scores
from rezept.store import burns as burn_table
from rezept.store import trials as trial_table
from rezept.store.rows import Row

CALLIPERS = {"kerf_mm": "The kerf", "depth_mm": "The depth"}


def _with_lengths(document: Any) -> Any:
    if not isinstance(document, dict):
        return document
    typed = {key: read_length(document[key], key, name) for key, name in CALLIPERS.items() if key in document}
    return {**document, **typed}


def score(shop: Shop, by: Member, burn_id: int, patch: str, edit: int, document: Any) -> Row:
    """Keep what a person says of one patch; returns the reading as stored.

    Raises
    ------
    Stale : somebody has read this patch since version `edit` (0: there was no reading)
    """
    return score_several(shop, by, burn_id, [(patch, edit, document)])[0]


def score_several(shop: Shop, by: Member, burn_id: int, said: Sequence[tuple[str, int, Any]]) -> list[Row]:
    """Keep what a person says of some patches (patch, edit, scores), all of it or nothing."""
    require(by, "member", "score")
    stored = []
    with shop.database.writing() as db:
        frozen, _ = patches_of_burn(db, burn_id, [patch for patch, _, _ in said])
        process = PROCESSES[frozen["process"]]
        face = process.deciding_face
        for patch, edit, document in said:
            scores = read_scores(Fields(_with_lengths(document)), process)
            burn_table.put_reading(db, burn_id, patch, face, edit, scores.document(), by.id, shop.now())
            reading = burn_table.reading(db, burn_id, patch, face)
            assert reading is not None
            stored.append(reading)
        log_trial(db, shop, by, trial_table.trial(db, frozen["trial_id"]), "scored")
    return stored
