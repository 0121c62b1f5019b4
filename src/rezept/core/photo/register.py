"""Where the outlines of cut patches are in a picture: by the likeness of their figure, then by their edges.

What is looked at is how unlike the sheet a place is (`unlike`), so that it does not matter what lies below. A patch
shows as its lines, or filled where the part has dropped out; seen at a slant the wall beside the opening belongs to it,
for the edge of the sheet's surface is where its own colour ends.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from rezept.core.path.figure import Figure
from rezept.core.path.inside import inside
from rezept.core.path.outlines import rectangle
from rezept.core.photo.course import course_of
from rezept.core.photo.lattice import Lattice
from rezept.core.photo.noise import known_median, median
from rezept.core.photo.pose import Pose
from rezept.core.photo.unlike import Colours, SheetColour
from rezept.core.plan import Plate
from rezept.core.plan.elements import box_corners

Floats = NDArray[np.float64]
Light = NDArray[np.float32]
Flags = NDArray[np.bool_]

# The figure is looked for in cells of this size, mm, with so much sheet around it; its lines are so wide.
CELL_MM, AROUND_MM, LINE_MM = 0.3, 0.5, 0.16
# Standard deviations of bare sheet: more is not sheet; and of what fills a patch, the share from which all counts alike
# (soot is unlike the sheet, too, but less).
NOT_SHEET, ALL_ALIKE_SHARE = 8.0, 0.7
# A figure is there when its correlation is above this; 1 is a drawing of it.
LIKE_FIGURE = 0.45
# Edges: in steps of this, mm, by so many stretches of the outline; an edge rises by so much within a step, and by this
# share of the patch's steepest one.
STEP_MM, STRETCHES, LEAST_RISE, STEEP_SHARE = 0.08, 16, 0.5, 0.12
# A patch's middle is known when its standard deviation is below this, mm, by at least so many stretches.
KNOWN_MM, FEWEST_STRETCHES = 0.1, 8
LEAST_OFF_MM = 0.04
# Of more places along an outline every so many-th is looked at.
ENOUGH_ALONG = 40
ROUNDS = 5


@dataclass(frozen=True)
class Likeness:
    """How patches look like their figure near where a pose has them, ``(n,)`` each.

    correlation : normalised cross-correlation with the figure, as lines or filled, where that is largest
    shift : ``(n, 2)`` mm on the plate from where the pose has it to there
    inner : that is a maximum, and not at the end of what was looked at
    """

    correlation: Floats
    shift: Floats
    inner: Flags

    @property
    def there(self) -> Flags:
        return (self.correlation > LIKE_FIGURE) & self.inner


@lru_cache(maxsize=16)
def _templates(figure: Figure, width_mm: float, height_mm: float) -> tuple[Light, Light]:
    """A figure's lines and its filled outline, in cells of `CELL_MM` over its box and `AROUND_MM` around it."""
    loops = figure.loops or (rectangle(width_mm, height_mm),)
    axes = [np.arange(-AROUND_MM + CELL_MM / 2, side + AROUND_MM, CELL_MM) for side in (width_mm, height_mm)]
    cells = np.stack(np.meshgrid(*axes), axis=-1)
    shape, flat = cells.shape[:2], cells.reshape(-1, 2)
    # Shapely takes a twentieth of a second to load; only those who look for a plate by its outlines wait for it.
    import shapely

    away = shapely.distance(shapely.MultiLineString(loops), shapely.points(flat))
    lines = np.exp(-0.5 * (away / LINE_MM) ** 2).reshape(shape).astype(np.float32)
    faces = figure.faces or loops
    filled = np.any([inside(flat, face) for face in faces], axis=0).reshape(shape).astype(np.float32)
    return lines, ndimage.gaussian_filter(filled, 0.4)


