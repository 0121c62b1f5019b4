"""A plate about its code: the code is small, and rings and patches carry on from it."""

from __future__ import annotations

import itertools

import numpy as np
from numpy.typing import NDArray

from rezept.core.photo.laid import FoundBy, Mirrored, NotFound, Place, fit, together
from rezept.core.photo.lattice import lattice_of, reach_mm
from rezept.core.photo.likeness import AS_GOOD, edges_seen, explains
from rezept.core.photo.marks import Found, find_rings
from rezept.core.photo.pose import Pose, fitted, homography, projected
from rezept.core.plan import Plate
from rezept.core.plan.marks import QR_MODULES, QR_SIDE, Mark

Floats = NDArray[np.float64]
Grey = NDArray[np.float32]

# How far marks may be from where the code alone puts them, and where a first fit does.
FAR_MM, NEAR_MM = 5.0, 1.2
# The likeliest of what may be a ring is it when its signal-to-noise ratio is so many times that of the next.
CLEARLY = 1.6
# What one e-th of the likeliest's signal-to-noise ratio is worth, as if it lay so far off; and a ring that is left out.
FAINTER_MM, LEFT_OUT_MM = 0.1, 0.3
# Of code and rings from where one pose has them all, root mean square.
MOST_OFF_MM = 0.6
# Rings that only tell which way up and which face it is: how far off they may be, and how plain.
RINGS_WITHIN_MM, PLAIN_SNR = 2.0, 12.0
# Carried on from a code: first so far around it, then so many times further each time. What a corner of it, a ring, and
# a patch's middle are worth: one over how many pixels they are off.
FIRST_MM, FURTHER = 20.0, 1.5
CODE_WEIGHT, RING_WEIGHT, EDGE_WEIGHT = 1.4, 4.0, 2.0
# In the fit of everything, rings and the sheet's corners.
RING_COUNTS, SHEET_WEIGHT = 2.0, 0.3
# A code is read in a mirror, too; there its corners run the other way round.
MIRRORED = [0, 3, 2, 1]
# Without rings such a share of the patches have to have their edges where a code, carried on, puts them.
MOST_EDGES = 0.5


def code_corners(plate: Plate) -> Floats | None:
    """The outer corners of the code's modules: top left, top right, bottom right, bottom left as one reads it."""
    mark = next((mark for mark in plate.marks if mark.kind == "qr"), None)
    if mark is None:
        return None
    half = mark.size_mm * QR_MODULES / QR_SIDE / 2
    return np.array([(mark.x_mm + sx * half, mark.y_mm + sy * half) for sx, sy in ((-1, 1), (1, 1), (1, -1), (-1, -1))])


def _ring_marks(plate: Plate) -> list[Mark]:
    return [mark for mark in plate.marks if mark.kind != "qr"]


def _found_rings(plate: Plate, grey: Grey, pose: Pose, mark: Mark, within_mm: float) -> list[Found]:
    """What in the picture may be a corner's mark."""
    radii = (mark.size_mm / 2,) if mark.kind == "corner" else (mark.size_mm / 4, mark.size_mm / 2)
    return find_rings(grey, pose, (mark.x_mm, mark.y_mm), radii, within_mm, plate.trial.material.mark == "lighter")


def _rings(plate: Plate, grey: Grey, pose: Pose, within_mm: float) -> list[tuple[Floats, list[Found]]]:
    """Each corner mark's place on the plate, and what in the picture may be it."""
    return [
        (np.array([mark.x_mm, mark.y_mm]), _found_rings(plate, grey, pose, mark, within_mm))
        for mark in _ring_marks(plate)
    ]


def rings_seen(plate: Plate, grey: Grey, pose: Pose) -> float | None:
    """Share of the rings that are plainly to be seen near where a pose has them; None for a plate without any."""
    rings = _rings(plate, grey, pose, RINGS_WITHIN_MM)
    if not rings:
        return None
    return sum(bool(found) and found[0].snr > PLAIN_SNR for _, found in rings) / len(rings)


