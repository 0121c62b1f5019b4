"""The facts of a machine or head as a table: what a form asks for, in which quantity, and where to start."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass
from typing import Any, Literal

from rezept.core.errors import InvalidInput, SeveralErrors
from rezept.core.fields import plain
from rezept.core.machine import Machine
from rezept.core.stand_off import MOST_DATUM_MM


@dataclass(frozen=True)
class Fact:
    """One figure of a machine or head.

    Parameters
    ----------
    quantity : a key of `units.UNITS`; what people may type
    least, most : what such a figure can be at all; beyond it somebody has mistyped
    needed : a machine cannot be without it
    motion : only machines that move that way have it; empty for all
    matters : what follows from it, where it is only assumed; empty where little does
    find_out : how one comes to know it
    of : whose it is; a head may differ from its machine in those marked `both`
    """

    key: str
    name: str
    unit: str
    quantity: str
    least: float
    most: float
    help: str = ""
    needed: bool = False
    motion: Literal["", "gantry", "galvo"] = ""
    of: Literal["machine", "head", "both"] = "machine"
    matters: Literal["", "time", "power", "dose"] = ""
    find_out: str = ""


_SETTINGS = "in the settings of its controller"
_DELAYS = "among the delays in the settings of its control"
FACTS = (
    Fact("rated_power_w", "rated power", "W", "watts", 0.001, 100_000.0, "optical power at 100 %", needed=True),
    Fact("wavelength_nm", "wavelength", "nm", "wavelength", 100.0, 100_000.0, find_out="on the source's plate"),
    Fact("field_width_mm", "field width", "mm", "length", 1.0, 20_000.0, needed=True, of="both"),
    Fact("field_height_mm", "field depth", "mm", "length", 1.0, 20_000.0, needed=True, of="both"),
    Fact("max_speed_mm_s", "top speed", "mm/s", "speed", 0.1, 100_000.0, "while burning", needed=True, of="both"),
    Fact(
        "travel_speed_mm_s",
        "travel speed",
        "mm/s",
        "speed",
        0.1,
        100_000.0,
        "with the beam off; empty for the top speed",
        of="both",
        matters="time",
        find_out=_SETTINGS,
    ),
    Fact(
        "acceleration_mm_s2",
        "acceleration",
        "mm/s²",
        "acceleration",
        1.0,
        1_000_000.0,
        motion="gantry",
        of="both",
        matters="time",
        find_out=f"{_SETTINGS}, or from the time a known plate took",
    ),
    Fact(
        "corner_jump_mm_s",
        "jump at corners",
        "mm/s",
        "speed",
        0.001,
        10_000.0,
        "how much the velocity may jump at a corner without slowing",
        motion="gantry",
        matters="time",
        find_out=_SETTINGS,
    ),
    Fact(
        "jump_delay_us",
        "jump delay",
        "µs",
        "delay",
        0.0,
        1_000_000.0,
        motion="galvo",
        matters="time",
        find_out=_DELAYS,
    ),
    Fact(
        "settle_us",
        "settling time",
        "µs",
        "delay",
        0.0,
        1_000_000.0,
        "after a jump",
        motion="galvo",
        matters="time",
        find_out=_DELAYS,
    ),
    Fact(
        "polygon_delay_us",
        "polygon delay",
        "µs",
        "delay",
        0.0,
        1_000_000.0,
        "for turning back; a corner costs its share",
        motion="galvo",
        matters="time",
        find_out=_DELAYS,
    ),
    Fact(
        "firing_floor_pct",
        "fires from",
        "%",
        "percent",
        0.0,
        100.0,
        "below this power nothing comes out",
        matters="power",
        find_out="lower the power on scrap until nothing marks any more",
    ),
    Fact(
        "max_power_pct",
        "power ceiling",
        "%",
        "percent",
        0.0,
        100.0,
        "what the source can bear for long",
        matters="power",
        find_out="in the papers of the source",
    ),
    Fact("trace_power_pct", "trace power", "%", "percent", 0.0, 100.0, "shows the outline without marking"),
    Fact(
        "s_at_full_power",
        "S at full power",
        "",
        "count",
        0.01,
        10_000_000.0,
        "the S number that means 100 %",
        motion="gantry",
        matters="power",
        find_out=f"{_SETTINGS}: the greatest S",
    ),
    Fact(
        "distinct_settings",
        "settings a file",
        "",
        "count",
        1.0,
        100_000.0,
        "how many different ones a file holds; empty for any number",
    ),
    Fact("shows.speed_mm_s", "steps of speed", "mm/s", "speed", 0.0001, 1000.0, "the finest its control shows"),
    Fact("shows.power_pct", "steps of power", "%", "percent", 0.0001, 50.0, "the finest its control shows"),
    Fact(
        "spot_mm",
        "spot",
        "mm",
        "spacing",
        0.001,
        50.0,
        "width of a single line in focus",
        of="head",
        matters="dose",
        find_out="a single line mark in focus, under a magnifier",
    ),
    Fact("m2", "beam quality M²", "", "count", 1.0, 1000.0, of="head"),
    Fact("focal_mm", "focal length", "mm", "length", 1.0, 10_000.0, of="head"),
    Fact(
        "datum_mm",
        "figure in focus",
        "mm",
        "length",
        -MOST_DATUM_MM,
        MOST_DATUM_MM,
        "of its scale on the bed, of its spacer, of its ruler",
        of="head",
    ),
)
# What a machine can be taken to have until somebody looks it up: figures that are not needed, and a few ways it works.
ASSUMABLE = frozenset({fact.key for fact in FACTS if not fact.needed} | {"motion", "air", "frequency_khz"})

# What machines of each kind of source usually have: middling figures of our own, assumed until somebody looks them up.
# Rated power, field and top speed stay empty: a wrong guess there would burn.
_GANTRY = {"motion": "gantry", "acceleration_mm_s2": 3000, "corner_jump_mm_s": 10, "s_at_full_power": 1000}
_GALVO = {"motion": "galvo", "jump_delay_us": 300, "settle_us": 200, "air": "none"}
START_VALUES: dict[str, dict[str, Any]] = {
    "co2_glass": {**_GANTRY, "firing_floor_pct": 10, "max_power_pct": 85, "air": "on_off", "spot_mm": 0.2},
    "co2_rf": {**_GANTRY, "firing_floor_pct": 2, "max_power_pct": 100, "air": "on_off", "spot_mm": 0.15},
    "diode": {**_GANTRY, "firing_floor_pct": 2, "max_power_pct": 100, "air": "on_off", "spot_mm": 0.1},
    "fibre_q": {**_GALVO, "max_power_pct": 90, "frequency_khz": [20, 80], "spot_mm": 0.05},
    "fibre_mopa": {**_GALVO, "max_power_pct": 90, "frequency_khz": [5, 2000], "spot_mm": 0.05},
    "uv": {**_GALVO, "max_power_pct": 95, "frequency_khz": [20, 150], "spot_mm": 0.03},
    "ir_diode": {**_GANTRY, "firing_floor_pct": 5, "max_power_pct": 100, "air": "none", "spot_mm": 0.08},
}


def names_of_assumed(matters: str, assumed: Collection[str]) -> list[str]:
    """What the figures are called that are only assumed, by their keys, and from which something that matters follows:
    time, power or dose."""
    return [fact.name for fact in FACTS if fact.matters == matters and fact.key in assumed]


def _figures(machine: Machine, fact: Fact) -> list[tuple[str, float | None]]:
    """Where a fact stands in a machine's document, and what it is there."""
    head = dict(machine.head.overrides)
    if fact.of == "head":
        return [(f"head.{fact.key}", getattr(machine.head, fact.key))]
    if fact.key.startswith("shows."):
        return [(fact.key, machine.finest(fact.key.removeprefix("shows.")))]
    return [(fact.key, getattr(machine, fact.key)), (f"head.{fact.key}", head.get(fact.key))]


