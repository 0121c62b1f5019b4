"""Ground that was burned before: which patches lie on it, and where on a piece a plate lies clear of it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.path.inside import inside
from rezept.core.plan.parts import Piece, Place
from rezept.core.plan.place import beyond, to_piece
from rezept.core.plan.trial import Polygon, Trial

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]

# So many places are tried each way; no finer than this step.
MOST_TRIED = 120
FINEST_STEP_MM = 0.5
SLACK_MM = 1e-6


def overlaps(corners: Floats, polygon: Polygon) -> Mask:
    """``(n,)`` whether ``(n, 4, 2)`` boxes, all turned alike, overlap a convex polygon (separating axes)."""
    other = np.array(polygon)
    edges = np.concatenate([np.diff(corners[0, :3], axis=0), np.diff(other, axis=0), other[:1] - other[-1:]])
    apart = np.zeros(len(corners), bool)
    for x, y in edges.tolist():
        normal = np.array([-y, x])
        ours, theirs = corners @ normal, other @ normal
        slack = SLACK_MM * float(np.hypot(x, y))
        apart |= (ours.max(axis=1) <= theirs.min() + slack) | (ours.min(axis=1) >= theirs.max() - slack)
    return ~apart


def _tried(low: float, high: float, touching: list[float]) -> Floats:
    """Places along one edge of the piece: even steps, and the first of those at which the plate just touches burned
    ground."""
    count = min(MOST_TRIED, max(1, int((high - low) / FINEST_STEP_MM)))
    near = sorted({value for value in touching if low <= value <= high})[:MOST_TRIED]
    return np.unique(np.concatenate([np.linspace(low, high, count + 1), near]))


def clear_place(
    piece: Piece, ground: tuple[Polygon, ...], turn_deg: float, width_mm: float, height_mm: float
) -> Place | None:
    """The place nearest to the piece's lower edge, then to its left, where a plate touches no burned ground.

    Returns
    -------
    Place by the plate's corner, or None where the piece has no such place
    """
    box = np.array([(0.0, 0.0), (width_mm, 0.0), (width_mm, height_mm), (0.0, height_mm)])
    turned = to_piece(box, Place("corner", 0.0, 0.0, turn_deg), piece, width_mm, height_mm)
    size = np.array([piece.width_mm, piece.height_mm])
    low = piece.margin_mm - turned.min(axis=0)
    high = size - piece.margin_mm - turned.max(axis=0)
    if np.any(high < low - SLACK_MM):
        return None
    high = np.maximum(high, low)
    sides = [
        [float(edge) for polygon in ground for edge in (np.max(polygon, axis=0)[i] - turned.min(axis=0)[i],)]
        for i in (0, 1)
    ]
    across, up = (_tried(float(low[i]), float(high[i]), sides[i]) for i in (0, 1))
    shifts = np.stack(np.meshgrid(across, up), axis=-1).reshape(-1, 2)
    placed = turned + shifts[:, None, :]
    free = np.ones(len(shifts), bool)
    if piece.shape == "disc":
        away = np.linalg.norm(placed - size / 2, axis=2).max(axis=1)
        free &= away <= piece.width_mm / 2 - piece.margin_mm + SLACK_MM
    low_corner, high_corner = placed.min(axis=1), placed.max(axis=1)
    for polygon in ground:
        # Only where the boxes around both meet is there anything to be worked out.
        least, most = np.min(polygon, axis=0), np.max(polygon, axis=0)
        near = np.flatnonzero(free & ((low_corner < most) & (high_corner > least)).all(axis=1))
        if len(near):
            free[near] = ~overlaps(placed[near], polygon)
        if not free.any():
            return None
    where = _first_within(placed, free, piece)
    if where is None:
        return None
    x, y = shifts[where].round(3).tolist()
    return Place("corner", x, y, turn_deg)


# So many places are looked at closely on a piece of any shape.
MOST_LOOKED_AT = 4000


def _first_within(placed: Floats, free: Mask, piece: Piece) -> int | None:
    """The first free one of ``(n, 4, 2)`` places at which a plate lies within a piece and clear of its holes."""
    candidates = np.flatnonzero(free)
    if piece.outline:
        corners = inside(placed[candidates].reshape(-1, 2), np.array(piece.outline)).reshape(-1, 4)
        candidates = candidates[corners.all(axis=1)]
    if not piece.outline and not piece.holes:
        return int(candidates[0]) if len(candidates) else None
    looked_at = candidates[:: max(1, len(candidates) // MOST_LOOKED_AT)]
    return next((int(i) for i in looked_at if beyond(placed[i], piece) <= SLACK_MM), None)


def placed_clear(trial: Trial, width_mm: float, height_mm: float) -> Trial:
    """The trial with a place in figures, where it asks for clear ground.

    Raises
    ------
    InvalidInput : the piece has no clear place that is large enough
    """
    if trial.place.at != "clear":
        return trial
    if trial.piece is None:
        return replace(trial, place=Place("corner", 0.0, 0.0, 0.0))
    place = clear_place(trial.piece, trial.burned_ground, trial.place.turn_deg, width_mm, height_mm)
    if place is None:
        raise InvalidInput(
            f"This piece has no clear place for a plate of {width_mm:.1f} x {height_mm:.1f} mm;"
            " take fewer or smaller patches, turn the plate, or take another piece.",
            "place.at",
        )
    return replace(trial, place=place)
