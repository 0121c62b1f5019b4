"""Making an array fit its piece: more patches, as many as there is room for, or smaller ones."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.plan.axes import MOST_PATCHES, Axis, with_count
from rezept.core.plan.ground import clear_place
from rezept.core.plan.layout import lay_out
from rezept.core.plan.place import beyond_piece
from rezept.core.plan.trial import Trial

SMALLEST_PATCH_MM = 1.0
MOST_STEPS = 60


def fits(trial: Trial, crowded: bool = False) -> bool:
    """Whether the plate of a trial lies within its piece, margin left free, and on clear ground where it asks so;
    `crowded` as in `lay_out`."""
    layout = lay_out(trial, crowded)
    if trial.place.at == "clear" and trial.piece is not None:
        ground, turn = trial.burned_ground, trial.place.turn_deg
        return clear_place(trial.piece, ground, turn, layout.width_mm, layout.height_mm) is not None
    return beyond_piece(trial, layout.width_mm, layout.height_mm) <= 1e-6


def _largest(good: Callable[[int], bool], low: int, high: int) -> int:
    """The largest number from `low` to `high` that is good, when all below it are; `low` is taken as good."""
    while low < high:
        middle = (low + high + 1) // 2
        low, high = (middle, high) if good(middle) else (low, middle - 1)
    return low


def _counted(trial: Trial, along: str, count: int) -> Trial:
    """The trial with another number of steps along one axis, its ends kept."""

    def changed(axis: Axis) -> Axis:
        return axis if axis.along != along else with_count(axis, count, trial.machine)

    return replace(trial, axes=tuple(changed(axis) for axis in trial.axes))


def _more_patches(trial: Trial, crowded: bool) -> Trial:
    free = [axis.along for axis in trial.axes if axis.along in ("x", "y") and axis.spacing is not None]
    for along in free:
        trial = _counted(trial, along, 2)
    if not free or not fits(trial, crowded):
        raise InvalidInput(
            "Not even two steps each way fit on this piece; take smaller patches or another piece.", "fit"
        )
    others = len(trial.grid)
    best = trial
    most = min(MOST_STEPS, MOST_PATCHES // max(1, others // 4))
    for first in range(2, most + 1):
        wide = _counted(trial, free[0], first)
        if not fits(wide, crowded):
            break
        if len(free) > 1:
            room = MOST_PATCHES // max(1, len(wide.grid) // 2)
            steps = _largest(lambda n, wide=wide: fits(_counted(wide, free[1], n), crowded), 2, min(MOST_STEPS, room))  # type: ignore[misc]
            wide = _counted(wide, free[1], steps)
        if len(wide.grid) > len(best.grid):
            best = wide
    return best


def _smaller_patches(trial: Trial, crowded: bool) -> Trial:
    patch = trial.patch

    def scaled(tenths: int) -> Trial:
        """With a patch whose longer side is so many tenths of a mm."""
        factor = tenths / 10.0 / max(patch.width_mm, patch.height_mm)
        width, height = (float(np.round(side * factor, 3)) for side in (patch.width_mm, patch.height_mm))
        return replace(trial, patch=replace(patch, width_mm=width, height_mm=height))

    if fits(trial, crowded):
        return trial
    smallest = int(SMALLEST_PATCH_MM * 10)
    if not fits(scaled(smallest), crowded):
        raise InvalidInput(
            f"Even with patches of {SMALLEST_PATCH_MM:g} mm the plate does not fit on this piece: take a smaller gap,"
            " fewer steps or less lettering.",
            "fit",
        )
    largest = int(max(patch.width_mm, patch.height_mm) * 10)
    return scaled(_largest(lambda tenths: fits(scaled(tenths), crowded), smallest, largest))


def fitted(trial: Trial, crowded: bool = False) -> Trial:
    """The trial made to fit its piece in the way it asks for.

    Raises
    ------
    InvalidInput : it cannot be made to fit
    """
    if trial.fit == "as_given" or trial.piece is None:
        return trial
    fit = _more_patches if trial.fit == "more_patches" else _smaller_patches
    return fit(trial, crowded)
