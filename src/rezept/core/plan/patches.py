"""Names, settings, doses and burning times of all patches of a trial, as arrays."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from rezept.core.dose import area_dose, line_dose, power_w
from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.path.hatch import hatch_rectangle
from rezept.core.path.motion import hatch_seconds, path_seconds, travel_seconds
from rezept.core.path.outlines import rectangle
from rezept.core.plan.trial import Trial

# What the lines of a hatched patch depend on, besides its size.
HATCH_GEOMETRY = ("line_spacing_mm", "hatch_angle_deg", "hatch_turn_deg", "passes")

Settings = dict[str, NDArray[np.float64]]


def row_letters(row: int) -> str:
    """Letter of a row counted from 1: A to Z, then AA, AB and so on."""
    letters = ""
    while row > 0:
        row, rest = divmod(row - 1, 26)
        letters = chr(ord("A") + rest) + letters
    return letters


def patch_ids(rows: int, columns: int) -> tuple[str, ...]:
    """Ids row by row from the bottom, left to right: A1, A2, ..., B1, ..."""
    return tuple(f"{row_letters(row)}{column}" for row in range(1, rows + 1) for column in range(1, columns + 1))


def patch_settings(trial: Trial) -> Settings:
    """One ``(rows * columns,)`` array for each setting, in the order of the table."""
    shape = (trial.rows, trial.columns)
    columns: Settings = {}
    for axis in trial.axes:
        values = np.array(axis.values, float)
        grid = values[None, :] if axis.along == "x" else values[:, None]
        columns[axis.parameter] = np.broadcast_to(grid, shape).ravel()
    for key, value in trial.hold.items():
        columns[key] = np.full(shape[0] * shape[1], float(value))
    return {key: columns[key] for key in PARAMETERS if key in columns}


def patch_dose(trial: Trial, settings: Settings) -> NDArray[np.float64]:
    """Dose of each patch: J/mm for outlines, J/mm2 for hatched patches."""
    power = power_w(trial.machine.rated_power_w, settings["power_pct"])
    if trial.process.toolpath == "outline":
        return line_dose(power, settings["speed_mm_s"], settings["passes"])
    return area_dose(power, settings["speed_mm_s"], settings["line_spacing_mm"], settings["passes"])


def _outline_seconds(machine: Machine, width_mm: float, height_mm: float, settings: Settings) -> NDArray[np.float64]:
    outline = rectangle(width_mm, height_mm)
    lengths = np.linalg.norm(np.diff(outline, axis=0), axis=1)
    seconds = path_seconds(machine, lengths, settings["speed_mm_s"]) * settings["passes"]
    if "pierce_dwell_ms" in settings:
        seconds = seconds + settings["pierce_dwell_ms"] / 1000.0
    return seconds


def pass_lines(width_mm: float, height_mm: float, settings: dict[str, float]) -> list[NDArray[np.float64]]:
    """Hatch lines of each pass: pass k is turned by ``hatch_angle + k hatch_turn``."""
    return [
        hatch_rectangle(
            width_mm,
            height_mm,
            settings["line_spacing_mm"],
            settings["hatch_angle_deg"] + k * settings["hatch_turn_deg"],
        )
        for k in range(int(settings["passes"]))
    ]


def _hatch_seconds(machine: Machine, width_mm: float, height_mm: float, settings: Settings) -> NDArray[np.float64]:
    """Patches that share their lines differ in speed only, so each set of lines is timed once."""
    geometry = np.column_stack([settings[key] for key in HATCH_GEOMETRY])
    kinds, kind = np.unique(geometry, axis=0, return_inverse=True)
    seconds = np.zeros(len(geometry))
    for i, values in enumerate(kinds):
        members = kind.ravel() == i
        speed = settings["speed_mm_s"][members]
        passes = pass_lines(width_mm, height_mm, dict(zip(HATCH_GEOMETRY, values.tolist(), strict=True)))
        for lines in passes:
            seconds[members] += hatch_seconds(machine, lines, speed)
        for before, after in pairwise(passes):
            seconds[members] += travel_seconds(machine, np.linalg.norm(after[0, 0] - before[-1, 1]))
    return seconds


def patch_seconds(trial: Trial, settings: Settings) -> NDArray[np.float64]:
    """Time in s that each patch burns, all passes, with the moves inside the patch."""
    width, height = trial.patch.width_mm, trial.patch.height_mm
    timed = _outline_seconds if trial.process.toolpath == "outline" else _hatch_seconds
    return timed(trial.machine, width, height, settings)
