"""From readings to a decision: each patch's margin on its plate."""

from __future__ import annotations

from typing import Any

import numpy as np

from rezept.actions.open_shop import Shop
from rezept.actions.queries.observed import observed
from rezept.core.findings.margin import failed_beside, margins
from rezept.core.findings.repeats import words_of_repeats
from rezept.core.scales import SCALES


def shares(shop: Shop, burn_id: int, step: int | None = None) -> dict[str, str]:
    """By patch how many of those with its settings came out, where there are several; `step` as in `observed`."""
    with shop.database.reading() as db:
        return words_of_repeats(observed(db, burn_id, step=step).seen)


def decision(shop: Shop, burn_id: int, step: int | None = None) -> dict[str, Any]:
    """Of every patch of a burn that has an outcome: its margins, and the patches that did not come out as it did; of
    one that failed itself, those that did come out; and what is to be said of those with the same settings. `step` as
    in `observed`."""
    with shop.database.reading() as db:
        burn = observed(db, burn_id, step=step)
    plate, seen = burn.plate, burn.seen
    known = np.flatnonzero(seen.counts).tolist()
    axes = plate.trial.own_axes
    failed = [i for i in known if SCALES[seen.process.outcome].failed(float(seen.came_out[i]))]
    return {
        "nothing_to_work_by": [seen.element[i] for i in failed],
        "worked": {seen.element[i]: [seen.element[j] for j in known if j not in failed] for i in failed},
        "margins": {seen.element[i]: [one.document() for one in margins(seen, axes, i)] for i in known},
        "repeated": words_of_repeats(seen),
        "failed": {seen.element[i]: [seen.element[j] for j in failed_beside(seen, i).tolist()] for i in known},
    }
