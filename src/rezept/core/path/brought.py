"""A drawing somebody brought: what of it is an outline, what does not close, and what was left out.

Its ways come as whoever reads a file found them; here they are joined where their ends meet, closed, cleared of what
is there twice and brought to an origin of their own. What lies where two areas overlap is no inside (even-odd);
drawings that say otherwise (non-zero) are made so that both mean the same.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.path.figure import Figure, is_closed
from rezept.core.path.path_data import path_data

Floats = NDArray[np.float64]
# Curves are drawn so near to what they are, and a drawing of very many points is thinned out by no more than so much:
# together less than 0.01 mm.
CURVE_MM, THINNED_MM = 0.004, 0.005
# Ends that lie no farther apart are one.
ONE_POINT_MM = 0.001
# Up to so many points nothing is thinned out; more than so many are too much for a plate, thinned out as they are.
MOST_UNTHINNED, MOST_POINTS, MOST_BROUGHT, MOST_WAYS = 10_000, 20_000, 200_000, 2_000
LEAST_MM, MOST_MM = 0.1, 1000.0
# No figure of a drawing is larger; NaN is not smaller than it, either.
MOST_FAR = 1e7
# What a stroke must be long, and a loop large, to be anything.
LEAST_LENGTH_MM, LEAST_AREA_MM2 = 0.01, 1e-4
# A gap of so much is worth asking whether it is one.
SMALL_GAP_MM = 1.0
# How exactly a small picture is written.
_PICTURE_FIGURES = 4
Rule = Literal["even_odd", "nonzero"]


@dataclass(frozen=True)
class LeftOut:
    """What of a drawing is not in its figure, or is otherwise than it stood there, and why, in words."""

    what: str
    why: str


def all_left_out(missed: Mapping[tuple[str, str], int]) -> list[LeftOut]:
    """What was left out so many times, and why."""
    return [LeftOut(what if count == 1 else f"{what}, {count} times", why) for (what, why), count in missed.items()]


@dataclass(frozen=True)
class Path:
    """Ways ``(k, 2)`` in mm, y up, that belong together; those that are closed end where they began. What is inside of
    them goes by `rule`."""

    ways: tuple[Floats, ...]
    rule: Rule = "even_odd"


@dataclass(frozen=True)
class Open:
    """A way that does not close: its length, where it begins and ends, and how far these are apart, mm."""

    length_mm: float
    ends: tuple[tuple[float, float], tuple[float, float]]
    gap_mm: float


@dataclass(frozen=True)
class Brought:
    """A figure in a box at the origin, what was left out of the drawing, and where outlines cross or touch, mm."""

    figure: Figure
    left_out: tuple[LeftOut, ...]
    crossings: tuple[tuple[float, float], ...]

    @cached_property
    def size_mm(self) -> tuple[float, float]:
        width, height = (self.figure.box[1] - self.figure.box[0]).tolist()
        return width, height

    @cached_property
    def open(self) -> tuple[Open, ...]:
        return tuple(
            Open(way_length(way), (_point(way[0]), _point(way[-1])), float(np.linalg.norm(way[-1] - way[0])))
            for way in self.figure.strokes
        )

    def summary(self) -> dict[str, Any]:
        """How many outlines, holes and lines that do not close, and the largest gap that may be a slip of the hand."""
        small = [one.gap_mm for one in self.open if one.gap_mm <= SMALL_GAP_MM]
        return {
            "outlines": len(self.figure.loops),
            "holes": len(self.figure.holes),
            "open": len(self.open),
            "small_gap_mm": round(max(small), 3) if small else None,
        }

    def picture(self) -> dict[str, str]:
        """Paths for a small picture of it in its box, mm, y down: `outlines` (even-odd), and `lines` that do not close.
        What is smaller than a two hundredth of its larger side is not seen on it."""
        width, height = self.size_mm
        within = max(width, height) / 200

        def paths(ways: Sequence[Floats]) -> str:
            thin = [thinned(way, within) for way in ways if _extent(way) > within]
            return path_data([way * (1, -1) + (0, height) for way in thin], f".{_PICTURE_FIGURES}g")

        return {"outlines": paths(self.figure.loops), "lines": paths(self.figure.strokes)}

    def svg(self) -> str:
        """The figure alone as an SVG drawing, a unit a mm, to a ten thousandth of it."""
        width, height = self.size_mm

        def path(ways: Sequence[Floats], said: str) -> str:
            return f'<path {said} d="{path_data([way * (1, -1) + (0, height) for way in ways])}"/>' if ways else ""

        loops = path(self.figure.loops, 'fill-rule="evenodd"')
        strokes = path(self.figure.strokes, 'fill="none" stroke="black"')
        head = f'width="{width:.4f}mm" height="{height:.4f}mm" viewBox="0 0 {width:.4f} {height:.4f}"'
        return f'<svg xmlns="http://www.w3.org/2000/svg" {head}>{loops}{strokes}</svg>'

    def words(self) -> list[str]:
        """What was understood, a line each."""
        width, height = self.size_mm
        loops, holes = len(self.figure.loops), len(self.figure.holes)
        words = [f"{width:.4g} x {height:.4g} mm", _words(loops, "one closed outline", "closed outlines")]
        if holes:
            words[-1] += f", {holes} of them {'a hole' if holes == 1 else 'holes'}"
        for one in self.open:
            (x, y), (to_x, to_y) = one.ends
            words.append(
                f"does not close: {one.length_mm:.4g} mm from {x:.4g}, {y:.4g} to {to_x:.4g}, {to_y:.4g}, which lie"
                f" {one.gap_mm:.3g} mm apart"
            )
        words += [f"crosses or touches another outline at {x:.4g}, {y:.4g}" for x, y in self.crossings]
        return words + [f"{one.what}: {one.why}" for one in self.left_out]

    def document(self) -> dict[str, Any]:
        """As `rezept figure` says it; all lengths in mm."""
        holes = {id(hole) for hole in self.figure.holes}
        width, height = self.size_mm
        return {
            "width_mm": round(width, 6),
            "height_mm": round(height, 6),
            "loops": [
                {
                    "hole": id(loop) in holes,
                    "area_mm2": round(abs(signed_area(loop)), 6),
                    "length_mm": round(way_length(loop), 6),
                }
                for loop in self.figure.loops
            ],
            "open": [
                {
                    "length_mm": round(one.length_mm, 6),
                    "ends": [list(end) for end in one.ends],
                    "gap_mm": round(one.gap_mm, 6),
                }
                for one in self.open
            ],
            "crossings": [list(place) for place in self.crossings],
            "left_out": [dict(vars(one)) for one in self.left_out],
        }


def way_length(way: Floats) -> float:
    return float(np.linalg.norm(np.diff(way, axis=0), axis=1).sum())


def signed_area(loop: Floats) -> float:
    """Of a closed loop, mm2, positive where it runs counter-clockwise: ``sum(x dy - y dx) / 2``, from its own first
    point, so that where it lies loses no figures."""
    x, y = (loop - loop[0]).T
    return float((x[:-1] * y[1:] - x[1:] * y[:-1]).sum() / 2)


def _point(place: Floats) -> tuple[float, float]:
    x, y = place.round(6).tolist()
    return x, y


def _distinct(way: Floats) -> Floats:
    """Without points that stand twice in a row; a closed way stays closed."""
    kept = np.append(True, np.any(way[1:] != way[:-1], axis=1))
    return way[kept]


def thinned(way: Floats, within_mm: float = THINNED_MM) -> Floats:
    """A way without the points that lie within so much of what the others make of it (Douglas, Peucker 1973)."""
    import shapely

    line = shapely.LineString(way).simplify(within_mm, preserve_topology=False)
    points: Floats = np.array(line.coords)
    # What is small enough to vanish stays as it was.
    return points if len(points) > 3 or not is_closed(way) else way


def winding(points: Floats, loops: Sequence[Floats]) -> NDArray[np.int64]:
    """``(n,)`` how often loops go round each of ``(n, 2)`` points, counter-clockwise positive."""
    around = np.zeros(len(points), np.int64)
    x, y = points[:, :1], points[:, 1:]
    for loop in loops:
        start, way = loop[:-1], np.diff(loop, axis=0)
        side = way[:, 0] * (y - start[:, 1]) - way[:, 1] * (x - start[:, 0])
        up = (start[:, 1] <= y) & (start[:, 1] + way[:, 1] > y) & (side > 0)
        down = (start[:, 1] > y) & (start[:, 1] + way[:, 1] <= y) & (side < 0)
        around += up.sum(axis=1) - down.sum(axis=1)
    return around


def _outline_of_wound(loops: Sequence[Floats]) -> list[Floats]:
    """The outlines of what loops go round at all (non-zero), none of which crosses another."""
    import shapely

    drawn = shapely.union_all([shapely.LineString(loop) for loop in loops])
    faces = list(shapely.get_parts(shapely.polygonize([drawn])))
    if not faces:
        return []
    places = np.array([face.representative_point().coords[0] for face in faces])
    within = [face for face, times in zip(faces, winding(places, loops), strict=True) if times != 0]
    joined = shapely.union_all(within)
    parts = [one for one in shapely.get_parts(joined) if one.geom_type == "Polygon"]
    return [np.array(ring.coords) for one in parts for ring in (*one.interiors, one.exterior)]


def by_rule(path: Path) -> list[Floats]:
    """The ways of a path so that what lies in an odd number of them is what lies inside by its rule."""
    loops = [way for way in path.ways if is_closed(way)]
    if path.rule == "even_odd" or not loops:
        return list(path.ways)
    import shapely

    alone = len(loops) == 1 and shapely.LinearRing(loops[0]).is_simple
    return list(path.ways) if alone else [*(way for way in path.ways if not is_closed(way)), *_outline_of_wound(loops)]


def _joined(strokes: list[Floats], within_mm: float) -> list[Floats]:
    """Strokes put together where their ends meet, the nearest ends first; three ends at one place join as they come."""
    from scipy.spatial import cKDTree

    strokes = list(strokes)
    while True:
        ends = np.array([[way[0], way[-1]] for way in strokes]).reshape(-1, 2)
        if len(ends) < 4:
            return strokes
        pairs = cKDTree(ends).query_pairs(within_mm, output_type="ndarray")
        # The two ends of one stroke close it, which is done later.
        pairs = pairs[pairs[:, 0] // 2 != pairs[:, 1] // 2]
        if not len(pairs):
            return strokes
        apart = np.linalg.norm(ends[pairs[:, 0]] - ends[pairs[:, 1]], axis=1)
        taken: set[int] = set()
        gone: set[int] = set()
        for one, other in pairs[np.lexsort((pairs[:, 1], pairs[:, 0], apart))].tolist():
            a, b = one // 2, other // 2
            if a in taken or b in taken:
                continue
            taken |= {a, b}
            first = strokes[a] if one % 2 else strokes[a][::-1]
            second = strokes[b][::-1] if other % 2 else strokes[b]
            meets = bool(np.linalg.norm(first[-1] - second[0]) <= ONE_POINT_MM)
            strokes[a] = np.concatenate([first, second[1:] if meets else second])
            gone.add(b)
        strokes = [way for number, way in enumerate(strokes) if number not in gone]


def _closed(way: Floats, within_mm: float) -> Floats:
    gap = float(np.linalg.norm(way[-1] - way[0]))
    if len(way) < 3 or gap > within_mm or is_closed(way):
        return way
    if gap <= ONE_POINT_MM:
        return np.concatenate([way[:-1], way[:1]]) if len(way) > 3 else way
    return np.concatenate([way, way[:1]])


def _key(way: Floats) -> tuple[bytes, bytes]:
    """By which a way drawn twice is known, forward or backward, wherever a loop begins."""
    steps = (way / ONE_POINT_MM).round().astype(np.int64)
    if is_closed(way):
        rows = sorted(map(tuple, steps[:-1].tolist()))
        return b"loop", repr(rows).encode()
    there, back = steps.tobytes(), steps[::-1].copy().tobytes()
    return b"stroke", min(there, back)


def _once(ways: Iterable[Floats]) -> tuple[list[Floats], int]:
    seen, kept, again = set(), [], 0
    for way in ways:
        key = _key(way)
        if key in seen:
            again += 1
        else:
            seen.add(key)
            kept.append(way)
    return kept, again


def _crossings(ways: Sequence[Floats]) -> tuple[tuple[float, float], ...]:
    """Where outlines cross or touch each other or themselves; ten places at most."""
    import shapely

    lines = [shapely.LineString(way) for way in ways]
    places: list[tuple[float, float]] = []
    for line, way in zip(lines, ways, strict=True):
        if len(way) > 2 and not line.is_simple:
            # Cut where it meets itself it has more ends than it had.
            nodes = shapely.get_parts(shapely.node(line))
            ends = np.array([end for part in nodes for end in (part.coords[0], part.coords[-1])])
            points, count = np.unique(ends.round(9), axis=0, return_counts=True)
            places += [_point(point) for point in points[count > 2]]
    tree = shapely.STRtree(lines)
    one, other = tree.query(lines, predicate="intersects")
    for a, b in zip(one[one < other].tolist(), other[one < other].tolist(), strict=True):
        for part in shapely.get_parts(lines[a].intersection(lines[b])):
            places.append(_point(np.array(part.coords[0])))
        if len(places) > 10:
            break
    return tuple(dict.fromkeys(places))[:10]


def _words(count: int, one: str, several: str) -> str:
    return one if count == 1 else f"{count} {several}"


def understood(paths: Sequence[Path], left_out: Sequence[LeftOut] = (), close_gaps_mm: float = 0.0) -> Brought:
    """What the ways of a drawing are, as a figure.

    close_gaps_mm : ends that lie no farther apart are joined by a straight line

    Raises
    ------
    InvalidInput : there is nothing in it that can be burned, or it is too much
    """
    left = list(left_out)
    points = sum(len(way) for path in paths for way in path.ways)
    if points > MOST_BROUGHT:
        raise InvalidInput(f"The drawing has {points} points; {MOST_BROUGHT} are the most. Simplify it first.")
    if points > MOST_UNTHINNED:
        paths = [Path(tuple(thinned(way) for way in path.ways), path.rule) for path in paths]
        kept = sum(len(way) for path in paths for way in path.ways)
        if kept > MOST_POINTS:
            raise InvalidInput(
                f"The drawing has {points} points, and {kept} of them when thinned out within 0.01 mm; {MOST_POINTS}"
                " are the most. Bring a part of it, or simplify it first."
            )
        if kept < points:
            left.append(LeftOut(f"{points - kept} of {points} points", "it is drawn without them, within 0.01 mm"))
    ways = [_distinct(way) for path in paths for way in by_rule(path)]
    if len(ways) > 20 * MOST_WAYS:
        raise InvalidInput(f"The drawing has {len(ways)} lines of their own; join them, or bring a part of it.")
    within = close_gaps_mm + ONE_POINT_MM
    loops = [way for way in ways if is_closed(way)]
    strokes = _joined([way for way in ways if len(way) > 1 and not is_closed(way)], within)
    strokes = [_closed(way, within) for way in strokes]
    loops += [way for way in strokes if is_closed(way)]
    strokes = [way for way in strokes if not is_closed(way)]
    large = [loop for loop in loops if abs(signed_area(loop)) > LEAST_AREA_MM2 or _extent(loop) > LEAST_LENGTH_MM]
    long = [way for way in strokes if way_length(way) > LEAST_LENGTH_MM]
    specks = len(ways) - len([way for way in ways if len(way) > 1]) + len(loops) - len(large) + len(strokes) - len(long)
    if specks:
        left.append(LeftOut(_words(specks, "a speck", "specks"), "too small to be drawn"))
    large, loops_again = _once(large)
    long, strokes_again = _once(long)
    if again := loops_again + strokes_again:
        left.append(LeftOut(_words(again, "a line", "lines"), "drawn twice; it is burned once"))
    if len(large) + len(long) > MOST_WAYS:
        raise InvalidInput(f"The drawing has {len(large) + len(long)} outlines; {MOST_WAYS} are the most.")
    if not large and not long:
        raise InvalidInput("There is no outline in this drawing.")
    return _in_its_box(large, long, left)


def _extent(way: Floats) -> float:
    return float(np.ptp(way, axis=0).max())


def _in_its_box(loops: list[Floats], strokes: list[Floats], left_out: list[LeftOut]) -> Brought:
    every = np.concatenate([*loops, *strokes])
    low, size = every.min(axis=0), np.ptp(every, axis=0)
    if size.max() > MOST_MM or size.min() < LEAST_MM:
        width, height = size.tolist()
        raise InvalidInput(
            f"The drawing is {width:.4g} x {height:.4g} mm; a figure is from {LEAST_MM:g} to {MOST_MM:g} mm wide and"
            " high. Does it say its units?"
        )
    # All loops go round counter-clockwise, and the smaller ones come first: they may lie in the larger.
    loops = [(loop if signed_area(loop) >= 0 else loop[::-1]) - low for loop in loops]
    loops.sort(key=lambda loop: abs(signed_area(loop)))
    strokes = [way - low for way in strokes]
    return Brought(Figure([*strokes, *loops]), tuple(left_out), _crossings([*strokes, *loops]))
