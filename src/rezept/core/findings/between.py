"""The finer array between two patches of a plate: one that failed and one that worked."""

from __future__ import annotations

import math
from typing import Any

from rezept.core.errors import InvalidInput
from rezept.core.parameters import PARAMETERS
from rezept.core.plan import Plate

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
    # Even steps on the way from one to the other; both ends are burned again, as a check.
    return {"parameter": key, "along": along, "from": start, "to": end, "count": count, "spacing": "linear"}


def between(plate: Plate, failed: str, worked: str) -> tuple[list[dict[str, Any]], dict[str, float]]:
    """Axes and held settings of the array from the patch that failed to the one that worked.

    What differs between the two varies, from the one to the other; all else is held as both had it.

    Raises
    ------
    InvalidInput : a patch is not on the plate, or both were burned with the same settings
    """
    for patch in (failed, worked):
        if patch not in plate.elements.ids:
            raise InvalidInput(f"There is no patch {patch} on this plate.", "patch", patch)
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
