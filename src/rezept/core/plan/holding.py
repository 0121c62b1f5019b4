"""Which settings a machine has for a process, and the settings a trial holds."""

from __future__ import annotations

from collections.abc import Mapping

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.machine import Machine
from rezept.core.parameters import NEVER_DEFAULTED, PARAMETERS, Parameter, parameter, unfit_reason
from rezept.core.process import Process


def why_not(row: Parameter, value: object, machine: Machine, process: str) -> str | None:
    """Why a setting cannot have this value on this machine for this process; None when it can."""
    reason = unfit_reason(row, machine.source, machine.motion, process, machine.name)
    return _machine_reason(row.key, value, machine) if reason is None else reason


def settings_on(machine: Machine, process: str) -> list[str]:
    """What there is to set on a machine for a process, in the order of the table."""
    return [
        row.key
        for row in PARAMETERS.values()
        if why_not(row, None, machine, process) is None and (row.key != "air_level" or len(machine.air_words) > 1)
    ]


def limits_of(machine: Machine, key: str, pulse_width_ns: float | None = None) -> tuple[float, float]:
    """What a machine can do of a setting; the pulse width narrows the frequency."""
    row = PARAMETERS[key]
    if key == "speed_mm_s":
        return row.low, machine.of_head("max_speed_mm_s")
    if key == "power_pct":
        return max(machine.firing_floor_pct, row.low), machine.max_power_pct
    if key == "corner_power_pct":
        return row.low, machine.max_power_pct
    if key == "frequency_khz":
        return machine.frequency_range(pulse_width_ns) or (row.low, row.high)
    return row.low, row.high


def setting_row(fields: Fields, key: str, machine: Machine, process: str) -> Parameter:
    row = parameter(key, fields.at(key))
    reason = why_not(row, fields.data[key], machine, process)
    if reason is not None:
        raise InvalidInput(reason, fields.at(key), fields.data[key])
    return row


def _machine_reason(key: str, value: object, machine: Machine) -> str | None:
    """What a machine of this source could have, but this one has not."""
    if key == "frequency_khz" and machine.frequency_khz is None and machine.pulse_widths is None:
        return f"{machine.name} has no frequency to set."
    if key == "pulse_width_ns" and machine.pulse_widths is None:
        return f"{machine.name} has no pulse width to set."
    if key == "air_kpa" and machine.air != "pressure":
        return f"{machine.name} has no air pressure to set."
    if key == "air_level":
        highest = len(machine.air_words) - 1
        if highest < 0:
            return f"{machine.name} sets its air by pressure: use air_kpa."
        if isinstance(value, (int, float)) and value > highest:
            return f"{machine.name} has no air level {value:g}; its highest is {highest}."
    return None


def read_hold(fields: Fields, machine: Machine, process: Process, varied: set[str]) -> dict[str, float]:
    """Every held setting, in the order of the table, defaults included."""
    given: dict[str, float] = {}
    for key in fields.data:
        row = setting_row(fields, str(key), machine, process.key)
        if row.key in varied:
            raise InvalidInput(
                f"{row.name.capitalize()} is both held and varied; keep one of the two.", fields.at(row.key)
            )
        given[row.key] = row.checked(fields.data[key], fields.at(row.key))
    for key in NEVER_DEFAULTED:
        if key not in given and key not in varied:
            raise InvalidInput(
                f"{PARAMETERS[key].name.capitalize()} is neither held nor varied, and it is never guessed.",
                fields.at(key),
            )
    hold: dict[str, float] = {}
    for row in PARAMETERS.values():
        fits = unfit_reason(row, machine.source, machine.motion, process.key, machine.name) is None
        if row.key in given:
            hold[row.key] = given[row.key]
        elif row.default is not None and fits and row.key not in varied:
            hold[row.key] = row.default
            fields.defaulted.append(fields.at(row.key))
    return hold


def read_line_settings(
    fields: Fields, machine: Machine, process: str, allowed: tuple[str, ...], what: str
) -> dict[str, float]:
    """Settings of lines beside the patches, such as lettering; speed and power are needed once they are `needed`."""
    settings: dict[str, float] = {}
    for key in fields.data:
        if key in PARAMETERS and key not in allowed:
            raise InvalidInput(f"{what} are lines; they take {', '.join(allowed)}.", fields.at(str(key)), key)
        row = setting_row(fields, str(key), machine, process)
        settings[row.key] = row.checked(fields.data[key], fields.at(row.key))
    return settings


def need_speed_and_power(fields: Fields, settings: Mapping[str, float], what: str) -> dict[str, float]:
    """The settings with one pass where none are given, or the sentence that speed or power is missing."""
    for key in NEVER_DEFAULTED:
        if key not in settings:
            raise InvalidInput(
                f"{what}, but their {PARAMETERS[key].name} is missing, and it is never guessed.", fields.at(key)
            )
    if "passes" in settings:
        return dict(settings)
    fields.defaulted.append(fields.at("passes"))
    return {**settings, "passes": 1.0}
