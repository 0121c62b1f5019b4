"""Whether a plate lies within an outline of any shape, and clear of holes: offcuts, keys, tags."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.inside import inside

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]
# A plate that is outside at all is outside by something.
LEAST_BEYOND_MM = 0.1


def distances(points: Floats, outline: Floats) -> Floats:
    """``(n,)`` mm from each point to the nearest of a closed outline's edges."""
    start, along = outline, np.roll(outline, -1, axis=0) - outline
    length = np.maximum((along**2).sum(axis=1), 1e-12)
    away = points[:, None] - start
    share = np.clip((away * along).sum(axis=2) / length, 0.0, 1.0)
    nearest: Floats = np.linalg.norm(away - share[..., None] * along, axis=2).min(axis=1)
    return nearest


def crosses(one: Floats, other: Floats) -> bool:
    """Whether an edge of one closed outline crosses an edge of another, or of itself where they are one and the same;
    touching is no crossing."""
    a, b = one[:, None], np.roll(one, -1, axis=0)[:, None]
    c, d = other[None], np.roll(other, -1, axis=0)[None]

    def side(p: Floats, q: Floats, r: Floats) -> Floats:
        turn: Floats = (q[..., 0] - p[..., 0]) * (r[..., 1] - p[..., 1]) - (q[..., 1] - p[..., 1]) * (
            r[..., 0] - p[..., 0]
        )
        return np.where(np.abs(turn) < 1e-9, 0.0, turn)

    return bool(np.any((side(a, b, c) * side(a, b, d) < 0) & (side(c, d, a) * side(c, d, b) < 0)))


def beyond_outline(plate: Floats, outline: Floats, margin_mm: float) -> float:
    """How far in mm a plate with corners ``(4, 2)`` reaches beyond the usable part of an outline; 0 or less where it
    fits."""
    within = inside(plate, outline)
    # A notch may reach into a plate whose corners all lie inside.
    notches = inside(outline, plate)
    if within.all() and not notches.any() and not crosses(plate, outline):
        return margin_mm - float(min(distances(plate, outline).min(), distances(outline, plate).min()))
    out = distances(plate[~within], outline).max(initial=0.0)
    into = distances(outline[notches], plate).max(initial=0.0)
    return margin_mm + max(float(out), float(into), LEAST_BEYOND_MM)


def over_holes(plate: Floats, holes: Floats, margin_mm: float) -> float:
    """How far in mm a plate reaches over the holes ``(k, 3)`` (x, y, diameter) or their margin; 0 or less where it is
    clear of all."""
    centres = holes[:, :2]
    away = distances(centres, plate)
    signed = np.where(inside(centres, plate), -away, away)
    return float((holes[:, 2] / 2 + margin_mm - signed).max())
