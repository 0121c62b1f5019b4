"""The different settings of a plate, and a plate in parts that hold only so many of them each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from rezept.core.plan.plate import Plate, Warning


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


def _parts(kinds: int, drawn_first: bool, drawn_last: bool, most: int) -> list[int]:
    """How many distinct settings of patches each part takes, in order."""
    if kinds + drawn_first + drawn_last <= most:
        return [kinds]
    taken = [min(kinds, most - drawn_first)]
    while sum(taken) < kinds:
        taken.append(min(kinds - sum(taken), most))
    if drawn_last and taken[-1] + (drawn_first and len(taken) == 1) == most:
        taken.append(0)
    return taken


def _drawn_kinds(plate: Plate) -> tuple[bool, bool]:
    return any(not part.last for part in plate.drawn), any(part.last for part in plate.drawn)


def distinct_warning(plate: Plate) -> Warning | None:
    """More distinct settings than one job file of the machine holds."""
    machine = plate.trial.machine
    most = machine.distinct_settings
    if most is None:
        return None
    kinds, drawn = len(distinct_settings(plate)), _drawn_kinds(plate)
    files = len(_parts(kinds, *drawn, most))
    if files == 1:
        return None
    count = kinds + sum(drawn)
    return Warning(
        "distinct_settings",
        "warning",
        f"This plate has {count} distinct settings and a file for {machine.name} holds {most}: it comes in {files}"
        " numbered files, burned one after the other without moving the piece.",
        "machine.distinct_settings",
        float(count),
        float(most),
    )


def split(plate: Plate, most: int | None) -> list[Plate]:
    """The plate in parts of at most `most` distinct settings, lettering and cuts of the plate counted.

    All parts keep the frame of the whole plate, so that they register to each other. With room for one setting
    only, lettering and cuts come in parts of their own.
    """
    if most is None:
        return [plate]
    kinds = distinct_settings(plate)
    taken = _parts(len(kinds), *_drawn_kinds(plate), most)
    if len(taken) == 1:
        return [plate]
    ends = np.cumsum([0, *taken]).tolist()
    groups = [[index for kind in kinds[a:b] for index in kind.patches] for a, b in pairwise(ends)]
    last = len(groups) - 1
    return [_only(plate, np.array(group, np.int64), number == 0, number == last) for number, group in enumerate(groups)]
