"""The elements of an array: rows x columns x blocks of patches, and what each of them is set to."""

from __future__ import annotations

import numpy as np

from rezept.core.parameters import PARAMETERS, Settings
from rezept.core.plan.elements import Elements
from rezept.core.plan.layout import Layout
from rezept.core.plan.trial import Trial


def patch_settings(trial: Trial) -> Settings:
    """One ``(n,)`` array for each setting, in the order of the table; what was set by hand for one patch last."""
    grid = trial.grid
    columns: Settings = {}
    for axis in trial.axes:
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
    return settings


def patch_elements(trial: Trial, layout: Layout, burn: np.ndarray[tuple[int], np.dtype[np.bool_]]) -> Elements:
    """The patches of an array where they come to lie, all of one figure."""
    grid, patch = trial.grid, trial.patch
    return Elements(
        ids=grid.ids,
        row=grid.row + 1,
        column=grid.column + 1,
        block=None if grid.blocks is None else grid.block + 1,
        figures=(patch.figure,),
        figure=np.zeros(len(grid), np.int64),
        x_mm=layout.x_mm,
        y_mm=layout.y_mm,
        width_mm=np.full(len(grid), patch.width_mm),
        height_mm=np.full(len(grid), patch.height_mm),
        burn=burn,
    )
