"""What a plate that nobody has decided yet says of where to go on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from rezept.core.findings.observations import Observations
from rezept.core.scales import SCALES


@dataclass(frozen=True)
class GoOn:
    """The element to go on from: its row among the observations, and whether it came out at all."""

    index: int
    works: bool


def go_on_from(seen: Observations) -> GoOn | None:
    """Of what came out: for a cut the least dose of the best there is, for a mark the middle one of them by dose;
    where nothing did, the greatest dose that was not too much, and else the least. None where nothing counts, or
    nothing that counts says speed and power.

    Parameters
    ----------
    seen : the observations of one or more plates of one process
    """
    came = seen.came_out
    known = np.flatnonzero(seen.counts & ~np.isnan(seen.dose))
    if not len(known):
        return None
    scale = SCALES[seen.process.outcome]
    works = known[[not scale.failed(float(value)) for value in came[known]]]
    if seen.process.passes_through and len(works):
        works = works[came[works] == came[works].max()]
    among = works if len(works) else known
    by_dose = among[np.argsort(seen.dose[among], kind="stable")]
    if not len(works):
        not_too_much = by_dose[[not scale.is_too_much(float(value)) for value in came[by_dose]]]
        return GoOn(int(not_too_much[-1] if len(not_too_much) else by_dose[0]), False)
    return GoOn(int(by_dose[0] if seen.process.passes_through else by_dose[(len(by_dose) - 1) // 2]), True)
