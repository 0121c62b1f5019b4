"""What a photograph says of each patch, against the bare ground around it so that uneven light cancels."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from rezept.core.colour import srgb_to_linear
from rezept.core.photo.pose import Pose
from rezept.core.plan import Plate

Floats = NDArray[np.float64]
Colours = NDArray[np.uint8]

FINEST_MM = 0.1
INSET_SHARE = 0.18
# Darker than so much of the ground, at least: nothing is left there, one sees what lies below.
OPEN_BELOW = 0.16
# A cut that is through shows as a line this much darker than the ground on the back.
LINE_BELOW = 0.6
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
_LINEAR = srgb_to_linear(np.arange(256) / 255.0).astype(np.float32)


def linear(rgb: Colours) -> NDArray[np.float32]:
    """Linear light 0..1 of sRGB pixels (IEC 61966-2-1); a phone's own curve is not undone by this."""
    return _LINEAR[rgb]


@dataclass(frozen=True)
class Flat:
    """The plate flattened: ``(rows, columns, 3)`` linear light, rows running up, cell (row, column) centred at
    ``((column + 1/2) step, (row + 1/2) step)`` mm on the plate."""

    light: NDArray[np.float32]
    step_mm: float

    def box(self, x: float, y: float, width: float, height: float) -> NDArray[np.float32]:
        first = [max(0, round(low / self.step_mm)) for low in (y, x)]
        last = [max(a + 1, round(high / self.step_mm)) for a, high in zip(first, (y + height, x + width), strict=True)]
        return self.light[first[0] : last[0], first[1] : last[1]]


def flatten(rgb: Colours, pose: Pose, width_mm: float, height_mm: float, step_mm: float = FINEST_MM) -> Flat:
    """The plate seen from straight above. The pose stays: every measured cell can be traced to its pixels."""
    rows, columns = int(np.ceil(height_mm / step_mm)), int(np.ceil(width_mm / step_mm))
    x, y = (np.arange(columns) + 0.5) * step_mm, (np.arange(rows) + 0.5) * step_mm
    pixels = pose.to_pixels(np.stack(np.meshgrid(x, y), axis=-1))
    seen = np.stack(
        [
            ndimage.map_coordinates(rgb[..., channel], [pixels[..., 1], pixels[..., 0]], order=1, mode="nearest")
            for channel in range(3)
        ],
        axis=-1,
    )
    return Flat(linear(seen), step_mm)


