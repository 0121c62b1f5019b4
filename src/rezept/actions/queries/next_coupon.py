"""What to burn next on a plate that grows."""

from __future__ import annotations

from typing import Any

import numpy as np

from rezept.actions.open_shop import Shop
from rezept.actions.queries.finding import find
from rezept.core.errors import Refused
from rezept.core.findings.choices import NOTHING_WANTED, Wish
from rezept.core.findings.next_coupon import next_coupon
from rezept.core.findings.observations import Observations
from rezept.core.findings.ordered_law import STEPS
from rezept.core.plan.growing import burned_as_a_whole
from rezept.store import burns as burn_table


def coupon_after(shop: Shop, trial_id: int) -> dict[str, Any]:
    """The settings to burn next after what a trial's latest burn says, and why.

    Raises
    ------
    Refused : nothing of it has been burned yet
    """
    with shop.database.reading() as db:
        burns = burn_table.burns_of_trial(db, trial_id)
        if not burns:
            raise Refused("Nothing of this plate has been burned yet.", "trial")
        found = find(db, burns[0]["id"], Wish(), NOTHING_WANTED)
        here = found.burn.seen
        last = _last(here, burned_as_a_whole(found.burn.plate))
        chosen = found.candidate("fastest")
        coupon = next_coupon(here, last, found.burn.plate.trial.machine, chosen)
        predicted = found.decision.predicted(coupon.settings)
        return {
            "after": here.element[last],
            "settings": coupon.settings,
            "why": coupon.why,
            "settled": coupon.settled,
            "predicted": None if predicted is None else predicted.document(),
        }


def _last(here: Observations, whole: int) -> int:
    """The last coupon that burned at one setting; the last of all where none did.

    Of the `whole` first patches, which were burned as an array and of which none is the last, it is the fastest that
    came out as wanted, else the last that was read.
    """
    burned = np.flatnonzero([state == "burned" for state in here.state])
    if not len(burned):
        return len(here) - 1
    if burned[-1] >= whole:
        return int(burned[-1])
    read = np.flatnonzero(here.counts)
    steps = STEPS.get(here.process.outcome)
    wanted = read[steps.as_wanted(here.outcome[read])] if steps is not None else read[:0]
    if len(wanted):
        return int(wanted[np.argmax(here.settings["speed_mm_s"][wanted])])
    return int(read[-1]) if len(read) else int(burned[-1])
