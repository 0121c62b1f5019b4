"""What a plate is made of: elements, each with a figure in a box, and the ordered steps that are burned in them.

Both are held as columns ``(n,)`` over the elements. Rows x columns x blocks of an array are one source of elements;
whatever else makes some hands over the same columns.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.dose import power_w
from rezept.core.errors import InvalidInput
from rezept.core.machine import Machine
from rezept.core.parameters import Settings
from rezept.core.path.figure import Figure
from rezept.core.path.hatch import MOST_HATCHES, MOST_LINES, LineCount
from rezept.core.path.toolpath import Toolpath, toolpath_of
from rezept.core.process import Process

Floats = NDArray[np.float64]
Indices = NDArray[np.int64]


def box_corners(boxes: Floats, beyond_mm: float = 0.0) -> Floats:
    """``(n, 4, 2)`` corners of boxes ``(n, 4)``, counter-clockwise from the lower left, so far out from them."""
    unit = np.array([(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)])
    corners: Floats = boxes[:, None, :2] + boxes[:, None, 2:] * unit + beyond_mm * (2 * unit - 1)
    return corners


@dataclass(frozen=True)
class Elements:
    """n elements of a plate.

    ids : as people call them; row, column, block : ``(n,)`` from 1, where they lie in their array; `block` is None
        without blocks
    figures : what is burned; figure : ``(n,)`` which of them each element has
    x_mm, y_mm, width_mm, height_mm : ``(n,)`` the box of each, its lower left on the plate
    burn : ``(n,)`` whether it burns at all
    """

    ids: tuple[str, ...]
    row: Indices
    column: Indices
    block: Indices | None
    figures: tuple[Figure, ...]
    figure: Indices
    x_mm: Floats
    y_mm: Floats
    width_mm: Floats
    height_mm: Floats
    burn: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.ids)

    @property
    def corners(self) -> Floats:
        """``(n, 2)`` lower left of each on the plate."""
        return np.column_stack([self.x_mm, self.y_mm])

    @property
    def boxes(self) -> Floats:
        """``(n, 4)`` x, y, width and height of each."""
        return np.column_stack([self.x_mm, self.y_mm, self.width_mm, self.height_mm])

    def figure_of(self, index: int, which: Indices | None = None) -> Figure:
        """The figure of an element; `which` ``(n,)`` says which it is where a step has another than the element."""
        return self.figures[int((self.figure if which is None else which)[index])]

    def by_figure(self, which: Indices | None = None) -> Iterator[tuple[Figure, Indices]]:
        """Each figure with the elements that have it, likewise."""
        which = self.figure if which is None else which
        for number, figure in enumerate(self.figures):
            members = np.flatnonzero(which == number)
            if len(members):
                yield figure, members


@dataclass(frozen=True)
class Work:
    """What is done in a step, whatever it is set to.

    path : how the beam goes
    figure : ``(n,)`` which of the plate's figures it has in each element; None: the element's own
    """

    process: Process
    path: Toolpath
    figure: Indices | None = None


def work_of(process: Process) -> Work:
    """A process as it is done where nobody says more."""
    return Work(process, toolpath_of(process))


@dataclass(frozen=True)
class Step:
    """One step as all elements have it, every figure a column ``(n,)``.

    dose : J/mm or J/mm2 by process; seconds : with all passes and the moves inside the element
    corner_rise : dose at an element's sharpest corner over that on its straights
    corner_slowing_mm : how far before it the head slows
    """

    work: Work
    settings: Settings
    dose: Floats
    seconds: Floats
    corner_rise: Floats
    corner_slowing_mm: Floats

    @property
    def process(self) -> Process:
        return self.work.process

    def settings_of(self, index: int) -> dict[str, float]:
        return {key: float(column[index]) for key, column in self.settings.items()}


def of_elements(settings: Settings, elements: Indices) -> Settings:
    """The settings of some elements."""
    return {key: column[elements] for key, column in settings.items()}


def _each_figure(
    elements: Elements, work: Work, settings: Settings, worked: Callable[[Figure, Settings], tuple[Floats, ...]]
) -> tuple[Floats, ...]:
    """What is worked out figure by figure, put together again in the order of the elements."""
    groups = list(elements.by_figure(work.figure))
    if len(groups) == 1:
        return worked(groups[0][0], settings)
    parts = [(members, worked(figure, of_elements(settings, members))) for figure, members in groups]
    whole = tuple(np.empty((len(elements), *column.shape[1:])) for column in parts[0][1])
    for members, columns in parts:
        for into, column in zip(whole, columns, strict=True):
            into[members] = column
    return whole


def dose_of(machine: Machine, path: Toolpath, settings: Settings) -> Floats:
    """Dose of each element: J/mm along lines, J/mm2 over areas."""
    return path.dose(power_w(machine.rated_power_w, settings["power_pct"]), settings)


def seconds_of(machine: Machine, elements: Elements, work: Work, settings: Settings) -> Floats:
    """``(n,)`` seconds that each element burns in one step."""
    path = work.path
    return _each_figure(elements, work, settings, lambda figure, some: (path.seconds(machine, figure, some),))[0]


def worked_step(machine: Machine, elements: Elements, work: Work, settings: Settings) -> Step:
    """A step with all that follows from its settings."""
    path = work.path
    spot = machine.head.spot_or_usual_mm
    rise, slowing = _each_figure(
        elements, work, settings, lambda figure, some: path.corner_heat(machine, figure, some, spot)
    )
    return Step(
        work=work,
        settings=settings,
        dose=dose_of(machine, path, settings),
        seconds=seconds_of(machine, elements, work, settings),
        corner_rise=rise,
        corner_slowing_mm=slowing,
    )


def with_settings(machine: Machine, elements: Elements, step: Step, settings: Settings) -> Step:
    """The same step with other settings: dose and time follow."""
    return replace(
        step,
        settings=settings,
        dose=dose_of(machine, step.work.path, settings),
        seconds=seconds_of(machine, elements, step.work, settings),
    )


def entry_and_exit(elements: Elements, step: Step) -> tuple[Floats, Floats]:
    """``(n, 2)`` where on the plate the burn of each element begins and ends."""
    entry, leave = _each_figure(elements, step.work, step.settings, step.work.path.entry_and_exit)
    return elements.corners + entry, elements.corners + leave


def reach_of(machine: Machine, elements: Elements, step: Step, turn: Floats) -> tuple[Floats, Floats]:
    """``(n, 2)`` how far the moves of each element go from its corner, run-ups included, after ``points @ turn``."""
    path = step.work.path
    low, high = _each_figure(
        elements, step.work, step.settings, lambda figure, some: path.reach(machine, figure, some, turn)
    )
    return low, high


def _line_counts(elements: Elements, work: Work, settings: Settings) -> list[LineCount]:
    """What there is to draw in one step, for each figure that burns."""
    burning = [(figure, members[elements.burn[members]]) for figure, members in elements.by_figure(work.figure)]
    return [work.path.lines(figure, of_elements(settings, members)) for figure, members in burning if len(members)]


def line_total(elements: Elements, steps: Sequence[tuple[Work, Settings]]) -> int:
    """How many lines the elements that burn take, all steps and passes, without making one of them."""
    return sum(count.lines for step in steps for count in _line_counts(elements, *step))


def refuse_endless(elements: Elements, steps: Sequence[tuple[Work, Settings]]) -> None:
    """
    Raises
    ------
    InvalidInput : the elements take more lines than a plate may have, or are filled in too many ways
    """
    counts = [count for step in steps for count in _line_counts(elements, *step)]
    kinds, lines = sum(count.kinds for count in counts), sum(count.lines for count in counts)
    if kinds > MOST_HATCHES:
        raise InvalidInput(
            f"This plate would be filled in {kinds} different ways; {MOST_HATCHES} are the most. Vary line spacing,"
            " angle and passes in fewer steps.",
            "axes",
            kinds,
            MOST_HATCHES,
        )
    if lines > MOST_LINES:
        most = max(counts, key=lambda count: count.lines)
        raise InvalidInput(
            f"This plate would take {lines / 1e6:,.1f} million lines; {MOST_LINES // 10**6} million is the most."
            f" {most.way_out}",
            most.path,
            lines,
            MOST_LINES,
        )
