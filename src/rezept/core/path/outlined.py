"""Following the outlines of a figure: what it takes, and how the beam goes."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from rezept.core.dose import line_dose
from rezept.core.machine import Machine
from rezept.core.parameters import Settings
from rezept.core.path.figure import Figure, is_closed
from rezept.core.path.hatch import NO_LINES, LineCount
from rezept.core.path.motion import corner_heat, loop_seconds, travel_seconds, way_seconds

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Outlined:
    """Every way of the figure from end to end; all passes of a closed one without a stop."""

    def dose(self, power_w: Floats, settings: Settings) -> Floats:
        return line_dose(power_w, settings["speed_mm_s"], settings["passes"])

    def lines(self, figure: Figure, settings: Settings) -> LineCount:
        lines = settings["passes"].sum() * sum(len(way) - 1 for way in figure.ways)
        return LineCount(int(lines), 0, "Simpler patches, fewer of them, or fewer passes do.", "hold.passes")

    def seconds(self, machine: Machine, figure: Figure, settings: Settings) -> Floats:
        ways = figure.ways
        table = np.column_stack([settings["speed_mm_s"], settings["passes"]])
        kinds, kind = np.unique(table, axis=0, return_inverse=True)
        speed, passes = kinds.T
        seconds = np.zeros(len(kinds))
        starts = np.zeros(len(kinds))
        for way in ways:
            if is_closed(way):
                seconds += loop_seconds(machine, way, speed, passes)
                starts += 1
            else:
                back = travel_seconds(machine, np.linalg.norm(way[0] - way[-1]))
                seconds += passes * way_seconds(machine, way, speed) + (passes - 1) * back
                starts += passes
        hops = [np.linalg.norm(after[0] - before[-1]) for before, after in pairwise(ways)]
        total = (seconds + travel_seconds(machine, hops).sum())[kind.ravel()]
        if "pierce_dwell_ms" in settings:
            total = total + starts[kind.ravel()] * settings["pierce_dwell_ms"] / 1000.0
        return total

    def corner_heat(
        self, machine: Machine, figure: Figure, settings: Settings, spot_mm: float
    ) -> tuple[Floats, Floats]:
        count = len(settings["speed_mm_s"])
        if not figure.loops or machine.power_mode == "follows_speed":
            return np.ones(count), np.zeros(count)
        speeds, which = np.unique(settings["speed_mm_s"], return_inverse=True)
        heats = [corner_heat(machine, loop, speeds, spot_mm) for loop in figure.loops]
        rise, way = (np.max([heat[i] for heat in heats], axis=0)[which] for i in (0, 1))
        return rise, way

    def entry_and_exit(self, figure: Figure, settings: Settings) -> tuple[Floats, Floats]:
        count = len(settings["speed_mm_s"])
        return np.tile(figure.ways[0][0], (count, 1)), np.tile(figure.ways[-1][-1], (count, 1))

    def reach(self, machine: Machine, figure: Figure, settings: Settings, turn: Floats) -> tuple[Floats, Floats]:
        points = np.concatenate(figure.ways) @ turn
        count = (len(settings["speed_mm_s"]), 1)
        return np.tile(points.min(axis=0), count), np.tile(points.max(axis=0), count)

    def moves(
        self, machine: Machine, figure: Figure, settings: Mapping[str, float]
    ) -> tuple[tuple[Floats, ...], Floats]:
        passes = int(settings["passes"])
        ways: list[Floats] = []
        for way in figure.ways:
            if is_closed(way):
                # All passes in one unbroken way: the end of a loop is the start of the next.
                ways.append(np.concatenate([way, *[way[1:]] * (passes - 1)]))
            else:
                ways += [way] * passes
        return tuple(ways), NO_LINES