def _correlations(windows: Light, template: Light) -> Light:
    """``(n, a, b)`` normalised cross-correlation of a template with windows ``(n, H, W)``, wherever it fits into
    them."""
    from scipy import fft

    (high, wide), (h, w) = windows.shape[1:], template.shape
    size = (fft.next_fast_len(high, True), fft.next_fast_len(wide, True))
    fits = (slice(None), slice(0, high - h + 1), slice(0, wide - w + 1))

    zero_mean = template - template.mean()
    spectrum = fft.rfft2(windows, size)
    matching = np.asarray(fft.irfft2(spectrum * np.conj(fft.rfft2(zero_mean, size)), size)[fits], np.float32)
    sums, squares = (_box_sums(one, h, w) for one in (windows, windows * windows))
    varies = np.maximum(squares - sums * sums / template.size, 1e-3 * template.size)
    return matching / np.sqrt(varies * (zero_mean**2).sum())


def _box_sums(windows: Light, high: int, wide: int) -> Light:
    """``(n, a, b)`` sums over boxes of windows ``(n, H, W)``, wherever one fits into them."""
    summed = np.zeros((len(windows), windows.shape[1] + 1, windows.shape[2] + 1))
    summed[:, 1:, 1:] = windows
    for axis in (1, 2):
        np.cumsum(summed, axis=axis, out=summed)
    rows = summed[:, high:] - summed[:, :-high]
    return np.asarray(rows[:, :, wide:] - rows[:, :, :-wide], np.float32)


def _vertex(before: Floats, at: Floats, after: Floats) -> Floats:
    """Where between its neighbours a parabola through three values is highest, -1 to 1."""
    bend = before - 2 * at + after
    return np.where(bend < 0, 0.5 * (before - after) / np.where(bend < 0, bend, -1), 0.0).clip(-1, 1)


def _all_alike(core: Floats) -> float:
    """From which unlikeness on everything counts as not sheet."""
    filled = core[core > NOT_SHEET]
    return max(NOT_SHEET, ALL_ALIKE_SHARE * float(np.median(filled))) if len(filled) else NOT_SHEET


def _core(rgb: Colours, colour: SheetColour, pose: Pose, boxes: Floats) -> Floats:
    """``(n,)`` how unlike the sheet the middles of patches are."""
    around = 0.7 * np.stack(np.meshgrid(np.arange(-2, 3), np.arange(-2, 3)), axis=-1).reshape(-1, 2)
    middles = boxes[:, :2] + boxes[:, 2:] / 2
    return median(colour.unlike(rgb, pose.to_pixels(middles[:, None] + around)), (1,))


def openness(rgb: Colours, colour: SheetColour, pose: Pose, boxes: Floats) -> Floats:
    """``(n,)`` how unlike the sheet the middles of patches are, 0 bare to 1."""
    core = _core(rgb, colour, pose, boxes)
    return np.minimum(core / _all_alike(core), 1.0)


def likeness(plate: Plate, rgb: Colours, colour: SheetColour, pose: Pose, boxes: Floats, reach_mm: float) -> Likeness:
    """How patches ``(n, 4)`` look like their figure within a reach of where a pose has them."""
    templates = _templates(plate.elements.figure_of(0), *boxes[0, 2:].tolist())
    reach = max(2, round(reach_mm / CELL_MM))
    high, wide = templates[0].shape[0] + 2 * reach, templates[0].shape[1] + 2 * reach
    first = -AROUND_MM - reach * CELL_MM + CELL_MM / 2
    cells = np.stack(np.meshgrid(first + CELL_MM * np.arange(wide), first + CELL_MM * np.arange(high)), axis=-1)
    windows = colour.unlike(rgb, pose.to_pixels(boxes[:, None, None, :2] + cells))
    most = _all_alike(_core(rgb, colour, pose, boxes))
    # What is filled counts from half-way on, so that soot around it does not.
    looks = (np.minimum(windows, most), np.clip(2 * windows / most - 0.5, 0, 1))
    maps = np.stack([_correlations(look, template) for look, template in zip(looks, templates, strict=True)], axis=1)
    patches = np.arange(len(boxes))
    best = maps.reshape(len(boxes), 2, -1).max(axis=2).argmax(axis=1)
    chosen = maps[patches, best].astype(float)
    row, column = np.unravel_index(chosen.reshape(len(boxes), -1).argmax(axis=1), chosen.shape[1:])
    y, x = (np.clip(at, 1, 2 * reach - 1) for at in (row, column))
    here = chosen[patches, y, x]
    shift = np.column_stack([
        x - reach + _vertex(chosen[patches, y, x - 1], here, chosen[patches, y, x + 1]),
        y - reach + _vertex(chosen[patches, y - 1, x], here, chosen[patches, y + 1, x]),
    ]) * CELL_MM  # fmt: skip
    return Likeness(here, shift, (y == row) & (x == column))


