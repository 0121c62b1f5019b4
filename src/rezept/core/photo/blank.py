"""The outline of a piece, and its holes, from one photograph with the reference card beside it.

The card gives the scale and the slant of the view: its code says roughly where it lies, the edges of its steps finely
(points on lines, least squares). It is 95 mm long and 22 wide, so that what lies 60 mm from it is found within 0.3 mm,
and what lies 150 mm from it within 0.7 (tests/core/photo/test_blank.py). Seen straight from above in millimetres, the
piece is the largest thing that is not of the ground's colour (Otsu's threshold of the distance from it, IEEE Trans. SMC
9, 1979).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import ndimage
from scipy.optimize import least_squares

from rezept.core.errors import InvalidInput
from rezept.core.photo.card import HEIGHT_MM, WIDTH_MM, code_mm, steps_mm
from rezept.core.photo.pose import projected

Floats = NDArray[np.float64]
Colours = NDArray[np.uint8]
Mask = NDArray[np.bool_]
Light = NDArray[np.float32]

# Seen from above as finely as this; no farther from the card than this.
CELL_MM, FARTHEST_MM = 0.2, 220.0
# Edges of the card are looked for so far to either side, at so many places each.
EDGE_MM, EDGE_STEP_MM, PLACES = 0.9, 0.05, 6
FEWEST_EDGES = 40
# Around the card nothing is the piece.
AROUND_CARD_MM = 3.0
SMALLEST_MM2, SMALLEST_HOLE_MM = 100.0, 1.5
# Of the circle with its area a hole fills at least so much of the one around it.
ROUND = 0.75
SIMPLER_MM, MOST_CORNERS = 0.25, 120


@dataclass(frozen=True)
class Blank:
    """corners : ``(n, 2)`` mm, counter-clockwise, on the card's own axes; holes : ``(k, 3)`` x, y, diameter likewise"""

    corners: Floats
    holes: Floats


def blank_in(rgb: Colours, code_px: Floats) -> Blank:
    """The piece beside the card whose code has its corners ``(4, 2)`` there in a picture.

    Raises
    ------
    InvalidInput : the card cannot be trusted, or nothing beside it is told from the ground
    """
    matrix = _card_finely(rgb.mean(axis=2, dtype=float), _level(code_mm(), code_px))
    view = _from_above(rgb, matrix)
    piece = _piece(view)
    filled = ndimage.binary_fill_holes(piece)
    corners = view.mm(_simplified(_boundary(filled), SIMPLER_MM / CELL_MM))
    return Blank(corners, _holes(view, filled & ~piece))


def _card_edges() -> tuple[Floats, Floats]:
    """``(n, 2)`` places on the edges of the card's steps, and across each of them a unit vector, mm."""
    places, across = [], []
    for left, low, wide, high in steps_mm():
        along = np.linspace(0.15, 0.85, PLACES)
        for y in (low, low + high):
            places += [(left + wide * share, y) for share in along]
            across += [(0.0, 1.0)] * PLACES
        places += [(left, low + high * share) for share in along]
        across += [(1.0, 0.0)] * PLACES
    return np.array(places), np.array(across)


def _card_finely(grey: Floats, matrix: Floats) -> Floats:
    """The homography of the card, plate mm to pixels, by the edges of its steps: from the code outward, since a small
    code says little of what is far from it, and nothing of how the view is slanted."""
    every, across = _card_edges()
    away = np.abs(every[:, 0] - WIDTH_MM / 2)
    for reach, slanted in ((17.0, False), (26.0, False), (36.0, True), (WIDTH_MM, True), (WIDTH_MM, True)):
        near = away <= reach
        matrix = _by_edges(grey, matrix, every[near], across[near], slanted)
    return matrix


def _level(mm: Floats, pixels: Floats) -> Floats:
    """The affine map nearest to pairs of points ``(n, 2)``, as a homography."""
    solved = np.linalg.lstsq(np.column_stack([mm, np.ones(len(mm))]), pixels, rcond=None)[0]
    return np.vstack([solved.T, [0.0, 0.0, 1.0]])


