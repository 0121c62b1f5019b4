"""`plan`: from a trial to its plate."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.path.figure import Figure
from rezept.core.path.motion import corner_heat, travel_seconds
from rezept.core.plan import checks, gate, reach
from rezept.core.plan.cautions import dropped
from rezept.core.plan.distinct import distinct_warning
from rezept.core.plan.drawn import Drawn, drawn_seconds, label_ways
from rezept.core.plan.fit import fitted
from rezept.core.plan.ground import placed_clear
from rezept.core.plan.layout import lay_out
from rezept.core.plan.marks import USUAL_SPOT_MM
from rezept.core.plan.moves import moves_of
from rezept.core.plan.order import Cooling, burn_order, cooling
from rezept.core.plan.patches import (
    Settings,
    entry_and_exit,
    patch_dose,
    patch_figure,
    patch_seconds,
    patch_settings,
    refuse_endless,
)
from rezept.core.plan.place import to_program
from rezept.core.plan.plate import Plate, Warning
from rezept.core.plan.trial import Piece, Trial

Floats = NDArray[np.float64]


def _hops(
    trial: Trial,
    figure: Figure,
    settings: Settings,
    corner: Floats,
    order: NDArray[np.int64],
    drawn: tuple[Drawn, ...],
    plate_mm: tuple[float, float],
) -> Floats:
    """``(k,)`` seconds of every move between the parts of a plate: from work zero to the first, and so on, and back."""
    entry, leave = entry_and_exit(trial, figure, settings)
    first = [part for part in drawn if not part.last]
    last = [part for part in drawn if part.last]
    stops = [np.stack([part.start, part.end]) for part in first]
    stops.append(np.stack([corner[order] + entry[order], corner[order] + leave[order]], axis=1).reshape(-1, 2))
    stops += [np.stack([part.start, part.end]) for part in last]
    way = np.concatenate([np.zeros((1, 2)), to_program(np.concatenate(stops), trial, *plate_mm), np.zeros((1, 2))])
    return travel_seconds(trial.machine, np.linalg.norm(way[1::2] - way[::2], axis=1))


def _cooling(trial: Trial, order: NDArray[np.int64], seconds: Floats, hops: Floats, burned_before: int) -> Cooling:
    """When each patch burns, counted from the first, and what that is worth."""
    between = hops[burned_before : burned_before + len(order)]
    end = np.cumsum(seconds[order] + between)
    return cooling(order, trial.grid.line, trial.grid.place, end - seconds[order], end)


def _corner_heat(trial: Trial, figure: Figure, settings: Settings) -> tuple[Floats, Floats]:
    """Rise of dose at the sharpest corner of each patch, and how far before it the head slows."""
    count = len(settings["speed_mm_s"])
    loops = figure.loops if trial.process.toolpath == "outline" else ()
    if not loops or trial.machine.power_mode == "follows_speed":
        return np.ones(count), np.zeros(count)
    spot = trial.machine.head.spot_mm or USUAL_SPOT_MM
    speeds, which = np.unique(settings["speed_mm_s"], return_inverse=True)
    heats = [corner_heat(trial.machine, loop, speeds, spot) for loop in loops]
    rise, way = (np.max([heat[i] for heat in heats], axis=0)[which] for i in (0, 1))
    return rise, way


def _all_there(trial: Trial) -> None:
    """Raise `InvalidInput` where a patch is named that the plate has not."""
    known = set(trial.grid.ids)
    for key, named in (("off", trial.off), ("overrides", frozenset(trial.overrides))):
        unknown = sorted(named - known)
        if unknown:
            path = key if key == "off" else f"{key}.{unknown[0]}"
            raise InvalidInput(f"There is no patch {unknown[0]} on this plate.", path, unknown[0])


def _burns(trial: Trial, dose: Floats) -> NDArray[np.bool_]:
    """Which patches burn: those not switched off, within the limits of dose.

    Raises
    ------
    InvalidInput : all are switched off, or dropped
    """
    ids = trial.grid.ids
    burn = np.array([patch not in trial.off for patch in ids])
    if not burn.any():
        raise InvalidInput("Every patch is switched off; nothing would burn.", "off")
    burn &= ~dropped(trial, dose)
    if not burn.any():
        raise InvalidInput("The limits of dose leave no patch to burn.", trial.process.dose_limit_key("ceiling"))
    return burn


def plan(trial: Trial) -> Plate:
    """Everything about the plate of a trial: patches, places, doses, times, order, warnings.

    Raises
    ------
    InvalidInput : all patches are switched off, one that is not there is, or a text has no strokes
    """
    trial = fitted(trial)
    grid = trial.grid
    _all_there(trial)
    settings = patch_settings(trial)
    dose = patch_dose(trial, settings)
    burn = _burns(trial, dose)
    layout = lay_out(trial)
    plate_mm = (layout.width_mm, layout.height_mm)
    trial = placed_clear(trial, *plate_mm)
    if trial.piece is None:
        trial = replace(trial, piece=Piece("rectangle", *plate_mm, 0.0))
    figure = patch_figure(trial.patch)
    refuse_endless(trial, figure, settings, burn)
    order = burn_order(trial.order, grid.line, grid.place, dose, burn)
    drawn = label_ways(trial, layout)
    seconds = patch_seconds(trial, figure, settings)
    hops = _hops(trial, figure, settings, np.column_stack([layout.x_mm, layout.y_mm]), order, drawn, plate_mm)
    heat = _corner_heat(trial, figure, settings)
    corners = reach.patch_corners(trial, layout.x_mm, layout.y_mm)
    findings = checks.patch_findings(trial, settings, dose, seconds, corners, plate_mm, heat)
    plate = Plate(
        trial=trial,
        width_mm=layout.width_mm,
        height_mm=layout.height_mm,
        ids=grid.ids,
        row=grid.row + 1,
        column=grid.column + 1,
        block=None if grid.blocks is None else grid.block + 1,
        figure=figure,
        x_mm=layout.x_mm,
        y_mm=layout.y_mm,
        burn=burn,
        settings=settings,
        dose=dose,
        seconds=seconds,
        corner_rise=heat[0],
        corner_slowing_mm=heat[1],
        order=order,
        cooling=_cooling(trial, order, seconds, hops, sum(not part.last for part in drawn)),
        texts=layout.texts,
        marks=layout.marks,
        hang_hole=layout.hang_hole,
        drawn=drawn,
        label_seconds=drawn_seconds(trial, drawn),
        travel_seconds=float(hops.sum()),
        warnings=(),
        patch_warnings=checks.per_patch(grid.ids, burn, findings),
    )
    return _warned(plate)


def _warned(plate: Plate) -> Plate:
    """The plate with what the gate would say of it today, and all there is to say of it as a whole."""
    trial = plate.trial
    moves = moves_of(plate)
    refusals = gate.gate(plate, gate.Today(trial.machine, trial.material), "drawing")
    of_patch: dict[str, list[Warning]] = {}
    for refusal in refusals:
        if refusal.is_patch:
            of_patch.setdefault(refusal.part, []).append(refusal.warning)
    many = distinct_warning(plate)
    return plate.warned(
        (
            *(refusal.warning for refusal in refusals if not refusal.is_patch),
            *gate.against_a_program(trial, moves),
            *checks.plate_warnings(trial, plate.settings, [text.text for text in plate.texts]),
            *reach.place_warnings(trial, moves, (plate.width_mm, plate.height_mm)),
            *([] if many is None else [many]),
        ),
        tuple(
            (*of_patch.get(patch, ()), *warnings)
            for patch, warnings in zip(plate.ids, plate.patch_warnings, strict=True)
        ),
    )
