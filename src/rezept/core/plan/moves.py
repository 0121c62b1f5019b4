"""Every move of a program as the gate looks at it: one row for each stretch at constant settings.

The extents are those of the very ways `program.burns` writes, run-ups included. Patches of a plate mostly share their
ways and differ by place and speed alone, so each set of ways is looked at once.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.kept import kept
from rezept.core.path.figure import Figure
from rezept.core.path.motion import run_up_mm
from rezept.core.plan.patches import HATCH_GEOMETRY, Settings
from rezept.core.plan.place import to_program
from rezept.core.plan.plate import Plate
from rezept.core.plan.program import framed, hatch_frame

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Moves:
    """k stretches in burn order.

    names : the patch id, the text of the label, or what is marked or cut
    kinds : ``patch``, ``label``, ``mark``, ``outline``, or ``trace``
    settings : one ``(k,)`` column for each setting, NaN where a stretch has none
    low, high : ``(k, 2)`` how far its moves go, program coordinates in mm, run-ups included
    """

    names: tuple[str, ...]
    kinds: tuple[str, ...]
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
            {key: column[keep] for key, column in self.settings.items()},
            self.low[keep],
            self.high[keep],
        )

    def named(self, parts: Collection[str]) -> Moves:
        """Those of some parts of a run: a patch by its id, ``labels`` and ``outline`` for what is drawn."""
        part = [name if kind == "patch" else PART_OF[kind] for name, kind in zip(self.names, self.kinds, strict=True)]
        return self.only(np.array([one in parts for one in part], bool))

    def corrected(self, power: float, speed: float) -> Moves:
        """The same while power and speed are turned to so many times what the program says."""
        factors = {"power_pct": power, "corner_power_pct": power, "speed_mm_s": speed}
        settings = {key: column * factors.get(key, 1.0) for key, column in self.settings.items()}
        return replace(self, settings=settings)


# What is drawn goes out as two parts: before the patches, and after them.
PART_OF = {"label": "labels", "mark": "labels", "outline": "outline"}


@kept(16 * 2**20)
def _hatch_reach(figure: Figure, geometry: tuple[tuple[str, float], ...], turn: bytes) -> tuple[Floats, Floats, Floats]:
    """Where lines turned by `turn` reach: ``(g, 2)`` lowest and highest of all points that a mm of run-up moves the
    same way, and these ways ``(g, 2)``."""
    matrix = np.frombuffer(turn).reshape(2, 2)
    frame, outward = hatch_frame(figure, geometry)
    points, ways = (frame @ matrix).reshape(-1, 2), (outward @ matrix).reshape(-1, 2)
    # As complex numbers they are sorted as pairs, and faster than rows are.
    pairs, group = np.unique((ways.round(12) + 0.0).view(complex)[:, 0], return_inverse=True)
    directions = np.column_stack([pairs.real, pairs.imag])
    low, high = np.full(directions.shape, np.inf), np.full(directions.shape, -np.inf)
    np.minimum.at(low, group.ravel(), points)
    np.maximum.at(high, group.ravel(), points)
    return low, high, directions


def _turn(plate: Plate) -> tuple[Floats, Floats]:
    """Where the plate's origin comes to lie, and the matrix that turns a way on the plate into one of the program."""
    corners = np.array([(0.0, 0.0), (1.0, 0.0), (0.0, 1.0)])
    placed = to_program(corners, plate.trial, plate.width_mm, plate.height_mm)
    return placed[0], placed[1:] - placed[0]


def _patch_extents(plate: Plate) -> tuple[Floats, Floats]:
    """``(n, 2)`` lowest and highest of the patches that burn, in burn order."""
    order = plate.order
    origin, turn = _turn(plate)
    corner = np.column_stack([plate.x_mm, plate.y_mm])[order] @ turn + origin
    if plate.trial.process.toolpath == "outline":
        points = np.concatenate(plate.figure.ways) @ turn
        return corner + points.min(axis=0), corner + points.max(axis=0)
    run = run_up_mm(plate.trial.machine, plate.settings["speed_mm_s"][order])
    geometry = np.column_stack([plate.settings[key][order] for key in HATCH_GEOMETRY])
    kinds, kind = np.unique(geometry, axis=0, return_inverse=True)
    low, high = np.empty((len(order), 2)), np.empty((len(order), 2))
    for i, values in enumerate(kinds.tolist()):
        members = kind.ravel() == i
        lowest, highest, ways = _hatch_reach(
            plate.figure, tuple(zip(HATCH_GEOMETRY, values, strict=True)), turn.tobytes()
        )
        beyond = run[members][:, None, None] * ways
        low[members] = (lowest + beyond).min(axis=1)
        high[members] = (highest + beyond).max(axis=1)
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
    patch_low, patch_high = _patch_extents(plate)
    drawn_low, drawn_high = _drawn_extents(plate)
    drawn = [plate.drawn[i] for i in (*first, *last)]
    keys = dict.fromkeys([*plate.settings, *(key for part in drawn for key in part.settings)])
    nothing = np.full(len(plate.ids), np.nan)

    def column(key: str) -> Floats:
        beside = [part.settings.get(key, np.nan) for part in drawn]
        patches = plate.settings.get(key, nothing)[plate.order]
        return np.concatenate([beside[: len(first)], patches, beside[len(first) :]])

    ids = [plate.ids[index] for index in plate.order.tolist()]
    return Moves(
        names=(*(plate.drawn[i].name for i in first), *ids, *(plate.drawn[i].name for i in last)),
        kinds=(*(plate.drawn[i].kind for i in first), *("patch" for _ in ids), *(plate.drawn[i].kind for i in last)),
        settings={key: column(key) for key in keys},
        low=np.concatenate([drawn_low[first], patch_low, drawn_low[last]]),
        high=np.concatenate([drawn_high[first], patch_high, drawn_high[last]]),
    )
