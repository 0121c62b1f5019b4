"""Every move of a program as the gate looks at it: one row for each stretch at constant settings.

The extents are those of the very ways `program.burns` writes, run-ups included. Patches of a plate mostly share their
ways and differ by place and speed alone, so each set of ways is looked at once.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.parameters import Settings
from rezept.core.path.filled import framed
from rezept.core.path.motion import run_up_mm
from rezept.core.plan.elements import reach_of
from rezept.core.plan.place import to_program
from rezept.core.plan.plate import Plate

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Moves:
    """k stretches in burn order.

    names : what it is called in programs and runs: a part of an element, the text of a label, what is marked or cut
    kinds : ``patch`` for elements, ``label``, ``mark``, ``outline``, or ``trace``
    element : ``(k,)`` index of the element it burns, -1 for what is drawn beside them
    settings : one ``(k,)`` column for each setting, NaN where a stretch has none
    low, high : ``(k, 2)`` how far its moves go, program coordinates in mm, run-ups included
    """

    names: tuple[str, ...]
    kinds: tuple[str, ...]
    element: NDArray[np.int64]
    settings: Settings
    low: Floats
    high: Floats

    def column(self, key: str) -> Floats:
        """A setting of every stretch, NaN where it has none."""
        return self.settings.get(key, np.full(len(self.names), np.nan))

    def of_kind(self, *kinds: str) -> NDArray[np.bool_]:
        return np.array([kind in kinds for kind in self.kinds], bool)

    def only(self, keep: NDArray[np.bool_]) -> Moves:
        chosen = np.flatnonzero(keep).tolist()
        return Moves(
            tuple(self.names[i] for i in chosen),
            tuple(self.kinds[i] for i in chosen),
            self.element[keep],
            {key: column[keep] for key, column in self.settings.items()},
            self.low[keep],
            self.high[keep],
        )

    def named(self, parts: Collection[str]) -> Moves:
        """Those of some parts of a run: elements by their names, ``labels`` and ``outline`` for what is drawn."""
        part = [name if kind == "patch" else PART_OF[kind] for name, kind in zip(self.names, self.kinds, strict=True)]
        return self.only(np.array([one in parts for one in part], bool))

    def corrected(self, power: float, speed: float) -> Moves:
        """The same while power and speed are turned to so many times what the program says."""
        factors = {"power_pct": power, "corner_power_pct": power, "speed_mm_s": speed}
        settings = {key: column * factors.get(key, 1.0) for key, column in self.settings.items()}
        return replace(self, settings=settings)


# What is drawn goes out as two parts: before the patches, and after them.
PART_OF = {"label": "labels", "mark": "labels", "outline": "outline"}


def _turn(plate: Plate) -> tuple[Floats, Floats]:
    """Where the plate's origin comes to lie, and the matrix that turns a way on the plate into one of the program."""
    corners = np.array([(0.0, 0.0), (1.0, 0.0), (0.0, 1.0)])
    placed = to_program(corners, plate.trial, plate.width_mm, plate.height_mm)
    return placed[0], placed[1:] - placed[0]


def _element_extents(plate: Plate) -> tuple[Floats, Floats]:
    """``(k, 2)`` lowest and highest of what burns in elements, in burn order."""
    elements, machine = plate.elements, plate.trial.machine
    origin, turn = _turn(plate)
    which, step = plate.order.T
    low, high = np.empty((len(which), 2)), np.empty((len(which), 2))
    for number, one in enumerate(plate.steps):
        mine = step == number
        lowest, highest = reach_of(machine, elements, one, turn)
        low[mine], high[mine] = lowest[which[mine]], highest[which[mine]]
    corner = elements.corners[which] @ turn + origin
    return corner + low, corner + high


def _drawn_extents(plate: Plate) -> tuple[Floats, Floats]:
    """``(m, 2)`` lowest and highest of everything drawn, in its order."""
    if not plate.drawn:
        return np.zeros((0, 2)), np.zeros((0, 2))
    points = []
    for part in plate.drawn:
        points.append(part.points)
        if len(part.lines):
            lines, outward = framed(part.lines)
            run = float(run_up_mm(plate.trial.machine, part.settings["speed_mm_s"]))
            points[-1] = np.concatenate([part.points, (lines + run * outward).reshape(-1, 2)])
    origin, turn = _turn(plate)
    every = np.concatenate(points) @ turn + origin
    first = np.cumsum([0, *(len(of_part) for of_part in points[:-1])])
    return np.minimum.reduceat(every, first), np.maximum.reduceat(every, first)


def moves_of(plate: Plate) -> Moves:
    """All moves of a plate's program, in burn order; worked out once for a plate."""
    if "moves" not in plate.worked_out:
        plate.worked_out["moves"] = _moves(plate)
    moves: Moves = plate.worked_out["moves"]
    return moves


def _moves(plate: Plate) -> Moves:
    first = [i for i, part in enumerate(plate.drawn) if not part.last]
    last = [i for i, part in enumerate(plate.drawn) if part.last]
    low, high = _element_extents(plate)
    drawn_low, drawn_high = _drawn_extents(plate)
    drawn = [plate.drawn[i] for i in (*first, *last)]
    which, step = plate.order.T
    in_steps = (key for one in plate.steps for key in one.settings)
    keys = dict.fromkeys([*in_steps, *(key for part in drawn for key in part.settings)])
    nothing = np.full(len(plate.elements), np.nan)

    def column(key: str) -> Floats:
        beside = [part.settings.get(key, np.nan) for part in drawn]
        told = np.array([one.settings.get(key, nothing) for one in plate.steps])[step, which]
        return np.concatenate([beside[: len(first)], told, beside[len(first) :]])

    names = [name for _, _, name in plate.parts()]
    return Moves(
        names=(*(plate.drawn[i].name for i in first), *names, *(plate.drawn[i].name for i in last)),
        kinds=(*(plate.drawn[i].kind for i in first), *("patch" for _ in names), *(plate.drawn[i].kind for i in last)),
        element=np.concatenate([np.full(len(first), -1), which, np.full(len(last), -1)]),
        settings={key: column(key) for key in keys},
        low=np.concatenate([drawn_low[first], low, drawn_low[last]]),
        high=np.concatenate([drawn_high[first], high, drawn_high[last]]),
    )