def _pulse_figures(machine: Machine) -> list[tuple[str, str, str, float, tuple[float, float]]]:
    """Path, name, unit, figure and bounds of everything about pulses, which no row of the table holds."""
    khz, ns = (1e-4, 1e5), (1e-3, 1e7)
    pairs = [
        (f"frequency_khz[{i}]", "frequency", "kHz", value, khz) for i, value in enumerate(machine.frequency_khz or ())
    ]
    for i, width in enumerate(machine.pulse_widths or ()):
        at = f"pulse_widths[{i}]"
        pairs.append((f"{at}.ns", "pulse width", "ns", width.ns, ns))
        for key, value in (("frequency_khz[0]", width.low_khz), ("frequency_khz[1]", width.high_khz)):
            pairs.append((f"{at}.{key}", "frequency", "kHz", value, khz))
        pairs.append((f"{at}.full_power_from_khz", "frequency", "kHz", width.full_power_from_khz, khz))
    return pairs


def beyond_bounds(machine: Machine) -> list[InvalidInput]:
    """Every figure of a machine and its head that cannot be, with its path: a slip of the finger, or nonsense."""
    figures = [
        (path, fact.name, fact.unit, value, (fact.least, fact.most))
        for fact in FACTS
        for path, value in _figures(machine, fact)
        if value is not None
    ]
    return [
        InvalidInput(
            f"{plain(value)} {unit}".strip()
            + f" cannot be {name} of {machine.name}: it lies between {plain(least)} and"
            f" {plain(most)}.",
            path,
            value,
            least if value < least else most,
        )
        for path, name, unit, value, (least, most) in [*figures, *_pulse_figures(machine)]
        if not least <= value <= most
    ]


def refuse_beyond_bounds(machine: Machine) -> None:
    """Raise where a figure of a machine cannot be; asked wherever a machine is entered."""
    errors = beyond_bounds(machine)
    if errors:
        raise errors[0] if len(errors) == 1 else SeveralErrors(list(errors))