def _by_edges(grey: Floats, matrix: Floats, places: Floats, across: Floats, slanted: bool) -> Floats:
    """The homography by the edges that are seen at some places of the card."""
    offsets = np.arange(-EDGE_MM, EDGE_MM + EDGE_STEP_MM / 2, EDGE_STEP_MM)
    pixels = projected(matrix, (places[:, None] + offsets[:, None] * across[:, None]).reshape(-1, 2))
    rows, columns = pixels[:, 1], pixels[:, 0]
    if rows.min() < 1 or columns.min() < 1 or rows.max() > grey.shape[0] - 2 or columns.max() > grey.shape[1] - 2:
        raise InvalidInput("The reference card is not whole in this photo.", "photo")
    profile = ndimage.map_coordinates(grey, [rows, columns], order=1).reshape(len(places), -1)
    steep = np.abs(np.diff(ndimage.gaussian_filter1d(profile, 2.0, axis=1), axis=1))
    peak = steep.max(axis=1)
    steep = np.where(steep > 0.5 * peak[:, None], steep, 0.0)
    middle = (offsets[:-1] + offsets[1:]) / 2
    at = (steep * middle).sum(axis=1) / np.maximum(steep.sum(axis=1), 1e-12)
    seen = (peak > 0.05 * peak.max()) & (np.abs(at) < 0.8 * EDGE_MM)
    if seen.sum() < FEWEST_EDGES:
        raise InvalidInput("The edges of the reference card cannot be told in this photo; take it nearer.", "photo")
    found = projected(matrix, places[seen] + at[seen, None] * across[seen])
    return _by_lines(matrix, places[seen], across[seen], found, slanted)


def _undone(matrix: Floats) -> Floats:
    """The homography the other way."""
    inverse: Floats = np.linalg.inv(matrix).astype(np.float64)
    return inverse


def _by_lines(matrix: Floats, places: Floats, across: Floats, found: Floats, slanted: bool) -> Floats:
    """The homography that brings lines through `places` with normals `across` nearest to pixels on them; where it is
    not `slanted`, an affine one."""
    free = 8 if slanted else 6

    def whole(guess: Floats) -> Floats:
        full: Floats = np.concatenate([guess, matrix.ravel()[free:8] / matrix[2, 2], [1.0]]).reshape(3, 3)
        return full

    def off(guess: Floats) -> Floats:
        back = projected(_undone(whole(guess)), found)
        distances: Floats = ((back - places) * across).sum(axis=1)
        return distances

    start = matrix.ravel()[:free] / matrix[2, 2]
    return whole(least_squares(off, start, x_scale="jac", loss="soft_l1", f_scale=0.05).x)


@dataclass(frozen=True)
class _View:
    """The picture from above: cells ``(rows, columns, 3)``, the lower left of the first at `corner` mm, and which of
    them the picture shows."""

    cells: Light
    corner: Floats
    shown: Mask

    def mm(self, cells: Floats) -> Floats:
        """Corners of cells ``(n, 2)``, column and row, in mm."""
        places: Floats = self.corner + cells * CELL_MM
        return places


def _from_above(rgb: Colours, matrix: Floats) -> _View:
    height, width = rgb.shape[:2]
    rim = np.array([(0, 0), (width - 1, 0), (width - 1, height - 1), (0, height - 1)], float)
    around = projected(_undone(matrix), rim)
    middle = np.array([WIDTH_MM, HEIGHT_MM]) / 2
    low = np.maximum(around.min(axis=0), middle - FARTHEST_MM)
    high = np.minimum(around.max(axis=0), middle + FARTHEST_MM)
    columns, rows = np.maximum(((high - low) / CELL_MM).astype(int), 1)
    x = low[0] + (np.arange(columns) + 0.5) * CELL_MM
    y = low[1] + (np.arange(rows) + 0.5) * CELL_MM
    places = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2).astype(np.float64)
    pixels = projected(matrix, places)
    shown = (pixels >= 0).all(axis=1) & (pixels[:, 0] <= width - 1) & (pixels[:, 1] <= height - 1)
    at = [pixels[:, 1], pixels[:, 0]]
    cells = np.stack([ndimage.map_coordinates(rgb[..., i].astype(np.float32), at, order=1) for i in range(3)], axis=-1)
    return _View(cells.reshape(rows, columns, 3), low, shown.reshape(rows, columns))


def _otsu(values: Floats) -> float:
    """The threshold that parts values into two groups with the greatest variance between them."""
    counts, edges = np.histogram(values, 256)
    middle = (edges[:-1] + edges[1:]) / 2
    below = np.cumsum(counts)
    above = below[-1] - below
    mean_below = np.cumsum(counts * middle) / np.maximum(below, 1)
    mean_above = ((counts * middle).sum() - np.cumsum(counts * middle)) / np.maximum(above, 1)
    return float(edges[1:][np.argmax(below * above * (mean_below - mean_above) ** 2)])


