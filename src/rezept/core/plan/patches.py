"""The elements of an array: rows x columns x blocks of patches, and what each of them is set to."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.parameters import PARAMETERS, Settings
from rezept.core.path.figure import Figure
from rezept.core.plan.elements import Elements
from rezept.core.plan.grid import row_letters
from rezept.core.plan.layout import Layout
from rezept.core.plan.trial import Trial

Indices = NDArray[np.int64]


def patch_settings(trial: Trial) -> Settings:
    """One ``(n,)`` array for each setting of the step that is asked about, in the order of the table; what was set by
    hand for one patch last."""
    grid = trial.grid
    columns: Settings = {}
    for axis in trial.own_axes:
        columns[axis.parameter] = np.array(axis.values, float)[grid.step[axis.along]]
    for key, value in trial.hold.items():
        columns[key] = np.full(len(grid), float(value))
    if trial.listed is not None:
        columns |= {key: trial.listed.column(key, trial.hold) for key in trial.listed.keys}
    settings = {key: columns[key] for key in PARAMETERS if key in columns}
    index = {patch: i for i, patch in enumerate(grid.ids)} if trial.overrides else {}
    for patch, changed in trial.overrides.items():
        for key, value in changed.items():
            settings[key][index[patch]] = value
    if trial.added is None:
        return settings
    return {key: np.concatenate([column, trial.added.column(key, trial.hold)]) for key, column in settings.items()}


def _named_beside(trial: Trial) -> tuple[tuple[str, ...], Indices, Indices, int]:
    """What patches beside a plate are called, their rows and columns from 1, and the block they make up where the plate
    has blocks: rows and columns go on where there are none."""
    assert trial.added is not None
    grid = trial.grid
    row, column = trial.added.cells()
    block = 0 if grid.blocks is None else int(grid.block.max()) + 2
    if not block:
        row, column = (
            (row, column + grid.inner.columns) if trial.added.side == "right" else (row + grid.inner.rows, column)
        )
    before = f"{block}-" if block else ""
    names = [
        f"{before}{row_letters(up + 1)}{across + 1}" for up, across in zip(row.tolist(), column.tolist(), strict=True)
    ]
    return tuple(names), row + 1, column + 1, block


def step_figures(trial: Trial) -> tuple[tuple[Figure, ...], list[int]]:
    """The figures of a patch, its own first, and which of them each step has.

    Raises
    ------
    InvalidInput : a step has none: nothing of the patch lies so far inside
    """
    patch = trial.patch
    figures, which = [patch.figure], []
    for number, step in enumerate(trial.steps):
        try:
            figure = step.figure_in(patch.figure, patch.width_mm, patch.height_mm)
        except InvalidInput as error:
            raise InvalidInput(error.sentence, f"steps[{number}].{error.path}", error.value) from error
        if figure not in figures:
            figures.append(figure)
        which.append(figures.index(figure))
        if step.process.fills and not figure.loops:
            raise InvalidInput(f"Nothing of this figure is closed, so {step.name} has nothing to fill.", "patch.shape")
    return tuple(figures), which


def patch_elements(
    trial: Trial,
    layout: Layout,
    burn: np.ndarray[tuple[int], np.dtype[np.bool_]],
    figures: tuple[Figure, ...] | None = None,
) -> Elements:
    """The patches of an array and those beside it where they come to lie, all of one figure, the first."""
    grid, patch = trial.grid, trial.patch
    ids, row, column, block = grid.ids, grid.row + 1, grid.column + 1, grid.block + 1
    if trial.added is not None:
        names, up, across, number = _named_beside(trial)
        ids, row, column = ids + names, np.concatenate([row, up]), np.concatenate([column, across])
        block = np.concatenate([block, np.full(len(names), number)])
    return Elements(
        ids=ids,
        row=row,
        column=column,
        block=None if grid.blocks is None else block,
        figures=figures or (patch.figure,),
        figure=np.zeros(len(ids), np.int64),
        x_mm=layout.x_mm,
        y_mm=layout.y_mm,
        width_mm=np.full(len(ids), patch.width_mm),
        height_mm=np.full(len(ids), patch.height_mm),
        burn=burn,
    )
