"""How a machine's own control shows its settings: in which unit or by which curve."""

from __future__ import annotations

import math
from collections.abc import Iterable

from rezept.core.errors import InvalidInput
from rezept.core.fields import finite_number
from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.units import UNITS, Unit, read_quantity
from rezept.core.wording import setting_words


def _unit(machine: Machine, key: str) -> Unit:
    quantity = PARAMETERS[key].quantity
    symbol = dict(machine.units).get(quantity)
    return next((unit for unit in UNITS[quantity] if unit.symbol == symbol), UNITS[quantity][0])


def in_control_order(machine: Machine, keys: Iterable[str]) -> list[str]:
    """Keys of settings as the fields of the control come; what nobody has said of stands behind them."""
    order = {key: place for place, key in enumerate(machine.control_order)}
    return sorted(keys, key=lambda key: order.get(key, len(order)))


def own_unit(machine: Machine, key: str) -> str:
    """The unit in which the control shows a setting."""
    curve = machine.curve(key)
    return _unit(machine, key).symbol if curve is None else curve.unit


def level_words(machine: Machine, key: str) -> tuple[str, ...]:
    """What the levels of a setting are called on a machine; none of what is a figure."""
    return machine.air_words if key == "air_level" else PARAMETERS[key].words


def own_amount(machine: Machine, key: str, value: float) -> str:
    """A value in that unit, or what a level is called; ``?`` where nobody knows what the control would show."""
    curve = machine.curve(key)
    if curve is None and level_words(machine, key):
        return level_words(machine, key)[int(value)]
    shown = _unit(machine, key).from_inside(value) if curve is None else float(curve.shown(value))
    if math.isnan(shown):
        return "?"
    # A scale is read by eye.
    return f"{shown:.5g}" if curve is None else f"{shown:.3g}"


def own_setting_words(machine: Machine, key: str, value: float) -> str:
    """One setting in short words: ``2 passes``, ``air soft``, ``power 80%``, ``power 5 mA``."""
    if machine.curve(key) is not None:
        return f"{PARAMETERS[key].name} {own_words(machine, key, value)}"
    return own_words(machine, key, value) if level_words(machine, key) else setting_words(key, value)


def own_words(machine: Machine, key: str, value: float) -> str:
    """A value as one turns a control to it: ``5 mA``, ``air on``."""
    amount = f"{own_amount(machine, key, value)} {own_unit(machine, key)}".strip()
    return amount if machine.curve(key) is not None else f"{PARAMETERS[key].name} {amount}"


def step_words(machine: Machine, key: str) -> str | None:
    """The finest difference the control shows of a setting: ``0.5 mA``; None where nobody has said."""
    curve, finest = machine.curve(key), machine.finest(key)
    if curve is not None:
        return None if curve.step is None else f"{curve.step:g} {curve.unit}"
    return None if finest is None else f"{finest:g} {PARAMETERS[key].unit}".strip()


def read_off(machine: Machine, key: str, read: float | str, path: str) -> float:
    """What somebody has read off the control, as a number or as it was typed, in the unit used inside.

    Raises
    ------
    InvalidInput : the control or the setting cannot show that
    """
    row = PARAMETERS[key]
    words = [word.lower() for word in level_words(machine, key)]
    if isinstance(read, str) and read.strip().lower() in words and machine.curve(key) is None:
        return float(words.index(read.strip().lower()))
    if isinstance(read, str):
        bare = read.strip().removesuffix(own_unit(machine, key))
        shown = read_quantity(bare, "count", path, row.name.capitalize())
    else:
        shown = finite_number(read, path, row.name)
    curve = machine.curve(key)
    if curve is not None:
        return curve.inside(shown, path, f"The {row.name} of {machine.name}")
    unit = _unit(machine, key)
    if unit.inverse and shown == 0:
        raise InvalidInput(f"{row.name.capitalize()} cannot be 0 {unit.symbol}.", path, shown)
    return row.checked(unit.to_inside(shown), path)
