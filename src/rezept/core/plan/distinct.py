"""The different settings of a plate, and a plate in parts that hold only so many of them each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from rezept.core.plan.plate import Plate, Warning


@dataclass(frozen=True)
class Distinct:
    """One setting of one step, and the elements that burn with it, as indices in burn order; `number` counts from 1.

    parts : rows of the plate's order that burn with it
    """

    number: int
    step: int
    settings: Mapping[str, float]
    elements: tuple[int, ...]
    parts: NDArray[np.int64]


def distinct_settings(plate: Plate) -> list[Distinct]:
    """The settings of the elements that burn, in the order in which they first come."""
    which, step = plate.order.T
    found: list[tuple[int, NDArray[np.int64]]] = []
    for number, one in enumerate(plate.steps):
        turns = np.flatnonzero(step == number)
        if not len(turns):
            continue
        table = np.column_stack(list(one.settings.values()))[which[turns]]
        _, kind = np.unique(table, axis=0, return_inverse=True)
        found += [(number, turns[members]) for members in _members(kind.ravel())]
    found.sort(key=lambda one: int(one[1][0]))
    return [
        Distinct(i, number, plate.steps[number].settings_of(elements[0]), elements, turns)
        for i, (number, turns) in enumerate(found, start=1)
        for elements in [tuple(which[turns].tolist())]
    ]


def _members(kind: NDArray[np.int64]) -> list[NDArray[np.int64]]:
    """The places at which each kind stands, in their order."""
    by_kind = np.argsort(kind, kind="stable")
    return np.split(by_kind, np.flatnonzero(np.diff(kind[by_kind])) + 1)


def _only(plate: Plate, parts: NDArray[np.int64], first: bool, last: bool) -> Plate:
    """The plate as if only these parts of its order burned; labels belong to the first file, its cuts to the last."""
    drawn = tuple(part for part in plate.drawn if (last if part.last else first))
    return plate.only_in(plate.order[np.sort(parts)], drawn)


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
    nothing = np.zeros(0, np.int64)
    groups = [np.concatenate([nothing, *(kind.parts for kind in kinds[a:b])]) for a, b in pairwise(ends)]
    last = len(groups) - 1
    return [_only(plate, group, number == 0, number == last) for number, group in enumerate(groups)]
