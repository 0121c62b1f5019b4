"""A list of settings: a trial that is no grid. Each patch has its own settings; their order is kept, and they may
repeat."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.machine import Machine
from rezept.core.parameters import NEVER_DEFAULTED, PARAMETERS
from rezept.core.plan.axes import MOST_PATCHES
from rezept.core.plan.holding import setting_row
from rezept.core.process import Process

Floats = NDArray[np.float64]
Indices = NDArray[np.int64]
# So many patches lie in a line where nobody says; the next line lies above it.
USUAL_WRAP = 6


@dataclass(frozen=True)
class Listed:
    """Patches one by one.

    settings : of each in turn what is its own; all else is held
    wrap : so many lie in a line, the next line above it
    burned : so many of them, the first ones, were burned before the others were planned, and no file holds them any
        more; None where the plate is burned as a whole
    """

    settings: tuple[Mapping[str, float], ...]
    wrap: int = USUAL_WRAP
    burned: int | None = None

    def __len__(self) -> int:
        return len(self.settings)

    @property
    def keys(self) -> list[str]:
        """Settings that at least one patch has of its own, in the order of the table."""
        own = {key for one in self.settings for key in one}
        return [key for key in PARAMETERS if key in own]

    @property
    def told(self) -> list[str]:
        """Settings the list alone has to tell: those of every patch, and speed and power, which are never guessed."""
        return [key for key in self.keys if key in NEVER_DEFAULTED or all(key in one for one in self.settings)]

    def column(self, key: str, held: Mapping[str, float]) -> Floats:
        """``(n,)`` a setting of all patches, as held where one has none of its own."""
        return np.array([one.get(key, held.get(key, np.nan)) for one in self.settings], float)

    @property
    def varied(self) -> list[str]:
        """What tells the patches apart: own settings of which not all have the same; all of them where none differ."""
        differing = [key for key in self.keys if len({one.get(key) for one in self.settings}) > 1]
        return differing or self.keys

    def document(self) -> dict[str, Any]:
        document = {"settings": [dict(one) for one in self.settings], "wrap": self.wrap}
        return document if self.burned is None else {**document, "burned": self.burned}


SIDES = ("right", "above")


@dataclass(frozen=True)
class Added(Listed):
    """Patches that were burned one by one beside those of a plate: `wrap` of them one upon the other, the next line
    to the right of it, or above the plate from left to right, the next line above it."""

    side: str = "right"

    def document(self) -> dict[str, Any]:
        return {**super().document(), "side": self.side}

    def otherwise(self, held: Mapping[str, float], varied: Collection[str]) -> list[str]:
        """Settings that one of them has otherwise than the plate holds them."""
        return [key for key in self.keys if key not in varied and bool(np.any(self.column(key, held) != held.get(key)))]

    def cells(self) -> tuple[Indices, Indices]:
        """``(n,)`` row and column of each, counted from the first of them."""
        line, place = np.divmod(np.arange(len(self)), self.wrap)
        return (place, line) if self.side == "right" else (line, place)


def read_added(fields: Fields, machine: Machine, process: Process, hold: Mapping[str, float], told: set[str]) -> Added:
    """What was burned beside a plate; `told` are the settings its own patches vary.

    Raises
    ------
    InvalidInput : one of them lacks such a setting, or has one that the plate's own patches do not
    """
    side = fields.choice("side", SIDES)
    wrap = fields.whole("wrap", at_least=1, at_most=MOST_PATCHES)
    burned = fields.whole("burned", at_least=0)
    listed = read_list(fields, machine, process)
    for i, one in enumerate(listed.settings):
        path = f"{fields.at('settings')}[{i}]"
        for key in one:
            if key not in told and key not in hold:
                name = PARAMETERS[key].name.capitalize()
                raise InvalidInput(f"{name} is neither held nor varied on this plate; hold it first.", f"{path}.{key}")
        for key in told - set(one):
            raise InvalidInput(f"Patch {i + 1} beside the plate says no {PARAMETERS[key].name}.", f"{path}.{key}")
    return Added(listed.settings, wrap, burned, side)


def read_list(fields: Fields, machine: Machine, process: Process) -> Listed:
    """A list from its object in a trial.

    Raises
    ------
    InvalidInput : a patch has a setting the machine or the process does not have
    """
    items = fields.items("settings")
    if not 1 <= len(items) <= MOST_PATCHES:
        raise InvalidInput(
            f"A list holds {len(items)} patches; it takes 1 to {MOST_PATCHES}.",
            fields.at("settings"),
            len(items),
            MOST_PATCHES,
        )
    settings = []
    for i, item in enumerate(items):
        one = Fields(item, f"{fields.at('settings')}[{i}]")
        rows = [setting_row(one, str(key), machine, process.key) for key in one.data]
        settings.append({row.key: row.checked(one.data[row.key], one.at(row.key)) for row in rows})
    wrap = fields.whole("wrap", USUAL_WRAP, at_least=1, at_most=MOST_PATCHES)
    burned = fields.whole("burned", None, at_least=0, at_most=len(items)) if "burned" in fields.data else None
    fields.finish()
    return Listed(tuple(settings), wrap, burned)


def refuse_gaps(listed: Listed, hold: Mapping[str, float], path: str) -> None:
    """Raise `InvalidInput` where a patch lacks a setting others have, and none is held for it."""
    for key in listed.keys:
        if key in hold:
            continue
        for i, one in enumerate(listed.settings):
            if key not in one:
                raise InvalidInput(
                    f"Patch {i + 1} of the list says no {PARAMETERS[key].name}, others do, and none is held.",
                    f"{path}.settings[{i}].{key}",
                )
