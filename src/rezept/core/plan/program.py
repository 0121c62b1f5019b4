"""The moves of a whole plate in burn order, ready to be written in any machine's words.

A `Burn` is one stretch at constant settings: the beam follows `paths` with the beam on, every path entered by a
move with the beam off. Hatch lines carry their run-up: beam-off stretches before and after each line.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.motion import run_up_mm
from rezept.core.path.outlines import rectangle
from rezept.core.plan.patches import HATCH_GEOMETRY, pass_lines
from rezept.core.plan.place import to_program
from rezept.core.plan.plate import Plate

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Burn:
    """One patch or one line of lettering.

    name : the patch id, or the text of the label
    kind : ``patch`` or ``label``
    settings : what the machine is to be told
    outlines : polylines ``(n, 2)`` traced from end to end, one after the other, passes included
    hatch : lines ``(N, 4, 2)``: run-up start, line start, line end, run-out end; empty for outlines
    """

    name: str
    kind: str
    settings: Mapping[str, float]
    outlines: tuple[Floats, ...]
    hatch: Floats


@lru_cache(maxsize=64)
def _hatch_frame(width_mm: float, height_mm: float, geometry: tuple[tuple[str, float], ...]) -> tuple[Floats, Floats]:
    """All lines of a patch at the origin ``(N, 4, 2)`` without run-up, and the way one mm of run-up moves them.

    Patches of a plate mostly share their lines and differ in speed alone, which is what the second array is for.
    """
    lines = np.concatenate(pass_lines(width_mm, height_mm, dict(geometry)))
    way = lines[:, 1] - lines[:, 0]
    length = np.hypot(way[:, 0], way[:, 1])
    unit = np.divide(way, length[:, None], out=np.zeros_like(way), where=length[:, None] > 0)
    nothing = np.zeros_like(unit)
    return lines[:, [0, 0, 1, 1]], np.stack([-unit, nothing, nothing, unit], axis=1)


_NO_HATCH = np.zeros((0, 4, 2))


def _patch_burn(plate: Plate, index: int) -> Burn:
    trial, settings = plate.trial, plate.settings_of(index)
    corner = np.array([plate.x_mm[index], plate.y_mm[index]])
    size = (trial.patch.width_mm, trial.patch.height_mm)
    plate_mm = (plate.width_mm, plate.height_mm)
    if trial.process.toolpath == "outline":
        loop = rectangle(*size)
        # All passes in one unbroken way: the end of a loop is the start of the next.
        loops = np.concatenate([loop, *[loop[1:]] * (int(settings["passes"]) - 1)])
        return Burn(plate.ids[index], "patch", settings, (to_program(corner + loops, trial, *plate_mm),), _NO_HATCH)
    run = float(run_up_mm(trial.machine, settings["speed_mm_s"]))
    frame, outward = _hatch_frame(*size, tuple((key, settings[key]) for key in HATCH_GEOMETRY))
    return Burn(plate.ids[index], "patch", settings, (), to_program(frame + (run * outward + corner), trial, *plate_mm))


def burns(plate: Plate) -> Iterator[Burn]:
    """Labels first, so that even a stopped plate says what it is; then the patches in their order."""
    trial = plate.trial
    passes = int(trial.labels.settings.get("passes", 1))
    for text in plate.texts:
        strokes = tuple(
            to_program(stroke, trial, plate.width_mm, plate.height_mm)
            for stroke in text.strokes()
            for _ in range(passes)
        )
        yield Burn(text.text, "label", trial.labels.settings, strokes, _NO_HATCH)
    for index in plate.order.tolist():
        yield _patch_burn(plate, index)
