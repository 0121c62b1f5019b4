"""The course of a patch's outline, and the cells well inside it: where its figures are taken."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from rezept.core.errors import InvalidInput
from rezept.core.path.figure import Figure
from rezept.core.path.outlines import rectangle
from rezept.core.plan.plate import Plate

Floats = NDArray[np.float64]

# So far apart are the places along an outline; of a cut a bridge of half a millimetre has to be seen.
ALONG_MM, ALONG_CUT_MM = 0.5, 0.33
FEWEST, MOST_ALONG, MOST_ALONG_CUT = 24, 160, 320
MOST_CELLS = 900
INSET_SHARE, LEAST_INSET_MM = 0.16, 0.5


@dataclass(frozen=True)
class Course:
    """In the patch's own box, from its lower left, mm.

    points : ``(m, 2)`` along the faces from without, evenly; outward : ``(m, 2)`` unit normals there
    inside : ``(k, 2)`` cells well inside, away from every outline
    closed : False for lettering, whose lines enclose nothing; its points are then those of its box
    narrow : it is cut, and much of it is narrower than what is looked at inside of an outline
    """

    points: Floats
    outward: Floats
    inside: Floats
    closed: bool
    narrow: bool


def _evenly(loop: Floats, along_mm: float = ALONG_MM, most: int = MOST_ALONG) -> tuple[Floats, Floats]:
    """Points along a counter-clockwise loop and its outward normals, in the middles of even stretches."""
    ends = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(loop, axis=0), axis=1))])
    count = int(np.clip(ends[-1] / along_mm, FEWEST, most))
    at = (np.arange(count) + 0.5) * ends[-1] / count
    piece = np.clip(np.searchsorted(ends, at, side="right") - 1, 0, len(loop) - 2)
    way = np.diff(loop, axis=0)[piece]
    length = np.linalg.norm(way, axis=1, keepdims=True)
    points = loop[piece] + way * ((at - ends[piece])[:, None] / length)
    return points, np.column_stack([way[:, 1], -way[:, 0]]) / length


# From an outline one looks so far inward, and wants to be so far from any other there; narrow from this share on.
_INWARD_MM, _ROOM_MM, _NARROW_SHARE = 1.5, 1.2, 0.3
# What another step draws or fills is seen so far beside it.
BESIDE_MM = 0.4
# Figures of other steps on the same patch, and whether they are filled.
Others = tuple[tuple[Figure, bool], ...]


def _nearest(cells: Floats, points: Floats) -> Floats:
    """``(k,)`` mm from each cell to the nearest of the points."""
    away: Floats = cKDTree(points).query(cells)[0]
    return away


def _free_of(cells: Floats, others: Others) -> NDArray[np.bool_]:
    """``(k,)`` which cells lie on no ground of other steps."""
    free = np.ones(len(cells), bool)
    for figure, fills in others:
        ways = np.concatenate([_evenly(way)[0] if len(way) > 2 else way for way in figure.ways])
        free &= _nearest(cells, ways) >= BESIDE_MM
        if fills:
            free &= ~figure.encloses(cells)
    return free


def _is_narrow(points: Floats, outward: Floats, shape: Figure) -> bool:
    """Whether across from much of an outline another one lies near; what meets it at a corner does not."""
    # Finely, so that none lies nearer than the next of these.
    loops = [_evenly(loop, _ROOM_MM / 4, 8000) for loop in shape.loops]
    rims, normals = (np.concatenate([loop[of] for loop in loops]) for of in (0, 1))
    away, nearest = cKDTree(rims).query(points - _INWARD_MM * outward)
    across = np.abs((normals[nearest] * outward).sum(axis=1)) > 0.5
    return bool(((away < _ROOM_MM) & across).mean() > _NARROW_SHARE)


@lru_cache(maxsize=64)
def course(figure: Figure, width_mm: float, height_mm: float, cut: bool, others: Others = ()) -> Course:
    """The course of a figure in a box, finer where it is cut; shared, so nobody writes to it.

    others : what lies on the same patch beside it, and is no inside of it
    """
    closed = bool(figure.loops)
    shape = figure if closed else Figure([rectangle(width_mm, height_mm)])
    fine = (ALONG_CUT_MM, MOST_ALONG_CUT) if cut else (ALONG_MM, MOST_ALONG)
    ways = [_evenly(face, *fine) for face in shape.faces]
    points, outward = (np.concatenate([way[of] for way in ways]) for of in (0, 1))
    apart = max(0.1, float(np.sqrt(width_mm * height_mm / MOST_CELLS)))
    x, y = (np.arange(apart / 2, side, apart) for side in (width_mm, height_mm))
    cells = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
    inset = min(max(LEAST_INSET_MM, INSET_SHARE * min(width_mm, height_mm)), 0.4 * min(width_mm, height_mm))
    rims = np.concatenate([_evenly(loop)[0] for loop in shape.loops])
    away = _nearest(cells, rims)
    enclosed = shape.encloses(cells)
    far = enclosed & (away >= inset)
    free = far & _free_of(cells, others)
    well_inside = cells[free if free.any() else far]
    if not len(well_inside):
        well_inside = cells[enclosed][np.argsort(-away[enclosed])[:9]]
    for array in (points, outward, well_inside):
        array.flags.writeable = False
    return Course(points, outward, well_inside, closed, cut and _is_narrow(points, outward, shape))


def course_of(plate: Plate) -> Course:
    """The course of the one figure that all elements of a plate have."""
    elements = plate.elements
    if np.ptp(elements.figure) > 0:
        raise InvalidInput("Photographs are read of plates with one figure; this one has several.", "figures")
    size = float(elements.width_mm[0]), float(elements.height_mm[0])
    steps, own = plate.trial.steps, plate.trial.judged
    # What goes through is looked at beside what stays on it; a mark is looked at as a whole.
    others = [
        (elements.figure_of(0, plate.steps[number].work.figure), step.process.fills)
        for number, step in enumerate(steps)
        if steps[own].process.passes_through and not step.process.passes_through
    ]
    return course(elements.figure_of(0), *size, steps[own].process.passes_through, tuple(others))
