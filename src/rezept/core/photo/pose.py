"""How a plate lies in a photograph: a homography, and the radial distortion of the lens after it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput

Floats = NDArray[np.float64]
Light = NDArray[np.float32]
# k1 beyond this is no lens of a phone.
MOST_K1 = 0.06
# Of the fixed point: for k1 up to `MOST_K1` it is then within a thousandth of a pixel.
STEPS_TO_UNDISTORT = 6
# Of the least squares; they take 4 to 12 mostly.
MOST_STEPS = 25
# k1 of phones scatters by so much; to be off by that is worth as many pixels where places hardly tell.
USUAL_K1, UNUSUAL_PX = 0.03, 0.3
# 1/mm: depth grows by so much of itself to the millimetre, at 20 degrees from 25 cm away: tan(20 deg) / 250 mm.
USUAL_TILT = 0.0014


@dataclass(frozen=True)
class Pose:
    """Where the plate's millimetres are in a picture.

    matrix : ``(3, 3)`` plate mm (x, y, 1) to pixels of a lens without distortion
    k1 : radial distortion about the middle of the picture, ``r' = r (1 + k1 r^2)``, r over half the diagonal (D. C.
        Brown, Photogrammetric Engineering 37, 1971, its first term)
    size : width and height of the picture in pixels
    """

    matrix: Floats
    k1: float
    size: tuple[int, int]

    def to_pixels(self, mm: Floats) -> Floats:
        """``(..., 2)`` pixels of plate points."""
        return distorted(projected(self.matrix, mm), self.k1, self.size)

    def across(self, mm: Floats, outward: Floats, offsets: Floats) -> Light:
        """``(2, k, ...)`` columns and rows at offsets ``(k,)`` mm from plate points ``(..., 2)`` along unit vectors: a
        straight line, which over some millimetres is right to a twentieth of a pixel."""
        ends = self.to_pixels(np.stack([mm + outward, mm - outward])).astype(np.float32)
        middle, step = (np.moveaxis(one, -1, 0)[:, None] for one in (ends.mean(axis=0), (ends[0] - ends[1]) / 2))
        along: Light = middle + step * offsets.astype(np.float32).reshape(-1, *[1] * (step.ndim - 2))
        return along

    def to_mm(self, pixels: Floats) -> Floats:
        """``(..., 2)`` plate points of pixels: every measured pixel can be traced back."""
        back: Floats = np.asarray(np.linalg.inv(self.matrix), np.float64)
        return projected(back, undistorted(pixels, self.k1, self.size))

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
        return Pose(up @ self.matrix, self.k1, (round(self.size[0] * factor), round(self.size[1] * factor)))


def projected(matrix: Floats, points: Floats) -> Floats:
    """``(..., 2)`` points through a homography."""
    points = np.asarray(points, float)
    x, y = points[..., 0], points[..., 1]
    depth = matrix[2, 0] * x + matrix[2, 1] * y + matrix[2, 2]
    through: Floats = np.empty(points.shape)
    for axis in (0, 1):
        through[..., axis] = (matrix[axis, 0] * x + matrix[axis, 1] * y + matrix[axis, 2]) / depth
    return through


def _middle_and_half(size: tuple[int, int]) -> tuple[Floats, float]:
    return (np.array(size, float) - 1) / 2, float(np.hypot(*size)) / 2


def distorted(points: Floats, k1: float, size: tuple[int, int]) -> Floats:
    if k1 == 0:
        return points
    middle, half = _middle_and_half(size)
    away = [points[..., axis] - middle[axis] for axis in (0, 1)]
    grown = 1 + (k1 / half**2) * (away[0] ** 2 + away[1] ** 2)
    seen: Floats = np.empty(points.shape)
    for axis in (0, 1):
        seen[..., axis] = middle[axis] + away[axis] * grown
    return seen


def undistorted(points: Floats, k1: float, size: tuple[int, int]) -> Floats:
    """`distorted` turned round, by fixed point."""
    middle, half = _middle_and_half(size)
    points = np.asarray(points, float)
    straight = points
    if k1 == 0:
        return straight
    for _ in range(STEPS_TO_UNDISTORT):
        away = (straight - middle) / half
        straight = middle + (points - middle) / (1 + k1 * (away**2).sum(axis=-1, keepdims=True))
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
    homogeneous = np.column_stack([a, np.ones(len(a))])
    rows = np.zeros((len(a), 2, 9))
    rows[:, 0, 0:3] = rows[:, 1, 3:6] = homogeneous
    rows[:, :, 6:9] = -b[:, :, None] * homogeneous[:, None, :]
    # Of four pairs all of the right-hand side is needed; of more, what belongs to the rows is enough.
    _, _, right = np.linalg.svd(rows.reshape(-1, 9), full_matrices=len(a) == 4)
    matrix = np.linalg.inv(of_b) @ right[-1].reshape(3, 3) @ of_a
    scaled: Floats = matrix / matrix[2, 2]
    return scaled


def _pose_of(guess: Floats, size: tuple[int, int]) -> Pose:
    return Pose(np.append(guess[:8], 1.0).reshape(3, 3), float(guess[8]) if len(guess) > 8 else 0.0, size)


def pixel_jacobian(guess: Floats, mm: Floats, size: tuple[int, int]) -> Floats:
    """``(n, 2, k)`` how the pixels of plate points change with a pose: ``(8,)`` the figures of its homography but the
    last, which is 1; with a ninth, k1."""
    homogeneous = np.column_stack([mm, np.ones(len(mm))])
    mapped = homogeneous @ np.append(guess[:8], 1.0).reshape(3, 3).T
    depth = mapped[:, 2:]
    pixels = mapped[:, :2] / depth
    slope = np.zeros((len(mm), 2, len(guess)))
    slope[:, 0, 0:3] = slope[:, 1, 3:6] = homogeneous / depth
    slope[:, :, 6:8] = -pixels[:, :, None] * (mm / depth)[:, None, :]
    if len(guess) > 8:
        middle, half = _middle_and_half(size)
        away, k1 = (pixels - middle) / half, guess[8]
        square = (away**2).sum(axis=1)
        turned = (1 + k1 * square)[:, None, None] * np.eye(2) + 2 * k1 * away[:, :, None] * away[:, None, :]
        slope[:, :, :8] = turned @ slope[:, :, :8]
        slope[:, :, 8] = half * away * square[:, None]
    return slope


def fit_unsure_px(pose: Pose, mm: Floats, pixels: Floats, weights: Floats, at: Floats, distortion: bool) -> Floats:
    """``(k,)`` standard deviation of where a pose that was fitted to pairs ``(n, 2)`` has plate points ``(k, 2)``, in
    pixels: what the pairs scatter by, carried on (linear propagation; 1 pixel where too few tell)."""
    guess = np.append(pose.matrix.ravel()[:8] / pose.matrix[2, 2], [pose.k1] if distortion else [])
    slopes = pixel_jacobian(guess, mm, pose.size) * weights[:, None, None]
    scale = np.maximum(np.sqrt((slopes**2).sum(axis=(0, 1))), 1e-12)
    slopes = slopes.reshape(-1, len(guess)) / scale
    if distortion:
        slopes = np.concatenate([slopes, UNUSUAL_PX / USUAL_K1 / scale[8] * np.eye(9)[8:]])
    free = 2 * len(mm) - len(guess)
    off = (np.linalg.norm(pose.to_pixels(mm) - pixels, axis=1) * weights) ** 2
    # Half of the squared distances of normal noise in two directions are below 2 ln 2 of its variance.
    scatter = float(np.median(off)) / (2 * np.log(2)) * 2 * len(mm) / free if free > 0 else 1.0
    covariance = np.linalg.pinv(slopes.T @ slopes, rcond=1e-12) * scatter
    there = pixel_jacobian(guess, at, pose.size) / scale
    return np.sqrt(np.maximum(np.einsum("nik,kl,nil->n", there, covariance, there), 0.0))


def fitted(
    mm: Floats,
    pixels: Floats,
    weights: Floats,
    size: tuple[int, int],
    distortion: bool,
    tilt_prior_at: Floats | None = None,
) -> Pose:
    """The pose that takes plate points nearest to their pixels; far-off pairs count little (soft L1, 1 pixel).

    distortion : also find k1, which takes points all over the plate
    tilt_prior_at : where most points are, when they are close together and hardly say how the plate is tilted: then it
        is taken to be as tilted as one holds a phone, more needs better reasons
    """
    # SciPy's optimisers take longer to load than a plate takes to plan; who reads no photograph does without.
    from scipy.optimize import least_squares

    def away(guess: Floats) -> Floats:
        errors: Floats = ((_pose_of(guess, size).to_pixels(mm) - pixels) * weights[:, None]).ravel()
        if distortion:
            errors = np.append(errors, guess[8] * UNUSUAL_PX / USUAL_K1)
        if tilt_prior_at is None:
            return errors
        # The share by which depth grows within a millimetre.
        return np.append(errors, guess[6:8] / (guess[6:8] @ tilt_prior_at + 1) / USUAL_TILT)

    def slopes(guess: Floats) -> Floats:
        of_points: Floats = (pixel_jacobian(guess, mm, size) * weights[:, None, None]).reshape(-1, len(guess))
        if distortion:
            of_points = np.concatenate([of_points, UNUSUAL_PX / USUAL_K1 * np.eye(9)[8:]])
        if tilt_prior_at is None:
            return of_points
        depth = guess[6:8] @ tilt_prior_at + 1
        of_prior = np.zeros((2, len(guess)))
        of_prior[:, 6:8] = (np.eye(2) / depth - np.outer(guess[6:8], tilt_prior_at) / depth**2) / USUAL_TILT
        return np.concatenate([of_points, of_prior])

    direct = homography(mm, pixels).ravel()[:8]
    start = np.append(direct, [0.0] if distortion else [])
    scale = np.append(np.maximum(np.abs(direct), 1e-6), [0.01] if distortion else [])
    found = least_squares(away, start, slopes, loss="soft_l1", x_scale=scale, ftol=1e-7, max_nfev=MOST_STEPS).x
    if distortion:
        found[8] = np.clip(found[8], -MOST_K1, MOST_K1)
    return _pose_of(found, size)