def ground_field(flat: Flat, boxes: Floats, margin_mm: float) -> NDArray[np.float32]:
    """``(rows, columns, 3)`` what the bare ground would look like everywhere: a smooth surface of second order through
    the ground between the patches, channel by channel, in the logarithm; what is dark there (letters, soot) counts
    little."""
    rows, columns = flat.light.shape[:2]
    bare = np.ones((rows, columns), bool)
    for x, y, width, height in boxes.tolist():
        first = [max(0, int((low - margin_mm) / flat.step_mm)) for low in (y, x)]
        last = [int((high + margin_mm) / flat.step_mm) + 1 for high in (y + height, x + width)]
        bare[first[0] : last[0], first[1] : last[1]] = False
    edge = max(1, int(1.0 / flat.step_mm))
    bare[:edge] = bare[-edge:] = False
    bare[:, :edge] = bare[:, -edge:] = False
    spots = np.argwhere(bare)
    if len(spots) < 50:
        level = np.median(flat.light.reshape(-1, 3), axis=0)
        return np.broadcast_to(level, flat.light.shape).astype(np.float32)
    spots = spots[:: max(1, len(spots) // 6000)]

    def terms(row: Floats, column: Floats) -> Floats:
        u, v = 2 * row / rows - 1, 2 * column / columns - 1
        return np.stack([np.ones_like(u), u, v, u * u, u * v, v * v], axis=-1)

    design = terms(spots[:, 0].astype(float), spots[:, 1].astype(float))
    at_row, at_column = np.meshgrid(np.arange(rows, dtype=float), np.arange(columns, dtype=float), indexing="ij")
    everywhere = terms(at_row, at_column)
    field = np.empty(flat.light.shape, np.float32)
    for channel in range(3):
        values = np.log(np.maximum(flat.light[spots[:, 0], spots[:, 1], channel].astype(float), 1e-4))
        weights = np.ones(len(values))
        fit = np.zeros(6)
        for _ in range(8):
            fit = np.linalg.lstsq(design * weights[:, None], values * weights, rcond=None)[0]
            off = values - design @ fit
            spread = 1.4826 * float(np.median(np.abs(off))) + 1e-3
            weights = np.sqrt(1 / (1 + (off / (2 * spread)) ** 2))
        field[..., channel] = np.exp(everywhere @ fit)
    return field


@dataclass(frozen=True)
class Measured:
    """Figures of every patch, as parallel arrays ``(n,)`` over all patches of the plate; NaN where nothing was burned.

    ratio : ``(n, 3)`` linear light of the patch over its ground, by channel; `luminance` their weighted sum
    spread : scatter of that ratio within the patch, of its uncertainty the largest part
    open_inside : share of the patch's inside through which one sees; open_outline : share of its outline
    """

    ratio: Floats
    luminance: Floats
    spread: Floats
    open_inside: Floats
    open_outline: Floats


def _outline_open(share: NDArray[np.float32], box: Floats, step_mm: float) -> float:
    """Share of a box's outline along which a dark line is to be seen within half a millimetre of it."""
    x, y, width, height = box
    count = max(8, int(2 * (width + height) / 0.4))
    along = np.linspace(0, 1, count // 4, endpoint=False) + 0.5 / (count // 4)
    across = np.arange(-0.45, 0.46, step_mm)
    sides = [
        np.stack(np.broadcast_arrays(x + width * along[:, None], y + across[None, :]), axis=-1),
        np.stack(np.broadcast_arrays(x + width * along[:, None], y + height + across[None, :]), axis=-1),
        np.stack(np.broadcast_arrays(x + across[None, :], y + height * along[:, None]), axis=-1),
        np.stack(np.broadcast_arrays(x + width + across[None, :], y + height * along[:, None]), axis=-1),
    ]
    points = np.concatenate(sides) / step_mm - 0.5
    seen = ndimage.map_coordinates(share, [points[..., 1], points[..., 0]], order=1, mode="nearest")
    # The usual ground of this very patch is what a line has to be darker than.
    usual = np.median(seen, axis=1, keepdims=True)
    return float((seen.min(axis=1, keepdims=True) < LINE_BELOW * np.maximum(usual, 0.3)).mean())


def measure(plate: Plate, flat: Flat) -> Measured:
    """The figures of every patch that was to burn."""
    count = len(plate.ids)
    size = np.tile([plate.trial.patch.width_mm, plate.trial.patch.height_mm], (count, 1))
    boxes = np.column_stack([plate.x_mm, plate.y_mm, size])
    ground = ground_field(flat, boxes, 0.3 * plate.trial.patch.gap_mm)
    relative = flat.light / ground
    light = (relative * LUMINANCE.astype(np.float32)).sum(axis=-1)
    over = Flat(relative, flat.step_mm)
    nothing = np.full(count, np.nan)
    ratio = np.full((count, 3), np.nan)
    luminance, spread, inside, outline = (nothing.copy() for _ in range(4))
    for i in np.flatnonzero(plate.burn).tolist():
        x, y, width, height = boxes[i]
        dx, dy = INSET_SHARE * width, INSET_SHARE * height
        cells = over.box(x + dx, y + dy, width - 2 * dx, height - 2 * dy).reshape(-1, 3)
        bright = cells @ LUMINANCE
        ratio[i] = np.median(cells, axis=0)
        luminance[i] = float(ratio[i] @ LUMINANCE)
        spread[i] = 1.4826 * float(np.median(np.abs(bright - np.median(bright))))
        inside[i] = float((bright < OPEN_BELOW).mean())
        outline[i] = _outline_open(light, boxes[i], flat.step_mm)
    return Measured(ratio, luminance, spread, inside, outline)
