"""Finding a plate in a picture: by its code and marks, else by its outline and the pattern of its patches."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rezept.core.photo.course import course, patch_boxes
from rezept.core.photo.lattice import find_lattice
from rezept.core.photo.likeness import edges_seen, explains, patches_lighter, reach_mm, shades_alike
from rezept.core.photo.marks import Found, find_rings
from rezept.core.photo.outline import poses_by_outline, sheet_corners
from rezept.core.photo.pose import Pose, fitted, homography, projected
from rezept.core.plan import Plate
from rezept.core.plan.marks import QR_MODULES, QR_SIDE, Mark
from rezept.core.plan.place import to_piece

Floats = NDArray[np.float64]
Grey = NDArray[np.float32]
Colours = NDArray[np.uint8]
# Plate mm ``(n, 2)``, pixels ``(n, 2)``, and how much they count.
Place = tuple[Floats, Floats, float]
FoundBy = Literal["marks", "outline", "corners"]

# How far marks may be from where the code alone puts them, and where a first fit does.
FAR_MM, NEAR_MM = 5.0, 1.2
# The likeliest of what may be a ring is it when it stands out so many times as far as the next.
CLEARLY = 1.6
# What one e-th of the likeliest's answer is worth, as if it lay so far off.
FAINTER_MM = 0.1
# Carried on from a code: first so far around it, then so many times further each time. What a corner of it, a ring, and
# a patch's middle are worth: one over how many pixels they are off.
FIRST_MM, FURTHER = 20.0, 1.5
CODE_WEIGHT, RING_WEIGHT, EDGE_WEIGHT = 1.4, 4.0, 2.0
# Another way to lie is as good when it explains so much of what the best one does.
AS_GOOD = 0.8
# From further off than this, some of many patches are enough to come nearer.
NEARLY_MM, ENOUGH_PATCHES = 0.5, 25
MOST_OFF_MM = 0.6
# Patches that lie off by more than this, in the mean, do not lie there.
ROUGH_MM, FEW_PATCHES, FEWEST_PATCHES = 0.3, 9, 4
# An outline is off by this much at most, lens and all; a code by this much once everything is fitted.
OUTLINE_MM, CODE_OFF_MM = 3.0, 0.6
LEAST_LIKE = 0.3
# A code is read in a mirror, too; there its corners run the other way round.
MIRRORED = [0, 3, 2, 1]
# Without rings so many of the patches have to have their edges where a code, carried on, puts them.
MOST_EDGES = 0.5


@dataclass(frozen=True)
class Laid:
    """A plate found in a picture.

    residual_mm : how far the places it was found by lie from where the pose puts them, root mean square
    sheet_mm : ``(4, 2)`` the corners of the sheet as they are seen, in the plate's mm; None where its outline is not
        to be seen. The other face has the same.
    doubts : why it may be wrong, in words; empty where nothing speaks against it
    """

    pose: Pose
    found_by: FoundBy
    residual_mm: float
    doubts: tuple[str, ...] = ()
    sheet_mm: Floats | None = None


class NotFound(ValueError):
    """The plate is not to be found in this picture; the message says why."""


def _off_mm(pose: Pose, places: Sequence[Place]) -> float:
    """How far places lie from where the pose puts them, weighed root mean square."""
    mm, pixels, weights = _together(places)
    away = ((pose.to_mm(pixels) - mm) ** 2).sum(axis=1)
    return float(np.sqrt((away * weights).sum() / weights.sum()))


def _together(places: Sequence[Place]) -> tuple[Floats, Floats, Floats]:
    mm, pixels = (np.concatenate([one[i] for one in places]) for i in (0, 1))
    return mm, pixels, np.concatenate([np.full(len(one[0]), one[2]) for one in places])


def _code_corners(plate: Plate) -> Floats | None:
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


def _carried(plate: Plate, grey: Grey, code: Place, size: tuple[int, int]) -> Pose:
    """The pose of a code, which is small, carried on outward: what is near it lies where it says, rings and edges of
    patches, and these say better where the next are."""
    middle = code[0].mean(axis=0)
    boxes, patch = patch_boxes(plate)[plate.burn], plate.trial.patch
    way = course(patch.shape, patch.width_mm, patch.height_mm)
    far = np.linalg.norm(boxes[:, :2] + boxes[:, 2:] / 2 - middle, axis=1)
    marks = [(float(np.hypot(*(middle - (mark.x_mm, mark.y_mm)))), mark) for mark in _ring_marks(plate)]
    known = [(code[0], code[1], CODE_WEIGHT)]
    pose = _level(known, size, middle)
    reach, furthest = FIRST_MM, max([*far.tolist(), *(away for away, _ in marks)])
    while True:
        known = known[:1]
        for away, mark in marks:
            found = _found_rings(plate, grey, pose, mark, FAR_MM) if away <= reach else []
            if found and (len(found) == 1 or found[0].answer > CLEARLY * found[1].answer):
                known.append((np.array([(mark.x_mm, mark.y_mm)]), np.array([found[0].pixels]), RING_WEIGHT))
        near = boxes[far <= reach]
        if len(near):
            lattice = find_lattice(grey, pose, near, way, reach_mm(plate), patches_lighter(plate))
            good = lattice.sharpness > 0
            known.append((lattice.mm[good], lattice.pixels[good], EDGE_WEIGHT))
        pose = _level(known, size, middle)
        if reach >= furthest:
            return pose
        reach *= FURTHER


def _level(known: list[Place], size: tuple[int, int], middle: Floats) -> Pose:
    mm, pixels, weights = _together(known)
    return fitted(mm, pixels, weights, size, bend=False, level_at=middle)


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
        cost = float(np.sqrt((off**2).mean())) + 0.3 * (len(rings) - len(taken))
        cost += FAINTER_MM * sum(
            float(np.log(found[0].answer / pick.answer))
            for (_, found), pick in zip(rings, picks, strict=True)
            if pick is not None
        )
        if cost < best:
            best = cost
            chosen = [code, *[(mm[None], np.array([pick.pixels]), 2.0) for mm, pick in taken]]
    return chosen if best < MOST_OFF_MM + 0.3 else [code]


def _fit(places: Sequence[Place], size: tuple[int, int], bend: bool) -> tuple[Pose, float]:
    mm, pixels, weights = _together(places)
    pose = fitted(mm, pixels, weights, size, bend)
    return pose, _off_mm(pose, places)


def _refined(plate: Plate, grey: Grey, pose: Pose, places: list[Place], found_by: FoundBy) -> Laid:
    """The pose drawn to the patches' own edges, which are spread over the whole plate."""
    lighter = patches_lighter(plate)
    boxes, patch = patch_boxes(plate)[plate.burn], plate.trial.patch
    way = course(patch.shape, patch.width_mm, patch.height_mm)
    residual = float("nan")
    doubts: tuple[str, ...] = ()
    for within in (reach_mm(plate), min(reach_mm(plate), NEARLY_MM)):
        some = boxes[:: 1 + len(boxes) // ENOUGH_PATCHES] if within > NEARLY_MM else boxes
        lattice = find_lattice(grey, pose, some, way, within, lighter)
        good = lattice.sharpness > 0
        drawn = list(places)
        if good.sum() >= FEWEST_PATCHES:
            drawn.append((lattice.mm[good], lattice.pixels[good], 1.0))
        if sum(len(one[0]) for one in drawn) < 4:
            break
        doubts = ()
        pose, residual = _fit(drawn, pose.size, bend=good.sum() >= FEW_PATCHES)
        # With few patches to go by, all that the plate was laid by has to agree.
        agreeing = [drawn] if good.sum() < FEW_PATCHES else [drawn[-1:]]
        if found_by == "marks":
            agreeing += [[ring] for ring in places[1:]]
        if max(_off_mm(pose, some) for some in agreeing) > ROUGH_MM:
            doubts = ("The patches' edges are not where they should be; look whether it lies right.",)
    if found_by == "outline" and good.sum() < FEWEST_PATCHES:
        doubts = ("Hardly a patch has edges to be seen; look whether it lies right.",)
    return Laid(pose, found_by, residual, doubts)


def _near_code(plate: Plate, corners: Floats | None, code: Place, size: tuple[int, int]) -> Pose | None:
    """The way the sheet's outline lies that puts the code where it is seen; None without an outline, or where none
    does."""
    if corners is None:
        return None
    ways = poses_by_outline(corners, sheet_mm(plate), size, mirrored=False)
    off = [float(np.linalg.norm(way.to_mm(code[1]) - code[0], axis=1).max()) for way in ways]
    return ways[int(np.argmin(off))] if ways and min(off) < OUTLINE_MM else None


def _rings_about(plate: Plate, grey: Grey, code: Place, pose: Pose) -> list[Place] | None:
    """The code and the rings near where a pose has them; None where there are too few."""
    places = _chosen(code, _rings(plate, grey, pose, NEAR_MM))
    return places if len(places) >= 1 + min(3, len(_ring_marks(plate))) else None


def _laid_about(
    plate: Plate, grey: Grey, code: Place, framed: Pose | None, size: tuple[int, int]
) -> tuple[Pose, list[Place], FoundBy]:
    """A first pose about a code, what it rests on, and by what it was found: rings near where the outline of the sheet
    has them, else carried on from the code; the outline alone where marks fell out or are worn; else the patches."""
    if framed is not None:
        places = _rings_about(plate, grey, code, framed)
        if places is not None:
            return _fit(places, size, bend=False)[0], places, "marks"
    carried = _carried(plate, grey, code, size)
    places = _rings_about(plate, grey, code, carried)
    if places is not None:
        return _fit(places, size, bend=False)[0], places, "marks"
    if framed is not None:
        return framed, [code, (sheet_mm(plate), framed.to_pixels(sheet_mm(plate)), 0.3)], "outline"
    mirrored = (code[0], code[1][MIRRORED], code[2])
    over = _carried(plate, grey, mirrored, size)
    if _rings_about(plate, grey, mirrored, over) is not None:
        raise NotFound("This photo is mirrored. Switch that off in the camera and take it again.")
    if edges_seen(plate, grey, carried) < MOST_EDGES or explains(plate, grey, over) > AS_GOOD * explains(
        plate, grey, carried
    ):
        raise NotFound("The code is there, but not the marks in the corners: take the whole plate.")
    return carried, [code], "marks"


def by_code(plate: Plate, grey: Grey, rgb: Colours, corners_px: Floats) -> Laid:
    """The plate from the corners of its code ``(4, 2)``, the sheet's outline where it is seen, and the rings.

    Raises
    ------
    NotFound : the rings are not where the code says: another plate, or half of one
    """
    size = (grey.shape[1], grey.shape[0])
    corners_mm = _code_corners(plate)
    if corners_mm is None:
        raise NotFound("This plate has no code to be found by.")
    code = (corners_mm, corners_px, 0.5)
    outline = sheet_corners(rgb)
    framed = _near_code(plate, outline, code, size)
    pose, places, found_by = _laid_about(plate, grey, code, framed, size)
    laid = _refined(plate, grey, pose, places, found_by)
    off = float(np.linalg.norm(laid.pose.to_mm(corners_px) - corners_mm, axis=1).max())
    doubts = ["The code is not where this plate has it; look whether it is the right one."] if off > CODE_OFF_MM else []
    if max(shades_alike(plate, grey, laid.pose), edges_seen(plate, grey, laid.pose)) < LEAST_LIKE:
        doubts.append("The patches do not look as this plate's would; look whether they lie right.")
    return replace(laid, doubts=(*doubts, *laid.doubts), sheet_mm=None if outline is None else laid.pose.to_mm(outline))


def by_outline(plate: Plate, grey: Grey, rgb: Colours, mirrored: bool, sheet: Floats | None = None) -> Laid:
    """The plate from the outline of its sheet, turned the way that explains its patches best.

    sheet : ``(4, 2)`` its corners in the plate's mm where another photograph has shown them; else as it was planned

    Raises
    ------
    NotFound : no sheet is to be seen, or it has not the shape of this one
    """
    corners = sheet_corners(rgb)
    if corners is None:
        raise NotFound("No whole sheet is to be seen on a table that differs from it. Take it from straight above.")
    size = (grey.shape[1], grey.shape[0])
    lies = sheet_mm(plate) if sheet is None else _round_counter_clockwise(sheet)
    ways = poses_by_outline(corners, lies, size, mirrored)
    if not ways:
        raise NotFound("What lies in the picture has not the shape of this plate.")
    likely = np.array([explains(plate, grey, way) for way in ways])
    best, most = ways[int(likely.argmax())], float(likely.max())
    over = [explains(plate, grey, way) for way in poses_by_outline(corners, lies, size, not mirrored)]
    turned_over = max(over, default=0.0)
    doubts: list[str] = []
    # Openings follow the dose; not so the colours of oxide, of which nothing can be said.
    if plate.trial.process.key == "cut" and most < AS_GOOD * turned_over:
        doubts.append("It looks like the other face, or mirrored; look which it is.")
    elif not mirrored and _code_corners(plate) is not None and turned_over > AS_GOOD * most:
        doubts.append("The plate's code is not to be seen; look whether this is its front.")
    elif most <= 0:
        doubts.append("The patches cannot be made out; which way up the plate lies is a guess.")
    elif (likely > AS_GOOD * most).sum() > 1:
        doubts.append("The plate may also lie the other way round; look which is right.")
    laid = _refined(plate, grey, best, [(lies, best.to_pixels(lies), 0.3)], "outline")
    return replace(laid, doubts=(*doubts, *laid.doubts), sheet_mm=laid.pose.to_mm(corners))


def _round_counter_clockwise(corners: Floats) -> Floats:
    """The same corners counter-clockwise, from the one nearest to the lower left."""
    x, y = corners.T
    turned = corners if float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) > 0 else corners[::-1]
    return np.roll(turned, -int((turned - turned.min(axis=0)).sum(axis=1).argmin()), axis=0)


