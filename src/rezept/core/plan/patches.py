"""Settings, doses and burning times of all patches of a trial, as arrays, and the way the beam goes in one."""

from __future__ import annotations

from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from rezept.core.dose import area_dose, line_dose, power_w
from rezept.core.errors import InvalidInput
from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.path.figure import Figure, is_closed
from rezept.core.path.hatch import MOST_LINES, directions, hatch_figure
from rezept.core.path.motion import hatch_seconds, loop_seconds, travel_seconds, way_seconds
from rezept.core.path.outlines import outlines
from rezept.core.plan.lettering import text_points, text_width
from rezept.core.plan.trial import PatchShape, Trial

# What the lines of a hatched patch depend on, besides its shape.
# Each way to fill a patch is worked out by itself; so many take a second.
MOST_HATCHES = 600
HATCH_GEOMETRY = ("line_spacing_mm", "hatch_angle_deg", "hatch_turn_deg", "passes")

Floats = NDArray[np.float64]
Settings = dict[str, Floats]


def patch_settings(trial: Trial) -> Settings:
    """One ``(n,)`` array for each setting, in the order of the table; what was set by hand for one patch last."""
    grid = trial.grid
    columns: Settings = {}
    for axis in trial.axes:
        columns[axis.parameter] = np.array(axis.values, float)[grid.step[axis.along]]
    for key, value in trial.hold.items():
        columns[key] = np.full(len(grid), float(value))
    settings = {key: columns[key] for key in PARAMETERS if key in columns}
    index = {patch: i for i, patch in enumerate(grid.ids)} if trial.overrides else {}
    for patch, changed in trial.overrides.items():
        for key, value in changed.items():
            settings[key][index[patch]] = value
    return settings


def line_total(trial: Trial, figure: Figure, settings: Settings, burn: NDArray[np.bool_]) -> int:
    """How many lines the patches of a plate take, all passes, without making one of them.

    A row of a hatch has half as many stretches as it crosses edges, so all of them together are half of what the edges
    span across the lines, over the line spacing.
    """
    passes = settings["passes"][burn]
    if trial.process.toolpath == "outline":
        return int(passes.sum() * sum(len(way) - 1 for way in figure.ways))
    edges = np.concatenate([np.diff(way, axis=0) for way in figure.ways])
    spacing = settings["line_spacing_mm"][burn]
    most = np.linalg.norm(edges, axis=1).sum() / 2
    if (passes * most / spacing).sum() <= MOST_LINES:
        return int((passes * most / spacing).sum())
    first, turn = settings["hatch_angle_deg"][burn], settings["hatch_turn_deg"][burn]
    total = 0.0
    for k in range(int(passes.max())):
        goes = passes > k
        angles, which = np.unique(first[goes] + k * turn[goes], return_inverse=True)
        spans = np.array([np.abs(edges @ directions(angle)[1]).sum() / 2 for angle in angles.tolist()])
        total += float((spans[which] / spacing[goes]).sum())
    return int(min(total, 2**62))


def refuse_endless(trial: Trial, figure: Figure, settings: Settings, burn: NDArray[np.bool_]) -> None:
    """
    Raises
    ------
    InvalidInput : the patches take more lines than a plate may have, or are filled in too many ways
    """
    if trial.process.toolpath != "outline":
        geometry = np.column_stack([settings[key][burn] for key in HATCH_GEOMETRY])
        kinds = len(np.unique(geometry, axis=0))
        if kinds > MOST_HATCHES:
            raise InvalidInput(
                f"This plate would be filled in {kinds} different ways; {MOST_HATCHES} are the most. Vary line spacing,"
                " angle and passes in fewer steps.",
                "axes",
                kinds,
                MOST_HATCHES,
            )
    lines = line_total(trial, figure, settings, burn)
    if lines > MOST_LINES:
        hatched = trial.process.toolpath != "outline"
        raise InvalidInput(
            f"This plate would take {lines / 1e6:,.1f} million lines; {MOST_LINES // 10**6} million is the most."
            f" {'A wider line spacing, smaller' if hatched else 'Simpler'} patches, fewer of them, or fewer passes do.",
            "hold.line_spacing_mm" if hatched else "hold.passes",
            lines,
            MOST_LINES,
        )


