"""How a plate lies in a photograph: a homography, and the bow of the lens after it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput

Floats = NDArray[np.float64]
# Bows beyond this are no lens of a phone.
MOST_BOW = 0.06
STEPS_TO_STRAIGHTEN = 6
MOST_STEPS = 25
# Depth grows by so much of itself to the millimetre: 20 degrees from 25 cm away.
USUAL_TILT = 0.0014


@dataclass(frozen=True)
class Pose:
    """Where the plate's millimetres are in a picture.

    matrix : ``(3, 3)`` plate mm (x, y, 1) to pixels of a lens that does not bow
    bow : k1 about the middle of the picture, ``r' = r (1 + k1 r^2)``, r over half the diagonal
    size : width and height of the picture in pixels
    """

    matrix: Floats
    bow: float
    size: tuple[int, int]

    def to_pixels(self, mm: Floats) -> Floats:
        """``(..., 2)`` pixels of plate points."""
        return bowed(projected(self.matrix, mm), self.bow, self.size)

    def to_mm(self, pixels: Floats) -> Floats:
        """``(..., 2)`` plate points of pixels: every measured pixel can be traced back."""
        back: Floats = np.asarray(np.linalg.inv(self.matrix), np.float64)
        return projected(back, straightened(pixels, self.bow, self.size))

    def shows(self, mm: Floats) -> NDArray[np.bool_]:
        """Which plate points ``(..., 2)`` are within the picture."""
        pixels = self.to_pixels(mm)
        return np.asarray(((pixels >= 0) & (pixels <= np.array(self.size) - 1)).all(axis=-1), np.bool_)

    def px_per_mm(self, mm: Floats) -> float:
        """Pixels to the millimetre around a plate point, the mean of both directions."""
        steps = self.to_pixels(np.asarray(mm, float) + np.array([(0.0, 0.0), (0.5, 0.0), (0.0, 0.5)]))
        return float(np.linalg.norm(steps[1:] - steps[0], axis=1).mean() * 2)

    def scaled(self, factor: float) -> Pose:
        """The same in a picture that is so many times larger."""
        # Pixel centres: (0, 0) of the small picture lies at ((factor - 1) / 2, ...) of the large one.
        shift = (factor - 1) / 2
        up = np.array([[factor, 0, shift], [0, factor, shift], [0, 0, 1.0]])
        return Pose(up @ self.matrix, self.bow, (round(self.size[0] * factor), round(self.size[1] * factor)))


def projected(matrix: Floats, points: Floats) -> Floats:
    """``(..., 2)`` points through a homography."""
    points = np.asarray(points, float)
    flat = points @ matrix[:, :2].T + matrix[:, 2]
    through: Floats = flat[..., :2] / flat[..., 2:]
    return through


def _middle_and_half(size: tuple[int, int]) -> tuple[Floats, float]:
    return (np.array(size, float) - 1) / 2, float(np.hypot(*size)) / 2


def bowed(points: Floats, bow: float, size: tuple[int, int]) -> Floats:
    middle, half = _middle_and_half(size)
    away = (points - middle) / half
    seen: Floats = middle + (points - middle) * (1 + bow * (away**2).sum(axis=-1, keepdims=True))
    return seen


def straightened(points: Floats, bow: float, size: tuple[int, int]) -> Floats:
    """`bowed` turned round, by fixed point."""
    middle, half = _middle_and_half(size)
    points = np.asarray(points, float)
    straight = points
    for _ in range(STEPS_TO_STRAIGHTEN):
        away = (straight - middle) / half
        straight = middle + (points - middle) / (1 + bow * (away**2).sum(axis=-1, keepdims=True))
    return straight


def _normalised(points: Floats) -> tuple[Floats, Floats]:
    """Points about 0 at a mean distance of sqrt(2), and the matrix that makes them so."""
    middle = points.mean(axis=0)
    scale = np.sqrt(2) / max(1e-12, float(np.linalg.norm(points - middle, axis=1).mean()))
    matrix = np.array([[scale, 0, -scale * middle[0]], [0, scale, -scale * middle[1]], [0, 0, 1.0]])
    return (points - middle) * scale, matrix


def homography(mm: Floats, pixels: Floats) -> Floats:
    """The homography nearest to ``(n, 2)`` pairs of points, by the normalised direct linear transformation (R. Hartley,
    A. Zisserman, "Multiple View Geometry in Computer Vision", 2nd ed., alg. 4.2).

    Raises
    ------
    InvalidInput : fewer than four pairs
    """
    if len(mm) < 4 or len(mm) != len(pixels):
        raise InvalidInput(f"{len(mm)} places are too few to lay a plate on its photo; it takes four.", "photo")
    (a, of_a), (b, of_b) = _normalised(np.asarray(mm, float)), _normalised(np.asarray(pixels, float))
    rows = []
    for (x, y), (u, v) in zip(a.tolist(), b.tolist(), strict=True):
        rows.append([x, y, 1, 0, 0, 0, -u * x, -u * y, -u])
        rows.append([0, 0, 0, x, y, 1, -v * x, -v * y, -v])
    _, _, right = np.linalg.svd(np.array(rows))
    matrix = np.linalg.inv(of_b) @ right[-1].reshape(3, 3) @ of_a
    scaled: Floats = matrix / matrix[2, 2]
    return scaled


def _pose_of(guess: Floats, size: tuple[int, int]) -> Pose:
    return Pose(np.append(guess[:8], 1.0).reshape(3, 3), float(guess[8]) if len(guess) > 8 else 0.0, size)


def fitted(
    mm: Floats, pixels: Floats, weights: Floats, size: tuple[int, int], bend: bool, level_at: Floats | None = None
) -> Pose:
    """The pose that takes plate points nearest to their pixels; far-off pairs count little (soft L1, 1 pixel).

    Damped Gauss-Newton steps, each on the residuals weighed anew (K. Madsen, H. B. Nielsen, O. Tingleff, "Methods for
    Non-Linear Least Squares Problems", 2004, sec. 3.2).

    bend : also find the bow, which takes points all over the plate
    level_at : where most points are, when they are close together and hardly say how the plate is tilted: then it is
        taken to be as tilted as one holds a phone, more needs better reasons
    """

    def away(guess: Floats) -> Floats:
        errors: Floats = ((_pose_of(guess, size).to_pixels(mm) - pixels) * weights[:, None]).ravel()
        if level_at is None:
            return errors
        # The share by which depth grows within a millimetre.
        return np.append(errors, guess[6:8] / (guess[6:8] @ level_at + 1) / USUAL_TILT)

    def cost_of(errors: Floats) -> float:
        return float((np.sqrt(1 + errors**2) - 1).sum())

    guess = np.append(homography(mm, pixels).ravel()[:8], [0.0] if bend else [])
    steps = np.append(np.maximum(np.abs(guess[:8]), 1e-6), [0.01] if bend else []) * 1e-5
    errors = away(guess)
    cost, damping = cost_of(errors), 1e-3
    for _ in range(MOST_STEPS):
        slope = np.stack([(away(guess + step) - errors) / step.sum() for step in np.diag(steps)], axis=-1)
        scale = np.maximum(np.linalg.norm(slope, axis=0), 1e-12)
        slope = slope / scale
        weigh = 1 / np.sqrt(1 + errors**2)
        normal, pull = slope.T @ (slope * weigh[:, None]), slope.T @ (weigh * errors)
        better = guess - np.linalg.solve(normal + damping * np.diag(np.diag(normal)), pull) / scale
        tried = away(better)
        cost_there = cost_of(tried)
        if cost_there < cost:
            gain, guess, errors, cost, damping = cost - cost_there, better, tried, cost_there, damping / 10
            if gain < 1e-7 * (1 + cost):
                break
        else:
            damping *= 10
            if damping > 1e6:
                break
    if bend:
        guess[8] = float(np.clip(guess[8], -MOST_BOW, MOST_BOW))
    return _pose_of(guess, size)
