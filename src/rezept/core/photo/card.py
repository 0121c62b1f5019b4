"""The reference card: grey steps of known reflectance about a code. In a picture it undoes the camera's tone curve and
the colour of the light.

Laid out in mm from its lower left, y up. The steps run from light to dark both ways from the code, so that light that
falls off along the card does the same to either half.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.colour import linear_to_lab, linear_to_srgb, srgb_to_linear
from rezept.core.photo.flat import LINEAR, Ground
from rezept.core.photo.pose import homography, projected

Floats = NDArray[np.float64]
Light = NDArray[np.float32]
Colours = NDArray[np.uint8]

CARD_TEXT = "REZEPT:CARD1"
WIDTH_MM, HEIGHT_MM = 95.0, 22.0
MODULES, MODULE_MM = 21, 0.6
# Share of the light that each step gives back, and paper.
STEPS = (0.72, 0.5, 0.33, 0.2, 0.1, 0.04)
PAPER = 0.86
STEP_MM, STEP_HEIGHT_MM, FIRST_MM = 6.0, 15.0, 9.5
# The middle of a step is looked at, well away from its neighbours.
LOOKED_AT = 0.5
FEWEST_PIXELS = 2.0
# Steps have to come out in their order and so far apart, or it is no card that can be trusted.
LEAST_APART = 4.0


@dataclass(frozen=True)
class CardRead:
    """curve : ``(256, 3)`` light of each coded value, channel by channel, in units of what a perfect white gives
    back"""

    curve: Light


def steps_mm() -> list[tuple[float, float, float, float]]:
    """Left, lower edge, width, height of each step: light to dark to the left of the code, then to its right."""
    low, middle = (HEIGHT_MM - STEP_HEIGHT_MM) / 2, WIDTH_MM / 2
    left = [(middle - FIRST_MM - (i + 1) * STEP_MM, low, STEP_MM, STEP_HEIGHT_MM) for i in range(len(STEPS))]
    right = [(middle + FIRST_MM + i * STEP_MM, low, STEP_MM, STEP_HEIGHT_MM) for i in range(len(STEPS))]
    return left + right


def code_mm() -> Floats:
    """The outer corners of the code's modules: top left, top right, bottom right, bottom left."""
    half, x, y = MODULES * MODULE_MM / 2, WIDTH_MM / 2, HEIGHT_MM / 2
    return np.array([(x - half, y + half), (x + half, y + half), (x + half, y - half), (x - half, y - half)])


def card_reflectance(modules: NDArray[np.bool_], px_per_mm: float) -> Light:
    """The card as ``(rows, columns)`` shares of light, from the top, for whoever draws one; `modules` of its code, from
    the top, True where dark."""
    rows, columns = round(HEIGHT_MM * px_per_mm), round(WIDTH_MM * px_per_mm)
    y = (HEIGHT_MM - (np.arange(rows) + 0.5) / px_per_mm)[:, None]
    x = ((np.arange(columns) + 0.5) / px_per_mm)[None, :]
    card = np.full((rows, columns), PAPER, np.float32)
    for (left, low, wide, high), share in zip(steps_mm(), STEPS * 2, strict=True):
        card[(x >= left) & (x < left + wide) & (y >= low) & (y < low + high)] = share
    corner = code_mm()[0]
    column = np.floor((x - corner[0]) / MODULE_MM).astype(int)
    row = np.floor((corner[1] - y) / MODULE_MM).astype(int)
    inside = (column >= 0) & (column < MODULES) & (row >= 0) & (row < MODULES)
    dark = modules[np.clip(row, 0, MODULES - 1), np.clip(column, 0, MODULES - 1)] & inside
    card[dark] = STEPS[-1]
    return card


def _step_values(rgb: Colours, corners_px: Floats) -> Floats | None:
    """``(2, steps, 3)`` coded medians of the steps, left half and right; None where they are not all in the picture."""
    matrix = homography(code_mm(), corners_px)
    values = []
    for left, low, wide, high in steps_mm():
        shares = np.linspace(-LOOKED_AT / 2, LOOKED_AT / 2, 9)
        x, y = np.meshgrid(left + wide * (0.5 + shares), low + high * (0.5 + shares))
        pixels = np.round(projected(matrix, np.stack([x, y], axis=-1))).astype(int).reshape(-1, 2)
        inside = (pixels >= 0).all() and (pixels < (rgb.shape[1], rgb.shape[0])).all()
        if not inside or np.ptp(pixels[:, 0]) < FEWEST_PIXELS:
            return None
        values.append(np.median(rgb[pixels[:, 1], pixels[:, 0]], axis=0))
    return np.array(values, float).reshape(2, len(STEPS), 3)


def read_card(rgb: Colours, corners_px: Floats) -> CardRead | None:
    """The camera's curve from a card whose code has its corners ``(4, 2)`` there; None where its steps cannot be told
    apart, or not all be seen.

    The curve is that of sRGB bent by ``x + x (1 - x) (c0 + c1 x + c2 x^2)``, for each channel the one nearest to its
    steps: smooth, and right at black and white.
    """
    seen = _step_values(rgb, corners_px)
    if seen is None:
        return None
    steps = seen.mean(axis=0)
    if (np.diff(steps, axis=0) > -LEAST_APART).any() or (steps >= 253).any():
        return None
    every = np.arange(256) / 255.0
    curve = np.empty((256, 3), np.float32)
    for channel in range(3):
        x = steps[:, channel] / 255
        # Exposure is free: taken so that the lightest step needs no bending, which keeps the bend small.
        exposure = float(srgb_to_linear(x[0])) / STEPS[0]
        # Bent again and again, since where the bend is none is not known beforehand.
        bent, exposure = _bent(x, exposure, every)
        curve[:, channel] = np.maximum(srgb_to_linear(np.clip(bent, 0, None)), 1e-5) / exposure
    return CardRead(curve) if (np.diff(curve, axis=0) >= 0).all() else None


def _bent(x: Floats, exposure: float, every: Floats) -> tuple[Floats, float]:
    """The bend of coded values that takes the steps to their light at some exposure, of all exposures near the first
    the one that needs the least bending; at every coded value, and that exposure."""

    def terms(at: Floats) -> Floats:
        room = at * (1 - at)
        return np.stack([room, room * at, room * at * at], axis=-1)

    best, found = np.inf, (every, exposure)
    for factor in np.exp(np.linspace(-0.35, 0.35, 29)).tolist():
        wanted = linear_to_srgb(np.array(STEPS) * exposure * factor) - x
        design = terms(x)
        bend = np.linalg.solve(design.T @ design + 1e-4 * np.eye(3), design.T @ wanted)
        left = wanted - design @ bend
        cost = float((left**2).sum() + 1e-5 * (bend**2).sum())
        if cost < best:
            best, found = cost, (every + terms(every) @ bend, exposure * factor)
    return found


def ground_lab_by_card(ground: Ground) -> tuple[float, float, float]:
    """L*, a*, b* of the bare ground in the middle of a plate, from a picture whose curve a card has given."""
    width, height = ground.size_mm
    light, red, yellow = linear_to_lab(ground.at(np.array([width / 2, height / 2]))).round(2).tolist()
    return light, red, yellow


PLAIN_CURVE: Light = np.repeat(LINEAR[:, None], 3, axis=1)
