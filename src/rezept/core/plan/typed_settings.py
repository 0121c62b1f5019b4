"""What has to be typed into a machine's own control: which settings, row by row, and about how long that takes."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from rezept.core.control import in_control_order, own_amount, own_unit
from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.distinct import distinct_settings
from rezept.core.plan.growing import still_to_burn
from rezept.core.plan.plate import Plate

# About so long does somebody take to find the place of a setting, and to type a value that is another than before.
ROW_S, VALUE_S = 5.0, 4.0


@dataclass(frozen=True)
class TypedValue:
    """A value as the control shows it; `changed`: another than in the row before; `by_hand`: turned, not typed."""

    key: str
    text: str
    unit: str
    changed: bool
    by_hand: bool

    def document(self) -> dict[str, Any]:
        return {**vars(self), "name": PARAMETERS[self.key].name}


@dataclass(frozen=True)
class TypedRow:
    """One setting, for all patches that have it; `step` is the one it is of, where there are several."""

    number: int
    patches: tuple[str, ...]
    values: tuple[TypedValue, ...]
    step: str | None


def types_settings(machine: Machine) -> bool:
    """Whether somebody types the settings: no program of ours tells them."""
    return machine.takes is not None and "gcode" not in machine.takes


def typed_rows(plate: Plate) -> list[TypedRow]:
    """The settings still to burn in the order in which they first come; those that never change and are left at nothing
    are in the first row alone."""
    machine = plate.trial.machine
    rows: list[TypedRow] = []
    before: dict[str, float] = {}
    for kind in distinct_settings(still_to_burn(plate)):
        values = tuple(
            TypedValue(
                key,
                own_amount(machine, key, kind.settings[key]),
                own_unit(machine, key),
                before.get(key) != kind.settings[key],
                key in machine.by_hand,
            )
            for key in in_control_order(machine, kind.settings)
        )
        step = plate.step_name(kind.step) if len(plate.steps) > 1 else None
        rows.append(TypedRow(kind.number, tuple(plate.elements.ids[i] for i in kind.elements), values, step))
        before = dict(kind.settings)
    return rows


def typing_of(plate: Plate) -> dict[str, Any] | None:
    """Rows to type and about how many seconds that takes; None where nobody types."""
    if not types_settings(plate.trial.machine):
        return None
    rows = typed_rows(plate)
    seconds = sum(ROW_S + VALUE_S * sum(value.changed for value in row.values) for row in rows)
    return {
        "seconds": seconds,
        "rows": [
            {
                "number": row.number,
                "step": row.step,
                "patches": list(row.patches),
                "values": [one.document() for one in row.values],
            }
            for row in rows
        ],
    }
