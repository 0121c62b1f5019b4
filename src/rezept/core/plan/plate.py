"""A plate: its elements with their steps, times, warnings and lettering."""

from __future__ import annotations

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept import __version__
from rezept.core.errors import InvalidInput, quoted
from rezept.core.plan.drawn import Drawn
from rezept.core.plan.elements import Elements, Step
from rezept.core.plan.layout import Text
from rezept.core.plan.marks import Mark
from rezept.core.plan.order import Cooling
from rezept.core.plan.steps import part_name
from rezept.core.plan.trial import Trial
from rezept.core.process import PROCESSES
from rezept.core.wording import counted

FORMAT = "rezept-plate"
VERSION = 1
LEVELS = ("note", "warning", "refusal")
# What a step says of itself beside process, settings and dose, where an element has several.
STEP_FIGURES = ("seconds", "corner_rise", "corner_slowing_mm")


def figure_id(number: int) -> str:
    """What the figures of a plate are called in its document: ``patch``, ``patch-2`` and so on."""
    return "patch" if number == 0 else f"patch-{number + 1}"


@dataclass(frozen=True)
class Warning:
    """Something to know before burning. A refusal keeps the files back until it is resolved."""

    kind: str
    level: str
    sentence: str
    path: str
    value: float | None = None
    limit: float | None = None

    def document(self) -> dict[str, Any]:
        return dict(vars(self))