def _carried(plate: Plate, grey: Grey, code: Place, size: tuple[int, int]) -> Pose:
    """The pose of a code, which is small, carried on outward: what is near it lies where it says, rings and edges of
    patches, and these say better where the next are."""
    middle = code[0].mean(axis=0)
    boxes = plate.elements.boxes[plate.elements.burn]
    far = np.linalg.norm(boxes[:, :2] + boxes[:, 2:] / 2 - middle, axis=1)
    marks = [(float(np.hypot(*(middle - (mark.x_mm, mark.y_mm)))), mark) for mark in _ring_marks(plate)]
    known = [(code[0], code[1], CODE_WEIGHT)]
    pose = _level(known, size, middle)
    reach, furthest = FIRST_MM, max([*far.tolist(), *(away for away, _ in marks)])
    while True:
        known = known[:1]
        for away, mark in marks:
            found = _found_rings(plate, grey, pose, mark, FAR_MM) if away <= reach else []
            if found and (len(found) == 1 or found[0].snr > CLEARLY * found[1].snr):
                known.append((np.array([(mark.x_mm, mark.y_mm)]), np.array([found[0].pixels]), RING_WEIGHT))
        near = boxes[far <= reach]
        if len(near):
            lattice = lattice_of(plate, grey, pose, near, reach_mm(plate))
            good = lattice.sharpness > 0
            known.append((lattice.mm[good], lattice.pixels[good], EDGE_WEIGHT))
        pose = _level(known, size, middle)
        if reach >= furthest:
            return pose
        reach *= FURTHER


def _level(known: list[Place], size: tuple[int, int], middle: Floats) -> Pose:
    mm, pixels, weights = together(known)
    return fitted(mm, pixels, weights, size, distortion=False, tilt_prior_at=middle)


def _chosen(code: Place, rings: list[tuple[Floats, list[Found]]]) -> list[Place]:
    """Of all that may be the rings, those that lie as the plate's do, the code with them: letters are round, too."""
    best, chosen = np.inf, [code]
    least = max(3, len(rings) - 1)
    for picks in itertools.product(*[[None, *found] for _, found in rings]):
        taken = [(mm, pick) for (mm, _), pick in zip(rings, picks, strict=True) if pick is not None]
        if len(taken) < least:
            continue
        mm = np.concatenate([code[0], [mm for mm, _ in taken]])
        pixels = np.concatenate([code[1], [pick.pixels for _, pick in taken]])
        matrix = homography(mm, pixels)
        off = np.linalg.norm(projected(np.asarray(np.linalg.inv(matrix), np.float64), pixels) - mm, axis=1)
        # A ring left out has to buy itself a much better fit, and so has what is hardly like a ring.
        cost = float(np.sqrt((off**2).mean())) + LEFT_OUT_MM * (len(rings) - len(taken))
        cost += FAINTER_MM * sum(
            float(np.log(found[0].snr / pick.snr))
            for (_, found), pick in zip(rings, picks, strict=True)
            if pick is not None
        )
        if cost < best:
            best = cost
            chosen = [code, *[(mm[None], np.array([pick.pixels]), RING_COUNTS) for mm, pick in taken]]
    return chosen if best < MOST_OFF_MM + LEFT_OUT_MM else [code]


def _rings_about(plate: Plate, grey: Grey, code: Place, pose: Pose) -> list[Place] | None:
    """The code and the rings near where a pose has them; None where there are too few."""
    places = _chosen(code, _rings(plate, grey, pose, NEAR_MM))
    return places if len(places) > max(1, min(3, len(_ring_marks(plate)))) else None


def laid_about(
    plate: Plate, grey: Grey, code: Place, framed: Pose | None, sheet: Floats
) -> tuple[Pose, list[Place], FoundBy]:
    """A first pose about a code, what it rests on, and by what it was found: rings near where the outline of the sheet
    has them, else carried on from the code; the outline alone where marks fell out or are worn; else the patches.

    framed : as the outline has it, where it is seen; sheet : ``(4, 2)`` mm of its corners

    Raises
    ------
    NotFound : the rings are not where the code says: another plate, half of one, or one in a mirror
    """
    size = (grey.shape[1], grey.shape[0])
    if framed is not None:
        places = _rings_about(plate, grey, code, framed)
        if places is not None:
            return fit(places, size, distortion=False)[0], places, "marks"
    carried = _carried(plate, grey, code, size)
    places = _rings_about(plate, grey, code, carried)
    if places is not None:
        return fit(places, size, distortion=False)[0], places, "marks"
    if framed is not None:
        return framed, [code, (sheet, framed.to_pixels(sheet), SHEET_WEIGHT)], "outline"
    mirrored = (code[0], code[1][MIRRORED], code[2])
    over = _carried(plate, grey, mirrored, size)
    if _rings_about(plate, grey, mirrored, over) is not None:
        raise Mirrored("This photo is mirrored. Switch that off in the camera and take it again.")
    if edges_seen(plate, grey, carried) < MOST_EDGES or explains(plate, grey, over) > AS_GOOD * explains(
        plate, grey, carried
    ):
        raise NotFound("The code is there, but not the marks in the corners: take the whole plate.")
    return carried, [code], "marks"