def patch_dose(trial: Trial, settings: Settings) -> Floats:
    """Dose of each patch: J/mm for outlines, J/mm2 for hatched patches."""
    power = power_w(trial.machine.rated_power_w, settings["power_pct"])
    if trial.process.toolpath == "outline":
        return line_dose(power, settings["speed_mm_s"], settings["passes"])
    return area_dose(power, settings["speed_mm_s"], settings["line_spacing_mm"], settings["passes"])


@lru_cache(maxsize=64)
def patch_figure(patch: PatchShape) -> Figure:
    """What the beam follows or fills in one patch.

    Lettering stands as large as the patch allows, in its middle.
    """
    if patch.shape != "lettering":
        return Figure(outlines(patch.shape, patch.width_mm, patch.height_mm))
    assert patch.text
    height = min(patch.height_mm, patch.width_mm / text_width(patch.text, 1.0))
    left = (patch.width_mm - text_width(patch.text, height)) / 2
    points, begins = text_points(patch.text, height, left, (patch.height_mm - height) / 2)
    return Figure(np.split(points, np.flatnonzero(begins)[1:]))


def _outline_seconds(machine: Machine, figure: Figure, settings: Settings) -> Floats:
    ways = figure.ways
    kinds, kind = np.unique(np.column_stack([settings["speed_mm_s"], settings["passes"]]), axis=0, return_inverse=True)
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


def pass_lines(figure: Figure, settings: dict[str, float]) -> list[Floats]:
    """Hatch lines of each pass: pass k is turned by ``hatch_angle + k hatch_turn``."""
    return [
        hatch_figure(figure, settings["line_spacing_mm"], settings["hatch_angle_deg"] + k * settings["hatch_turn_deg"])
        for k in range(int(settings["passes"]))
    ]


def _hatch_seconds(machine: Machine, figure: Figure, settings: Settings) -> Floats:
    """Patches that share their lines differ in speed only, so each set of lines is timed once."""
    geometry = np.column_stack([settings[key] for key in HATCH_GEOMETRY])
    kinds, kind = np.unique(geometry, axis=0, return_inverse=True)
    seconds = np.zeros(len(geometry))
    for i, values in enumerate(kinds):
        members = kind.ravel() == i
        speed = settings["speed_mm_s"][members]
        passes = pass_lines(figure, dict(zip(HATCH_GEOMETRY, values.tolist(), strict=True)))
        for lines in passes:
            seconds[members] += hatch_seconds(machine, lines, speed)
        for before, after in pairwise(passes):
            seconds[members] += travel_seconds(machine, np.linalg.norm(after[0, 0] - before[-1, 1]))
    return seconds


def patch_seconds(trial: Trial, figure: Figure, settings: Settings) -> Floats:
    """Time in s that each patch burns, all passes, with the moves inside the patch."""
    seconds = _outline_seconds if trial.process.toolpath == "outline" else _hatch_seconds
    return seconds(trial.machine, figure, settings)


def entry_and_exit(trial: Trial, figure: Figure, settings: Settings) -> tuple[Floats, Floats]:
    """``(n, 2)`` offsets within a patch where its burn begins and ends."""
    count = len(settings["speed_mm_s"])
    if trial.process.toolpath == "outline":
        ways = figure.ways
        return np.tile(ways[0][0], (count, 1)), np.tile(ways[-1][-1], (count, 1))
    kinds, kind = np.unique(np.column_stack([settings[key] for key in HATCH_GEOMETRY]), axis=0, return_inverse=True)
    ends = []
    for values in kinds:
        passes = pass_lines(figure, dict(zip(HATCH_GEOMETRY, values.tolist(), strict=True)))
        ends.append((passes[0][0, 0], passes[-1][-1, 1]))
    chosen = np.array(ends)[kind.ravel()]
    return chosen[:, 0], chosen[:, 1]
