"""From the plate to the piece, and from the piece to the machine's work zero."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from rezept.core.machine import Machine
from rezept.core.plan.contained import beyond_outline, over_holes
from rezept.core.plan.trial import Piece, Place, Trial

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


def work_zero(trial: Trial) -> str:
    """Where the program's zero lies, in words for its header."""
    return "lower left corner of the piece" if trial.machine.motion == "gantry" else "centre of the field"


def to_program(points: Points, trial: Trial, width_mm: float, height_mm: float) -> Points:
    """Plate points in program coordinates: a gantry counts from the piece's corner, a galvo from the field's
    centre, on which the piece is centred."""
    assert trial.piece is not None
    placed = to_piece(points, trial.place, trial.piece, width_mm, height_mm)
    if trial.machine.motion == "galvo":
        placed = placed - _middle(trial.piece)
    return placed


def from_program(points: Points, trial: Trial, width_mm: float, height_mm: float) -> Points:
    """Program points ``(..., 2)`` in plate coordinates: `to_program` undone."""
    assert trial.piece is not None
    if trial.machine.motion == "galvo":
        points = points + _middle(trial.piece)
    return from_piece(points, trial.place, trial.piece, width_mm, height_mm)


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
