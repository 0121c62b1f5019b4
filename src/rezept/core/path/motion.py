"""How long moves take.

Gantry: every straight move is a trapezoid from rest to rest with one acceleration; a hatch line is crossed at
full speed, with the run-up before and after it. Galvo: lines at constant speed, a jump costs its way plus jump
and settle delays.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from rezept.core.machine import Machine

Floats = NDArray[np.float64]


def trapezoid_seconds(length_mm: ArrayLike, speed_mm_s: ArrayLike, acceleration_mm_s2: float) -> Floats:
    """Time from rest to rest over `length_mm`, never faster than `speed_mm_s`.

    ``L/v + v/a`` where top speed is reached (``L >= v^2/a``), else ``2 sqrt(L/a)``.
    """
    length, speed = np.asarray(length_mm, float), np.asarray(speed_mm_s, float)
    reached = length >= speed**2 / acceleration_mm_s2
    return np.where(reached, length / speed + speed / acceleration_mm_s2, 2.0 * np.sqrt(length / acceleration_mm_s2))


def run_up_mm(machine: Machine, speed_mm_s: ArrayLike) -> Floats:
    """Way a gantry needs to reach its speed, ``v^2 / (2 a)``; a galvo has none."""
    speed = np.asarray(speed_mm_s, float)
    if machine.motion == "galvo":
        return np.zeros_like(speed)
    return speed**2 / (2.0 * machine.of_head("acceleration_mm_s2"))


def travel_seconds(machine: Machine, length_mm: ArrayLike) -> Floats:
    """Time of a move with the beam off; no way takes no time."""
    length = np.asarray(length_mm, float)
    speed = machine.of_head("travel_speed_mm_s")
    if machine.motion == "galvo":
        delays = (machine.jump_delay_us + machine.settle_us) * 1e-6
        return np.where(length > 0, length / speed + delays, 0.0)
    return trapezoid_seconds(length, speed, machine.of_head("acceleration_mm_s2"))


def path_seconds(machine: Machine, lengths_mm: Floats, speed_mm_s: ArrayLike) -> Floats:
    """Time along a polyline whose segments have `lengths_mm` ``(k,)``, for each of the speeds ``(n,)``.

    A gantry stops at every corner, which is true for sharp ones and a little long for gentle ones.
    """
    speed = np.atleast_1d(np.asarray(speed_mm_s, float))
    if machine.motion == "galvo":
        return lengths_mm.sum() / speed
    return trapezoid_seconds(lengths_mm[None, :], speed[:, None], machine.of_head("acceleration_mm_s2")).sum(axis=1)


def hatch_seconds(machine: Machine, lines: Floats, speed_mm_s: ArrayLike) -> Floats:
    """Time to burn hatch `lines` ``(N, 2, 2)`` one after the other, for each of the speeds ``(n,)``.

    Lines x (length + 2 run-ups), where a run-up takes ``v/a``, plus the turns between the lines.
    """
    speed = np.atleast_1d(np.asarray(speed_mm_s, float))
    lengths = np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1)
    turns = travel_seconds(machine, np.linalg.norm(lines[1:, 0] - lines[:-1, 1], axis=1)).sum()
    seconds = lengths.sum() / speed + turns
    if machine.motion == "gantry":
        seconds = seconds + len(lines) * 2.0 * speed / machine.of_head("acceleration_mm_s2")
    return seconds
