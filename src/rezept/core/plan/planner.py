"""`plan`: from a trial to its plate."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.path.motion import path_seconds, travel_seconds
from rezept.core.path.outlines import rectangle
from rezept.core.plan import checks
from rezept.core.plan.layout import Text, lay_out
from rezept.core.plan.order import burn_order
from rezept.core.plan.patches import (
    HATCH_GEOMETRY,
    Settings,
    pass_lines,
    patch_dose,
    patch_ids,
    patch_seconds,
    patch_settings,
)
from rezept.core.plan.place import to_program
from rezept.core.plan.plate import Plate
from rezept.core.plan.trial import Piece, Trial


@dataclass(frozen=True)
class Lettering:
    """All strokes of the labels in burn order: points ``(n, 2)`` and which of them begin a stroke."""

    points: NDArray[np.float64]
    begins: NDArray[np.bool_]


def lettering(texts: tuple[Text, ...]) -> Lettering | None:
    """The lettering of a plate, None where nothing is written."""
    parts = [text.points() for text in texts]
    if not parts:
        return None
    return Lettering(np.concatenate([points for points, _ in parts]), np.concatenate([begins for _, begins in parts]))


def label_seconds(trial: Trial, letters: Lettering | None) -> float:
    """Time of the lettering with the moves between its strokes.

    A stroke is repeated at once, pass after pass; only then comes the hop to the next.
    """
    if letters is None:
        return 0.0
    settings = trial.labels.settings
    passes = settings["passes"]
    steps = np.linalg.norm(np.diff(letters.points, axis=0), axis=1)
    hop = letters.begins[1:]
    burning = path_seconds(trial.machine, steps[~hop], settings["speed_mm_s"])[0] * passes
    first = np.flatnonzero(letters.begins)
    last = np.append(first[1:], len(letters.points)) - 1
    back = travel_seconds(trial.machine, np.linalg.norm(letters.points[first] - letters.points[last], axis=1)).sum()
    return float(burning + back * (passes - 1) + travel_seconds(trial.machine, steps[hop]).sum())


def entry_and_exit(trial: Trial, settings: Settings) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """``(n, 2)`` offsets within a patch where its burn begins and ends."""
    count = len(settings["speed_mm_s"])
    if trial.process.toolpath == "outline":
        corner = rectangle(trial.patch.width_mm, trial.patch.height_mm)[0]
        return np.tile(corner, (count, 1)), np.tile(corner, (count, 1))
    kinds, kind = np.unique(np.column_stack([settings[key] for key in HATCH_GEOMETRY]), axis=0, return_inverse=True)
    ends = []
    for values in kinds:
        passes = pass_lines(
            trial.patch.width_mm, trial.patch.height_mm, dict(zip(HATCH_GEOMETRY, values.tolist(), strict=True))
        )
        ends.append((passes[0][0, 0], passes[-1][-1, 1]))
    chosen = np.array(ends)[kind.ravel()]
    return chosen[:, 0], chosen[:, 1]


def _travel_seconds(
    trial: Trial,
    settings: Settings,
    corner: NDArray[np.float64],
    order: NDArray[np.int64],
    letters: Lettering | None,
    plate_mm: tuple[float, float],
) -> float:
    """Time with the beam off: from work zero over the labels and every patch in order, and back."""
    entry, leave = entry_and_exit(trial, settings)
    stops = [letters.points[:1], letters.points[-1:]] if letters else []
    on_plate = np.concatenate(
        [
            *stops,
            np.stack([corner[order] + entry[order], corner[order] + leave[order]], axis=1).reshape(-1, 2),
        ]
    )
    way = np.concatenate([np.zeros((1, 2)), to_program(on_plate, trial, *plate_mm), np.zeros((1, 2))])
    hops = np.linalg.norm(way[1::2] - way[::2], axis=1)
    return float(travel_seconds(trial.machine, hops).sum())


def plan(trial: Trial) -> Plate:
    """Everything about the plate of a trial: patches, places, doses, times, order, warnings.

    Raises
    ------
    InvalidInput : all patches are switched off, one that is not there is, or a text has no strokes
    """
    ids = patch_ids(trial.rows, trial.columns)
    unknown = sorted(trial.off - set(ids))
    if unknown:
        raise InvalidInput(f"There is no patch {unknown[0]} on this plate.", "off", unknown[0])
    burn = np.array([patch not in trial.off for patch in ids])
    if not burn.any():
        raise InvalidInput("Every patch is switched off; nothing would burn.", "off")
    row, column = (index.ravel() for index in np.indices((trial.rows, trial.columns)))
    settings = patch_settings(trial)
    layout = lay_out(trial)
    plate_mm = (layout.width_mm, layout.height_mm)
    if trial.piece is None:
        trial = trial.with_piece(Piece("rectangle", *plate_mm, 0.0))
    x, y = layout.column_x_mm[column], layout.row_y_mm[row]
    dose = patch_dose(trial, settings)
    order = burn_order(trial.order, row, column, dose, burn)
    letters = lettering(layout.texts)
    findings = checks.limit_findings(trial, settings)
    reach = checks.patch_reach(trial, settings, x, y, plate_mm)
    findings.append(checks.field_finding(trial, reach))
    hot = checks.hot_end_finding(trial, dose, burn)
    if hot is not None:
        findings.append(hot)
    return Plate(
        trial=trial,
        width_mm=layout.width_mm,
        height_mm=layout.height_mm,
        ids=ids,
        row=row + 1,
        column=column + 1,
        x_mm=x,
        y_mm=y,
        burn=burn,
        settings=settings,
        dose=dose,
        seconds=patch_seconds(trial, settings),
        order=order,
        texts=layout.texts,
        label_seconds=label_seconds(trial, letters),
        travel_seconds=_travel_seconds(trial, settings, np.column_stack([x, y]), order, letters, plate_mm),
        warnings=(*checks.plate_warnings(trial, settings), *checks.place_warnings(trial, reach, plate_mm)),
        patch_warnings=checks.per_patch(ids, burn, findings),
    )
