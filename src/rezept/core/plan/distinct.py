"""The different settings of a plate, and a plate in parts that hold only so many of them each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.plan.plate import Plate


@dataclass(frozen=True)
class Distinct:
    """One setting and the patches that burn with it, as indices in burn order; `number` counts from 1."""

    number: int
    settings: Mapping[str, float]
    patches: tuple[int, ...]


def distinct_settings(plate: Plate) -> list[Distinct]:
    """The settings of the patches that burn, in the order in which they first come."""
    table = np.column_stack(list(plate.settings.values()))[plate.order]
    _, first, kind = np.unique(table, axis=0, return_index=True, return_inverse=True)
    place = np.argsort(np.argsort(first))[kind.ravel()]
    return [
        Distinct(number + 1, plate.settings_of(members[0]), tuple(members))
        for number in range(len(first))
        for members in [plate.order[place == number].tolist()]
    ]


def _only(plate: Plate, patches: NDArray[np.int64], first: bool, last: bool) -> Plate:
    """The plate as if only these patches burned; labels belong to the first part, cuts of the plate to the last."""
    burn = np.zeros(len(plate.ids), bool)
    burn[patches] = True
    drawn = tuple(part for part in plate.drawn if (last if part.last else first))
    return replace(plate, burn=burn, order=plate.order[burn[plate.order]], drawn=drawn)


def split(plate: Plate, most: int | None) -> list[Plate]:
    """The plate in parts of at most `most` distinct settings, lettering and cuts of the plate counted.

    All parts keep the frame of the whole plate, so that they register to each other. With room for one setting
    only, lettering and cuts come in parts of their own.
    """
    kinds = distinct_settings(plate)
    drawn_first = any(not part.last for part in plate.drawn)
    drawn_last = any(part.last for part in plate.drawn)
    if most is None or len(kinds) + drawn_first + drawn_last <= most:
        return [plate]
    groups: list[list[int]] = []
    room = most - drawn_first
    for kind in kinds:
        if room == 0 or not groups:
            groups.append([])
            if len(groups) > 1:
                room = most
            elif room == 0:
                groups.append([])
                room = most
        groups[-1] += kind.patches
        room -= 1
    if drawn_last and room == 0:
        groups.append([])
    count = len(groups)
    return [
        _only(plate, np.array(group, np.int64), number == 0, number == count - 1) for number, group in enumerate(groups)
    ]
