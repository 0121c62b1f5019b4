"""Where to begin an array: around what is known, or across what the machine can do."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from rezept.core.dose import area_dose, line_dose, power_w
from rezept.core.machine import Machine
from rezept.core.process import Process

STEPS = 5
# From the middle of a range about what is usual to its ends: power gives another 1.5.
USUAL_REACH = 1.8


@dataclass(frozen=True)
class Start:
    """A first guess: lowest and highest speed and power; `centre` and `dose` are None while nothing is known."""

    speed_mm_s: tuple[float, float]
    power_pct: tuple[float, float]
    centre: dict[str, float] | None
    dose: float | None
    reason: str


def rounded(value: float) -> float:
    """Two significant digits: an estimate should not look like a measurement."""
    return float(f"{value:.2g}")


def even_range(low: float, high: float, limit: float) -> tuple[float, float]:
    """Ends near `low` and `high` whose `STEPS` even steps are figures one would type, never beyond `limit`."""
    start = rounded(low)
    step = rounded((high - start) / (STEPS - 1))
    end = start + step * (STEPS - 1)
    if end > limit:
        end = limit
    return start, float(f"{end:.4g}")


def _dose(machine: Machine, process: Process, settings: Mapping[str, float]) -> float:
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
    floor = max(machine.firing_floor_pct, 1.0)
    return Start(
        speed_mm_s=even_range(speed / 2, speed * 2, top),
        power_pct=even_range(max(power * 0.6, floor), min(power * 1.3, machine.max_power_pct), machine.max_power_pct),
        centre=centre,
        dose=_dose(machine, process, centre),
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
        speed_mm_s=even_range(speed / USUAL_REACH, speed * USUAL_REACH, top),
        power_pct=even_range(low, min(high, most), most),
        centre=None,
        dose=rounded(usual),
        reason=f"Nothing is known here yet: a range about what {process.doing} {of} usually takes.",
    )


def start_blind(machine: Machine, process: Process) -> Start:
    """Nothing is known: from a hundredth of the top speed (cuts) or a tenth (marks) over a factor of ten, and the
    power from well above the firing floor to most of what the machine should give."""
    top = machine.of_head("max_speed_mm_s")
    slow = top / 12 if process.fills else top / 100
    low = machine.firing_floor_pct + 0.1 * (machine.max_power_pct - machine.firing_floor_pct)
    return Start(
        speed_mm_s=even_range(slow, min(slow * 10, top), top),
        power_pct=even_range(low, 0.8 * machine.max_power_pct, machine.max_power_pct),
        centre=None,
        dose=None,
        reason="Nothing is known yet: a wide range across what the machine can do.",
    )
