"""The sheet as the largest thing in the picture that is not table, and its four corners."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage

from rezept.core.photo.pose import Pose, homography

Floats = NDArray[np.float64]
Colours = NDArray[np.uint8]

# The picture is looked at no larger: its sides average over hundreds of pixels.
LONGEST_PX = 400
# Of the picture: a sheet covers at least so much of it; its border, which is taken for the table, is so wide.
LEAST_SHARE, BORDER_SHARE = 0.04, 0.03
# A second look is taken at a smoother picture, for what is so many times less like the table than the 99th percentile
# of the table is itself.
SMOOTHED_PX, BEYOND_TABLE = 5, 1.15
# Of the small picture: how wide the rim of a mask is, and gaps of it that are closed.
RIM_PX, CLOSED_PX = 4, 2
# A corner may be cut off by the picture's edge, over so much of the sheet's size (the root of its area); a side may
# not.
MOST_TOUCHING = 0.12
# A mask is a quadrilateral where it fills the one through its sides to within this share of its area.
FILLS_WITHIN = 0.07
# An edge is where coded values change by so much within a pixel of the small picture, which is smoothed over three; a
# piece between edges ends so many pixels before them. So many pieces are looked at, the largest.
EDGES, EDGE_PX, MOST_PIECES = (5.0, 9.0, 16.0), 2, 3
# What lies against a sheet is cut off where it is narrower than these shares, twice, of the sheet's size.
OPENED_SHARES = (0.02, 0.06, 0.12)
ROUNDS, SETTLED_PX = 3, 0.02
# Sides run along the rim of what was found, or beside it: over so much of their length at least, and plainly.
LEAST_ALONG, PLAINLY_ALONG = 0.5, 0.9
# Straight sides are laid through the boundary between these shares of the way from corner to corner, and no further
# from it than this share of its length, and so many pixels.
SIDE_FROM, SIDE_TO, SIDE_OFF_SHARE, SIDE_OFF_PX = 0.08, 0.92, 0.02, 1.5
# Seen at 35 degrees one side is shortened by a fifth, both ways 1 / 1.39; a rectangle laid the wrong way round is off
# by more.
MOST_FORESHORTENED = 1.39


def _otsu(values: Floats) -> float:
    """The threshold that parts values best into two heaps (N. Otsu, IEEE Trans. SMC 9, 1979)."""
    counts, edges = np.histogram(values, 128)
    middles = (edges[1:] + edges[:-1]) / 2
    weight, below = np.cumsum(counts).astype(float), np.cumsum(counts * middles)
    whole, mean = weight[-1], below[-1]
    # Only where there is something on either side.
    parts = np.flatnonzero((weight > 0.5) & (weight < whole - 0.5))
    if not len(parts):
        return float(values.max())
    between = (mean * weight[parts] / whole - below[parts]) ** 2 / (weight[parts] * (whole - weight[parts]))
    return float(middles[parts[int(between.argmax())]])


def _border(values: NDArray[np.float32], wide: int) -> NDArray[np.float32]:
    """``(n, 3)`` pixels along the picture's edges, so many wide."""
    sides = (values[:wide], values[-wide:], values[:, :wide], values[:, -wide:])
    return np.concatenate([side.reshape(-1, 3) for side in sides])


def _by_colour(rgb: Colours) -> Iterator[NDArray[np.bool_]]:
    """What differs in colour from the table, which is what the picture's edges show; nothing where it is noise."""
    values = rgb.astype(np.float32)
    edge = max(2, int(BORDER_SHARE * min(values.shape[:2])))
    border = _border(values, edge)
    table = np.median(border, axis=0)
    off = values - table
    away = np.sqrt(np.einsum("ijk,ijk->ij", off, off))
    mask = _largest(away > _otsu(ndimage.uniform_filter(away, 3)))
    # Noise is parted into two heaps, too: the sheet's own rim has to differ from what the table differs by itself.
    rim = away[mask & ~_shrunk(mask, RIM_PX)]
    if len(rim) and np.median(rim) > np.percentile(np.linalg.norm(border - table, axis=-1), 90):
        yield mask


