"""`plan`: from a trial to its plate."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.path.motion import travel_seconds
from rezept.core.plan.by_hand import least_turned
from rezept.core.plan.cautions import dropped
from rezept.core.plan.checked import checked
from rezept.core.plan.drawn import Drawn, drawn_seconds, label_ways
from rezept.core.plan.elements import Elements, Step, Work, dose_of, entry_and_exit, refuse_endless, worked_step
from rezept.core.plan.fit import fitted
from rezept.core.plan.ground import placed_clear
from rezept.core.plan.layout import id_texts, lay_out
from rezept.core.plan.order import Cooling, burn_order, cooling, least_of
from rezept.core.plan.patches import patch_elements, patch_settings, step_figures
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


@dataclass(frozen=True)
class Turns:
    """In which order a plate burns.

    order : ``(k, 2)`` element and step of everything that burns, first to last
    phases : of the array alone the elements of each stretch of it that goes once over the plate, and the steps that are
        burned there, all of them on one element before the next
    """

    order: Indices
    phases: tuple[tuple[Indices, tuple[int, ...]], ...]


def _turns(trial: Trial, steps: tuple[Step, ...], burn: NDArray[np.bool_]) -> Turns:
    """What is filled and marked comes before what is cut, step by step over the whole plate, round after round; or
    patch by patch, each with all its steps."""
    grid, first = trial.grid, len(trial.grid)
    numbers = range(len(steps))
    if trial.steps_order == "patch":
        stretches = [tuple(numbers)]
    else:
        stretches = [(number,) for number in sorted(numbers, key=lambda number: steps[number].process.passes_through)]
    phases = []
    for stretch in stretches:
        leading = steps[stretch[0]]
        turn = burn_order(trial.order, grid.line, grid.place, leading.dose[:first], burn[:first])
        by_hand = [
            steps[number].settings[key]
            for key in trial.machine.by_hand
            for number in stretch
            if key in steps[number].settings
        ]
        phases.append((least_turned(turn, by_hand), stretch))
    beside = np.arange(first, len(burn))
    rows = [
        np.column_stack([np.repeat(turn, len(stretch)), np.tile(stretch, len(turn))])
        for turn, stretch in ((np.concatenate([turn, beside]), stretch) for turn, stretch in phases)
    ]
    return Turns(np.concatenate(rows), tuple(phases))


def _cooling(trial: Trial, turns: Turns, steps: tuple[Step, ...], hops: Floats, burned_before: int) -> Cooling:
    """When each patch burns, counted from the first, and what that is worth: of several times over the plate the
    least."""
    found, at = [], burned_before
    for turn, stretch in turns.phases:
        seconds = np.sum([steps[number].seconds for number in stretch], axis=0)[turn]
        count = len(turn) * len(stretch)
        between = hops[at : at + count].reshape(len(turn), len(stretch)).sum(axis=1)
        end = np.cumsum(seconds + between)
        found.append(cooling(turn, trial.grid.line, trial.grid.place, end - seconds, end))
        at += count
    return least_of(found)


def _all_there(trial: Trial) -> None:
    """Raise `InvalidInput` where a patch is named that the plate has not."""
    known = set(trial.grid.ids)
    named = [("off", trial.off)] + [
        (trial.path_in_step(number, "overrides"), frozenset(step.overrides)) for number, step in enumerate(trial.steps)
    ]
    for key, patches in named:
        unknown = sorted(patches - known)
        if unknown:
            path = key if key == "off" else f"{key}.{unknown[0]}"
            raise InvalidInput(f"There is no patch {unknown[0]} on this plate.", path, unknown[0])


def _burns(trial: Trial, doses: Sequence[Floats]) -> NDArray[np.bool_]:
    """Which patches burn: those not switched off, in every step within its limits of dose, and all that are added one
    by one.

    Raises
    ------
    InvalidInput : all are switched off, or dropped
    """
    burn = np.array([patch not in trial.off for patch in trial.grid.ids])
    if not burn.any():
        raise InvalidInput("Every patch is switched off; nothing would burn.", "off")
    outside = np.zeros(len(doses[0]), bool)
    for number, (step, dose) in enumerate(zip(trial.steps, doses, strict=True)):
        outside |= dropped(trial.of_step(number), dose * trial.rounds)
        if not (burn & ~outside[: len(burn)]).any():
            path = trial.path_in_step(number, step.process.dose_limit_key("ceiling"))
            raise InvalidInput("The limits of dose leave no patch to burn.", path)
    return np.concatenate([burn & ~outside[: len(burn)], ~outside[len(burn) :]])


# Parts of elements a plate may have: with more its file is of hundreds of megabytes.
MOST_PARTS = 20_000


def _refuse_too_many_parts(trial: Trial, patches: int) -> None:
    parts = patches * len(trial.steps) * trial.rounds
    if parts > MOST_PARTS and parts > patches:
        raise InvalidInput(
            f"{patches} patches, {len(trial.steps)} steps and {trial.rounds} rounds make {parts} parts; {MOST_PARTS}"
            " are the most. Take fewer patches, or fewer rounds.",
            "rounds" if trial.rounds > 1 else "steps",
            parts,
            MOST_PARTS,
        )


def _works(trial: Trial, which: Sequence[int], patches: int) -> list[Work]:
    """What is done in each step, and its figure where that is not the patch's own."""
    return [
        Work(step.process, step.path, None if not any(which) else np.full(patches, figure))
        for step, figure in zip(trial.steps, which, strict=True)
    ]


def plan(trial: Trial, crowded: bool = False) -> Plate:
    """Everything about the plate of a trial: elements, steps, places, order, warnings; `crowded` as in `lay_out`.

    Raises
    ------
    InvalidInput : all patches are switched off, one that is not there is, or a text has no strokes
    """
    trial = fitted(trial, crowded)
    machine = trial.machine
    _all_there(trial)
    figures, which = step_figures(trial)
    settings = [patch_settings(trial.of_step(number)) for number in range(len(trial.steps))]
    patches = len(settings[0]["passes"])
    _refuse_too_many_parts(trial, patches)
    works = _works(trial, which, patches)
    burn = _burns(trial, [dose_of(machine, work.path, one) for work, one in zip(works, settings, strict=True)])
    layout = lay_out(trial, crowded)
    plate_mm = (layout.width_mm, layout.height_mm)
    trial = placed_clear(trial, *plate_mm)
    if trial.piece is None:
        trial = replace(trial, piece=Piece("rectangle", *plate_mm, 0.0))
    elements = patch_elements(trial, layout, burn, figures)
    if trial.labels.ids:
        marked = [name for name, burns in zip(elements.ids, burn.tolist(), strict=True) if burns]
        layout = replace(layout, texts=(*layout.texts, *id_texts(trial, marked, elements.boxes[burn])))
    refuse_endless(elements, [*zip(works, settings, strict=True)] * trial.rounds)
    once = [worked_step(machine, elements, work, one) for work, one in zip(works, settings, strict=True)]
    steps = tuple(once * trial.rounds)
    turns = _turns(trial, steps, burn)
    order = turns.order
    drawn = label_ways(trial, layout)
    hops = _hops(trial, elements, steps, order, drawn, plate_mm)
    before = [part for part in drawn if not part.last]
    plate = Plate(
        trial=trial,
        width_mm=layout.width_mm,
        height_mm=layout.height_mm,
        elements=elements,
        steps=steps,
        order=order,
        cooling=_cooling(trial, turns, steps, hops, len(before)),
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