def _piece(view: _View) -> Mask:
    """Cells of the piece: the largest thing of another colour than the ground that lies whole in the view."""
    rows, columns = view.shown.shape
    y, x = np.ogrid[:rows, :columns]
    x_mm, y_mm = view.corner[0] + (x + 0.5) * CELL_MM, view.corner[1] + (y + 0.5) * CELL_MM
    card = (x_mm > -AROUND_CARD_MM) & (x_mm < WIDTH_MM + AROUND_CARD_MM)
    card = card & (y_mm > -AROUND_CARD_MM) & (y_mm < HEIGHT_MM + AROUND_CARD_MM)
    free = view.shown & ~card
    smooth = ndimage.gaussian_filter(view.cells, (1.5, 1.5, 0))
    # Whatever lies on it, most of what is seen at the rim of the picture is ground.
    rim = free & ~ndimage.binary_erosion(view.shown, iterations=int(12 / CELL_MM))
    ground = np.median(smooth[rim if rim.any() else free], axis=0)
    away = np.linalg.norm(smooth - ground, axis=2).astype(float)
    # Otsu parts the coarse view; on the edge itself the colour is half of either.
    mask = free & (away > _otsu(away[free]))
    labels, count = ndimage.label(ndimage.binary_opening(mask, iterations=2))
    cut = set(np.unique(labels[~ndimage.binary_erosion(view.shown, iterations=3, border_value=0)]).tolist())
    sizes = ndimage.sum_labels(np.ones_like(labels), labels, range(1, count + 1)) if count else np.zeros(0)
    whole = [(size, number) for number, size in enumerate(sizes.tolist(), start=1) if number not in cut]
    if not whole or max(whole)[0] * CELL_MM**2 < SMALLEST_MM2:
        raise InvalidInput(
            "Nothing beside the card is told from the ground. Lay the piece whole into the picture, on something plain"
            " of another colour, and take it from above.",
            "photo",
        )
    piece = labels == max(whole)[1]
    inside = np.median(away[ndimage.binary_erosion(piece, iterations=5)]) if piece.any() else 0.0
    near = ndimage.binary_dilation(piece, iterations=6)
    sharp: Mask = free & near & (away > inside / 2)
    return sharp


def _boundary(mask: Mask) -> Floats:
    """``(n, 2)`` corners of cells, column and row, around the largest part of a mask, counter-clockwise with rows
    going up."""
    labels, count = ndimage.label(mask)
    sizes = ndimage.sum_labels(mask, labels, range(1, count + 1))
    padded = np.pad(labels == int(np.argmax(sizes)) + 1, 1)
    after: dict[tuple[int, int], list[tuple[int, int]]] = {}
    # An edge runs with the mask on its left.
    for (rows, columns), (start, end) in (
        (np.nonzero(padded[1:-1, 1:-1] & ~padded[:-2, 1:-1]), ((0, 0), (1, 0))),
        (np.nonzero(padded[1:-1, 1:-1] & ~padded[1:-1, 2:]), ((1, 0), (1, 1))),
        (np.nonzero(padded[1:-1, 1:-1] & ~padded[2:, 1:-1]), ((1, 1), (0, 1))),
        (np.nonzero(padded[1:-1, 1:-1] & ~padded[1:-1, :-2]), ((0, 1), (0, 0))),
    ):
        for row, column in zip(rows.tolist(), columns.tolist(), strict=True):
            after.setdefault((column + start[0], row + start[1]), []).append((column + end[0], row + end[1]))
    first = min(after)
    way = [first]
    while True:
        following = after[way[-1]].pop()
        if following == first:
            return np.array(way, float)
        way.append(following)


def _simplified(way: Floats, tolerance: float) -> Floats:
    """A closed way with no more corners than it takes to stay within a tolerance of it (D. Douglas, T. Peucker, 1973),
    or within more where it would still have too many; where two straight edges meet, their very corner."""
    # A staircase of cells goes through the middles of its steps.
    smooth = (way + np.roll(way, -1, axis=0)) / 2
    far = int(np.argmax(((smooth - smooth[0]) ** 2).sum(axis=1)))
    while True:
        kept = [
            *_kept(smooth[: far + 1], tolerance)[:-1],
            *(far + i for i in _kept(_closing(smooth, far), tolerance)[:-1]),
        ]
        if len(kept) <= MOST_CORNERS:
            return _sharpened(smooth, kept)
        tolerance *= 1.5


