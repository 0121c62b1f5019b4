"""How well a way to lie explains a picture: by the shades of the patches, their edges, the hole to hang it by."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from rezept.core.photo.course import course_of
from rezept.core.photo.lattice import lattice_of, patches_lighter, reach_mm
from rezept.core.photo.pose import Pose
from rezept.core.plan import Plate

Floats = NDArray[np.float64]
Grey = NDArray[np.float32]

# Another way to lie is as good when it explains so much of what the best one does.
AS_GOOD = 0.8
# Contrast 0 to 1 of patches against the ground beside them: a spread of less than the first is none; with all of them
# above the second every patch is burned.
LEAST_CONTRAST = 0.06
ALL_BURNED = 0.4
# What a way to lie is worth where no patch has its edges there.
FAINT = 0.2
# So much of its surroundings' light the hole has to lack.
LEAST_HOLE = 0.3
# So far to either side of where a line should be it is looked for, at so many places of it.
ACROSS_MM, MOST_OF_LINE = (-0.6, -0.4, -0.2, 0.0, 0.2, 0.4, 0.6), 24
# Of more patches every so many-th is looked at.
MOST_LOOKED_AT = 12


def _seen(grey: Grey, pose: Pose, mm: Floats) -> Floats:
    pixels = np.round(pose.to_pixels(mm)).astype(int)
    column = np.clip(pixels[..., 0], 0, grey.shape[1] - 1)
    row = np.clip(pixels[..., 1], 0, grey.shape[0] - 1)
    return np.asarray(grey[row, column], float)


def _burned(plate: Plate, grey: Grey, pose: Pose, corner: Floats, size: Floats) -> Floats:
    """``(n,)`` how light what was burned of each patch looks: its inside, or the lines that are all there is of it."""
    if not plate.trial.process.draws_lines:
        shares = np.array([0.3, 0.5, 0.7])
        inside = np.stack(np.meshgrid(shares, shares), axis=-1).reshape(-1, 2)
        return np.asarray(_seen(grey, pose, corner[:, None] + size[:, None] * inside).mean(axis=1))
    # Across each place of the outline whatever stands out most: nobody knows yet to a line's width where it lies.
    way = course_of(plate)
    some = slice(None, None, 1 + len(way.points) // MOST_OF_LINE)
    across = way.points[some, None] + way.outward[some, None] * np.array(ACROSS_MM)[:, None]
    seen = _seen(grey, pose, corner[:, None, None] + across)
    return np.asarray((seen.max(axis=2) if patches_lighter(plate) else seen.min(axis=2)).mean(axis=1))


def _contrast(plate: Plate, grey: Grey, pose: Pose) -> Floats:
    """For each patch that burns how much it stands out from the ground around it, 0 alike, 1 as far as can be."""
    boxes = plate.elements.boxes[plate.elements.burn]
    corner, size, gap = boxes[:, :2], boxes[:, 2:], 0.5 * plate.trial.patch.gap_mm
    inner = _burned(plate, grey, pose, corner, size)
    # In the gaps to its left and below it.
    places = (corner + size * (0.0, 0.5) - (gap, 0.0), corner + size * (0.5, 0.0) - (0.0, gap))
    beside = [_seen(grey, pose, place) for place in places]
    if patches_lighter(plate):
        return 1 - np.minimum(*beside) / np.maximum(inner, 1e-4)
    return 1 - inner / np.maximum(np.maximum(*beside), 1e-4)


def shades_alike(plate: Plate, grey: Grey, pose: Pose) -> float:
    """How well a way to lie explains the picture, 0 to 1: half of it that patches stand out more where the dose is
    higher, half that they stand out at all where they should be."""
    contrast = _contrast(plate, grey, pose)
    dose = plate.judged.dose[plate.elements.burn]
    if len(contrast) < 3:
        return 0.0
    there = float(np.clip(contrast, 0, 1).mean())
    if np.ptp(contrast) < LEAST_CONTRAST:
        # All alike: bare ground that says nothing, or all of them burned, which is as good as it gets.
        return there if contrast.min() > ALL_BURNED else 0.0
    # By how much they stand out: bare ground has an order, too, which is chance.
    rank = np.argsort(np.argsort(dose)).astype(float)
    return max(0.0, float(np.corrcoef(contrast, rank)[0, 1])) / 2 + there / 2


def edges_seen(plate: Plate, grey: Grey, pose: Pose) -> float:
    """Share of the patches that have their edges where a pose expects them; of many every so many-th is looked at."""
    boxes = plate.elements.boxes[plate.elements.burn]
    lattice = lattice_of(plate, grey, pose, boxes[:: 1 + len(boxes) // MOST_LOOKED_AT], reach_mm(plate))
    return float((lattice.sharpness > 0).mean())


def hole_seen(plate: Plate, grey: Grey, pose: Pose) -> float:
    """How much darker the hole to hang the plate by is than what is around it, 0 to 1; 0 where it is not to be seen."""
    if plate.hang_hole is None:
        return 0.0
    turn = np.arange(0, 2 * np.pi, np.pi / 8)
    round_it = np.array(plate.hang_hole) + np.column_stack([np.cos(turn), np.sin(turn)])[:, None] * (
        plate.trial.cut_out.hang_hole_mm / 2 * np.array([0.3, 0.6, 1.5, 1.8])[:, None]
    )
    seen = _seen(grey, pose, round_it)
    inner, around = float(np.median(seen[:, :2])), float(np.median(seen[:, 2:]))
    darker = 1 - inner / max(around, 1e-4)
    return darker if darker > LEAST_HOLE else 0.0


def explains(plate: Plate, grey: Grey, pose: Pose) -> float:
    """What speaks for a way to lie, 0 nothing at all: the patches' edges say where a grid lies, their shades which way
    up it lies; so does the hole."""
    hole, edges = hole_seen(plate, grey, pose), edges_seen(plate, grey, pose)
    return 0.0 if hole + edges == 0 else shades_alike(plate, grey, pose) * (FAINT + edges) + hole