def edges(plate: Plate, rgb: Colours, colour: SheetColour, pose: Pose, boxes: Floats, reach_mm: float) -> Lattice:
    """The middles of patches ``(n, 4)`` by the edges of what is not sheet, near a pose that is off by less than a
    reach.

    Each stretch of an outline lies off by the patch's shift along its normal, and all of them by the same kerf outward:
    weighed least squares part the two.
    """
    way = course_of(plate)
    every = max(1, len(way.points) // ENOUGH_ALONG)
    points, outward = way.points[::every], way.outward[::every]
    offsets = np.arange(-reach_mm, reach_mm + STEP_MM / 2, STEP_MM)
    deviation = colour.deviation(rgb, pose.across(boxes[:, None, :2] + points[None], -outward[None], offsets))
    # Against what the sheet looks like just here: shadows fall on it, and lamps.
    deviation -= median(deviation[:, :4], (1, 3)).astype(np.float32)[:, None, :, None]
    seen = colour.distance(deviation)
    seen = np.minimum(seen, np.float32(_all_alike(median(seen[-3:], (0, 2)))))
    stretches = [part.mean(axis=2) for part in np.array_split(seen, STRETCHES, axis=2)]
    profiles = np.moveaxis(np.stack(stretches), (0, 1), (1, 2)).astype(float)
    rising = np.diff(ndimage.gaussian_filter1d(profiles, 1.2, axis=2), axis=2)
    best = np.clip(rising.argmax(axis=2), 1, rising.shape[2] - 2)
    before, steep, after = (np.take_along_axis(rising, (best + i)[..., None], 2)[..., 0] for i in (-1, 0, 1))
    inward = ((offsets[1:] + offsets[:-1]) / 2)[best] + STEP_MM * _vertex(before, steep, after).clip(-0.5, 0.5)
    usable = (steep > LEAST_RISE) & (steep > STEEP_SHARE * steep.max(axis=1, keepdims=True))
    normals = np.array([part.mean(axis=0) for part in np.array_split(outward, STRETCHES)])
    shift, unsure, count = _shifts(np.column_stack([normals, np.ones(STRETCHES)]), -inward, usable)
    good = (unsure < KNOWN_MM) & (count >= FEWEST_STRETCHES) & (np.abs(shift).max(axis=1) < reach_mm)
    # Beyond the picture its last pixels go on for ever, and seem to have edges.
    good &= pose.shows(box_corners(boxes, reach_mm)).all(axis=1)
    middles = boxes[:, :2] + boxes[:, 2:] / 2
    return Lattice(middles, pose.to_pixels(middles + shift), np.where(good, LEAST_OFF_MM / (unsure + LEAST_OFF_MM), 0))


def _shifts(design: Floats, off: Floats, usable: Flags) -> tuple[Floats, Floats, NDArray[np.int_]]:
    """``(n, 2)`` shifts of patches whose edges lie `off` ``(n, stretches)``, how unsure they are, mm, and by how many
    stretches each was found."""
    weights = usable.astype(float)
    for _ in range(ROUNDS):
        normal = np.einsum("nk,ki,kj->nij", weights, design, design) + 1e-6 * np.eye(3)
        found = np.linalg.solve(normal, np.einsum("nk,ki,nk->ni", weights, design, off)[..., None])[..., 0]
        left = np.abs(off - found @ design.T)
        usual = np.maximum(1.5 * np.nan_to_num(known_median(np.where(weights > 0, left, np.nan))), LEAST_OFF_MM)
        weights = np.where(usable, 1 / (1 + (left / (1.5 * usual[:, None])) ** 2), 0.0)
    covariance = np.linalg.inv(normal)[:, :2, :2] * usual[:, None, None] ** 2
    return found[:, :2], np.sqrt(np.trace(covariance, axis1=1, axis2=2)), (weights > 0.3).sum(axis=1)
