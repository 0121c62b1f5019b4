"""The moves of a whole plate in burn order, ready to be written in any machine's words.

A `Burn` is one stretch at constant settings: the beam follows `paths` with the beam on, every path entered by a
move with the beam off. Hatch lines carry their run-up: beam-off stretches before and after each line.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.kept import kept
from rezept.core.path.figure import Figure, is_closed
from rezept.core.path.hatch import begins_row
from rezept.core.path.motion import run_up_mm
from rezept.core.plan.drawn import Drawn
from rezept.core.plan.patches import HATCH_GEOMETRY, pass_lines
from rezept.core.plan.place import to_program
from rezept.core.plan.plate import Plate

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Burn:
    """One patch or one line of lettering.

    name : the patch id, the text of the label, or what is marked or cut
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


@kept(64 * 2**20)
def hatch_frame(figure: Figure, geometry: tuple[tuple[str, float], ...]) -> tuple[Floats, Floats]:
    """All lines of a figure at the origin ``(N, 4, 2)`` without run-up, and the way one mm of run-up moves them.

    Patches of a plate mostly share their lines and differ in speed alone, which is what the second array is for.
    """
    passes = pass_lines(figure, dict(geometry))
    frames = [framed(lines) for lines in passes]
    return np.concatenate([lines for lines, _ in frames]), np.concatenate([outward for _, outward in frames])


def framed(lines: Floats) -> tuple[Floats, Floats]:
    """Lines ``(N, 4, 2)`` and the way one mm of run-up moves their points.

    Stretches of one row are gone along at one speed: only its first has a run-up and only its last a run-out, and
    what ends a stretch leads to the next.
    """
    way = lines[:, 1] - lines[:, 0]
    length = np.hypot(way[:, 0], way[:, 1])
    unit = np.divide(way, length[:, None], out=np.zeros_like(way), where=length[:, None] > 0)
    first = begins_row(lines)
    last = np.append(first[1:], True)
    nothing = np.zeros_like(unit)
    framed = lines[:, [0, 0, 1, 1]].copy()
    inner = np.flatnonzero(~last)
    framed[inner, 3] = lines[inner + 1, 0]
    before, after = np.where(first[:, None], -unit, 0.0), np.where(last[:, None], unit, 0.0)
    return framed, np.stack([before, nothing, nothing, after], axis=1)


_NO_HATCH = np.zeros((0, 4, 2))


def _patch_burn(plate: Plate, index: int) -> Burn:
    trial, settings = plate.trial, plate.settings_of(index)
    corner = np.array([plate.x_mm[index], plate.y_mm[index]])
    plate_mm = (plate.width_mm, plate.height_mm)
    name = plate.ids[index]
    if trial.process.toolpath == "outline":
        passes = int(settings["passes"])
        ways = []
        for way in plate.figure.ways:
            if is_closed(way):
                # All passes in one unbroken way: the end of a loop is the start of the next.
                ways.append(np.concatenate([way, *[way[1:]] * (passes - 1)]))
            else:
                ways += [way] * passes
        return Burn(
            name, "patch", settings, tuple(to_program(corner + way, trial, *plate_mm) for way in ways), _NO_HATCH
        )
    run = float(run_up_mm(trial.machine, settings["speed_mm_s"]))
    frame, outward = hatch_frame(plate.figure, tuple((key, settings[key]) for key in HATCH_GEOMETRY))
    return Burn(name, "patch", settings, (), to_program(frame + (run * outward + corner), trial, *plate_mm))


def _drawn_burn(plate: Plate, part: Drawn) -> Burn:
    trial = plate.trial
    plate_mm = (plate.width_mm, plate.height_mm)
    ways = tuple(to_program(way, trial, *plate_mm) for way in part.ways for _ in range(part.passes))
    hatch = _NO_HATCH
    if len(part.lines):
        frame, outward = framed(part.lines)
        once = frame + float(run_up_mm(trial.machine, part.settings["speed_mm_s"])) * outward
        hatch = to_program(np.concatenate([once] * part.passes), trial, *plate_mm)
    return Burn(part.name, part.kind, part.settings, ways, hatch)


def burns(plate: Plate) -> Iterator[Burn]:
    """Labels first, so that even a stopped plate says what it is; then the patches in their order; cut out last."""
    yield from (_drawn_burn(plate, part) for part in plate.drawn if not part.last)
    for index in plate.order.tolist():
        yield _patch_burn(plate, index)
    yield from (_drawn_burn(plate, part) for part in plate.drawn if part.last)
