"""The patches themselves as marks: where their edges are, and the middle between opposite edges."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from rezept.core.photo.course import Course, course_of
from rezept.core.photo.pose import Pose
from rezept.core.plan import Plate
from rezept.core.plan.elements import box_corners

Floats = NDArray[np.float64]
Grey = NDArray[np.float32]

# Across an outline the picture is sampled so finely.
STEP_MM = 0.08
# Stretches of the outline that are looked at together, and how far off their fit (root mean square) they may lie.
STRETCHES = 12
MOST_OFF_MM = 0.25
# An edge is one where luminance falls by such a share of the picture's median within one step.
LEAST_EDGE_SHARE = 0.05
# A mark has turned the other way than others on its material where it stands out so many times as much that way.
PLAINLY_MORE = 1.5
# That median is taken of a pixel in every so many, both ways.
EVERY_PX = 16


@dataclass(frozen=True)
class Lattice:
    """Middles of patches, on the plate ``(n, 2)`` mm and in the picture ``(n, 2)`` pixels, and how sharp their edges
    were, 0 where none was found."""

    mm: Floats
    pixels: Floats
    sharpness: Floats


def _edge_profiles(grey: Grey, pose: Pose, corners: Floats, way: Course, reach_mm: float) -> tuple[Floats, Floats]:
    """``(n, STRETCHES, k)`` mean luminance across each stretch of every patch's outline, from outside to inside, and
    the ``(k,)`` offsets in mm; `corners` are the patches' lower left ``(n, 2)``."""
    offsets = np.arange(-reach_mm, reach_mm + STEP_MM / 2, STEP_MM)
    # Every other point: with so many patches that is plenty.
    across = way.points[::2, None] - way.outward[::2, None] * offsets[:, None]
    pixels = pose.to_pixels(corners[:, None, None] + across[None])
    seen = ndimage.map_coordinates(grey, [pixels[..., 1], pixels[..., 0]], order=1, mode="nearest")
    parts = np.array_split(seen, STRETCHES, axis=1)
    return np.stack([part.mean(axis=1) for part in parts], axis=1).astype(float), offsets


def _outer_edge(profiles: Floats, offsets: Floats, lighter: bool) -> tuple[Floats, Floats]:
    """``(..., )`` place of the steepest fall (or rise) from outside in, and how steep it is."""
    slope = np.diff(profiles, axis=-1) * (1 if lighter else -1)
    middle = (offsets[1:] + offsets[:-1]) / 2
    best = slope.argmax(axis=-1)
    inner = np.clip(best, 1, slope.shape[-1] - 2)
    take = np.take_along_axis
    before, at, after = (take(slope, (inner + i)[..., None], -1)[..., 0] for i in (-1, 0, 1))
    bend = before - 2 * at + after
    shift = np.where(bend < 0, 0.5 * (before - after) / np.where(bend == 0, -1, bend), 0.0)
    return middle[inner] + np.clip(shift, -0.5, 0.5) * STEP_MM, at


def find_lattice(
    grey: Grey, pose: Pose, boxes: Floats, way: Course, reach_mm: float, lighter: bool, may_turn: bool = False
) -> Lattice:
    """The middles of patches ``(n, 4)`` as seen near a pose that is off by less than `reach_mm`.

    Each stretch of an outline lies off by the patch's shift along its normal, and all of them by the same kerf outward,
    which is no shift: least squares part the two.

    lighter : patches stand out by being lighter; may_turn : some of them may stand out the other way
    """
    profiles, offsets = _edge_profiles(grey, pose, boxes[:, :2], way, reach_mm)
    place, steep = _outer_edge(profiles, offsets, lighter)
    if may_turn:
        other_place, other_steep = _outer_edge(profiles, offsets, not lighter)
        turned = np.median(other_steep, axis=-1) > PLAINLY_MORE * np.median(steep, axis=-1)
        place = np.where(turned[:, None], other_place, place)
        steep = np.where(turned[:, None], other_steep, steep)
    normals = np.array([part.mean(axis=0) for part in np.array_split(way.outward[::2], STRETCHES)])
    design = np.column_stack([normals, np.ones(STRETCHES)])
    found = -place @ np.linalg.pinv(design).T
    off = np.sqrt(((-place - found @ design.T) ** 2).mean(axis=1))
    sharpness = np.median(steep, axis=-1)
    usual = float(np.median(grey[::EVERY_PX, ::EVERY_PX]))
    good = (sharpness > LEAST_EDGE_SHARE * max(1e-6, usual)) & (off < MOST_OFF_MM)
    # Beyond the picture its last pixels go on for ever, and seem to have edges.
    good &= pose.shows(box_corners(boxes, reach_mm)).all(axis=1)
    middles = boxes[:, :2] + boxes[:, 2:] / 2
    return Lattice(middles, pose.to_pixels(middles + found[:, :2]), np.where(good, sharpness, 0.0))


def patches_lighter(plate: Plate) -> bool:
    """Whether patches stand out by being lighter: marks on some materials are, openings never."""
    return plate.trial.material.mark == "lighter" and not plate.trial.process.passes_through


def reach_mm(plate: Plate) -> float:
    """How far off a patch may be seen and still be told from its neighbour."""
    return 0.45 * min(max(plate.trial.patch.gap_mm, 0.8), 2.4)


def lattice_of(plate: Plate, grey: Grey, pose: Pose, boxes: Floats, within_mm: float) -> Lattice:
    """`find_lattice` for some patches of a plate."""
    way = course_of(plate)
    return find_lattice(
        grey, pose, boxes, way, within_mm, patches_lighter(plate), not plate.trial.process.passes_through
    )
