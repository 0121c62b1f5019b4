"""A plate seen from straight above: a photograph warped to the plate's millimetres."""

from __future__ import annotations

import io
from concurrent.futures import ThreadPoolExecutor

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from rezept.core.photo.card import PLAIN_CURVE
from rezept.core.photo.flat import FINEST_MM, Flat, Light
from rezept.core.photo.pose import Pose

# Quadrilaterals each way: between their corners the strongest lens bows by less than a fifth of a pixel.
MESH, BANDS = 16, 2
MOST_PIXELS = 4_000_000
QUALITY = 88


def _warped(rgb: NDArray[np.uint8], pose: Pose, size: tuple[int, int], step_mm: float) -> NDArray[np.uint8]:
    """The plate from its lower left up, row by row; `size` in cells. In bands, one for each core that there may be."""
    xs, ys = (np.linspace(0, side, MESH + 1).round().astype(int) for side in size)
    corners = np.stack(np.meshgrid(xs, ys), axis=-1) * step_mm
    # Pixel (0, 0) is the middle of a pixel here and its corner there.
    at = pose.to_pixels(corners) + 0.5
    picture = Image.fromarray(rgb)

    def band(first: int, last: int) -> NDArray[np.uint8]:
        mesh = []
        for j in range(first, last):
            for i in range(MESH):
                box = (int(xs[i]), int(ys[j] - ys[first]), int(xs[i + 1]), int(ys[j + 1] - ys[first]))
                quad = (*at[j, i], *at[j + 1, i], *at[j + 1, i + 1], *at[j, i + 1])
                mesh.append((box, tuple(float(value) for value in quad)))
        high = (size[0], int(ys[last] - ys[first]))
        return np.asarray(picture.transform(high, Image.Transform.MESH, mesh, Image.Resampling.BILINEAR))

    with ThreadPoolExecutor(BANDS) as pool:
        ends = np.linspace(0, MESH, BANDS + 1).round().astype(int).tolist()
        return np.concatenate(list(pool.map(band, ends[:-1], ends[1:])))


def flattened(
    rgb: NDArray[np.uint8],
    pose: Pose,
    width_mm: float,
    height_mm: float,
    step_mm: float = FINEST_MM,
    curve: Light = PLAIN_CURVE,
) -> Flat:
    """The plate in cells of `step_mm`, or larger ones where that would be more than `MOST_PIXELS`.

    The pose stays: every measured cell can be traced to its pixels.
    """
    step = max(step_mm, float(np.sqrt(width_mm * height_mm / MOST_PIXELS)))
    size = (int(np.ceil(width_mm / step)), int(np.ceil(height_mm / step)))
    return Flat(_warped(rgb, pose, size, step), step, curve)


def upright_jpeg(rgb: NDArray[np.uint8]) -> bytes:
    """A photograph as any browser shows it, upright and within `MOST_PIXELS`."""
    image = Image.fromarray(rgb)
    share = float(np.sqrt(MOST_PIXELS / (image.width * image.height)))
    if share < 1:
        image = image.resize((round(image.width * share), round(image.height * share)), Image.Resampling.BILINEAR)
    return _jpeg(image)


def _jpeg(image: Image.Image) -> bytes:
    data = io.BytesIO()
    image.save(data, "JPEG", quality=QUALITY)
    return data.getvalue()


def flat_jpeg(rgb: NDArray[np.uint8], pose: Pose, width_mm: float, height_mm: float) -> bytes:
    """The plate as a picture, upright, as fine as the photograph has it within `MOST_PIXELS`."""
    finest = 1 / max(1.0, pose.px_per_mm(np.array([width_mm / 2, height_mm / 2])))
    flat = flattened(rgb, pose, width_mm, height_mm, finest)
    return _jpeg(Image.fromarray(flat.rgb[::-1]))
