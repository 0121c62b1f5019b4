"""Settings that no program tells: when somebody has to turn a dial, a valve or the height, and to what."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.control import own_amount, own_unit, own_words, read_off
from rezept.core.errors import InvalidInput, quoted
from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.again import only
from rezept.core.plan.moves import PART_OF
from rezept.core.plan.plate import Plate, Warning
from rezept.core.wording import together

Indices = NDArray[np.int64]
Floats = NDArray[np.float64]
# What a setting is where nobody says it: left as it is, but for the focus, which then lies on the surface.
_LEFT_AT = {key: row.default for key, row in PARAMETERS.items() if row.default is not None}


@dataclass(frozen=True)
class HandStop:
    """Somebody turns something before these parts of a run burn.

    settings : what is turned, in the units used inside; of the first stop all there is to turn
    parts : names of the parts of the run that burn with it, up to the next stop
    """

    settings: Mapping[str, float]
    parts: tuple[str, ...]

    def document(self, machine: Machine) -> dict[str, Any]:
        return {
            "sentence": stop_sentence(machine, self.settings),
            "parts": list(self.parts),
            "settings": [
                {
                    "key": key,
                    "name": PARAMETERS[key].name,
                    "value": value,
                    "shown": own_amount(machine, key, value),
                    "unit": own_unit(machine, key),
                }
                for key, value in self.settings.items()
            ],
        }


def turned_to(machine: Machine, stop: HandStop, shown: Mapping[str, float | str]) -> dict[str, float]:
    """What was turned at a stop, in the units used inside: as somebody read it off, else as it was planned.

    shown : by the key of a setting what its control shows, in the control's own unit

    Raises
    ------
    InvalidInput : it is not turned here, or its control cannot show that
    """
    for key in shown:
        if key not in stop.settings:
            raise InvalidInput(f"{quoted(key)} is not turned here.", f"shown.{key}", key)
    # Who leaves what the control was to show leaves the plan: the figure behind it is not rounded by reading it.
    read = {key: read_off(machine, key, value, f"shown.{key}") for key, value in shown.items()}
    return {
        key: read[key]
        if key in read and own_amount(machine, key, read[key]) != own_amount(machine, key, value)
        else value
        for key, value in stop.settings.items()
    }


def stop_sentence(machine: Machine, settings: Mapping[str, float]) -> str:
    return f"Set {together([own_words(machine, key, value) for key, value in settings.items()])}, then go on."


def least_turned(order: Indices, columns: Sequence[Floats]) -> Indices:
    """`order` ``(k,)`` parted by what is turned by hand, so that the hand moves least: once for every value of the
    first of `columns` ``(n,)``, and within each to and fro through those of the next; else the order stays.

    Going to and fro, as a reflected Gray code does (F. Gray, US patent 2 632 058, 1953), no two neighbouring groups
    differ in more than one setting where every combination burns.
    """
    group = np.zeros(len(order), np.int64)
    for column in columns:
        _, rank = np.unique(column[order], return_inverse=True)
        rank = rank.ravel()
        there = np.where(group % 2 == 0, rank, rank.max() - rank)
        _, group = np.unique(group * (rank.max() + 1) + there, return_inverse=True)
        group = group.ravel()
    return order[np.argsort(group, kind="stable")]


def stretches(plate: Plate) -> Iterator[tuple[str, Mapping[str, float]]]:
    """Names of the parts of a run in their order, and their settings; what is drawn in one part has one setting."""
    drawn = {PART_OF[part.kind]: part.settings for part in reversed(plate.drawn)}
    if any(not part.last for part in plate.drawn):
        yield "labels", drawn["labels"]
    for index, step, name in plate.parts():
        yield name, plate.steps[step].settings_of(index)
    if any(part.last for part in plate.drawn):
        yield "outline", drawn["outline"]


def hand_stops(plate: Plate) -> list[HandStop]:
    """When something has to be turned while this burns, the first time before it begins."""
    by_hand = plate.trial.machine.by_hand
    now: dict[str, float] = {}
    stops: list[tuple[dict[str, float], list[str]]] = []
    each = list(stretches(plate)) if by_hand else []
    # What nobody wants anywhere else than where it is by itself is not turned at all.
    touched = [key for key in by_hand if any(one.get(key, _LEFT_AT.get(key)) for _, one in each)]
    for name, settings in each:
        wanted = {key: settings.get(key, _LEFT_AT.get(key)) for key in touched}
        turned = {key: value for key, value in wanted.items() if value is not None and now.get(key) != value}
        now |= turned
        if turned or not stops:
            stops.append((turned, []))
        stops[-1][1].append(name)
    return [HandStop(turned, tuple(parts)) for turned, parts in stops if turned or len(stops) > 1]


def hand_note(plate: Plate) -> Warning | None:
    """How often somebody has to turn something while this burns, and to what."""
    stops, machine = hand_stops(plate), plate.trial.machine
    if not stops:
        return None
    words = "; ".join(together([own_words(machine, key, v) for key, v in stop.settings.items()]) for stop in stops)
    times = "once, before it begins" if len(stops) == 1 else f"{len(stops)} times"
    names = together([PARAMETERS[key].name for key in machine.by_hand if any(key in stop.settings for stop in stops)])
    return Warning(
        "by_hand", "note", f"By hand {times}: {names}. In this order: {words}.", "machine.by_hand", float(len(stops))
    )


def hand_only(plate: Plate, stop: HandStop) -> Plate:
    """The plate as if only what burns at one stop burned."""
    drawn = set(PART_OF.values())
    patches = [name for name in stop.parts if name not in drawn]
    return only(plate, patches, labels="labels" in stop.parts, cuts="outline" in stop.parts)
