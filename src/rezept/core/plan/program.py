"""The moves of a whole plate in burn order, ready to be written in any machine's words.

A `Burn` is one stretch at constant settings: the beam follows `paths` with the beam on, every path entered by a
move with the beam off. Hatch lines carry their run-up: beam-off stretches before and after each line.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.filled import framed
from rezept.core.path.hatch import NO_LINES
from rezept.core.path.motion import run_up_mm
from rezept.core.plan.drawn import Drawn
from rezept.core.plan.place import to_program
from rezept.core.plan.plate import Plate

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Burn:
    """One step of an element, or one line of lettering.

    name : what the plate calls the part, the text of the label, or what is marked or cut
    kind : ``patch``, ``label``, ``mark`` or ``outline``
    settings : what the machine is to be told
    outlines : polylines ``(n, 2)`` traced from end to end, one after the other, passes included
    hatch : lines ``(N, 4, 2)``: run-up start, line start, line end, run-out end; empty for outlines
    """

    name: str
    kind: str
    settings: Mapping[str, float]
    outlines: tuple[Floats, ...]
    hatch: Floats


def _element_burn(plate: Plate, index: int, number: int, name: str) -> Burn:
    trial, step, elements = plate.trial, plate.steps[number], plate.elements
    settings = step.settings_of(index)
    plate_mm = (plate.width_mm, plate.height_mm)
    figure = elements.figure_of(index, step.work.figure)
    ways, hatch = step.work.path.moves(trial.machine, figure, settings)
    corner = elements.corners[index]
    placed = tuple(to_program(corner + way, trial, *plate_mm) for way in ways)
    return Burn(name, "patch", settings, placed, to_program(hatch + corner, trial, *plate_mm) if len(hatch) else hatch)


def _drawn_burn(plate: Plate, part: Drawn) -> Burn:
    trial = plate.trial
    plate_mm = (plate.width_mm, plate.height_mm)
    ways = tuple(to_program(way, trial, *plate_mm) for way in part.ways for _ in range(part.passes))
    hatch = NO_LINES
    if len(part.lines):
        frame, outward = framed(part.lines)
        once = frame + float(run_up_mm(trial.machine, part.settings["speed_mm_s"])) * outward
        hatch = to_program(np.concatenate([once] * part.passes), trial, *plate_mm)
    return Burn(part.name, part.kind, part.settings, ways, hatch)


def burns(plate: Plate) -> Iterator[Burn]:
    """Labels first, so that even a stopped plate says what it is; then the elements in their order; cut out last."""
    yield from (_drawn_burn(plate, part) for part in plate.drawn if not part.last)
    for index, step, name in plate.parts():
        yield _element_burn(plate, index, step, name)
    yield from (_drawn_burn(plate, part) for part in plate.drawn if part.last)
