"""The finer array between two patches of a plate: one that failed and one that worked."""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from rezept.core.burned import mixed_words
from rezept.core.errors import InvalidInput, Refused
from rezept.core.findings.margin import holds
from rezept.core.findings.observations import Observations
from rezept.core.parameters import PARAMETERS
from rezept.core.plan import Plate
from rezept.core.plan.chosen import spacing_of

LADDER_STEPS = 7
GRID_STEPS = 5
ALONG = ("x", "y", "block_x", "block_y")


def _axis(key: str, along: str, start: float, end: float, steps: int) -> dict[str, Any]:
    row = PARAMETERS[key]
    count = min(steps, int(abs(end - start)) + 1) if row.whole else steps
    if row.whole and count < steps:
        # Whole numbers: every one from the first to the last.
        return {"parameter": key, "along": along, "from": start, "to": end, "count": count, "spacing": "linear"}
    if row.whole:
        values = sorted({round(start + i * (end - start) / (count - 1)) for i in range(count)}, reverse=end < start)
        return {"parameter": key, "along": along, "values": [float(value) for value in values]}
    # On the way from one to the other, in even ratios where that is far; both ends are burned again, as a check.
    spacing = spacing_of(start, end)
    return {"parameter": key, "along": along, "from": start, "to": end, "count": count, "spacing": spacing}


def between(
    plate: Plate, failed: str, worked: str, seen: Observations | None = None
) -> tuple[list[dict[str, Any]], dict[str, float]]:
    """Axes and held settings of the array from the element that failed to the one that worked.

    What differs between the two varies, from the one to the other; all else is held as both had it. Where the plate
    has been read (`seen`), both must say something of their settings, and the one that failed must have failed.

    Raises
    ------
    InvalidInput : one is not on the plate, both were burned with the same settings, or the one came out as well
    Refused : no single setting says what one of them got
    """
    for patch in (failed, worked):
        if patch not in plate.elements.ids:
            raise InvalidInput(f"There is no patch {patch} on this plate.", "patch", patch)
    if seen is not None:
        _refuse_what_says_nothing(seen, failed, worked)
    one, other = (plate.judged.settings_of(plate.elements.ids.index(patch)) for patch in (failed, worked))
    varied = [key for key in one if not math.isclose(one[key], other[key], rel_tol=1e-9, abs_tol=1e-12)]
    if not varied:
        raise InvalidInput(f"{failed} and {worked} were burned with the same settings.", "patch", worked)
    if len(varied) > len(ALONG):
        raise InvalidInput("More than four settings differ; choose patches that are nearer.", "patch", worked)
    steps = LADDER_STEPS if len(varied) == 1 else GRID_STEPS
    # As many steps in blocks would be a plate of its own.
    axes = [
        _axis(key, along, one[key], other[key], steps if not along.startswith("block") else 3)
        for key, along in zip(varied, ALONG, strict=False)
    ]
    return axes, {key: value for key, value in one.items() if key not in varied}


def _refuse_what_says_nothing(seen: Observations, failed: str, worked: str) -> None:
    index = {name: i for i, name in enumerate(seen.element)}
    for patch in (failed, worked):
        if patch in index and seen.state[index[patch]] in ("mixed", "uncertain"):
            raise Refused(f"{mixed_words(patch)} Choose another patch.", "patch", patch)
    if failed not in index or worked not in index:
        return
    came = [float(seen.outcome[index[patch]]) for patch in (failed, worked)]
    if not any(math.isnan(value) for value in came) and bool(
        holds(seen.process.outcome, came[1], np.array([came[0]]))[0]
    ):
        raise InvalidInput(
            f"{failed} came out as well as {worked}; between them nothing fails. Choose one that did not.",
            "failed",
            failed,
        )
