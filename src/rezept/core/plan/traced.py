"""The outline of the plate at trace power: how it is gone round, and whether it would mark."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from rezept.core.dose import line_dose, power_w
from rezept.core.path.motion import run_up_mm
from rezept.core.path.trace import rounded_frame
from rezept.core.plan.moves import Moves
from rezept.core.plan.place import to_program
from rezept.core.plan.plate import Plate
from rezept.core.process import LINE

Floats = NDArray[np.float64]
ROUNDS = 3


def trace_speed_mm_s(plate: Plate) -> float:
    """As fast as the machine goes, but so that the run-up is not longer than the plate's shorter half."""
    machine = plate.trial.machine
    if machine.motion == "galvo":
        return machine.of_head("max_speed_mm_s")
    room = min(plate.width_mm, plate.height_mm) / 4
    within = float(np.sqrt(2 * machine.of_head("acceleration_mm_s2") * room))
    return min(machine.of_head("max_speed_mm_s"), within)


def trace_way(plate: Plate) -> Floats:
    """``(k, 2)`` program coordinates: from the run-up's start, `ROUNDS` times round, to where it has come to rest."""
    frame = rounded_frame(plate.width_mm, plate.height_mm)
    run = float(run_up_mm(plate.trial.machine, trace_speed_mm_s(plate)))
    start, end = np.array([[frame[0, 0] - run, 0.0]]), np.array([[frame[0, 0] + run, 0.0]])
    way = np.concatenate([start, frame, *[frame[1:]] * (ROUNDS - 1), end])
    return to_program(way, plate.trial, plate.width_mm, plate.height_mm)


def trace_moves(plate: Plate) -> Moves:
    """The moves of the outline first; its power is NaN where the machine has no trace power."""
    way = trace_way(plate)
    power = plate.trial.machine.outline_power_pct
    return Moves(
        ("outline",),
        ("trace",),
        np.array([-1]),
        {
            "speed_mm_s": np.array([trace_speed_mm_s(plate)]),
            "power_pct": np.array([np.nan if power is None else power]),
        },
        way.min(axis=0)[None],
        way.max(axis=0)[None],
    )


def weakest_mark(plate: Plate) -> tuple[float, float]:
    """Least line dose in J/mm this plate burns on purpose, and the share of it that is taken as harmless."""
    trial = plate.trial
    rated = trial.machine.rated_power_w
    doses = []
    for part in plate.drawn:
        if not part.last:
            power = power_w(rated, part.settings["power_pct"])
            doses.append((float(line_dose(power, part.settings["speed_mm_s"])), LINE.harmless_share))
    for step in plate.steps:
        power = power_w(rated, step.settings["power_pct"])
        weakest = float(line_dose(power, step.settings["speed_mm_s"])[plate.elements.burn].min())
        doses.append((weakest, step.process.harmless_share))
    return min(doses, key=lambda dose: dose[0] * dose[1])


def trace_dose(plate: Plate, power_pct: float) -> float:
    """Line dose of the trace in J/mm; it is round enough to keep its speed, so it is ``P / v`` everywhere."""
    return float(line_dose(power_w(plate.trial.machine.rated_power_w, power_pct), trace_speed_mm_s(plate)))
