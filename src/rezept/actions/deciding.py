"""From readings to a decision: each patch's margin on its plate."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.actions.as_burned import plate_as_burned
from rezept.actions.open_shop import Shop
from rezept.core.findings.margin import failed_beside, margins
from rezept.core.plan import Plate
from rezept.store import burns as burn_table
from rezept.store import readings as reading_table
from rezept.store.rows import Row


def outcomes(plate: Plate, readings: list[Row], not_burned: list[str]) -> NDArray[np.float64]:
    """The deciding score of each patch, NaN where there is none."""
    key = plate.trial.process.outcome
    by_patch = {reading["patch"]: reading["values"][key] for reading in readings if key in reading["values"]}
    # What got several things at once, or nobody knows whether it got all, says nothing of a setting.
    skipped = {*not_burned, *plate.mixed}
    ids = plate.elements.ids
    return np.array(
        [by_patch.get(patch, np.nan) if patch not in skipped else np.nan for patch in ids], dtype=np.float64
    )


def decision(shop: Shop, burn_id: int) -> dict[str, Any]:
    """Of every patch of a burn that has an outcome: its margins, and the patches that did not come out as it did."""
    with shop.database.reading() as db:
        readings = reading_table.readings(db, burn_id)
        not_burned = burn_table.patches_not_burned(db, burn_id)
        plate = plate_as_burned(db, burn_id)
    outcome = outcomes(plate, readings, not_burned)
    known = np.flatnonzero(~np.isnan(outcome)).tolist()
    key = plate.trial.process.outcome
    ids = plate.elements.ids
    return {
        "margins": {ids[index]: [one.document() for one in margins(plate, outcome, index)] for index in known},
        "failed": {
            ids[index]: [ids[other] for other in failed_beside(key, outcome, index).tolist()] for index in known
        },
    }
