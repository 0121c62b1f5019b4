"""A photograph of a burned plate, drawn: ground with grain, patches as they came out, hand-held and lit from a side.

For plates that were burned before anybody looked: how each patch came out is known, and the picture shows just that.
"""

from __future__ import annotations

import io
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from PIL import Image

Floats = NDArray[np.float64]
PX_PER_MM = 6.5
AROUND_MM = 9.0
LONGEST_PX = 1280


@dataclass(frozen=True)
class Spot:
    """A patch on the plate: its place in mm (y up), and how it came out.

    through : 0..3 for a cut outline, else None; darkness : 0..5 for a filled patch, else None; char : 0..3
    line : the darkness is that of an outline, the patch itself stays bare
    """

    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    through: int | None
    darkness: int | None
    char: int = 0
    line: bool = False


def _noise(shape: tuple[int, int], cells: tuple[int, int], rng: np.random.Generator) -> Floats:
    """Smooth noise of about unit size: a coarse random grid, drawn large."""
    coarse = Image.fromarray(rng.normal(size=cells).astype(np.float32))
    return np.asarray(coarse.resize((shape[1], shape[0]), Image.Resampling.BICUBIC), dtype=np.float64)


def _ground(shape: tuple[int, int], colour: Floats, rng: np.random.Generator) -> Floats:
    """The bare material: long grain along x and a fine tooth."""
    grain = 0.03 * _noise(shape, (shape[0] // 5 + 2, 6), rng) + 0.012 * rng.normal(size=shape)
    return colour * (1.0 + grain[..., None])


def _window(spot: Spot, height_mm: float, shape: tuple[int, int]) -> tuple[slice, slice]:
    """The pixels of a patch; rows run down, millimetres up."""
    top = (AROUND_MM + height_mm - spot.y_mm - spot.height_mm) * PX_PER_MM
    left = (AROUND_MM + spot.x_mm) * PX_PER_MM
    return (
        slice(max(0, round(top)), min(shape[0], round(top + spot.height_mm * PX_PER_MM))),
        slice(max(0, round(left)), min(shape[1], round(left + spot.width_mm * PX_PER_MM))),
    )


def _lay(image: Floats, spot: Spot, height_mm: float, mark: Floats, table: Floats, face: str) -> None:
    kerf = max(2, round(0.25 * PX_PER_MM))
    if spot.darkness is None or spot.line:
        # A line is a kerf around the patch, half of it outside.
        half = kerf / 2 / PX_PER_MM
        wide, high = spot.width_mm + 2 * half, spot.height_mm + 2 * half
        spot = replace(spot, x_mm=spot.x_mm - half, y_mm=spot.y_mm - half, width_mm=wide, height_mm=high)
    rows, columns = _window(spot, height_mm, image.shape[:2])
    area = image[rows, columns]
    if area.size == 0:
        return
    edge = np.ones(area.shape[:2], dtype=bool)
    edge[kerf:-kerf, kerf:-kerf] = False
    if spot.darkness is not None:
        share = spot.darkness / 5.0
        painted = edge if spot.line else np.ones_like(edge)
        area[painted] = area[painted] * (1.0 - share) + mark * share
        return
    through = spot.through or 0
    # What drops out leaves a hole through which the table is seen.
    if through == 3:
        area[~edge] = table
    if face == "front":
        area[edge] = area[edge] * 0.25 + 0.06
    else:
        # Partly through, the line is seen along the lower half; to be pushed out, all but where it hangs.
        rows_open = {0: 0.0, 1: 0.5, 2: 1.0, 3: 1.0}[through] * area.shape[0]
        down = np.arange(area.shape[0])[:, None] >= area.shape[0] - rows_open
        area[edge & down] = area[edge & down] * 0.12 + 0.03
    halo = max(0, spot.char) * 0.5 * PX_PER_MM
    if halo:
        y, x = np.arange(image.shape[0]), np.arange(image.shape[1])
        beside_y = np.maximum(np.maximum(rows.start - y, y - rows.stop + 1), 0)
        beside_x = np.maximum(np.maximum(columns.start - x, x - columns.stop + 1), 0)
        outside = np.maximum(beside_y[:, None], beside_x[None, :])
        reach = (outside > 0) & (outside < halo)
        image[reach] *= (0.45 + 0.55 * outside[reach] / halo)[:, None]


def photograph(
    width_mm: float,
    height_mm: float,
    spots: Sequence[Spot],
    colours: Mapping[str, Sequence[float]],
    face: str,
    seed: int,
) -> bytes:
    """A JPEG of one face of a plate.

    Parameters
    ----------
    colours : sRGB 0..1 of ``ground`` and ``mark``
    face : ``front`` or ``back``; the back is mirrored, and surface marks are not seen on it
    """
    rng = np.random.default_rng(seed)
    shape = (
        round((height_mm + 2 * AROUND_MM) * PX_PER_MM),
        round((width_mm + 2 * AROUND_MM) * PX_PER_MM),
    )
    ground, mark = (np.asarray(colours[key], float) for key in ("ground", "mark"))
    table = np.array([0.30, 0.28, 0.27]) * (1.0 + 0.04 * _noise(shape, (40, 40), rng)[..., None])
    image = table.copy()
    rows, columns = _window(Spot(0.0, 0.0, width_mm, height_mm, None, None), height_mm, shape)
    image[rows, columns] = _ground(image[rows, columns].shape[:2], ground, rng)
    dark_table = np.array([0.13, 0.12, 0.12])
    for spot in spots:
        if spot.darkness is None or face == "front":
            _lay(image, spot, height_mm, mark, dark_table, face)
    if face == "back":
        image = image[:, ::-1]
    y, x = np.mgrid[-1 : 1 : shape[0] * 1j, -1 : 1 : shape[1] * 1j]
    light = 1.0 + 0.10 * (rng.uniform(-1, 1) * x + rng.uniform(-1, 1) * y) - 0.12 * (x * x + y * y)
    image = np.clip(image * light[..., None] + 0.008 * rng.normal(size=image.shape), 0.0, 1.0)
    picture = Image.fromarray(np.round(image * 255).astype(np.uint8))
    held = picture.rotate(float(rng.uniform(-1.6, 1.6)), Image.Resampling.BICUBIC, fillcolor=(76, 71, 69))
    held.thumbnail((LONGEST_PX, LONGEST_PX))
    out = io.BytesIO()
    held.save(out, "JPEG", quality=82)
    return out.getvalue()
