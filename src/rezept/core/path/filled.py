"""Filling a figure with hatch lines: what it takes, and how the beam goes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from rezept.core.dose import area_dose
from rezept.core.kept import kept
from rezept.core.machine import Machine
from rezept.core.parameters import Settings
from rezept.core.path.figure import Figure
from rezept.core.path.hatch import MOST_LINES, LineCount, begins_row, directions, hatch_figure
from rezept.core.path.motion import hatch_seconds, run_up_mm, travel_seconds

Floats = NDArray[np.float64]
# What the lines of a filled figure depend on, besides the figure.
GEOMETRY = ("line_spacing_mm", "hatch_angle_deg", "hatch_turn_deg", "passes")
Geometry = tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class HatchSet:
    """Parallel lines laid over others, at a spacing and an angle of their own."""

    line_spacing_mm: float
    hatch_angle_deg: float

    def document(self) -> dict[str, float]:
        return dict(vars(self))


def pass_lines(
    figure: Figure, settings: Mapping[str, float], sets: Sequence[HatchSet] = (), one_way: bool = False
) -> list[Floats]:
    """Hatch lines of each pass, set after set: in pass k all of them are turned by ``k hatch_turn``."""
    own = HatchSet(settings["line_spacing_mm"], settings["hatch_angle_deg"])
    return [
        hatch_figure(figure, one.line_spacing_mm, one.hatch_angle_deg + k * settings["hatch_turn_deg"], one_way)
        for k in range(int(settings["passes"]))
        for one in (own, *sets)
    ]


def framed(lines: Floats) -> tuple[Floats, Floats]:
    """Lines ``(N, 4, 2)`` and the way one mm of run-up moves their points.

    Stretches of one row are gone along at one speed: only its first has a run-up and only its last a run-out, and
    what ends a stretch leads to the next.
    """
    way = lines[:, 1] - lines[:, 0]
    length = np.hypot(way[:, 0], way[:, 1])
    unit = np.divide(way, length[:, None], out=np.zeros_like(way), where=length[:, None] > 0)
    first = begins_row(lines)
    last = np.append(first[1:], True)
    nothing = np.zeros_like(unit)
    framed = lines[:, [0, 0, 1, 1]].copy()
    inner = np.flatnonzero(~last)
    framed[inner, 3] = lines[inner + 1, 0]
    before, after = np.where(first[:, None], -unit, 0.0), np.where(last[:, None], unit, 0.0)
    return framed, np.stack([before, nothing, nothing, after], axis=1)


@kept(64 * 2**20)
def hatch_frame(fill: Filled, figure: Figure, geometry: Geometry) -> tuple[Floats, Floats]:
    """All lines of a figure at the origin ``(N, 4, 2)`` without run-up, and the way one mm of run-up moves them.

    Elements of a plate mostly share their lines and differ in speed alone, which is what the second array is for.
    """
    frames = [framed(lines) for lines in fill.passes(figure, geometry)]
    return np.concatenate([lines for lines, _ in frames]), np.concatenate([outward for _, outward in frames])


@kept(16 * 2**20)
def _hatch_reach(fill: Filled, figure: Figure, geometry: Geometry, turn: bytes) -> tuple[Floats, Floats, Floats]:
    """Where lines turned by `turn` reach: ``(g, 2)`` lowest and highest of all points that a mm of run-up moves the
    same way, and these ways ``(g, 2)``."""
    matrix = np.frombuffer(turn).reshape(2, 2)
    frame, outward = hatch_frame(fill, figure, geometry)
    points, ways = (frame @ matrix).reshape(-1, 2), (outward @ matrix).reshape(-1, 2)
    # As complex numbers they are sorted as pairs, and faster than rows are.
    pairs, group = np.unique((ways.round(12) + 0.0).view(complex)[:, 0], return_inverse=True)
    ways_apart = np.column_stack([pairs.real, pairs.imag])
    low, high = np.full(ways_apart.shape, np.inf), np.full(ways_apart.shape, -np.inf)
    np.minimum.at(low, group.ravel(), points)
    np.maximum.at(high, group.ravel(), points)
    return low, high, ways_apart


def _kinds(settings: Settings) -> tuple[list[Geometry], NDArray[np.int64]]:
    """The different ways to fill, and which of them each element is filled in ``(n,)``."""
    kinds, kind = np.unique(np.column_stack([settings[key] for key in GEOMETRY]), axis=0, return_inverse=True)
    return [tuple(zip(GEOMETRY, values, strict=True)) for values in kinds.tolist()], kind.ravel()


@dataclass(frozen=True)
class Filled:
    """Parallel lines, two-way or one-way, all of them again and turned for every pass.

    sets : lines laid over those that the settings say, pass by pass
    """

    sets: tuple[HatchSet, ...] = ()
    one_way: bool = False

    def passes(self, figure: Figure, geometry: Geometry) -> list[Floats]:
        """Lines ``(N, 2, 2)`` of every pass and set."""
        return pass_lines(figure, dict(geometry), self.sets, self.one_way)

    def dose(self, power_w: Floats, settings: Settings) -> Floats:
        """The sets add up: each goes over the whole area."""
        speed, passes = settings["speed_mm_s"], settings["passes"]
        dose = area_dose(power_w, speed, settings["line_spacing_mm"], passes)
        for one in self.sets:
            dose = dose + area_dose(power_w, speed, np.full(len(speed), one.line_spacing_mm), passes)
        return dose

    def lines(self, figure: Figure, settings: Settings) -> LineCount:
        """A row of a hatch has half as many stretches as it crosses edges, so all of them together are half of what
        the edges span across the lines, over the line spacing."""
        edges = np.concatenate([np.diff(loop, axis=0) for loop in figure.loops])
        passes, count = settings["passes"], len(settings["passes"])
        laid = [(settings["line_spacing_mm"], settings["hatch_angle_deg"])]
        laid += [(np.full(count, one.line_spacing_mm), np.full(count, one.hatch_angle_deg)) for one in self.sets]
        around = np.linalg.norm(edges, axis=1).sum() / 2
        total = float(sum((passes * around / spacing).sum() for spacing, _ in laid))
        if total > MOST_LINES:
            turn, total = settings["hatch_turn_deg"], 0.0
            for spacing, first in laid:
                for k in range(int(passes.max())):
                    goes = passes > k
                    angles, which = np.unique(first[goes] + k * turn[goes], return_inverse=True)
                    spans = np.array([np.abs(edges @ directions(angle)[1]).sum() / 2 for angle in angles.tolist()])
                    total += float((spans[which] / spacing[goes]).sum())
        return LineCount(
            int(min(total, 2**62)),
            len(_kinds(settings)[0]),
            "A wider line spacing, smaller patches, fewer of them, or fewer passes do.",
            "hold.line_spacing_mm",
        )

    def seconds(self, machine: Machine, figure: Figure, settings: Settings) -> Floats:
        """Elements that share their lines differ in speed only, so each set of lines is timed once."""
        kinds, kind = _kinds(settings)
        seconds = np.zeros(len(kind))
        for i, geometry in enumerate(kinds):
            members = kind == i
            speed = settings["speed_mm_s"][members]
            passes = self.passes(figure, geometry)
            for lines in passes:
                seconds[members] += hatch_seconds(machine, lines, speed)
            for before, after in pairwise(passes):
                seconds[members] += travel_seconds(machine, np.linalg.norm(after[0, 0] - before[-1, 1]))
        return seconds

    def corner_heat(
        self, machine: Machine, figure: Figure, settings: Settings, spot_mm: float
    ) -> tuple[Floats, Floats]:
        """A line is crossed at full speed: there is no corner to slow at."""
        count = len(settings["speed_mm_s"])
        return np.ones(count), np.zeros(count)

    def entry_and_exit(self, figure: Figure, settings: Settings) -> tuple[Floats, Floats]:
        kinds, kind = _kinds(settings)
        ends = []
        for geometry in kinds:
            passes = self.passes(figure, geometry)
            ends.append((passes[0][0, 0], passes[-1][-1, 1]))
        chosen = np.array(ends)[kind]
        return chosen[:, 0], chosen[:, 1]

    def reach(self, machine: Machine, figure: Figure, settings: Settings, turn: Floats) -> tuple[Floats, Floats]:
        run = run_up_mm(machine, settings["speed_mm_s"])
        kinds, kind = _kinds(settings)
        low, high = np.empty((len(run), 2)), np.empty((len(run), 2))
        for i, geometry in enumerate(kinds):
            members = kind == i
            lowest, highest, ways = _hatch_reach(self, figure, geometry, turn.tobytes())
            beyond = run[members][:, None, None] * ways
            low[members] = (lowest + beyond).min(axis=1)
            high[members] = (highest + beyond).max(axis=1)
        return low, high

    def moves(
        self, machine: Machine, figure: Figure, settings: Mapping[str, float]
    ) -> tuple[tuple[Floats, ...], Floats]:
        frame, outward = hatch_frame(self, figure, tuple((key, settings[key]) for key in GEOMETRY))
        return (), frame + float(run_up_mm(machine, settings["speed_mm_s"])) * outward
