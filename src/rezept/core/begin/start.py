"""Where to begin an array: around what is known, or across what the machine can do."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from rezept.core.dose import area_dose, line_dose, power_w
from rezept.core.machine import Machine
from rezept.core.plan.chosen import Span, span_on
from rezept.core.plan.holding import limits_of
from rezept.core.process import Process

# From the middle of a range about what is usual to its ends: power gives another 1.5.
USUAL_REACH = 1.8


@dataclass(frozen=True)
class Start:
    """A first guess: ranges of speed and power; `centre` (settings somebody burned or heard of) and `dose` are None
    while nothing is known."""

    speed_mm_s: Span
    power_pct: Span
    centre: dict[str, float] | None
    dose: float | None
    reason: str

    @property
    def around(self) -> dict[str, float]:
        """The setting it lies around: the known one, else the middle of both ranges."""
        return self.centre or {"speed_mm_s": self.speed_mm_s.middle, "power_pct": self.power_pct.middle}


def rounded(value: float) -> float:
    """Two significant digits: an estimate should not look like a measurement."""
    return float(f"{value:.2g}")


def _inside(machine: Machine, key: str, low: float, high: float) -> Span:
    """A range as one would choose it, nowhere beyond its ends."""
    least, most = limits_of(machine, key)
    return span_on(machine, key, low, high, (max(least, low), min(most, high)))


def dose_of(machine: Machine, process: Process, settings: Mapping[str, float]) -> float:
    """Dose of a setting, in the unit of its process."""
    power = power_w(machine.rated_power_w, settings["power_pct"])
    passes = settings.get("passes", 1.0)
    if process.fills:
        return float(area_dose(power, settings["speed_mm_s"], settings.get("line_spacing_mm", 0.1), passes))
    return float(line_dose(power, settings["speed_mm_s"], passes))


def start_around(machine: Machine, process: Process, settings: Mapping[str, float], reason: str) -> Start:
    """A range around a setting: half to twice its speed, 0.6 to 1.3 of its power, within the machine."""
    top = machine.of_head("max_speed_mm_s")
    speed, power = min(settings["speed_mm_s"], top), settings["power_pct"]
    centre = {**settings, "speed_mm_s": speed, "power_pct": power}
    return Start(
        speed_mm_s=span_on(machine, "speed_mm_s", speed / 2, speed * 2),
        power_pct=span_on(machine, "power_pct", power * 0.6, power * 1.3),
        centre=centre,
        dose=dose_of(machine, process, centre),
        reason=reason,
    )


def start_beyond(machine: Machine, process: Process, settings: Mapping[str, float], reason: str) -> Start:
    """Where all of a plate failed: from the hottest setting burned on, to a quarter of its speed."""
    speed, power = settings["speed_mm_s"], settings["power_pct"]
    further = {**settings, "speed_mm_s": speed / 2}
    return Start(
        speed_mm_s=span_on(machine, "speed_mm_s", speed / 4, speed),
        power_pct=span_on(machine, "power_pct", power * 0.8, machine.max_power_pct),
        centre=further,
        dose=dose_of(machine, process, further),
        reason=reason,
    )


def usual_hold(machine: Machine, process: Process) -> dict[str, float]:
    """What is held where nobody has said: lines as far apart as the spot is wide, and a pulse at which the source
    gives its full power (of several pulse widths the middle one)."""
    hold: dict[str, float] = {}
    if process.fills and machine.head.spot_mm is not None:
        hold["line_spacing_mm"] = rounded(machine.head.spot_mm)
    if machine.pulse_widths:
        width = machine.pulse_widths[len(machine.pulse_widths) // 2]
        hold |= {"frequency_khz": max(width.full_power_from_khz, width.low_khz), "pulse_width_ns": width.ns}
    elif machine.frequency_khz is not None:
        hold["frequency_khz"] = machine.frequency_khz[0]
    return hold


def start_usual(machine: Machine, process: Process, usual: float, of: str) -> Start:
    """Nothing is known here but what such work usually takes (`core.typical`): about as far up as down from it.

    The doses reach from a third of it to less than three times it. Where that would be faster than the machine goes,
    the power is taken down instead, as far as the source fires.
    """
    top, floor, most = machine.of_head("max_speed_mm_s"), machine.firing_floor_pct, machine.max_power_pct
    low, high = floor + 0.3 * (most - floor), 0.8 * most
    spacing = usual_hold(machine, process).get("line_spacing_mm", 0.1) if process.fills else 1.0
    speed = machine.rated_power_w * math.sqrt(low * high) / 100.0 / (usual * spacing)
    if speed * USUAL_REACH > top:
        least = max(1.1 * floor, 1.0)
        share = top / (speed * USUAL_REACH)
        low, high = max(low * share, least), max(high * share, 1.5 * least)
        speed = top / USUAL_REACH
    return Start(
        speed_mm_s=_inside(machine, "speed_mm_s", speed / USUAL_REACH, speed * USUAL_REACH),
        power_pct=_inside(machine, "power_pct", low, high),
        centre=None,
        dose=rounded(usual),
        reason=f"Nothing is known here yet: a range about what {process.doing} {of} usually takes.",
    )


def start_blind(machine: Machine, process: Process) -> Start:
    """Nothing is known: from a hundredth of the top speed (cuts) or a tenth (marks) over a factor of ten, and the
    power from well above the firing floor to most of what the machine should give."""
    top = machine.of_head("max_speed_mm_s")
    slow = top / 100 if process.passes_through else top / 12
    low = machine.firing_floor_pct + 0.1 * (machine.max_power_pct - machine.firing_floor_pct)
    return Start(
        speed_mm_s=span_on(machine, "speed_mm_s", slow, slow * 10),
        power_pct=span_on(machine, "power_pct", low, 0.8 * machine.max_power_pct),
        centre=None,
        dose=None,
        reason="Nothing is known yet: a wide range across what the machine can do.",
    )
