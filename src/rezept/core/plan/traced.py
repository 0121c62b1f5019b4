"""The outline of the plate at trace power: how it is gone round, and whether it would mark."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray

from rezept.core.dose import line_dose, power_w
from rezept.core.path.figure import Figure
from rezept.core.path.motion import run_up_mm
from rezept.core.path.trace import corner_radius_mm, hull_round, outermost, rounded_frame, rounded_hull
from rezept.core.plan.moves import Moves
from rezept.core.plan.place import to_program
from rezept.core.plan.plate import Plate
from rezept.core.process import LINE

Floats = NDArray[np.float64]
# Round the whole plate, or tight round all that burns.
Outline = Literal["frame", "tight"]
OUTLINES: tuple[Outline, ...] = get_args(Outline)
ROUNDS = 3
# A head that slowly turns a corner of this radius has this much room to gain its speed.
_ROOM_BY_RADIUS = 3.125


@dataclass(frozen=True)
class Round:
    """One way of showing where a plate will lie.

    way : ``(k, 2)`` once round, closed, on the plate, from its lowest point, where it heads to the right
    speed_mm_s : as fast as the machine goes, but so that its run-up is not longer than its corners allow
    """

    way: Floats
    speed_mm_s: float


@lru_cache(maxsize=64)
def _outermost_of(figure: Figure) -> Floats:
    return outermost(np.concatenate(figure.ways))


def _outermost_drawn(plate: Plate) -> Floats:
    """``(n, 2)`` points of all that burns, none left out that a hull of it touches: of many elements of one figure, the
    outermost of its points at the outermost of their places."""
    elements = plate.elements
    burns = elements.burn
    points = [
        (_outermost_of(figure)[None] + outermost(elements.corners[members[burns[members]]])[:, None]).reshape(-1, 2)
        for figure, members in elements.by_figure()
    ]
    for part in plate.drawn:
        points += [part.points, part.lines.reshape(-1, 2)]
    return np.concatenate(points)


def _round(plate: Plate, outline: Outline) -> Round:
    machine = plate.trial.machine
    if outline == "frame":
        way, radius = rounded_frame(plate.width_mm, plate.height_mm), corner_radius_mm(plate.width_mm, plate.height_mm)
    else:
        way, radius = rounded_hull(hull_round(_outermost_drawn(plate)))
    fastest = machine.of_head("max_speed_mm_s")
    if machine.motion == "galvo":
        return Round(way, fastest)
    within = float(np.sqrt(2 * machine.of_head("acceleration_mm_s2") * _ROOM_BY_RADIUS * radius))
    return Round(way, min(fastest, within))


def round_of(plate: Plate, outline: Outline) -> Round:
    """How an outline is gone round; worked out once for a plate."""
    key = ("outline", outline)
    if key not in plate.worked_out:
        plate.worked_out[key] = _round(plate, outline)
    found: Round = plate.worked_out[key]
    return found


def trace_way(plate: Plate, outline: Outline = "frame", rounds: int = ROUNDS) -> Floats:
    """``(k, 2)`` program coordinates: from the run-up's start, so many times round, to where it has come to rest."""
    once = round_of(plate, outline)
    run = np.array([float(run_up_mm(plate.trial.machine, once.speed_mm_s)), 0.0])
    first = once.way[:1]
    way = np.concatenate([first - run, once.way, *[once.way[1:]] * (rounds - 1), first + run])
    return to_program(way, plate.trial, plate.width_mm, plate.height_mm)


def trace_moves(plate: Plate, outline: Outline = "frame") -> Moves:
    """The moves of the outline first; its power is NaN where the machine has no trace power."""
    way = trace_way(plate, outline)
    power = plate.trial.machine.outline_power_pct
    return Moves(
        ("outline",),
        ("trace",),
        np.array([-1]),
        {
            "speed_mm_s": np.array([round_of(plate, outline).speed_mm_s]),
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


def trace_dose(plate: Plate, power_pct: float, outline: Outline = "frame") -> float:
    """Line dose of the trace in J/mm; it is round enough to keep its speed, so it is ``P / v`` everywhere."""
    speed = round_of(plate, outline).speed_mm_s
    return float(line_dose(power_w(plate.trial.machine.rated_power_w, power_pct), speed))
