"""The rings in a plate's corners, found by a matched filter near where they are expected."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.photo.noise import sigma_of
from rezept.core.photo.pose import Pose

Floats = NDArray[np.float64]
Grey = NDArray[np.float32]

# Width of the line a ring is drawn with, mm, as a middling spot leaves it.
LINE_MM = 0.16
# Response over the noise floor around it from which on something may be a ring. Of 79 rings in photographs of others'
# making (2.6 to 18 px/mm) all but four are above it and half above 20. Letters and cuts within reach come to 55: which
# of several is the ring their places tell, not this.
LEAST_SNR = 6.0
MOST_FOUND = 5
# Pixels to the millimetre between which rings can be told from what is around them.
COARSEST_PX_MM, FINEST_PX_MM = 2.0, 200.0


@dataclass(frozen=True)
class Found:
    """One ring: its middle in pixels, and its signal-to-noise ratio: the filter's response over the noise floor."""

    pixels: tuple[float, float]
    snr: float


def _template(radii_mm: tuple[float, ...], jacobian: Floats, reach_px: int) -> Grey:
    """Rings as they look under a pose, minus the ground beside them: a window of ``2 reach + 1`` pixels a side whose
    sum is 0."""
    at = np.arange(-reach_px, reach_px + 1, dtype=float)
    x, y = np.meshgrid(at, at)
    mm = np.stack([x, y], axis=-1) @ np.linalg.inv(jacobian).T
    away = np.hypot(mm[..., 0], mm[..., 1])
    nearest = np.min([np.abs(away - radius) for radius in radii_mm], axis=0)
    ring, beside = nearest < LINE_MM * 0.75, (nearest > LINE_MM * 1.2) & (nearest < LINE_MM * 3.5)
    template = np.zeros(away.shape, np.float32)
    template[ring] = 1.0 / max(1, int(ring.sum()))
    template[beside] = -1.0 / max(1, int(beside.sum()))
    return template


def _jacobian(pose: Pose, mm: Floats) -> Floats:
    step = 0.25
    ends = pose.to_pixels(mm + np.array([(step, 0.0), (-step, 0.0), (0.0, step), (0.0, -step)]))
    return np.column_stack([(ends[0] - ends[1]) / (2 * step), (ends[2] - ends[3]) / (2 * step)])


def _peak(response: Grey, row: int, column: int) -> tuple[float, float]:
    """A maximum to a fraction of a pixel, by a parabola each way."""

    def between(before: float, at: float, after: float) -> float:
        bend = before - 2 * at + after
        return 0.0 if bend >= 0 else float(np.clip(0.5 * (before - after) / bend, -0.5, 0.5))

    across = down = 0.0
    if 0 < column < response.shape[1] - 1:
        across = between(*response[row, column - 1 : column + 2].tolist())
    if 0 < row < response.shape[0] - 1:
        down = between(*response[row - 1 : row + 2, column].tolist())
    return column + across, row + down


def _response(window: Grey, template: Grey) -> Grey:
    """Of the matched filter: the template laid on every place of the window where it fits, products summed; through the
    spectrum. (SciPy's `signal.correlate` does the same, and takes longer to load than a photograph takes to read.)"""
    size = window.shape[0] + template.shape[0] - 1, window.shape[1] + template.shape[1] - 1
    product = np.fft.rfft2(window, size) * np.fft.rfft2(template[::-1, ::-1], size)
    whole = np.fft.irfft2(product, size)
    rows, columns = (slice(side - 1, whole_side) for side, whole_side in zip(template.shape, window.shape, strict=True))
    return np.asarray(whole[rows, columns], np.float32)


def _window(grey: Grey, left: int, top: int, side: int, beyond: int) -> Grey:
    """A square of the picture; where it ends, its last pixels go on for at most so many more: a ring may lie there."""
    height, width = grey.shape
    rows, columns = (
        np.arange(max(start, -beyond), min(start + side, end + beyond)) for start, end in ((top, height), (left, width))
    )
    return grey[np.clip(rows, 0, height - 1)[:, None], np.clip(columns, 0, width - 1)]


def find_rings(
    grey: Grey, pose: Pose, mm: tuple[float, float], radii_mm: tuple[float, ...], within_mm: float, lighter: bool
) -> list[Found]:
    """What is most like a ring within so many mm of where the pose expects it, the likest first; at most `MOST_FOUND`.

    Parameters
    ----------
    grey : ``(height, width)`` luminance of the picture
    lighter : the ring is lighter than its ground
    """
    centre = np.array(mm, float)
    jacobian = _jacobian(pose, centre)
    scale = float(np.sqrt(abs(np.linalg.det(jacobian))))
    if not COARSEST_PX_MM < scale < FINEST_PX_MM:
        return []
    reach = int(np.ceil((max(radii_mm) + 4 * LINE_MM) * scale * 1.3)) + 1
    around = int(np.ceil(within_mm * scale)) + reach + 1
    expected = pose.to_pixels(centre)
    left, top = (round(float(value)) - around for value in expected)
    window = _window(grey, left, top, 2 * around + 1, reach)
    if min(window.shape) < 2 * reach + 3:
        return []
    left, top = max(left, -reach), max(top, -reach)
    template = _template(radii_mm, jacobian, reach)
    response = _response(window if lighter else -window, template)
    noise_floor = float(sigma_of(response - np.median(response))) + 1e-6
    found: list[Found] = []
    left_over = response.copy()
    # Non-maximum suppression: what lies within a radius of a better one is of the same ring.
    radius = max(2, int(max(radii_mm) * scale))
    while len(found) < MOST_FOUND:
        row, column = (int(value) for value in np.unravel_index(int(left_over.argmax()), response.shape))
        snr = float(left_over[row, column]) / noise_floor
        if snr < LEAST_SNR:
            break
        x, y = _peak(response, row, column)
        found.append(Found((x + left + reach, y + top + reach), snr))
        left_over[max(0, row - radius) : row + radius + 1, max(0, column - radius) : column + radius + 1] = -np.inf
    return found
