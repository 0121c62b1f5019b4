"""Finding a plate in a picture: by its code and marks, else by its outline and the pattern of its patches."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.photo.around_code import SHEET_WEIGHT, code_corners, laid_about, rings_seen
from rezept.core.photo.by_cuts import (
    AS_LIKELY,
    EDGES_OFF,
    PLAINLY,
    Way,
    carried,
    is_cut,
    registered,
    ways_to_lie,
)
from rezept.core.photo.handles import plate_corners
from rezept.core.photo.laid import ONE_SIDE, FoundBy, Laid, Mirrored, NotFound, Place, fit, off_mm
from rezept.core.photo.lattice import lattice_of, reach_mm
from rezept.core.photo.likeness import AS_GOOD, edges_seen, explains, shades_alike
from rezept.core.photo.outline import LEAST_ALONG, poses_by_outline, sheet_corners, sheet_outlines, signed_area
from rezept.core.photo.pose import Pose, homography
from rezept.core.photo.register import LIKE_FIGURE
from rezept.core.photo.unlike import sheet_colour
from rezept.core.plan import Plate
from rezept.core.plan.place import from_piece

Floats = NDArray[np.float64]
Grey = NDArray[np.float32]
Colours = NDArray[np.uint8]

# From further off than this, some of many patches are enough to come nearer.
NEARLY_MM, ENOUGH_PATCHES = 0.5, 25
# Patches that lie off by more than this, in the mean, do not lie there.
ROUGH_MM, FEW_PATCHES, FEWEST_PATCHES = 0.3, 9, 4
# An outline is off by this much at most, lens and all; a code by this much once everything is fitted.
OUTLINE_MM, CODE_OFF_MM = 3.0, 0.6
# A scrap reaches beyond the plate by about so much. Corners of a sheet are square within this cosine.
BEYOND_MM, MOST_OUT_OF_SQUARE = (3.0, 7.0, 12.0), 0.06
# Rings tell where so much larger a share of them is seen.
RINGS_TELL = 0.5
MOST_BEYOND_MM = 25.0
# Where neither shades nor edges (0 to 1, `likeness`) come to this, the patches do not look as the plate's would.
LEAST_LIKE = 0.3


def _refined(plate: Plate, grey: Grey, pose: Pose, places: list[Place], found_by: FoundBy) -> Laid:
    """The pose drawn to the patches' own edges, which are spread over the whole plate."""
    boxes = plate.elements.boxes[plate.elements.burn]
    residual = float("nan")
    doubts: tuple[str, ...] = ()
    for within in (reach_mm(plate), min(reach_mm(plate), NEARLY_MM)):
        some = boxes[:: 1 + len(boxes) // ENOUGH_PATCHES] if within > NEARLY_MM else boxes
        lattice = lattice_of(plate, grey, pose, some, within)
        good = lattice.sharpness > 0
        drawn = list(places)
        if good.sum() >= FEWEST_PATCHES:
            drawn.append((lattice.mm[good], lattice.pixels[good], 1.0))
        if sum(len(one[0]) for one in drawn) < 4:
            break
        doubts = ()
        pose, residual = fit(drawn, pose.size, distortion=good.sum() >= FEW_PATCHES)
        # With few patches to go by, all that the plate was laid by has to agree.
        agreeing = [drawn] if good.sum() < FEW_PATCHES else [drawn[-1:]]
        if found_by == "marks":
            agreeing += [[ring] for ring in places[1:]]
        if max(off_mm(pose, some) for some in agreeing) > ROUGH_MM:
            doubts = (EDGES_OFF,)
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
    if off and min(off) < OUTLINE_MM:
        return ways[int(np.argmin(off))]
    larger = [_on_larger_sheet(way, code, sheet_mm(plate)) for way in ways]
    return next((pose for pose in larger if pose is not None), None)


def _on_larger_sheet(way: Pose, code: Place, planned: Floats) -> Pose | None:
    """A way a planned sheet lies, when the true one is larger: the code says by how much, each way. None where it would
    have to be smaller, or turned."""
    seen = way.to_mm(code[1])
    stretched = np.eye(3)
    for axis in (0, 1):
        # A straight line: the scale and the shift of the true sheet's millimetres on the planned one.
        scale, shift = np.polyfit(code[0][:, axis], seen[:, axis], 1)
        off = np.abs(scale * code[0][:, axis] + shift - seen[:, axis]).max()
        low, high = planned[:, axis].min(), planned[:, axis].max()
        if off > CODE_OFF_MM or scale <= 0:
            return None
        beyond = low - (low - shift) / scale, (high - shift) / scale - high
        if min(beyond) < -OUTLINE_MM or max(beyond) > MOST_BEYOND_MM:
            return None
        stretched[axis, axis], stretched[axis, 2] = scale, shift
    matrix = way.matrix @ stretched
    return Pose(matrix / matrix[2, 2], way.k1, way.size)


def by_code(plate: Plate, grey: Grey, rgb: Colours, corners_px: Floats) -> Laid:
    """The plate from the corners of its code ``(4, 2)``, the sheet's outline where it is seen, and the rings.

    Raises
    ------
    NotFound : the rings are not where the code says: another plate, or half of one
    """
    size = (grey.shape[1], grey.shape[0])
    corners_mm = code_corners(plate)
    if corners_mm is None:
        raise NotFound("This plate has no code to be found by.")
    code = (corners_mm, corners_px, 0.5)
    outline = sheet_corners(rgb)
    framed = _near_code(plate, outline, code, size)
    try:
        pose, places, found_by = laid_about(plate, grey, code, framed, sheet_mm(plate))
    except Mirrored:
        raise
    except NotFound:
        if not is_cut(plate):
            raise
        # Its rings are too faint; its cuts do without them.
        pose, places = carried(plate, rgb, code)
        found_by = "marks"
    laid = _drawn_to_patches(plate, grey, rgb, pose, places, found_by, nearly=False)
    off = float(np.linalg.norm(laid.pose.to_mm(corners_px) - corners_mm, axis=1).max())
    doubts = ["The code is not where this plate has it; look whether it is the right one."] if off > CODE_OFF_MM else []
    if not is_cut(plate) and all(look(plate, grey, laid.pose) < LEAST_LIKE for look in (shades_alike, edges_seen)):
        doubts.append("The patches do not look as this plate's would; look whether they lie right.")
    return replace(
        laid,
        doubts=(*doubts, *laid.doubts),
        sheet_mm=None if outline is None else _as_sheet(plate, laid.pose.to_mm(outline)),
    )


def _drawn_to_patches(
    plate: Plate, grey: Grey | None, rgb: Colours, pose: Pose, places: list[Place], found_by: FoundBy, nearly: bool
) -> Laid:
    if is_cut(plate):
        return registered(plate, rgb, pose, places, found_by, nearly)
    assert grey is not None
    return _refined(plate, grey, pose, places, found_by)


def drawn_nearer(plate: Plate, grey: Grey | None, rgb: Colours, laid: Laid, factor: float) -> Laid:
    """A plate that was found, drawn to its patches once more in a picture that is so many times finer; a cut does
    without its grey."""
    pose = replace(laid.pose.scaled(factor), size=(rgb.shape[1], rgb.shape[0]))
    corners = plate_corners(plate)
    places = [(corners, pose.to_pixels(corners), SHEET_WEIGHT)]
    anew = _drawn_to_patches(plate, grey, rgb, pose, places, laid.found_by, nearly=True)
    # Which way up it lies is as doubtful as before; how exactly is told anew.
    kept = [doubt for doubt in laid.doubts if doubt not in (ONE_SIDE, EDGES_OFF)]
    return replace(anew, doubts=(*kept, *anew.doubts), sheet_mm=laid.sheet_mm)


def by_outline(plate: Plate, grey: Grey, rgb: Colours, mirrored: bool, other: Laid | None = None) -> Laid:
    """The plate from the outline of its sheet, turned the way that explains its patches best.

    other : the other face, where that was found: it has shown how large the sheet is, and which patches are open

    Raises
    ------
    NotFound : no sheet is to be seen, or it has not the shape of this one
    """
    outlines = [one.corners for one in sheet_outlines(rgb) if is_cut(plate) or one.along > LEAST_ALONG]
    if not outlines:
        raise NotFound("No whole sheet is to be seen on a table that differs from it. Take it from straight above.")
    shown = None if other is None else other.sheet_mm
    lies = [sheet_mm(plate)] if shown is None else [_round_counter_clockwise(shown), sheet_mm(plate)]
    if is_cut(plate):
        sheets = [*lies, *_scraps(plate)]
        found = _of_cut(plate, grey, rgb, outlines, sheets, mirrored, other)
    else:
        found = _of_marks(plate, grey, outlines[0], lies[0], mirrored)
    if found is None:
        raise NotFound("What lies in the picture has not the shape of this plate.")
    corners_mm = found.pose.to_mm(found.corners)
    places = [(corners_mm, found.corners, SHEET_WEIGHT)]
    laid = _drawn_to_patches(plate, grey, rgb, found.pose, places, "outline", nearly=False)
    return replace(
        laid, doubts=(*found.doubts, *laid.doubts), sheet_mm=_as_sheet(plate, laid.pose.to_mm(found.corners))
    )


OTHER_FACE = "It looks like the other face, or mirrored; look which it is."
NOT_MADE_OUT = "The patches cannot be made out; which way up the plate lies is a guess."
OTHER_WAY = "The plate may also lie the other way round; look which is right."


@dataclass(frozen=True)
class _Found:
    """A way to lie, by an outline ``(4, 2)`` pixels, and what there is to doubt about it."""

    pose: Pose
    corners: Floats
    doubts: tuple[str, ...]


def _scraps(plate: Plate) -> list[Floats]:
    """``(4, 2)`` mm: sheets that reach beyond the plate, as unmeasured scraps do; none where it is cut out."""
    if plate.trial.cut_out.on:
        return []
    width, height = plate.width_mm, plate.height_mm
    return [
        np.array([(-by, -by), (width + by, -by), (width + by, height + by), (-by, height + by)]) for by in BEYOND_MM
    ]


def _as_sheet(plate: Plate, corners_mm: Floats) -> Floats | None:
    """Corners on the plate ``(4, 2)`` where they are those of a sheet that the plate lies on; else None."""
    sides = np.roll(corners_mm, -1, axis=0) - corners_mm
    sides /= np.linalg.norm(sides, axis=1, keepdims=True)
    square = np.abs((sides * np.roll(sides, -1, axis=0)).sum(axis=1)).max() < MOST_OUT_OF_SQUARE
    low, high = corners_mm.min(axis=0), corners_mm.max(axis=0)
    around = (low < OUTLINE_MM).all() and (high > (plate.width_mm - OUTLINE_MM, plate.height_mm - OUTLINE_MM)).all()
    return corners_mm if square and around else None


def _of_cut(
    plate: Plate,
    grey: Grey,
    rgb: Colours,
    outlines: list[Floats],
    sheets: list[Floats],
    mirrored: bool,
    other: Laid | None,
) -> _Found | None:
    """The likeliest way a cut lies: the first outline, and the first size of its sheet, by which the patches plainly
    show their figures; else the best of them all."""
    size = (rgb.shape[1], rgb.shape[0])
    opened = None if other is None else other.opened
    # The front was known by its code; this shows none.
    known = mirrored and other is not None and other.found_by == "marks"
    best: _Found | None = None
    most = -1.0
    for corners in outlines:
        for lies in sheets:
            ways = poses_by_outline(corners, lies, size, mirrored)
            if not ways:
                continue
            colour = sheet_colour(rgb, ways[0], plate.width_mm, plate.height_mm)
            likely = ways_to_lie(plate, rgb, ways, opened, colour)
            if likely[0].speaks <= most:
                continue
            turned = [] if known else poses_by_outline(corners, lies, size, not mirrored)
            over = ways_to_lie(plate, rgb, turned, opened, colour)
            most = likely[0].speaks
            best = _way_and_doubts(plate, grey, corners, likely, over, mirrored)
            if likely[0].alike > PLAINLY and likely[0].together:
                return best
        if most > LIKE_FIGURE:
            break
    return best


def _way_and_doubts(
    plate: Plate, grey: Grey, corners: Floats, likely: list[Way], over: list[Way], mirrored: bool
) -> _Found:
    """The likeliest of some ways. Where patches tell too little the rings in the corners do, which are on the front
    alone."""
    best = likely[0]
    rivals = [way for way in likely[1:] if way.speaks > best.speaks - AS_LIKELY]
    doubts = []
    if best.alike <= LIKE_FIGURE:
        doubts.append(NOT_MADE_OUT)
    elif rivals and not mirrored:
        seen = {id(way): rings_seen(plate, grey, way.pose) or 0.0 for way in (best, *rivals)}
        first, second = sorted((best, *rivals), key=lambda way: -seen[id(way)])[:2]
        best = first if seen[id(first)] - seen[id(second)] >= RINGS_TELL else best
        if best is not first or seen[id(first)] - seen[id(second)] < RINGS_TELL:
            doubts.append(OTHER_WAY)
    elif rivals:
        doubts.append(OTHER_WAY)
    more = over[0].speaks - best.speaks if over else -1.0
    front = over[0] if over and mirrored else best
    rings = rings_seen(plate, grey, front.pose) if more > -AS_LIKELY or not mirrored else None
    # Somebody has said which face it is; as likely the other one, only rings can gainsay that.
    other_face = more > -AS_LIKELY and rings is not None and (rings >= RINGS_TELL) == mirrored
    # Its code was not to be read, and its rings are not there either; or a mirror explains it plainly better.
    unmarked = not mirrored and code_corners(plate) is not None and rings is not None and rings < RINGS_TELL
    if other_face or unmarked or more > AS_LIKELY:
        doubts.insert(0, OTHER_FACE)
    return _Found(best.pose, corners, tuple(doubts[:1]))


def _of_marks(plate: Plate, grey: Grey, corners: Floats, lies: Floats, mirrored: bool) -> _Found | None:
    """The way that explains best how the patches look; None where the outline has not the shape of the sheet."""
    size = (grey.shape[1], grey.shape[0])
    ways = poses_by_outline(corners, lies, size, mirrored)
    if not ways:
        return None
    unread = not mirrored and code_corners(plate) is not None
    best, doubts = _way_of_marks(plate, grey, ways, poses_by_outline(corners, lies, size, True) if unread else [])
    return _Found(best, corners, tuple(doubts))


def _way_of_marks(plate: Plate, grey: Grey, ways: list[Pose], over: list[Pose]) -> tuple[Pose, list[str]]:
    likely = np.array([explains(plate, grey, way) for way in ways])
    best, most = ways[int(likely.argmax())], float(likely.max())
    turned_over = max((explains(plate, grey, way) for way in over), default=0.0)
    if turned_over > AS_GOOD * most:
        return best, ["The plate's code is not to be seen; look whether this is its front."]
    if most <= 0:
        return best, [NOT_MADE_OUT]
    if (likely > AS_GOOD * most).sum() > 1:
        return best, [OTHER_WAY]
    return best, []


def _round_counter_clockwise(corners: Floats) -> Floats:
    """The same corners counter-clockwise, from the one nearest to the lower left."""
    turned = corners if signed_area(corners) > 0 else corners[::-1]
    return np.roll(turned, -int((turned - turned.min(axis=0)).sum(axis=1).argmin()), axis=0)


def by_corners(plate: Plate, grey: Grey, rgb: Colours, mm: Floats, pixels: Floats) -> Laid:
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
    laid = _drawn_to_patches(plate, grey, rgb, pose, [(mm, pixels, 0.5)], "corners", nearly=True)
    pointed = off_mm(laid.pose, [(mm, pixels, 1.0)])
    doubts = (
        ("The patches' edges are not where the corners put them; look once more.",) if pointed > CODE_OFF_MM else ()
    )
    return replace(laid, residual_mm=max(laid.residual_mm, pointed), doubts=(*doubts, *laid.doubts))


def sheet_mm(plate: Plate) -> Floats:
    """``(4, 2)`` corners of the sheet in the plate's mm, counter-clockwise from its lower left."""
    trial = plate.trial
    assert trial.piece is not None
    if trial.cut_out.on:
        return plate_corners(plate)
    piece = trial.piece
    on_piece = np.array([(0.0, 0.0), (piece.width_mm, 0.0), (piece.width_mm, piece.height_mm), (0.0, piece.height_mm)])
    return from_piece(on_piece, trial.place, piece, plate.width_mm, plate.height_mm)
