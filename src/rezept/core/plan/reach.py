"""How far a burn goes, run-up included, and whether that lies in the field and on the piece."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.motion import run_up_mm
from rezept.core.plan.cautions import Finding
from rezept.core.plan.drawn import Drawn
from rezept.core.plan.patches import Settings
from rezept.core.plan.place import beyond_piece, to_program
from rezept.core.plan.plate import Warning
from rezept.core.plan.trial import Trial


def patch_corners(trial: Trial, x_mm: NDArray[np.float64], y_mm: NDArray[np.float64]) -> NDArray[np.float64]:
    """``(n, 4, 2)`` corners of all patches on the plate."""
    width, height = trial.patch.width_mm, trial.patch.height_mm
    offsets = np.array([(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
    return np.column_stack([x_mm, y_mm])[:, None, :] + offsets


@dataclass(frozen=True)
class Reach:
    """How far each patch's burn goes in program coordinates, run-up included: ``(n, 2)`` lowest and highest."""

    low: NDArray[np.float64]
    high: NDArray[np.float64]


def patch_reach(
    trial: Trial,
    settings: Settings,
    x_mm: NDArray[np.float64],
    y_mm: NDArray[np.float64],
    plate_mm: tuple[float, float],
) -> Reach:
    """The corners of every patch, and around them the way the head needs to gain and lose its speed."""
    corners = to_program(patch_corners(trial, x_mm, y_mm), trial, *plate_mm)
    hatched = trial.process.toolpath == "hatch"
    run = run_up_mm(trial.machine, settings["speed_mm_s"]) if hatched else np.zeros(len(x_mm))
    beyond = run[:, None] * _line_directions(trial, settings)
    return Reach(corners.min(axis=1) - beyond, corners.max(axis=1) + beyond)


def _field_mm(trial: Trial) -> NDArray[np.float64]:
    return np.array([trial.machine.of_head("field_width_mm"), trial.machine.of_head("field_height_mm")])


def _beyond_field(trial: Trial, low: NDArray[np.float64], high: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far ``(n, 2)`` extents go beyond the field; not more than 0 where they fit.

    A gantry's work zero is the piece's corner, which can be put where the leftmost run-up just fits; a galvo's
    field is centred on its work zero.
    """
    field = _field_mm(trial)
    if trial.machine.motion == "galvo":
        return np.maximum(high - field / 2, -field / 2 - low).max(axis=1)
    return (high - np.minimum(0.0, low.min(axis=0)) - field).max(axis=1)


def field_finding(trial: Trial, reach: Reach) -> Finding:
    """Patches whose burn, run-up included, would leave the field."""
    worst = _beyond_field(trial, reach.low, reach.high)
    width, height = _field_mm(trial)
    name = trial.machine.name

    def sentence(value: float, limit: float) -> str:
        return (
            f"with its run-up it reaches {value:.3g} mm beyond the field of {name} ({width:g} x {height:g} mm);"
            " move the plate, or go slower there."
        )

    return Finding("field", "refusal", "place", worst > 1e-6, worst, np.zeros(len(worst)), sentence)


def drawn_reach(trial: Trial, drawn: tuple[Drawn, ...], plate_mm: tuple[float, float]) -> Reach:
    """How far the lines of the code go; all else that is drawn lies within the plate."""
    low, high = [], []
    for part in drawn:
        if len(part.lines):
            placed = to_program(part.lines, trial, *plate_mm)
            way = placed[:, 1] - placed[:, 0]
            share = np.abs(way / np.hypot(way[:, 0], way[:, 1])[:, None]).max(axis=0)
            beyond = float(run_up_mm(trial.machine, part.settings["speed_mm_s"])) * share
            low.append(placed.min(axis=(0, 1)) - beyond)
            high.append(placed.max(axis=(0, 1)) + beyond)
    return Reach(np.array(low).reshape(-1, 2), np.array(high).reshape(-1, 2))


def place_warnings(trial: Trial, reach: Reach, code: Reach, plate_mm: tuple[float, float]) -> list[Warning]:
    """What is about the place of the plate as a whole: field, piece, and the room the run-ups need."""
    width, height = plate_mm
    outline = np.array([(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
    placed = to_program(outline, trial, width, height)
    over = float(_beyond_field(trial, placed.min(axis=0)[None], placed.max(axis=0)[None])[0])
    name = trial.machine.name
    warnings = []
    if over > 1e-6:
        sentence = f"The plate ({width:.1f} x {height:.1f} mm) reaches {over:.1f} mm beyond the field of {name}."
        warnings.append(Warning("field", "refusal", sentence, "place", over, 0.0))
    if len(code.low):
        beyond = float(_beyond_field(trial, code.low, code.high).max())
        if beyond > 1e-6:
            sentence = (
                f"The lines of the code, with their run-up, reach {beyond:.1f} mm beyond the field of {name};"
                " draw the labels slower, or move the plate."
            )
            warnings.append(Warning("field", "refusal", sentence, "labels.qr", beyond, 0.0))
    off_piece = _off_the_piece(trial, plate_mm)
    if off_piece is not None:
        warnings.append(off_piece)
    before = -float(min(reach.low.min(), code.low.min(initial=0.0)))
    if trial.machine.motion == "gantry" and before > 1e-6:
        sentence = (
            f"To gain speed the head moves up to {before:.1f} mm to the left of or below the piece's corner;"
            " keep that much of the field free."
        )
        warnings.append(Warning("room", "note", sentence, "place", before, 0.0))
    return warnings


def _line_directions(trial: Trial, settings: Settings) -> NDArray[np.float64]:
    """``(n, 2)`` largest share of x and y that any pass's line direction has, after the turn on the piece."""
    if "hatch_angle_deg" not in settings:
        return np.ones((len(settings["speed_mm_s"]), 2))
    share = np.zeros((len(settings["speed_mm_s"]), 2))
    for k in range(int(settings["passes"].max())):
        angle = settings["hatch_angle_deg"] + k * settings["hatch_turn_deg"] + trial.place.turn_deg
        direction = np.abs(np.column_stack([np.cos(np.deg2rad(angle)), np.sin(np.deg2rad(angle))]))
        share = np.where((k < settings["passes"])[:, None], np.maximum(share, direction), share)
    return share


def _off_the_piece(trial: Trial, plate_mm: tuple[float, float]) -> Warning | None:
    width, height = plate_mm
    over = beyond_piece(trial, width, height)
    if over <= 1e-6:
        return None
    return Warning(
        "piece",
        "warning",
        f"The plate ({width:.1f} x {height:.1f} mm) reaches {over:.1f} mm beyond the usable piece;"
        " move it, take fewer or smaller patches, or let it be fitted.",
        "piece",
        over,
        0.0,
    )