def _by_scatter(rgb: Colours) -> Iterator[NDArray[np.bool_]]:
    """For sheets that are hardly lighter or darker: what differs by more than the table itself varies by (P. C.
    Mahalanobis' distance), in a smoother picture, in which it ends some pixels further out."""
    values = rgb.astype(np.float32)
    edge = max(2, int(BORDER_SHARE * min(values.shape[:2])))
    table = np.median(_border(values, edge), axis=0)
    smooth = ndimage.uniform_filter(values, (SMOOTHED_PX, SMOOTHED_PX, 0)) - table
    around = _border(smooth, edge)
    spread = around.T @ around / len(around) + np.eye(3, dtype=np.float32)
    # Whitened: as far in every direction as the table goes.
    whitening = np.linalg.inv(np.linalg.cholesky(spread)).T
    unlike, usual = (np.linalg.norm(values @ whitening, axis=-1) for values in (smooth, around))
    yield _largest(unlike > BEYOND_TABLE * float(np.percentile(usual, 99)))


def _regions(rgb: Colours) -> Iterator[NDArray[np.bool_]]:
    """Pieces of the picture without an edge in them: a sheet is one, though the light falls off over it, and what lies
    against it is another, whatever both lie on."""
    smooth = ndimage.uniform_filter(rgb.astype(np.float32), (3, 3, 0))
    slope = np.zeros(rgb.shape[:2], np.float32)
    for axis in (0, 1):
        slope = np.maximum(slope, np.abs(ndimage.correlate1d(smooth, [-0.5, 0, 0.5], axis=axis)).max(axis=2))
    for edge in EDGES:
        pieces, _ = ndimage.label(slope < edge)
        sizes = np.bincount(pieces.ravel())
        sizes[0] = 0
        for piece in np.argsort(-sizes)[:MOST_PIECES]:
            if sizes[piece] < LEAST_SHARE * pieces.size / 2:
                break
            # Edges are some pixels wide, half of them the piece's own.
            yield _without_holes(_grown(pieces == piece, EDGE_PX))


