"""From the plate to the piece, and from the piece to the machine's work zero."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.machine import Machine
from rezept.core.plan.contained import beyond_outline, over_holes
from rezept.core.plan.parts import ZERO_ON_PIECE, ZERO_ON_PLATE, ZeroAt
from rezept.core.plan.trial import Piece, Place, Trial, Zero

Points = NDArray[np.float64]


def to_piece(points: Points, place: Place, piece: Piece, width_mm: float, height_mm: float) -> Points:
    """Plate points ``(..., 2)`` in piece coordinates (origin at the piece's lower left).

    ``corner``: turned about the plate's lower left, which then lies at (x, y). ``centre``: turned about the
    plate's centre, which then lies (x, y) from the piece's centre.
    """
    turn, pivot, target = _placing(place, piece, width_mm, height_mm)
    if place.turn_deg == 0:
        return points + (target - pivot)
    return (points - pivot) @ turn + target


def from_piece(points: Points, place: Place, piece: Piece, width_mm: float, height_mm: float) -> Points:
    """Piece points ``(..., 2)`` in plate coordinates: `to_piece` undone."""
    turn, pivot, target = _placing(place, piece, width_mm, height_mm)
    return (points - target) @ turn.T + pivot


def _placing(place: Place, piece: Piece, width_mm: float, height_mm: float) -> tuple[Points, Points, Points]:
    """The turn ``(2, 2)`` of row vectors, the plate's point it is about, and where on the piece that lies."""
    angle = np.deg2rad(place.turn_deg)
    cos, sin = np.cos(angle), np.sin(angle)
    turn = np.array([[cos, sin], [-sin, cos]])
    turn[np.abs(turn) < 1e-12] = 0.0
    pivot = np.zeros(2) if place.at == "corner" else np.array([width_mm, height_mm]) / 2
    target = np.array([place.x_mm, place.y_mm])
    if place.at == "centre":
        target = target + _middle(piece)
    return turn, pivot, target


ZERO_WORDS: dict[ZeroAt, str] = {
    "lower_left": "lower left corner of the plate",
    "lower_right": "lower right corner of the plate",
    "upper_left": "upper left corner of the plate",
    "upper_right": "upper right corner of the plate",
    "middle": "middle of the plate",
}


def work_zero(trial: Trial) -> str:
    """Where the program's zero lies, in words for its header."""
    galvo, zero = trial.machine.motion == "galvo", trial.zero
    if galvo and zero == Zero():
        return "centre of the field"
    point = ZERO_WORDS.get(zero.at, "middle of the piece" if galvo else "lower left corner of the piece")
    x, y = round(zero.x_mm, 3), round(zero.y_mm, 3)
    away = [f"{abs(x):g} mm {'left of' if x > 0 else 'right of'}"] if x else []
    away += [f"{abs(y):g} mm {'below' if y > 0 else 'above'}"] if y else []
    where = f"{' and '.join(away)} the {point}" if away else point
    return f"centre of the field, {where}" if galvo else where


def to_program(points: Points, trial: Trial, width_mm: float, height_mm: float) -> Points:
    """Plate points in program coordinates: a gantry counts from the piece's corner, a galvo from the field's
    centre, on which the piece is centred; or both from a point of the plate, as the trial's zero says."""
    assert trial.piece is not None
    placed = to_piece(points, trial.place, trial.piece, width_mm, height_mm)
    return placed - zero_on_piece(trial, width_mm, height_mm)


def from_program(points: Points, trial: Trial, width_mm: float, height_mm: float) -> Points:
    """Program points ``(..., 2)`` in plate coordinates: `to_program` undone."""
    assert trial.piece is not None
    placed = points + zero_on_piece(trial, width_mm, height_mm)
    return from_piece(placed, trial.place, trial.piece, width_mm, height_mm)


def zero_on_piece(trial: Trial, width_mm: float, height_mm: float) -> Points:
    """``(2,)`` where on the piece the program counts from."""
    assert trial.piece is not None
    zero = trial.zero
    if zero.at == ZERO_ON_PIECE:
        point = _middle(trial.piece) if trial.machine.motion == "galvo" else np.zeros(2)
    else:
        size = np.array([width_mm, height_mm])
        point = to_piece(size * ZERO_ON_PLATE[zero.at], trial.place, trial.piece, width_mm, height_mm)
    return point - np.array([zero.x_mm, zero.y_mm])


def nudged(trial: Trial, right_mm: float, up_mm: float, pieceless: bool) -> Trial:
    """The trial whose program burns everything so far to the right and up of where it did.

    Where zero is set on a piece, the plate comes to lie elsewhere on that; where it is set on the plate itself, or
    nobody has said how large the piece is (`pieceless`), zero does.
    """
    place, zero = trial.place, trial.zero
    if zero.at == ZERO_ON_PIECE and not pieceless:
        return replace(trial, place=replace(place, x_mm=place.x_mm + right_mm, y_mm=place.y_mm + up_mm))
    return replace(trial, zero=replace(zero, x_mm=zero.x_mm + right_mm, y_mm=zero.y_mm + up_mm))


def _middle(piece: Piece) -> Points:
    return np.array([piece.width_mm, piece.height_mm]) / 2


def field_mm(machine: Machine) -> Points:
    """``(2,)`` width and height of the field under the machine's head."""
    return np.array([machine.of_head("field_width_mm"), machine.of_head("field_height_mm")])


def beyond_piece(trial: Trial, width_mm: float, height_mm: float) -> float:
    """How far in mm a plate reaches beyond the usable part of its piece; 0 or less where it fits or there is none."""
    piece = trial.piece
    if piece is None:
        return 0.0
    corners = np.array([(0.0, 0.0), (width_mm, 0.0), (width_mm, height_mm), (0.0, height_mm)])
    placed = to_piece(corners, trial.place, piece, width_mm, height_mm)
    return beyond(placed, piece)


def beyond(placed: Points, piece: Piece) -> float:
    """How far in mm a plate whose corners ``(4, 2)`` lie there on a piece reaches beyond the usable part of it, or over
    one of its holes; 0 or less where it fits."""
    over = over_holes(placed, np.array(piece.holes), piece.margin_mm) if piece.holes else -np.inf
    size = np.array([piece.width_mm, piece.height_mm])
    if piece.outline:
        edge = beyond_outline(placed, np.array(piece.outline), piece.margin_mm)
    elif piece.shape == "disc":
        edge = float(np.linalg.norm(placed - size / 2, axis=1).max() - (piece.width_mm / 2 - piece.margin_mm))
    else:
        edge = float(np.maximum(piece.margin_mm - placed, placed - (size - piece.margin_mm)).max())
    return max(edge, float(over))
