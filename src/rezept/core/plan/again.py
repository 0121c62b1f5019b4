"""Part of a plate: the rest after a stop, or some patches once more in place."""

from __future__ import annotations

from collections.abc import Collection, Mapping

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.plan.elements import Step, with_settings
from rezept.core.plan.plate import Plate


def only(
    plate: Plate,
    parts: Collection[str],
    passes: Mapping[str, int] | None = None,
    *,
    labels: bool = False,
    cuts: bool = False,
) -> Plate:
    """The plate as if only these parts of elements burned, in its own frame and order, with other passes where they
    are given.

    Raises
    ------
    InvalidInput : a part is not on the plate, or is left out of its plan
    """
    named = plate.parts()
    planned = {name for _, _, name in named}
    for part in parts:
        if part not in planned:
            raise InvalidInput(f"{part} is not among the patches that burn on this plate.", "patches", part)
    order = plate.order[[name in parts for _, _, name in named]]
    steps = [_with_passes(plate, number, passes or {}) for number in range(len(plate.steps))]
    drawn = tuple(part for part in plate.drawn if (cuts if part.last else labels))
    return plate.only_in(order, drawn, tuple(steps))


def _with_passes(plate: Plate, number: int, passes: Mapping[str, int]) -> Step:
    step = plate.steps[number]
    if not passes:
        return step
    now = step.settings["passes"].tolist()
    other = [float(passes.get(plate.part_name(index, number), one)) for index, one in enumerate(now)]
    settings = {**step.settings, "passes": np.array(other)}
    return with_settings(plate.trial.machine, plate.elements, step, settings)