def _largest(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The largest piece, holes filled."""
    # Going on beyond the picture: closing would part what reaches its edge from it.
    closed = _shrunk(_grown(np.pad(mask, CLOSED_PX, mode="edge"), CLOSED_PX), CLOSED_PX)
    pieces, count = ndimage.label(closed[CLOSED_PX:-CLOSED_PX, CLOSED_PX:-CLOSED_PX])
    if count == 0:
        return np.zeros(mask.shape, bool)
    return _without_holes(_largest_of(pieces))


def _grown(mask: NDArray[np.bool_], pixels: int, beyond: bool = False) -> NDArray[np.bool_]:
    """The mask grown so many pixels up, down and sideways (dilation), on a picture beyond which is what is said.

    SciPy's own takes ten times as long.
    """
    for _ in range(pixels):
        padded = np.pad(mask, 1, constant_values=beyond)
        mask = padded[1:-1, 1:-1] | padded[:-2, 1:-1] | padded[2:, 1:-1] | padded[1:-1, :-2] | padded[1:-1, 2:]
    return mask


def _shrunk(mask: NDArray[np.bool_], pixels: int, beyond: bool = False) -> NDArray[np.bool_]:
    """The mask shrunk so (erosion)."""
    return ~_grown(~mask, pixels, not beyond)


def _without_holes(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The mask, and what it encloses: SciPy's own grows the outside pixel by pixel, which takes ten times as long."""
    outside, count = ndimage.label(~mask)
    enclosed = np.ones(count + 1, bool)
    enclosed[np.concatenate([outside[0], outside[-1], outside[:, 0], outside[:, -1]])] = False
    return mask | enclosed[outside]


def _largest_of(pieces: NDArray[np.integer[Any]]) -> NDArray[np.bool_]:
    sizes = np.bincount(pieces.ravel())
    sizes[0] = 0
    return np.asarray(pieces == int(sizes.argmax()), bool)


def _largest_piece(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    pieces, count = ndimage.label(mask)
    return _largest_of(pieces) if count else np.zeros(mask.shape, bool)


def _hull(points: Floats) -> Floats:
    """Corners of the convex hull in order round it."""
    # SciPy's geometry takes longer to load than a plate takes to plan; who reads no photograph does without.
    from scipy.spatial import ConvexHull

    corners: Floats = points[ConvexHull(points).vertices]
    return corners


def _quad(hull: Floats) -> Floats:
    """The four corners of the hull that span the largest area, in order round it."""
    # For each diagonal the farthest points on either side of it.
    i, j = np.triu_indices(len(hull), 2)
    diagonal, to_all = hull[j] - hull[i], hull[None] - hull[i, None]
    side = diagonal[:, :1] * to_all[..., 1] - diagonal[:, 1:] * to_all[..., 0]
    best = int(np.ptp(side, axis=1).argmax())
    corners: Floats = hull[[i[best], side[best].argmin(), j[best], side[best].argmax()]]
    return corners


def _normal(away: Floats) -> Floats:
    """The direction in which points ``(n, 2)`` about 0 vary least."""
    x, y = away.T
    angle = 0.5 * float(np.arctan2(2 * (x @ y), x @ x - y @ y))
    return np.array([-np.sin(angle), np.cos(angle)])


def _sides(boundary: Floats, corners: Floats) -> Floats:
    """Corners where straight lines through the boundary between them meet (total least squares)."""
    lines = []
    for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        way = b - a
        length = float(np.linalg.norm(way))
        unit = way / length
        along = (boundary - a) @ unit
        across = (boundary - a) @ np.array([-unit[1], unit[0]])
        between = (along > SIDE_FROM * length) & (along < SIDE_TO * length)
        near = between & (np.abs(across) < SIDE_OFF_SHARE * length + SIDE_OFF_PX)
        points = boundary[near] if near.sum() > 10 else np.array([a, b])
        for _ in range(3):
            middle = points.mean(axis=0)
            normal = _normal(points - middle)
            off = np.abs((points - middle) @ normal)
            keep = off <= max(0.5, 2.5 * float(np.median(off)))
            points = points[keep]
        lines.append((normal, float(normal @ points.mean(axis=0))))
    met = []
    for (n1, c1), (n0, c0) in zip(lines, [lines[-1], *lines[:-1]], strict=True):
        met.append(np.linalg.solve(np.stack([n0, n1]), [c0, c1]))
    return np.array(met)


def sheet_corners(rgb: Colours) -> Floats | None:
    """``(4, 2)`` pixels of the sheet's corners, in order round it, or None where nothing in the picture is like one.

    A sheet whose side reaches the edge of the picture is none: part of it is missing. Of a corner alone its sides tell.
    """
    outlines = sheet_outlines(rgb)
    return outlines[0].corners if outlines and outlines[0].along > LEAST_ALONG else None


@dataclass(frozen=True)
class Outline:
    """What may be the outline of a sheet: ``(4, 2)`` pixels of its corners, in order round it, and over which share of
    its worst side something ends there."""

    corners: Floats
    along: float


def sheet_outlines(rgb: Colours) -> list[Outline]:
    """What may be the sheet, the likeliest first; no more is looked for when one plainly is."""
    step = max(1, round(max(rgb.shape[:2]) / LONGEST_PX))
    outlines: list[Outline] = []
    # Every so many-th pixel: the straight sides average what that loses.
    small = rgb[step // 2 :: step, step // 2 :: step]
    for mask in itertools.chain(_by_colour(small), _regions(small), _by_scatter(small)):
        if not _like_a_sheet(mask):
            continue
        rim = _rim(mask)
        near_rim = ndimage.maximum_filter(rim, 3)
        for opened in _opened(mask):
            corners = _corners_of(opened, rim)
            if corners is None:
                continue
            outlines.append(Outline(_outside(corners) * step + step // 2, _along_rim(corners, near_rim)))
            if outlines[-1].along > PLAINLY_ALONG:
                return outlines[-1:] + sorted(outlines[:-1], key=lambda one: -one.along)
    return sorted(outlines, key=lambda one: -one.along)


def _rim(mask: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """The outermost pixels of a mask; what ends with the picture does not end there itself."""
    return mask & ~_shrunk(mask, 1, beyond=True)


def _along_rim(corners: Floats, near_rim: NDArray[np.bool_]) -> float:
    """Of the side that is worst at it the share that runs along a rim; `near_rim` are its pixels and those beside
    them."""
    share = np.linspace(SIDE_FROM, SIDE_TO, 80)[:, None]
    worst = 1.0
    for start, end in zip(corners, np.roll(corners, -1, axis=0), strict=True):
        places = np.rint(start + share * (end - start)).astype(int)
        # Beyond the picture nothing is to be seen, and a corner may lie there.
        inside = ((places >= 0) & (places < near_rim.shape[::-1])).all(axis=1)
        column, row = places[inside].T
        worst = min(worst, float(near_rim[row, column].mean()) if len(row) > 20 else 0.0)
    return worst


def _opened(mask: NDArray[np.bool_]) -> Iterator[NDArray[np.bool_]]:
    """The mask, and what is left of its largest piece when all is cut off that is narrower and narrower (morphological
    opening): seams of the table that run into the sheet, paper and offcuts that lie against it."""
    yield mask
    depth = ndimage.distance_transform_edt(np.pad(mask, 1, constant_values=False))[1:-1, 1:-1]
    side = float(np.sqrt(mask.sum()))
    for share in OPENED_SHARES:
        core = _largest_piece(depth > share * side)
        if not core.any():
            return
        # Back out to where the mask ends; corners stay rounded, which straight sides do not mind.
        yield mask & (ndimage.distance_transform_edt(~core) <= share * side)


def _like_a_sheet(mask: NDArray[np.bool_]) -> bool:
    touching = int(mask[[0, -1]].sum() + mask[:, [0, -1]].sum())
    return bool(mask.mean() >= LEAST_SHARE and touching <= MOST_TOUCHING * np.sqrt(mask.sum()))


def _points(mask: NDArray[np.bool_]) -> Floats:
    rows, columns = np.nonzero(mask)
    return np.column_stack([columns, rows]).astype(float)


def _corners_of(mask: NDArray[np.bool_], rim: NDArray[np.bool_]) -> Floats | None:
    """Corners of a mask that is like a quadrilateral; its sides are laid through a rim near it."""
    own = _points(_rim(mask))
    if len(own) < 20:
        return None
    hull = _hull(own)
    if len(hull) < 4:
        return None
    corners = _quad(hull)
    # Rounded corners are cut off first; each time the sides come nearer to where they meet.
    for _ in range(ROUNDS):
        before, corners = corners, _sides(own, corners)
        if np.abs(corners - before).max() < SETTLED_PX:
            break
    filled = float(mask.sum()) / max(1.0, abs(signed_area(corners)))
    if abs(filled - 1) >= FILLS_WITHIN:
        return None
    rim_points = _points(rim)
    return _sides(rim_points, _sides(rim_points, corners))


def _outside(corners: Floats) -> Floats:
    """The rim's pixels lie half a pixel inside the edge."""
    outward = corners - corners.mean(axis=0)
    grown: Floats = corners + 0.5 * outward / np.linalg.norm(outward, axis=1, keepdims=True) * np.sqrt(2)
    return grown


def signed_area(corners: Floats) -> float:
    """Of a polygon ``(n, 2)``, positive where it runs counter-clockwise with y up (clockwise as pixels run)."""
    x, y = corners.T
    return float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2


def poses_by_outline(corners: Floats, sheet_mm: Floats, size: tuple[int, int], mirrored: bool) -> list[Pose]:
    """The ways a rectangular sheet ``(4, 2)`` mm (counter-clockwise from its lower left) may lie in four corners:
    turned by quarters, its sides in keeping with the picture; seen from the back it runs the other way round."""
    # What is counter-clockwise on the plate is so in the picture, too, seen from the back; pixels run down.
    ordered = corners if (signed_area(corners) > 0) == mirrored else corners[::-1]
    poses = []
    for turn in range(4):
        pose = Pose(homography(sheet_mm, np.roll(ordered, turn, axis=0)), 0.0, size)
        middle = sheet_mm.mean(axis=0)
        steps = pose.to_pixels(middle + np.array([(0.0, 0.0), (1.0, 0.0), (0.0, 1.0)]))
        wide, high = np.linalg.norm(steps[1:] - steps[0], axis=1)
        if 1 / MOST_FORESHORTENED < wide / high < MOST_FORESHORTENED:
            poses.append(pose)
    return poses