def by_corners(plate: Plate, grey: Grey, mm: Floats, pixels: Floats) -> Laid:
    """The plate from places somebody pointed at: ``(n, 2)`` plate mm and pixels, four at least; drawn to the patches'
    edges where these are near.

    Raises
    ------
    NotFound : the places are no picture of a plane
    """
    size = (grey.shape[1], grey.shape[0])
    matrix = homography(mm, pixels)
    pose = Pose(matrix, 0.0, size)
    middle = mm.mean(axis=0)
    flat = mm @ matrix[2, :2] + matrix[2, 2]
    if not np.isfinite(matrix).all() or (flat <= 0).any() or not 1.0 < pose.px_per_mm(middle) < 500.0:
        raise NotFound("The corners do not lie as those of a plate would; put each on its own mark.")
    laid = _refined(plate, grey, pose, [(mm, pixels, 0.5)], "corners")
    pointed = _off_mm(laid.pose, [(mm, pixels, 1.0)])
    doubts = (
        ("The patches' edges are not where the corners put them; look once more.",) if pointed > CODE_OFF_MM else ()
    )
    return replace(laid, residual_mm=max(laid.residual_mm, pointed), doubts=(*doubts, *laid.doubts))


def sheet_mm(plate: Plate) -> Floats:
    """``(4, 2)`` corners of the sheet in the plate's mm, counter-clockwise from its lower left."""
    trial = plate.trial
    assert trial.piece is not None
    if trial.cut_out.on:
        width, height = plate.width_mm, plate.height_mm
        return np.array([(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
    piece = trial.piece
    on_piece = np.array([(0.0, 0.0), (piece.width_mm, 0.0), (piece.width_mm, piece.height_mm), (0.0, piece.height_mm)])
    # The plate's place is a turn and a shift: two of its points tell how to go back.
    ends = to_piece(np.array([(0.0, 0.0), (1.0, 0.0)]), trial.place, piece, plate.width_mm, plate.height_mm)
    cos, sin = ends[1] - ends[0]
    return (on_piece - ends[0]) @ np.array([[cos, -sin], [sin, cos]])
