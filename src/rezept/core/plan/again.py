"""Part of a plate: the rest after a stop, or some patches once more in place."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import replace

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.plan.patches import patch_dose, patch_seconds
from rezept.core.plan.plate import Plate


def only(
    plate: Plate,
    patches: Collection[str],
    passes: Mapping[str, int] | None = None,
    *,
    labels: bool = False,
    cuts: bool = False,
) -> Plate:
    """The plate as if only these patches burned, in its own frame and order, with other passes where they are given.

    Raises
    ------
    InvalidInput : a patch is not on the plate, or is left out of its plan
    """
    planned = {plate.ids[index] for index in plate.order.tolist()}
    for patch in patches:
        if patch not in planned:
            raise InvalidInput(f"{patch} is not among the patches that burn on this plate.", "patches", patch)
    burn = np.array([patch in patches for patch in plate.ids])
    settings = dict(plate.settings)
    if passes:
        settings["passes"] = np.array(
            [float(passes.get(patch, now)) for patch, now in zip(plate.ids, settings["passes"].tolist(), strict=True)]
        )
    drawn = tuple(part for part in plate.drawn if (cuts if part.last else labels))
    return replace(
        plate,
        burn=burn,
        order=plate.order[burn[plate.order]],
        settings=settings,
        dose=patch_dose(plate.trial, settings),
        seconds=patch_seconds(plate.trial, plate.figure, settings),
        drawn=drawn,
    )
