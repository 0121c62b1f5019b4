"""Part of a plate: the rest after a stop, or some patches once more in place."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from rezept.core.errors import InvalidInput
from rezept.core.plan.elements import Step, with_settings
from rezept.core.plan.plate import Plate


def only(
    plate: Plate,
    parts: Collection[str],
    otherwise: Mapping[str, Mapping[str, float]] | None = None,
    *,
    labels: bool = False,
    cuts: bool = False,
) -> Plate:
    """The plate as if only these parts of elements burned, in its own frame and order.

    otherwise : settings of some of them, by part, in place of what was planned

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
    steps = [_set_otherwise(plate, number, otherwise or {}) for number in range(len(plate.steps))]
    drawn = tuple(part for part in plate.drawn if (cuts if part.last else labels))
    return plate.only_in(order, drawn, tuple(steps))


def _set_otherwise(plate: Plate, number: int, otherwise: Mapping[str, Mapping[str, float]]) -> Step:
    step = plate.steps[number]
    if not otherwise:
        return step
    settings = {key: column.copy() for key, column in step.settings.items()}
    for index in range(len(plate.elements)):
        for key, value in otherwise.get(plate.part_name(index, number), {}).items():
            settings[key][index] = value
    return with_settings(plate.trial.machine, plate.elements, step, settings)
