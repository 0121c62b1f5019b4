"""From measurements to the scores a person gives, each with how sure it is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.colour import lab_to_linear, linear_to_lab
from rezept.core.photo.measure import Measured
from rezept.core.plan import Plate

Floats = NDArray[np.float64]

# Where nothing is known of the ground: a pale, nearly grey one, said to be assumed.
ASSUMED_GROUND = (75.0, 0.0, 0.0)
# Share of the inside that is open when a part has dropped out; shares of the outline for a push, and for partly.
DROPPED, WITH_A_PUSH, PARTLY = 0.6, 0.9, 0.1
# How black a mark can get, and how white a frost.
BLACKEST, WHITEST = 18.0, 92.0
MOST_DARK = 5


@dataclass(frozen=True)
class Scored:
    """Scores of every patch ``(n,)``, NaN where there is none, and how sure they are, 0 to 1.

    lab : ``(n, 3)`` L*, a*, b* of the patch on the ground's known colour; contrast : its L* minus the ground's
    """

    through: Floats
    darkness: Floats
    evenness: Floats
    confidence: Floats
    lab: Floats
    contrast: Floats


def _sure(value: Floats, edges: tuple[float, ...], doubt: float) -> Floats:
    """How far from the nearest edge between two scores, counted in doubts: 0.5 on it, nearly 1 three doubts away."""
    away = np.min([np.abs(value - edge) for edge in edges], axis=0) / doubt
    return np.asarray(1 - 0.5 * np.exp(-(away**1.2)))


def through_scores(measured: Measured) -> tuple[Floats, Floats]:
    """0 not, 1 partly, 2 with a push, 3 drops out; as the back shows it."""
    inside, outline = measured.open_inside, measured.open_outline
    with np.errstate(invalid="ignore"):
        score = np.select(
            [np.isnan(inside), inside >= DROPPED, outline >= WITH_A_PUSH, outline >= PARTLY],
            [np.nan, 3.0, 2.0, 1.0],
            0.0,
        )
        held = _sure(outline, (WITH_A_PUSH, PARTLY), 0.05)
        fell = _sure(inside, (DROPPED,), 0.15)
        sure = np.where(inside >= DROPPED, fell, np.minimum(held, fell))
    return score, np.where(np.isnan(inside), np.nan, sure)


def ground_of(plate: Plate) -> tuple[tuple[float, ...], bool]:
    """L*, a*, b* of the bare material, and whether they are assumed."""
    known = plate.trial.material.ground_lab
    return (ASSUMED_GROUND, True) if known is None else (known, False)


def patch_lab(plate: Plate, measured: Measured) -> Floats:
    """``(n, 3)`` the ratio to the ground put onto the ground's known colour."""
    ground = lab_to_linear(ground_of(plate)[0])
    return linear_to_lab(np.clip(measured.ratio, 0, None) * ground)


def scored(plate: Plate, measured: Measured) -> Scored:
    """Every patch's scores from one face."""
    lab = patch_lab(plate, measured)
    ground = ground_of(plate)[0][0]
    contrast = lab[:, 0] - ground
    nothing = np.full(len(contrast), np.nan)
    if plate.trial.process.key == "cut":
        through, sure = through_scores(measured)
        return Scored(through, nothing, nothing, sure, lab, contrast)
    lighter = plate.trial.material.mark == "lighter"
    room = (WHITEST - ground) if lighter else (ground - BLACKEST)
    share = np.clip((contrast if lighter else -contrast) / max(room, 1.0), 0, 1) * MOST_DARK
    darkness = np.floor(share + 0.5)
    uneven = measured.spread / np.maximum(measured.luminance, 0.02)
    evenness = np.where(
        np.isnan(uneven), np.nan, np.select([uneven < 0.12, uneven < 0.25, uneven < 0.5], [3.0, 2.0, 1.0], 0.0)
    )
    edges = tuple(k + 0.5 for k in range(MOST_DARK))
    return Scored(
        nothing, darkness, evenness, np.where(np.isnan(share), np.nan, _sure(share, edges, 0.2)), lab, contrast
    )
