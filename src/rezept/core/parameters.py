"""One table of every setting a laser machine can vary.

Planning, files, checks, the API and the screen all read this table; a new setting is a new row here.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput, UnknownKey, quoted
from rezept.core.fields import Fields, finite_number, plain
from rezept.core.process import PROCESSES

Scale = Literal["linear", "geometric"]
# One column ``(n,)`` for each setting.
Settings = dict[str, NDArray[np.float64]]

ALL_SOURCES = ("co2_glass", "co2_rf", "diode", "fibre_q", "fibre_mopa", "uv", "ir_diode")
PULSED = ("co2_rf", "fibre_q", "fibre_mopa", "uv")
ALL_PROCESSES = tuple(PROCESSES)
OUTLINED = tuple(key for key, process in PROCESSES.items() if not process.fills)
HATCHED = tuple(key for key, process in PROCESSES.items() if process.fills)
PASSING_THROUGH = tuple(key for key, process in PROCESSES.items() if process.passes_through)
TAKING_AWAY = tuple(key for key, process in PROCESSES.items() if process.takes_away)


@dataclass(frozen=True)
class Parameter:
    """One setting.

    Parameters
    ----------
    key : with its unit at the end, as in every file of Rezept
    unit : as shown to people; empty for counts
    scale : how its steps are spread when nothing else is said
    step : the finest difference worth typing
    low, high : what the number itself can be; a machine's own limits are checked elsewhere
    default : value when a trial does not say; None where there is no safe one or it does not apply
    needed : a trial has to say it; it is never guessed
    words : what its values from 0 on are called, where they are levels rather than amounts
    sources, processes, motions : where the setting has a meaning
    """

    key: str
    name: str
    unit: str
    scale: Scale
    step: float
    low: float
    high: float
    quantity: str
    default: float | None = None
    whole: bool = False
    zero_ok: bool = True
    words: tuple[str, ...] = ()
    needed: bool = False
    sources: tuple[str, ...] = ALL_SOURCES
    processes: tuple[str, ...] = ALL_PROCESSES
    motions: tuple[str, ...] = ("gantry", "galvo")

    def checked(self, value: object, path: str) -> float:
        """`value` as a number this setting can have, or the sentence why not."""
        number = finite_number(value, path, self.name)
        unit = f" {self.unit}" if self.unit else ""
        if not self.zero_ok and number <= 0:
            raise InvalidInput(f"{self.name} must be more than 0{unit}.", path, number, 0.0)
        if number < self.low:
            raise InvalidInput(
                f"{self.name} must be at least {plain(self.low)}{unit}, but is {plain(number)}.",
                path,
                number,
                self.low,
            )
        if number > self.high:
            raise InvalidInput(
                f"{self.name} must be at most {plain(self.high)}{unit}, but is {plain(number)}.",
                path,
                number,
                self.high,
            )
        if self.whole and number != int(number):
            raise InvalidInput(f"{self.name} must be a whole number, but is {plain(number)}.", path, number)
        return number


_TABLE = (
    Parameter("speed_mm_s", "speed", "mm/s", "geometric", 0.1, 0.0, 20_000.0, "speed", zero_ok=False, needed=True),
    Parameter("power_pct", "power", "%", "linear", 0.5, 0.0, 100.0, "percent", zero_ok=False, needed=True),
    Parameter(
        "corner_power_pct",
        "corner power",
        "%",
        "linear",
        0.5,
        0.0,
        100.0,
        "percent",
        motions=("gantry",),
        processes=OUTLINED,
    ),
    Parameter(
        "frequency_khz",
        "frequency",
        "kHz",
        "geometric",
        0.1,
        0.0,
        10_000.0,
        "frequency",
        zero_ok=False,
        sources=PULSED,
    ),
    Parameter(
        "pulse_width_ns",
        "pulse width",
        "ns",
        "geometric",
        1.0,
        0.0,
        100_000.0,
        "pulse",
        zero_ok=False,
        sources=("fibre_mopa",),
    ),
    Parameter("passes", "passes", "", "linear", 1.0, 1.0, 100.0, "count", default=1.0, whole=True),
    Parameter(
        "line_spacing_mm",
        "line spacing",
        "mm",
        "geometric",
        0.001,
        0.001,
        10.0,
        "spacing",
        default=0.1,
        zero_ok=False,
        processes=HATCHED,
    ),
    Parameter(
        "hatch_angle_deg",
        "hatch angle",
        "°",
        "linear",
        1.0,
        -360.0,
        360.0,
        "angle",
        default=0.0,
        processes=HATCHED,
    ),
    Parameter(
        "hatch_turn_deg",
        "turn per pass",
        "°",
        "linear",
        1.0,
        -360.0,
        360.0,
        "angle",
        default=0.0,
        processes=HATCHED,
    ),
    Parameter("focus_offset_mm", "focus offset", "mm", "linear", 0.1, -200.0, 200.0, "length", default=0.0),
    Parameter("air_kpa", "air pressure", "kPa", "linear", 5.0, 0.0, 1000.0, "pressure"),
    Parameter("air_level", "air", "", "linear", 1.0, 0.0, 6.0, "count", whole=True, words=("off", "on", "high")),
    Parameter(
        "pierce_dwell_ms", "pierce dwell", "ms", "linear", 10.0, 0.0, 60_000.0, "time", processes=PASSING_THROUGH
    ),
    Parameter(
        "step_down_mm",
        "step down per pass",
        "mm",
        "linear",
        0.01,
        0.0,
        50.0,
        "length",
        processes=TAKING_AWAY,
    ),
    Parameter("on_delay_us", "beam on delay", "µs", "linear", 10.0, -10_000.0, 10_000.0, "delay", motions=("galvo",)),
    Parameter(
        "off_delay_us",
        "beam off delay",
        "µs",
        "linear",
        10.0,
        -10_000.0,
        10_000.0,
        "delay",
        motions=("galvo",),
    ),
)

PARAMETERS: dict[str, Parameter] = {parameter.key: parameter for parameter in _TABLE}
NEVER_DEFAULTED = tuple(key for key, row in PARAMETERS.items() if row.needed)


def parameter(key: object, path: str) -> Parameter:
    """The row of the table, or the sentence that there is none."""
    if not isinstance(key, str) or key not in PARAMETERS:
        raise UnknownKey(
            f"{quoted(key)} is not a setting Rezept knows. The settings are {', '.join(PARAMETERS)}.", path, key
        )
    return PARAMETERS[key]


def read_settings(fields: Fields) -> dict[str, float]:
    """An object of settings, each one that can be.

    Raises
    ------
    InvalidInput : with the path of the value and a sentence
    """
    rows = [(parameter(key, fields.at(key)), fields.take(key)) for key in list(fields.data)]
    return {row.key: row.checked(value, fields.at(row.key)) for row, value in rows}


def unfit_reason(row: Parameter, source: str, motion: str, process: str, machine: str) -> str | None:
    """Why a setting has no meaning on this machine or for this process; None when it has one."""
    if source not in row.sources or motion not in row.motions:
        return f"{machine} has no {row.name} to set."
    if process not in row.processes:
        return f"{row.name.capitalize()} means nothing for this process."
    return None
