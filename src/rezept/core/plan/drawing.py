"""A plate as a screen draws it: its figures, marks and hole as paths, each once, so that nobody else works them out.

All paths are SVG path data in mm, y up; those of a figure begin at the lower left of its element's box, all others at
the plate's.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.brought import thinned
from rezept.core.path.figure import Figure
from rezept.core.path.motion import corner_turns
from rezept.core.path.outlines import rectangle
from rezept.core.path.path_data import path_data
from rezept.core.plan.drawn import hang_hole_ring
from rezept.core.plan.marks import Mark, code_outline, corner_mark
from rezept.core.plan.plate import Plate, figure_id
from rezept.core.plan.step_documents import document_in_step
from rezept.core.plan.trial import Trial
from rezept.core.plan.typed_settings import typing_of

Floats = NDArray[np.float64]
# Three figures behind the point are a micrometre, finer than any screen.
FORM = ".5g"
# A corner is where the head has to turn by more than this; the rest is the course of a bend.
LEAST_CORNER_DEG = 30.0
# Where a figure is nowhere so broad, a share of its box, a number on it could not be read.
LEAST_ROOM = 0.3
# Nor on one of more holes: it would hide them.
MOST_HOLES = 4
# A figure of many points is drawn within this share of the plate: a fifth of a pixel where that is 600 high.
DRAWN_WITHIN, MANY_POINTS = 1 / 3000, 100


def sharpest_corners(figure: Figure) -> list[list[float]]:
    """The corners of a figure's loops at which the head is slowest, ``[[x, y], ...]``; none where it has only bends."""
    turns = [corner_turns(np.concatenate([loop, loop[1:2]])) for loop in figure.loops]
    if not turns:
        return []
    most = max(float(turn.max()) for turn in turns)
    if np.degrees(most) < LEAST_CORNER_DEG:
        return []
    found = [loop[1:][turn > most - 1e-6] for loop, turn in zip(figure.loops, turns, strict=True)]
    return [[round(x, 4), round(y, 4)] for x, y in np.concatenate(found).tolist()]


def room_for_a_word(figure: Figure, width_mm: float, height_mm: float) -> tuple[float, float]:
    """Middle and length in mm of the widest stretch within its faces, holes and all, at half the height of the box."""
    if not figure.loops:
        return width_mm / 2, width_mm
    starts, ends = (np.concatenate([face[place] for face in figure.faces]) for place in (slice(-1), slice(1, None)))
    level = height_mm / 2
    crossed = (starts[:, 1] > level) != (ends[:, 1] > level)
    starts, way = starts[crossed], (ends - starts)[crossed]
    at = np.sort(starts[:, 0] + (level - starts[:, 1]) / way[:, 1] * way[:, 0])
    if len(at) < 2:
        return width_mm / 2, width_mm
    lengths = at[1::2] - at[::2]
    widest = int(lengths.argmax())
    return float(at[2 * widest] + at[2 * widest + 1]) / 2, float(lengths[widest])


@lru_cache(maxsize=64)
def _figure(figure: Figure, width_mm: float, height_mm: float, stroked: bool, within_mm: float) -> dict[str, Any]:
    """`face`: what is filled to show the element, its box where the figure encloses nothing; `holes`: in it, as rings,
    so that what stands on it stays readable. Where no word has room (none is 0) the face is as it will be, holes open.

    within_mm : so near to what they are many points are drawn
    stroked : it is lettering in single strokes, some of which may close and enclose nothing all the same
    """
    said = {"sharpest_corners": sharpest_corners(figure)}
    if stroked or not figure.loops:
        box = path_data([rectangle(width_mm, height_mm)], FORM)
        return {"face": box, "holes": "", "lines": "", "word_x_mm": width_mm / 2, "word_room_mm": width_mm, **said}
    middle, room = room_for_a_word(figure, width_mm, height_mm)
    broad = room >= LEAST_ROOM * width_mm and len(figure.holes) <= MOST_HOLES
    many = sum(len(way) for way in figure.ways) > MANY_POINTS

    def drawn(ways: Iterable[Floats]) -> str:
        return path_data((thinned(way, within_mm) for way in ways) if many else ways, FORM)

    # A way round the other way opens what lies in it.
    open_holes = () if broad else tuple(hole[::-1] for hole in figure.holes)
    return {
        "face": drawn((*figure.faces, *open_holes)),
        "holes": drawn(figure.holes) if broad else "",
        "lines": drawn(figure.strokes),
        "word_x_mm": middle,
        "word_room_mm": room if broad else 0.0,
        **said,
    }


def _stroked(plate: Plate) -> set[int]:
    """Which figures of a plate are lettering in single strokes."""
    trial = plate.trial
    stroked = {0} if trial.patch.text is not None and trial.patch.letters == "strokes" else set()
    for step, work in zip(trial.steps, plate.steps, strict=False):
        if step.text is not None and step.letters == "strokes" and work.work.figure is not None:
            stroked |= set(work.work.figure.tolist())
    return stroked


@lru_cache(maxsize=256)
def _mark_path(mark: Mark, code: str | None, lighter: bool) -> str:
    ways = code_outline(mark, code, lighter) if mark.kind == "qr" else corner_mark(mark)
    return path_data(ways, FORM)


def _mark(mark: Mark, trial: Trial) -> dict[str, Any]:
    return {"kind": mark.kind, "path": _mark_path(mark, trial.code, trial.material.mark == "lighter")}


def drawing_of(plate: Plate) -> dict[str, Any]:
    """The paths of a plate: `figures` by their ids, `marks` and `hang_hole`."""
    elements = plate.elements
    boxes = np.column_stack([elements.width_mm, elements.height_mm])
    # Figures of a step lie in the boxes of the elements that have them there.
    which = np.concatenate([elements.figure, *(one.work.figure for one in plate.steps if one.work.figure is not None)])
    used, first = np.unique(which, return_index=True)
    size_of = dict(zip(used.tolist(), boxes[first % len(boxes)].tolist(), strict=True))
    stroked, within = _stroked(plate), round(DRAWN_WITHIN * max(plate.width_mm, plate.height_mm), 3)
    ring = hang_hole_ring(plate.hang_hole, plate.trial.cut_out)
    return {
        "figures": [
            {
                "id": figure_id(number),
                **_figure(figure, *size_of.get(number, boxes[0].tolist()), number in stroked, within),
            }
            for number, figure in enumerate(elements.figures)
        ],
        "marks": [_mark(mark, plate.trial) for mark in plate.marks],
        "axes": [list(axis.values) for axis in plate.trial.axes],
        "hang_hole": None if ring is None else path_data([ring], FORM),
    }


def seen(plate: Plate) -> dict[str, Any]:
    """The plate's document as screens get it: its drawing instead of all that burning and files need, and what there is
    to type; beside several steps, what a patch has in the one it is judged by."""
    light = document_in_step(plate.light(), plate.trial.judged)
    own = plate.trial.patch.own
    brought = {} if own is None else {"brought": own.brought.summary()}
    return {**light, **brought, "judged": plate.trial.judged, "drawing": drawing_of(plate), "typing": typing_of(plate)}
