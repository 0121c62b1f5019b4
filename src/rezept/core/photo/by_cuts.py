"""Laying a cut plate by its own outlines: which way up it lies, and how exactly."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.photo.course import course_of
from rezept.core.photo.laid import ONE_SIDE, FoundBy, Laid, Place, fit, off_mm, together
from rezept.core.photo.pose import Pose, fit_unsure_px, fitted
from rezept.core.photo.register import NOT_SHEET, edges, likeness, openness
from rezept.core.photo.unlike import Colours, SheetColour, sheet_colour
from rezept.core.plan import Plate

Floats = NDArray[np.float64]

# A first pose may be off by so much, mm, but never so far as half-way to the neighbour; so many patches are looked at
# then, and to tell ways to lie apart.
FAR_MM, TO_COME_NEARER, TO_TELL_WAYS = 2.4, 30, 10
# Then by edges: how far off they may be, mm, the second time less. Of so many patches then where most of those first
# looked at show theirs, else of all.
EDGES_WITHIN_MM, ENOUGH_SHOWING, MOST_SHOW = (1.2, 0.6), 64, 0.75
FEWEST_PATCHES, FEW_PATCHES = 4, 9
# Of the patches that are looked at: edges of more are seen only where the pose is nearly right.
PLAINLY_SEEN = 0.6
# Carried on from a code: first so far around it, then so many times further each time; what a patch is worth then.
FIRST_MM, FURTHER, CUT_WEIGHT = 25.0, 1.5, 1.0
# What is seen of patches counts so much beside their likeness: that the openings are where they should be.
OPENINGS_COUNT = 0.25
# And the hole to hang the plate by: enough to tell where nothing else is seen.
HOLE_COUNTS = 0.5
# Ways to lie that are alike within this cannot be told apart.
AS_LIKELY = 0.06
# Figures that are so much alike, and all off alike within so many mm, need no other sizes of the sheet to be tried: on
# a sheet of another size some of them lie where others are, each off its own way.
PLAINLY, TOGETHER_MM = 0.72, 0.8
# A sheet that is where it was planned is so within this, mm.
AGREES_MM = 0.7
# The places a plate was laid by may be off its patches by this, mm; its patches lie right within it, and are known so
# when it is so many standard deviations.
RIGHT_MM, TO_BE_SURE = 0.3, 4.0

EDGES_OFF = "The patches' edges are not where they should be; look whether it lies right."


def is_cut(plate: Plate) -> bool:
    """Whether a plate is laid by its outlines: they enclose something that may drop out."""
    return plate.trial.process.passes_through and course_of(plate).closed


@dataclass(frozen=True)
class Way:
    """A way to lie, and what speaks for it.

    alike : how much patches look like their figure, 1 drawings of it
    speaks : that, and a quarter more where openings are where they should be
    together : those that look like it are all off alike, as a sheet of this size would have them
    """

    pose: Pose
    alike: float
    speaks: float
    together: bool


def _burning(plate: Plate) -> Floats:
    return plate.elements.boxes[plate.elements.burn]


def _reach(plate: Plate, most_mm: float) -> float:
    boxes = _burning(plate)
    return min(most_mm, 0.45 * float(boxes[:, 2:].min() + plate.trial.patch.gap_mm))


def _evenly(order: NDArray[np.intp], most: int) -> NDArray[np.intp]:
    return order[np.unique(np.linspace(0, len(order) - 1, min(most, len(order))).round().astype(int))]


def _way(plate: Plate, rgb: Colours, colour: SheetColour, pose: Pose, expected: Floats) -> Way:
    boxes = _burning(plate)
    some = _evenly(np.argsort(expected, kind="stable"), TO_TELL_WAYS)
    like = likeness(plate, rgb, colour, pose, boxes[some], _reach(plate, FAR_MM))
    # What was not cut at all shows nothing; a third of them is enough to tell a figure.
    best = np.sort(np.where(like.inner, like.correlation, 0.0))[-max(3, len(some) // 3) :]
    opened = openness(rgb, colour, pose, boxes)
    told = 0.0
    if np.ptp(opened) > 0.1 and np.ptp(expected) > 0:
        told = float(np.corrcoef(opened, expected)[0, 1])
    alike, hole = float(best.mean()), _hole_seen(plate, rgb, colour, pose)
    shifts = like.shift[like.there]
    together = len(shifts) < 3 or bool(np.abs(shifts - np.median(shifts, axis=0)).max() < TOGETHER_MM)
    return Way(pose, max(alike, hole), alike + OPENINGS_COUNT * max(0.0, told) + hole, together)


def _hole_seen(plate: Plate, rgb: Colours, colour: SheetColour, pose: Pose) -> float:
    """How plainly the hole to hang the plate by is seen: its middle no sheet, and sheet around it; 0 to 1."""
    if plate.hang_hole is None:
        return 0.0
    turn = np.arange(0, 2 * np.pi, np.pi / 8)
    ring = np.column_stack([np.cos(turn), np.sin(turn)]) * plate.trial.cut_out.hang_hole_mm / 2
    places = np.array(plate.hang_hole) + ring * np.array([0.3, 0.6, 1.5, 1.8])[:, None, None]
    unlike = np.median(colour.unlike(rgb, pose.to_pixels(places)), axis=1)
    return float(np.clip((unlike[:2].min() - unlike[2:].max()) / NOT_SHEET, 0, 1)) * HOLE_COUNTS


def ways_to_lie(
    plate: Plate, rgb: Colours, poses: Sequence[Pose], opened: Floats | None, colour: SheetColour | None = None
) -> list[Way]:
    """What speaks for each of some ways to lie, the likeliest first.

    opened : ``(n,)`` by how much each patch that burns is open, as the other face shows; else it is expected by dose
    """
    if not poses:
        return []
    dose = plate.judged.dose[plate.elements.burn]
    expected = np.argsort(np.argsort(dose)).astype(float) if opened is None else opened
    colour = colour or sheet_colour(rgb, poses[0], plate.width_mm, plate.height_mm)
    ways = [_way(plate, rgb, colour, pose, expected) for pose in poses]
    return sorted(ways, key=lambda way: -way.speaks)


def _nearer(plate: Plate, rgb: Colours, colour: SheetColour, pose: Pose, places: list[Place]) -> tuple[Pose, int]:
    """The pose drawn to where patches look like their figure, and how many do."""
    boxes = _burning(plate)
    some = boxes[_evenly(np.arange(len(boxes)), TO_COME_NEARER)]
    like = likeness(plate, rgb, colour, pose, some, _reach(plate, FAR_MM))
    there = like.there
    if there.sum() < FEWEST_PATCHES:
        return pose, int(there.sum())
    middles = some[there, :2] + some[there, 2:] / 2
    drawn = (middles, pose.to_pixels(middles + like.shift[there]), 1.0)
    known = [drawn] if there.sum() >= FEW_PATCHES else [*places, drawn]
    return fit(known, pose.size, distortion=there.sum() >= FEW_PATCHES)[0], int(there.sum())


def carried(plate: Plate, rgb: Colours, code: Place) -> tuple[Pose, list[Place]]:
    """The pose of a code, which is small, carried on outward by the cuts around it, and what it rests on."""
    size = (rgb.shape[1], rgb.shape[0])
    about = code[0].mean(axis=0)
    boxes = _burning(plate)
    far = np.linalg.norm(boxes[:, :2] + boxes[:, 2:] / 2 - about, axis=1)
    pose, known = _tilted_little([code], size, about), [code]
    reach = max(FIRST_MM, float(far.min()) + 1.0)
    while True:
        near = boxes[far <= reach]
        colour = sheet_colour(rgb, pose, plate.width_mm, plate.height_mm, about, reach)
        some = near[_evenly(np.arange(len(near)), TO_COME_NEARER)]
        like = likeness(plate, rgb, colour, pose, some, _reach(plate, FAR_MM))
        middles = some[:, :2] + some[:, 2:] / 2
        there = like.there
        known = [code, (middles[there], pose.to_pixels(middles + like.shift)[there], CUT_WEIGHT)]
        pose = _tilted_little(known, size, about)
        if len(near) == len(boxes):
            return pose, known
        reach *= FURTHER


def _tilted_little(known: list[Place], size: tuple[int, int], about: Floats) -> Pose:
    mm, pixels, weights = together(known)
    return fitted(mm, pixels, weights, size, distortion=False, tilt_prior_at=about)


@dataclass(frozen=True)
class _Drawn:
    """A pose drawn to edges: of how many patches they were seen, how far they lie off it, mm, and how unsure it leaves
    the middle of each patch that was to burn ``(n,)``, mm; None where there was too little to fit it to."""

    pose: Pose
    seen: int
    residual_mm: float = float("nan")
    unsure_mm: Floats | None = None


def _by_edges(
    plate: Plate, rgb: Colours, colour: SheetColour, pose: Pose, places: list[Place], within_mm: float, most: int
) -> _Drawn:
    """The pose drawn to the edges of so many patches, evenly over the plate, that are off by less than a reach."""
    boxes = _burning(plate)
    some = boxes[_evenly(np.arange(len(boxes)), most)]
    lattice = edges(plate, rgb, colour, pose, some, _reach(plate, within_mm))
    good = lattice.sharpness > 0
    seen = int(good.sum())
    # Of many patches the sheet's outline has to be where it was planned before it holds what they do not show.
    agrees = bool(places) and off_mm(pose, places) < AGREES_MM
    known = list(places) if seen < FEW_PATCHES or agrees else []
    known += [(lattice.mm[[i]], lattice.pixels[[i]], float(lattice.sharpness[i])) for i in np.flatnonzero(good)]
    if sum(len(one[0]) for one in known) < 4:
        return _Drawn(pose, seen)
    distortion = seen >= FEW_PATCHES
    pose, residual = fit(known, pose.size, distortion)
    mm, pixels, weights = together(known)
    middles = boxes[:, :2] + boxes[:, 2:] / 2
    away = fit_unsure_px(pose, mm, pixels, weights, middles, distortion)
    return _Drawn(pose, seen, residual, away / pose.px_per_mm(middles.mean(axis=0)))


def registered(
    plate: Plate, rgb: Colours, pose: Pose, places: list[Place], found_by: FoundBy, nearly: bool = False
) -> Laid:
    """The pose drawn to the outlines of the patches, all over the plate, with what there is to doubt about it.

    places : what the pose rests on by now, the least that is known first
    nearly : it is mostly right within a millimetre; then edges are near, and nothing coarser has to be looked for
    """
    boxes = _burning(plate)
    colour = sheet_colour(rgb, pose, plate.width_mm, plate.height_mm)
    (reach, finer_reach), first = EDGES_WITHIN_MM, min(TO_COME_NEARER, len(boxes))
    drawn = _by_edges(plate, rgb, colour, pose, places, reach, first) if nearly else None
    if drawn is not None and drawn.seen > PLAINLY_SEEN * first and drawn.residual_mm < RIGHT_MM:
        alike = drawn.seen
    else:
        pose, alike = _nearer(plate, rgb, colour, pose, places)
        drawn = _by_edges(plate, rgb, colour, pose, places, reach, first)
    if drawn.unsure_mm is not None:
        most = ENOUGH_SHOWING if drawn.seen > MOST_SHOW * first else len(boxes)
        finer = _by_edges(plate, rgb, colour, drawn.pose, places, finer_reach, most)
        drawn = replace(drawn, seen=finer.seen) if finer.unsure_mm is None else finer
    pose, residual, seen = drawn.pose, drawn.residual_mm, drawn.seen
    # Patches may be off each by itself, or all alike by the light that falls on them, which no number of them mends.
    sure = max(TO_BE_SURE, np.sqrt(seen))
    doubtful = None if drawn.unsure_mm is None else drawn.unsure_mm * sure > RIGHT_MM
    doubts = []
    if seen < FEWEST_PATCHES or alike < FEWEST_PATCHES:
        if found_by == "outline":
            doubts.append("Hardly a patch has edges to be seen; look whether it lies right.")
    elif residual > RIGHT_MM or any(off_mm(pose, [place]) > RIGHT_MM for place in _told_by(places, seen)):
        doubts.append(EDGES_OFF)
    elif doubtful is not None and doubtful.any():
        doubts.append(ONE_SIDE)
    opened = openness(rgb, colour, pose, boxes)
    return Laid(pose, found_by, residual, tuple(doubts), opened=opened, doubtful=doubtful)


def _told_by(places: list[Place], seen: int) -> list[Place]:
    """What has to agree with the patches: where few of them are seen, all that the plate was laid by."""
    return places[1:] if seen < FEW_PATCHES else []