def _closing(way: Floats, first: int) -> Floats:
    """A closed way from one of its points back to its first."""
    return np.vstack([way[first:], way[:1]])


def _kept(way: Floats, tolerance: float) -> list[int]:
    """Which points of an open way are its corners."""
    keep = np.zeros(len(way), bool)
    keep[[0, -1]] = True
    spans = [(0, len(way) - 1)]
    while spans:
        first, last = spans.pop()
        if last - first < 2:
            continue
        along = way[last] - way[first]
        inner = way[first + 1 : last] - way[first]
        length = float(np.linalg.norm(along))
        across = along[0] * inner[:, 1] - along[1] * inner[:, 0]
        away = np.abs(across) / length if length else np.linalg.norm(inner, axis=1)
        most = int(np.argmax(away))
        if away[most] > tolerance:
            keep[first + 1 + most] = True
            spans += [(first, first + 1 + most), (first + 1 + most, last)]
    return [int(i) for i in np.flatnonzero(keep)]


# An edge so long is straight by all that is seen of it; the lens and the threshold round a corner by no more, and what
# lies beside a straight line by no more is of it.
STRAIGHT_MM, ROUNDED_MM, BESIDE_MM = 6.0, 1.2, 0.4
# Edges that meet at less than 20 degrees are those of an arc.
LEAST_TURN = 0.34


def _sharpened(way: Floats, kept: list[int]) -> Floats:
    """The corners of a way: where two long edges meet, or are rounded into one another, the point at which the straight
    lines through them do."""
    count = len(kept)
    lines = [_line(way, first, last) for first, last in zip(kept, [*kept[1:], kept[0] + len(way)], strict=True)]
    long = [i for i, line in enumerate(lines) if line is not None]
    corners: dict[int, Floats] = {i: way[kept[i]] for i in range(count)}
    for one, other in zip(long, [*long[1:], *long[:1]], strict=True):
        # Edge i ends at corner i + 1; whatever lies between it and the next long one is short.
        between = [(one + 1 + step) % count for step in range((other - one - 1) % count + 1)]
        before, after = lines[one], lines[other]
        if before is None or after is None or one == other:
            continue
        normals = np.array([before[:2], after[:2]])
        if abs(np.linalg.det(normals)) < LEAST_TURN:
            continue
        meeting = np.linalg.solve(normals, np.array([before[2], after[2]]))
        points = way[[kept[i] for i in between]]
        beside = np.abs(points @ normals.T - np.array([before[2], after[2]])).min(axis=1) * CELL_MM
        near = np.linalg.norm(points - meeting, axis=1) * CELL_MM
        if np.all((near <= ROUNDED_MM) | ((beside <= BESIDE_MM) & (near <= 1.5 * STRAIGHT_MM))):
            for i in between:
                del corners[i]
            corners[between[0]] = meeting
    return np.array([corners[i] for i in sorted(corners)])


def _line(way: Floats, first: int, last: int) -> tuple[float, float, float] | None:
    """The line ``a x + b y = c`` nearest to a stretch of a closed way, its ends left out; None of a short one."""
    stretch = way[np.arange(first, last + 1) % len(way)]
    if np.linalg.norm(stretch[-1] - stretch[0]) * CELL_MM < STRAIGHT_MM:
        return None
    inner = stretch[len(stretch) // 8 : len(stretch) - len(stretch) // 8]
    middle = inner.mean(axis=0)
    _, _, axes = np.linalg.svd(inner - middle, full_matrices=False)
    a, b = axes[-1].tolist()
    return a, b, float(axes[-1] @ middle)


def _holes(view: _View, mask: Mask) -> Floats:
    """Round holes ``(k, 3)``; what is not round is part of the piece as far as anybody may lay a plate."""
    labels, _ = ndimage.label(mask)
    found: list[tuple[float, float, float]] = []
    for number, where in enumerate(ndimage.find_objects(labels), start=1):
        rows, columns = np.nonzero(labels[where] == number)
        diameter = 2 * np.sqrt(len(rows) * CELL_MM**2 / np.pi)
        middle = np.array([columns.mean() + 0.5, rows.mean() + 0.5])
        reach = np.hypot(columns + 0.5 - middle[0], rows + 0.5 - middle[1]).max() * CELL_MM
        if diameter >= SMALLEST_HOLE_MM and diameter / 2 >= ROUND * reach:
            offset = np.array([where[1].start, where[0].start])
            x, y = view.mm(middle + offset)
            found.append((float(x), float(y), float(diameter)))
    return np.array(found).reshape(-1, 3)
