"""How long moves take.

Gantry: one acceleration for every move. From rest to rest a move is a trapezoid; along an outline the head slows at
every corner so far that its velocity jumps by no more than the machine takes (`corner_jump_mm_s`), and looks ahead
far enough to be slow in time; a hatch line is crossed at full speed, with the run-up before and after it.
Galvo: lines at constant speed, each corner costs a part of the polygon delay, a jump its way plus jump and settle
delays.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

from rezept.core.machine import Machine
from rezept.core.path.hatch import begins_row

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


def corner_turns(way: Floats) -> Floats:
    """``(k - 1,)`` angle in rad by which each inner point of a way ``(k + 1, 2)`` turns; pi is back again."""
    steps = np.diff(way, axis=0)
    heading = np.arctan2(steps[:, 1], steps[:, 0])
    return np.abs((np.diff(heading) + np.pi) % (2 * np.pi) - np.pi)


def corner_speeds(machine: Machine, turns: ArrayLike) -> Floats:
    """Speed in mm/s at which a gantry takes corners that turn by `turns` rad.

    At speed v a corner turning by t changes the velocity by ``2 v sin(t / 2)``; this is held at `corner_jump_mm_s`.
    """
    change = 2.0 * np.sin(np.asarray(turns, float) / 2.0)
    with np.errstate(divide="ignore"):
        return np.where(change > 1e-9, machine.corner_jump_mm_s / change, np.inf)


def _slowed(lengths: Floats, limits: Floats, acceleration: float) -> Floats:
    """``(k + 1, n)`` speeds lowered so that each can be reached from the one before, over `lengths` ``(k, n)``."""
    reached = limits.copy()
    gain = 2.0 * acceleration * lengths
    for i in range(1, len(reached)):
        np.minimum(reached[i], np.sqrt(reached[i - 1] ** 2 + gain[i - 1]), out=reached[i])
    return reached


def _profile_seconds(lengths: Floats, limits: Floats, speed: Floats, acceleration: float) -> Floats:
    """Time of n ways of k segments ``(k, n)`` whose points allow the speeds `limits` ``(k + 1, n)``."""
    forward = _slowed(lengths, limits, acceleration)
    at = _slowed(lengths[::-1], forward[::-1], acceleration)[::-1]
    before, after = at[:-1], at[1:]
    peak = np.minimum(speed, np.sqrt(acceleration * lengths + (before**2 + after**2) / 2.0))
    cruise = np.maximum(lengths - (2.0 * peak**2 - before**2 - after**2) / (2.0 * acceleration), 0.0)
    cruising = np.divide(cruise, peak, out=np.zeros_like(cruise), where=peak > 0)
    seconds: Floats = ((2.0 * peak - before - after) / acceleration + cruising).sum(axis=0)
    return seconds


def _distinct(way: Floats) -> tuple[Floats, Floats]:
    """A way without the points that lie on the one before, and the lengths of its segments."""
    steps = np.hypot(*np.diff(way, axis=0).T)
    moves = steps > 1e-9
    return way[np.append(True, moves)], steps[moves]


def way_seconds(machine: Machine, way: Floats, speed_mm_s: ArrayLike) -> Floats:
    """Time along one unbroken way ``(k + 1, 2)``, beam on, from rest to rest, for each of the speeds ``(n,)``."""
    speed = np.atleast_1d(np.asarray(speed_mm_s, float))
    way, lengths = _distinct(way)
    if not len(lengths):
        return np.zeros(len(speed))
    turns = corner_turns(way)
    if machine.motion == "galvo":
        return lengths.sum() / speed + float(turns.sum()) / np.pi * machine.polygon_delay_us * 1e-6
    limits = np.zeros((len(lengths) + 1, len(speed)))
    limits[1:-1] = np.minimum(corner_speeds(machine, turns)[:, None], speed[None, :])
    across = np.broadcast_to(lengths[:, None], (len(lengths), len(speed)))
    return _profile_seconds(across, limits, speed, machine.of_head("acceleration_mm_s2"))


def strokes_seconds(machine: Machine, points: Floats, begins: NDArray[np.bool_], speed_mm_s: float) -> Floats:
    """``(m,)`` time of each of many strokes, every one from rest to rest.

    Parameters
    ----------
    points : ``(n, 2)`` of all strokes, one after the other, no two neighbours of a stroke on one another
    begins : ``(n,)`` which points begin a stroke
    """
    first = np.flatnonzero(begins)
    count = np.diff(np.append(first, len(points)))
    stroke = np.repeat(np.arange(len(first)), count)
    within = np.arange(len(points)) - first[stroke]
    lengths = np.zeros((max(int(count.max()) - 1, 1), len(first)))
    inner = ~begins
    step = np.zeros((len(points), 2))
    step[1:] = np.diff(points, axis=0)
    lengths[within[inner] - 1, stroke[inner]] = np.hypot(step[inner, 0], step[inner, 1])
    heading = np.arctan2(step[:, 1], step[:, 0])
    turns = np.zeros(len(points))
    turns[1:-1] = np.abs((heading[2:] - heading[1:-1] + np.pi) % (2 * np.pi) - np.pi)
    corner = inner & np.append(inner[1:], False)
    if machine.motion == "galvo":
        turned = np.bincount(stroke[corner], turns[corner], minlength=len(first))
        seconds: Floats = lengths.sum(axis=0) / speed_mm_s + turned / np.pi * machine.polygon_delay_us * 1e-6
        return seconds
    limits = np.zeros((len(lengths) + 1, len(first)))
    limits[within[corner], stroke[corner]] = np.minimum(corner_speeds(machine, turns[corner]), speed_mm_s)
    return _profile_seconds(lengths, limits, np.array(speed_mm_s), machine.of_head("acceleration_mm_s2"))


def loop_seconds(machine: Machine, loop: Floats, speed_mm_s: ArrayLike, passes: ArrayLike) -> Floats:
    """Time of a closed outline gone round `passes` times without a stop, for each of the speeds ``(n,)``.

    Every round after the first takes as long as the next: three are enough to know all.
    """
    speed = np.atleast_1d(np.asarray(speed_mm_s, float))
    count = np.broadcast_to(np.asarray(passes, float), speed.shape)
    once = way_seconds(machine, loop, speed)
    if count.max() <= 1:
        return once
    twice = way_seconds(machine, np.concatenate([loop, loop[1:]]), speed)
    if count.max() <= 2:
        return np.where(count < 2, once, twice)
    thrice = way_seconds(machine, np.concatenate([loop, loop[1:], loop[1:]]), speed)
    return np.where(count < 2, once, twice + (count - 2.0) * (thrice - twice))


def corner_heat(machine: Machine, loop: Floats, speed_mm_s: ArrayLike, spot_mm: float) -> tuple[Floats, Floats]:
    """What slowing into the sharpest corner of a closed outline does at constant power, for each of the speeds.

    Returns
    -------
    rise : dose over half a spot on each side of the corner, as a multiple of the dose on the straight:
        ``v t / (d / 2)`` with ``t = (sqrt(v_c^2 + a d) - v_c) / a`` the time for half a spot from corner speed v_c
    way_mm : how far before the corner it begins to slow, ``(v^2 - v_c^2) / (2 a)``
    """
    speed = np.atleast_1d(np.asarray(speed_mm_s, float))
    closed = np.concatenate([loop, loop[1:2]])
    if machine.motion == "galvo":
        return np.ones_like(speed), np.zeros_like(speed)
    acceleration = machine.of_head("acceleration_mm_s2")
    corner = np.minimum(float(corner_speeds(machine, corner_turns(closed).max())), speed)
    way = (speed**2 - corner**2) / (2.0 * acceleration)
    half = spot_mm / 2.0
    # Within the slowing: accelerated from corner speed; beyond it: at full speed.
    slow = np.minimum(half, way)
    seconds = (np.sqrt(corner**2 + 2.0 * acceleration * slow) - corner) / acceleration + (half - slow) / speed
    return speed * seconds / half, way


def hatch_seconds(machine: Machine, lines: Floats, speed_mm_s: ArrayLike) -> Floats:
    """Time to burn hatch `lines` ``(N, 2, 2)`` one after the other, for each of the speeds ``(n,)``.

    Rows x (length + 2 run-ups), where a run-up takes ``v/a``, plus the moves between the rows: from where the run-out
    of one ends to where the run-up of the next begins. A gantry crosses the gaps within a row at its speed; a galvo
    jumps over them.
    """
    speed = np.atleast_1d(np.asarray(speed_mm_s, float))
    lengths = float(np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum())
    gaps = np.linalg.norm(lines[1:, 0] - lines[:-1, 1], axis=1)
    if machine.motion == "galvo":
        return lengths / speed + travel_seconds(machine, gaps).sum()
    begins = begins_row(lines)
    way = lengths + float(gaps[~begins[1:]].sum())
    run_ups = int(begins.sum()) * 2.0 * speed / machine.of_head("acceleration_mm_s2")
    return way / speed + _turn_seconds(machine, lines, begins, speed) + run_ups


def _turn_seconds(machine: Machine, lines: Floats, begins: NDArray[np.bool_], speed: Floats) -> Floats:
    """Time of the moves between rows, for each of the speeds ``(n,)``: of rows that run to and fro just the gap, of
    rows that run one way back over the whole row, run-up and run-out."""
    way = lines[:, 1] - lines[:, 0]
    length = np.linalg.norm(way, axis=1)[:, None]
    unit = np.divide(way, length, out=np.zeros_like(way), where=length > 0)
    gap = (lines[1:, 0] - lines[:-1, 1])[begins[1:]]
    back = (unit[:-1] + unit[1:])[begins[1:]]
    if not np.any(np.abs(back) > 1e-9):
        return np.full(len(speed), travel_seconds(machine, np.linalg.norm(gap, axis=1)).sum())
    run = run_up_mm(machine, speed)
    moves = np.linalg.norm(gap[None] - run[:, None, None] * back[None], axis=2)
    seconds: Floats = travel_seconds(machine, moves).sum(axis=1)
    return seconds
