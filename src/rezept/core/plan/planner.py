"""`plan`: from a trial to its plate."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.path.motion import travel_seconds
from rezept.core.plan.by_hand import least_turned
from rezept.core.plan.cautions import dropped
from rezept.core.plan.checked import checked
from rezept.core.plan.drawn import Drawn, drawn_seconds, label_ways
from rezept.core.plan.elements import Elements, Step, dose_of, entry_and_exit, refuse_endless, work_of, worked_step
from rezept.core.plan.fit import fitted
from rezept.core.plan.ground import placed_clear
from rezept.core.plan.layout import id_texts, lay_out
from rezept.core.plan.order import Cooling, burn_order, cooling
from rezept.core.plan.patches import patch_elements, patch_settings
from rezept.core.plan.place import to_program
from rezept.core.plan.plate import Plate
from rezept.core.plan.trial import Piece, Trial

Indices = NDArray[np.int64]
Floats = NDArray[np.float64]


def _hops(
    trial: Trial,
    elements: Elements,
    steps: tuple[Step, ...],
    order: Indices,
    drawn: tuple[Drawn, ...],
    plate_mm: tuple[float, float],
) -> Floats:
    """``(k,)`` seconds of every move between the parts of a plate: from work zero to the first, and so on, and back."""
    ends = np.array([entry_and_exit(elements, step) for step in steps])
    which, step = order.T
    stops = [np.stack([part.start, part.end]) for part in drawn if not part.last]
    stops.append(np.stack([ends[step, 0, which], ends[step, 1, which]], axis=1).reshape(-1, 2))
    stops += [np.stack([part.start, part.end]) for part in drawn if part.last]
    way = np.concatenate([np.zeros((1, 2)), to_program(np.concatenate(stops), trial, *plate_mm), np.zeros((1, 2))])
    return travel_seconds(trial.machine, np.linalg.norm(way[1::2] - way[::2], axis=1))


def _cooling(trial: Trial, order: Indices, seconds: Floats, hops: Floats, burned_before: int) -> Cooling:
    """When each patch burns, counted from the first, and what that is worth."""
    between = hops[burned_before : burned_before + len(order)]
    end = np.cumsum(seconds[order] + between)
    return cooling(order, trial.grid.line, trial.grid.place, end - seconds[order], end)


def _all_there(trial: Trial) -> None:
    """Raise `InvalidInput` where a patch is named that the plate has not."""
    known = set(trial.grid.ids)
    for key, named in (("off", trial.off), ("overrides", frozenset(trial.overrides))):
        unknown = sorted(named - known)
        if unknown:
            path = key if key == "off" else f"{key}.{unknown[0]}"
            raise InvalidInput(f"There is no patch {unknown[0]} on this plate.", path, unknown[0])


def _burns(trial: Trial, dose: Floats) -> NDArray[np.bool_]:
    """Which patches burn: those not switched off, within the limits of dose, and all that are added one by one.

    Raises
    ------
    InvalidInput : all are switched off, or dropped
    """
    burn = np.array([patch not in trial.off for patch in trial.grid.ids])
    if not burn.any():
        raise InvalidInput("Every patch is switched off; nothing would burn.", "off")
    outside = dropped(trial, dose)
    burn &= ~outside[: len(burn)]
    if not burn.any():
        raise InvalidInput("The limits of dose leave no patch to burn.", trial.process.dose_limit_key("ceiling"))
    return np.concatenate([burn, ~outside[len(burn) :]])


def plan(trial: Trial, crowded: bool = False) -> Plate:
    """Everything about the plate of a trial: elements, steps, places, order, warnings; `crowded` as in `lay_out`.

    Raises
    ------
    InvalidInput : all patches are switched off, one that is not there is, or a text has no strokes
    """
    trial = fitted(trial, crowded)
    grid, machine = trial.grid, trial.machine
    _all_there(trial)
    settings = patch_settings(trial)
    work = work_of(trial.process)
    dose = dose_of(machine, work.path, settings)
    burn = _burns(trial, dose)
    layout = lay_out(trial, crowded)
    plate_mm = (layout.width_mm, layout.height_mm)
    trial = placed_clear(trial, *plate_mm)
    if trial.piece is None:
        trial = replace(trial, piece=Piece("rectangle", *plate_mm, 0.0))
    elements = patch_elements(trial, layout, burn)
    if trial.labels.ids:
        marked = [name for name, burns in zip(elements.ids, burn.tolist(), strict=True) if burns]
        layout = replace(layout, texts=(*layout.texts, *id_texts(trial, marked, elements.boxes[burn])))
    refuse_endless(elements, [(work, settings)])
    step = worked_step(machine, elements, work, settings)
    first = len(grid)
    turn = burn_order(trial.order, grid.line, grid.place, dose[:first], burn[:first])
    turn = least_turned(turn, [settings[key] for key in machine.by_hand if key in settings])
    array_turn, turn = turn, np.concatenate([turn, np.arange(first, len(elements))])
    order = np.column_stack([turn, np.zeros_like(turn)])
    drawn = label_ways(trial, layout)
    hops = _hops(trial, elements, (step,), order, drawn, plate_mm)
    before = [part for part in drawn if not part.last]
    plate = Plate(
        trial=trial,
        width_mm=layout.width_mm,
        height_mm=layout.height_mm,
        elements=elements,
        steps=(step,),
        order=order,
        cooling=_cooling(trial, array_turn, step.seconds, hops, len(before)),
        texts=layout.texts,
        marks=layout.marks,
        hang_hole=layout.hang_hole,
        drawn=drawn,
        label_seconds=drawn_seconds(trial, before),
        cut_seconds=drawn_seconds(trial, [part for part in drawn if part.last]),
        travel_seconds=float(hops.sum()),
        warnings=(),
        patch_warnings=(),
    )
    return checked(plate)