@dataclass(frozen=True)
class Plate:
    """The plan of a trial: its elements with their steps, and everything else that is drawn.

    ``order`` ``(k, 2)`` lists what burns, first to last: which element, and which of its steps. ``drawn_known`` is
    False for a plate read from a file that does not say how its lettering, marks and cuts were drawn; ``planned_by``
    is the version of Rezept whose planner made it. ``mixed`` names parts of elements of a plate as it was burned of
    which no single setting says what they got; an element's own name means all of its parts.
    """

    trial: Trial
    width_mm: float
    height_mm: float
    elements: Elements
    steps: tuple[Step, ...]
    order: NDArray[np.int64]
    cooling: Cooling
    texts: tuple[Text, ...]
    marks: tuple[Mark, ...]
    hang_hole: tuple[float, float] | None
    drawn: tuple[Drawn, ...]
    label_seconds: float
    cut_seconds: float
    travel_seconds: float
    warnings: tuple[Warning, ...]
    patch_warnings: tuple[tuple[Warning, ...], ...]
    planned_by: str = __version__
    drawn_known: bool = True
    mixed: frozenset[str] = frozenset()
    # What was worked out of this very plate, by name; a plate made from it by `replace` begins anew.
    worked_out: dict[Hashable, Any] = field(default_factory=dict, init=False, repr=False, compare=False)

    @property
    def says_steps(self) -> bool:
        """Whether its steps are those of its trial, round after round; plates of others name one process only."""
        return len(self.steps) == len(self.trial.steps) * self.trial.rounds

    @property
    def judged_numbers(self) -> list[int]:
        """Which of its steps are those by whose outcome an element is judged: the trial's, in every round."""
        if self.says_steps:
            return list(range(self.trial.judged, len(self.steps), len(self.trial.steps)))
        return [max(i for i, step in enumerate(self.steps) if step.process is self.trial.process)]

    @property
    def judged(self) -> Step:
        """The step by whose outcome an element is judged, with the dose and time of all rounds."""
        own = [self.steps[number] for number in self.judged_numbers]
        if len(own) == 1:
            return own[0]
        dose, seconds = (np.sum([getattr(step, key) for step in own], axis=0) for key in ("dose", "seconds"))
        return replace(own[-1], dose=dose, seconds=seconds)

    def of_step(self, number: int) -> Plate:
        """The same plate judged by another step of its trial, each element having that step's figure."""
        figure = self.steps[number].work.figure
        if number == self.trial.judged and figure is None:
            return self
        elements = self.elements if figure is None else replace(self.elements, figure=figure)
        return replace(self, trial=self.trial.of_step(number), elements=elements)

    def by_process(self, key: str) -> Plate:
        """The same plate judged by the first of its steps of a process.

        Raises
        ------
        InvalidInput : it has none
        """
        keys = [step.process.key for step in self.trial.steps]
        if key not in keys:
            name = PROCESSES[key].name.lower() if key in PROCESSES else key
            raise InvalidInput(f"This trial set out to do this: {name}. Leave a step of it in.", "steps", key)
        return self.of_step(keys.index(key)) if len(keys) > 1 else self

    def by_name(self, name: str) -> Plate:
        """The same plate judged by its step of a name.

        Raises
        ------
        InvalidInput : it has none
        """
        names = [step.name for step in self.trial.steps]
        if name not in names:
            raise InvalidInput(f"The plate has no step {quoted(name)}; it has {', '.join(names)}.", "step", name)
        return self.of_step(names.index(name))

    def by_cut(self) -> Plate:
        """The same plate judged by the first of its steps that goes through the sheet, by which it is looked for in
        photographs; as it is where none does."""
        steps = enumerate(self.trial.steps)
        return self.of_step(next((i for i, one in steps if one.process.passes_through), self.trial.judged))

    def is_mixed(self, index: int) -> bool:
        """Whether no single setting says what the step an element is judged by got there."""
        parts = {self.elements.ids[index], *(self.part_name(index, number) for number in self.judged_numbers)}
        return bool(self.mixed & parts)

    @property
    def seconds(self) -> NDArray[np.float64]:
        """``(n,)`` of every element, all its steps."""
        seconds: NDArray[np.float64] = np.sum([step.seconds for step in self.steps], axis=0)
        return seconds

    @property
    def total_seconds(self) -> float:
        elements = float(self.seconds[self.elements.burn].sum())
        return elements + self.label_seconds + self.cut_seconds + self.travel_seconds

    def warnings_of(self, index: int, step: int) -> list[Warning]:
        """What is said of one step of an element: every sentence begins with what it is about."""
        name = self.part_name(index, step)
        return [one for one in self.patch_warnings[index] if one.sentence.startswith(f"{name}:")]

    @property
    def burning_words(self) -> str:
        """How much burns: ``16 patches``, ``16 patches in 2 steps``."""
        patches = counted(len(np.unique(self.order[:, 0])), "patch", "patches")
        return patches if len(self.steps) == 1 else f"{patches} in {len(self.steps)} steps"

    def step_name(self, number: int) -> str:
        """What one of its steps is called."""
        steps = self.trial.steps
        return steps[number % len(steps)].name if self.says_steps else self.steps[number].process.key

    def part_name(self, index: int, step: int) -> str:
        return part_name(self.elements.ids[index], step, len(self.steps))

    def parts(self) -> list[tuple[int, int, str]]:
        """Element, step and name of everything that burns in elements, first to last."""
        return [(index, step, self.part_name(index, step)) for index, step in self.order.tolist()]

    def only_in(
        self, order: NDArray[np.int64], drawn: tuple[Drawn, ...], steps: tuple[Step, ...] | None = None
    ) -> Plate:
        """The plate as if only these parts of its order burned, and only this of what is drawn."""
        burn = np.zeros(len(self.elements), bool)
        burn[order[:, 0]] = True
        elements = replace(self.elements, burn=burn)
        return replace(self, elements=elements, order=order, drawn=drawn, steps=steps or self.steps)

    def _hole(self) -> dict[str, float] | None:
        if self.hang_hole is None:
            return None
        x, y = self.hang_hole
        return {"x_mm": x, "y_mm": y, "size_mm": self.trial.cut_out.hang_hole_mm}

    def varied(self) -> list[str]:
        """Keys of the settings that differ between elements that burn."""
        burn = self.elements.burn
        keys = [key for step in self.steps for key, column in step.settings.items() if np.ptp(column[burn]) > 0]
        return list(dict.fromkeys(keys))

    def warned(
        self, warnings: tuple[Warning, ...], patch_warnings: tuple[tuple[Warning, ...], ...] | None = None
    ) -> Plate:
        """The same plate with other warnings; what was worked out of it still holds."""
        same = replace(self, warnings=warnings, patch_warnings=patch_warnings or self.patch_warnings)
        same.worked_out.update(self.worked_out)
        return same

    def refusals(self) -> list[Warning]:
        """Everything that must be resolved before there are files."""
        everything = [*self.warnings, *(warning for patch in self.patch_warnings for warning in patch)]
        return [warning for warning in everything if warning.level == "refusal"]

    def ways(self) -> dict[str, Any]:
        """How everything is drawn: what of the document only burning and files need, and screens do not."""
        return {
            "planned_by": self.planned_by,
            "figures": self._figures(),
            "drawn": [part.document() for part in self.drawn],
        }

    def _figures(self) -> list[dict[str, Any]]:
        return [
            {"id": figure_id(number), "ways": [way.tolist() for way in figure.ways]}
            for number, figure in enumerate(self.elements.figures)
        ]

    def document(self) -> dict[str, Any]:
        """The plate as house format `rezept-plate`, version 1: all that is burned."""
        light = self.light()
        for i, patch in enumerate(light["patches"]):
            patch |= self._burned_in(i)
        return {**light, **self.ways()} if self.drawn_known else light

    def _burned_in(self, index: int) -> dict[str, Any]:
        """Which figure an element has, and its steps."""
        return {
            "figure": figure_id(int(self.elements.figure[index])),
            "steps": [self._step(number, index) for number in range(len(self.steps))],
        }

    def _step(self, number: int, index: int) -> dict[str, Any]:
        """One step of an element; where it is the only one, dose and time stand with the element."""
        step = self.steps[number]
        said: dict[str, Any] = {"process": step.process.key, "settings": step.settings_of(index)}
        if step.work.figure is not None:
            said["figure"] = figure_id(int(step.work.figure[index]))
        if len(self.steps) > 1:
            said |= {step.process.dose_key: float(step.dose[index])}
            said |= {key: float(getattr(step, key)[index]) for key in STEP_FIGURES}
            said["set_by_hand"] = list(self._set_by_hand(number).get(self.elements.ids[index], ()))
        return said

    def _set_by_hand(self, number: int) -> Mapping[str, Mapping[str, float]]:
        """What was set by hand in one of its steps, by patch."""
        steps = self.trial.steps
        return steps[number % len(steps)].overrides if self.says_steps else {}

    def _of_the_only_step(self) -> dict[str, Sequence[Any]]:
        """What stands with the elements where they have one step: its settings, dose and corners."""
        if len(self.steps) > 1:
            return {}
        [step] = self.steps
        keys, columns = list(step.settings), [column.tolist() for column in step.settings.values()]
        return {
            "settings": [dict(zip(keys, values, strict=True)) for values in zip(*columns, strict=True)],
            step.process.dose_key: step.dose.tolist(),
            "corner_rise": step.corner_rise.tolist(),
            "corner_slowing_mm": step.corner_slowing_mm.tolist(),
            "set_by_hand": [list(self.trial.overrides.get(patch, ())) for patch in self.elements.ids],
        }

    def light(self) -> dict[str, Any]:
        """The plate's document without its ways, and where all elements have one figure and one step, without saying
        so of each: what is kept beside the ways, and what screens begin with."""
        elements = self.elements
        blocks = [None] * len(elements) if elements.block is None else elements.block.tolist()
        x, y, width, height = (column.tolist() for column in elements.boxes.T)
        said: dict[str, Sequence[Any]] = {
            "id": elements.ids,
            "row": elements.row.tolist(),
            "column": elements.column.tolist(),
            "block": blocks,
            "x_mm": x,
            "y_mm": y,
            "width_mm": width,
            "height_mm": height,
            "burn": elements.burn.tolist(),
            **self._of_the_only_step(),
            "seconds": self.seconds.tolist(),
            "warnings": [[warning.document() for warning in warnings] for warnings in self.patch_warnings],
        }
        patches = [dict(zip(said, values, strict=True)) for values in zip(*said.values(), strict=True)]
        if len(elements.figures) > 1 or len(self.steps) > 1:
            # Where there are several, or several figures, each element says its own.
            patches = [{**patch, **self._burned_in(i)} for i, patch in enumerate(patches)]
        return {
            "format": FORMAT,
            "version": VERSION,
            "trial": self.trial.document(),
            "plate": {"width_mm": self.width_mm, "height_mm": self.height_mm},
            "hang_hole": self._hole(),
            "marks": [mark.document() for mark in self.marks],
            "patches": patches,
            "order": [name for _, _, name in self.parts()],
            "cooling": dict(vars(self.cooling)),
            "seconds": self.total_seconds,
            "label_seconds": self.label_seconds,
            "cut_seconds": self.cut_seconds,
            "travel_seconds": self.travel_seconds,
            "warnings": [warning.document() for warning in self.warnings],
        }
