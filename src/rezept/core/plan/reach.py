"""Where the plate comes to lie: in the field and on the piece, and the room its run-ups need."""

from __future__ import annotations

import numpy as np

from rezept.core.plan.gate import beyond_field
from rezept.core.plan.moves import Moves
from rezept.core.plan.place import beyond_piece, to_program
from rezept.core.plan.plate import Warning
from rezept.core.plan.trial import Trial, Zero


def place_warnings(trial: Trial, moves: Moves, plate_mm: tuple[float, float]) -> list[Warning]:
    """What is about the place of the plate as a whole; that the moves stay in the field, the gate sees to."""
    width, height = plate_mm
    outline = np.array([(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
    placed = to_program(outline, trial, width, height)
    over = float(beyond_field(trial.machine, placed.min(axis=0)[None], placed.max(axis=0)[None])[0])
    name = trial.machine.name
    warnings = []
    if over > 1e-6:
        sentence = f"The plate ({width:.1f} x {height:.1f} mm) reaches {over:.1f} mm beyond the field of {name}."
        warnings.append(Warning("field", "refusal", sentence, "place", over, 0.0))
    off_piece = _off_the_piece(trial, plate_mm)
    if off_piece is not None:
        warnings.append(off_piece)
    room = _room(trial, moves)
    return warnings if room is None else [*warnings, room]


def _room(trial: Trial, moves: Moves) -> Warning | None:
    """How much of a gantry's field has to be free to the left of and below work zero."""
    left, below = np.maximum(-moves.low.min(axis=0), 0.0).tolist()
    most = max(left, below)
    if trial.machine.motion == "galvo" or most <= 1e-6:
        return None
    if trial.zero == Zero():
        sentence = (
            f"To gain speed the head moves up to {most:.1f} mm to the left of or below the piece's corner;"
            " keep that much of the field free."
        )
    else:
        ways = ((left, "to the left of"), (below, "below"))
        reach = " and ".join(f"{mm:.1f} mm {way}" for mm, way in ways if mm > 1e-6)
        sentence = f"The head moves up to {reach} its zero; set that where it has so much room."
    return Warning("room", "note", sentence, "place", most, 0.0)


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
