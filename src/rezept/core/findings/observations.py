"""What plates say, as one frozen table: a row for each element, of one plate or of many.

Every judgement reads this table; none looks at plates and readings by itself.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rezept.core.parameters import Settings
from rezept.core.plan import Plate
from rezept.core.process import Process

Floats = NDArray[np.float64]
Indices = NDArray[np.int64]
# One sheet burned again on another day, through another film on the lens, needs so much more or less of the dose.
BURNS = 0.015
# mixed: something was changed while it burned, or it burned at several settings; uncertain: nobody knows whether it
# burned whole; not_burned: it stayed bare; left_out: the plan left it out.
State = Literal["burned", "mixed", "uncertain", "not_burned", "left_out"]


@dataclass(frozen=True)
class Outcome:
    """How an element came out on the scale that decides, and how likely that is wrong: 0 where a person said it."""

    value: float
    doubt: float = 0.0


@dataclass(frozen=True)
class Burned:
    """What all elements of one burn have in common."""

    id: int = 0
    day: str = ""
    lot: str | None = None
    measured_mm: float | None = None


@dataclass(frozen=True)
class Observations:
    """n observations of one process, every figure a column ``(n,)``.

    element : what it is called on its plate; burn, day, lot, measured_mm : of its burn, NaN where not measured
    state : only what is ``burned`` says something of its settings
    settings, dose : as burned, with all passes and corrections; NaN where an element has no such setting
    outcome, doubt : NaN where it is not read
    row, column, block : its place in its array, from 1, block 0 without blocks; x_mm, y_mm : on its plate
    others : whatever else was read of them, by scale or by what photographs measure; NaN where nothing was
    unsure : standard deviation of such a reading about what is there; NaN or none where it is as good as that
    """

    process: Process
    element: tuple[str, ...]
    burn: Indices
    day: tuple[str, ...]
    lot: tuple[str | None, ...]
    measured_mm: Floats
    state: tuple[State, ...]
    settings: Settings
    dose: Floats
    outcome: Floats
    doubt: Floats
    row: Indices
    column: Indices
    block: Indices
    x_mm: Floats
    y_mm: Floats
    others: Mapping[str, Floats] = field(default_factory=dict)
    unsure: Mapping[str, Floats] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.element)

    @property
    def counts(self) -> NDArray[np.bool_]:
        """``(n,)`` which of them say something: burned at one known setting, and read."""
        burned = np.array([state == "burned" for state in self.state], bool)
        return burned & ~np.isnan(self.outcome)

    @property
    def came_out(self) -> Floats:
        """``(n,)`` the outcome of those that count, NaN for the others."""
        return np.where(self.counts, self.outcome, np.nan)

    def settings_of(self, index: int) -> dict[str, float]:
        """Those an element has."""
        found = {key: float(column[index]) for key, column in self.settings.items()}
        return {key: value for key, value in found.items() if not np.isnan(value)}


def _state(element: str, bare: Collection[str], uncertain: Collection[str], mixed: Collection[str]) -> State:
    if element in bare:
        return "not_burned"
    if element in uncertain:
        return "uncertain"
    return "mixed" if element in mixed else "burned"


def observations_of(
    plate: Plate,
    outcomes: Mapping[str, Outcome],
    *,
    bare: Collection[str] = (),
    uncertain: Collection[str] = (),
    burned: Burned = Burned(),
    others: Mapping[str, Mapping[str, float]] | None = None,
) -> Observations:
    """The observations of one burn from its plate as burned, by the step that is judged.

    outcomes : of each element that is read; others : by what was read, of each element it was read of
    """
    elements, step, names = plate.elements, plate.judged, plate.elements.ids
    read = [outcomes.get(name) for name in names]
    count = len(names)
    mixed = {name for index, name in enumerate(names) if plate.is_mixed(index)}
    states: tuple[State, ...] = tuple(
        _state(name, bare, uncertain, mixed) if burns else "left_out"
        for name, burns in zip(names, elements.burn.tolist(), strict=True)
    )
    measured = np.nan if burned.measured_mm is None else burned.measured_mm
    return Observations(
        process=step.process,
        element=names,
        burn=np.full(count, burned.id, np.int64),
        day=(burned.day,) * count,
        lot=(burned.lot,) * count,
        measured_mm=np.full(count, measured),
        state=states,
        settings=dict(step.settings),
        dose=step.dose,
        outcome=np.array([np.nan if one is None else one.value for one in read], float),
        doubt=np.array([np.nan if one is None else one.doubt for one in read], float),
        row=elements.row,
        column=elements.column,
        block=np.zeros(count, np.int64) if elements.block is None else elements.block,
        x_mm=elements.x_mm,
        y_mm=elements.y_mm,
        others={key: np.array([of.get(name, np.nan) for name in names], float) for key, of in (others or {}).items()},
    )


def joined(tables: Sequence[Observations]) -> Observations:
    """Observations of several burns of one process under one another.

    Raises
    ------
    ValueError : there are none, or they are of several processes
    """
    if len({table.process.key for table in tables}) != 1:
        raise ValueError("observations of one process can be joined, of several or none they cannot")

    def columns(of: Callable[[Observations], Mapping[str, Floats]]) -> dict[str, Floats]:
        keys = dict.fromkeys(key for table in tables for key in of(table))
        return {
            key: np.concatenate([of(table).get(key, np.full(len(table), np.nan)) for table in tables]) for key in keys
        }

    arrays = ("burn", "measured_mm", "dose", "outcome", "doubt", "row", "column", "block", "x_mm", "y_mm")
    return Observations(
        process=tables[0].process,
        element=tuple(name for table in tables for name in table.element),
        day=tuple(day for table in tables for day in table.day),
        lot=tuple(lot for table in tables for lot in table.lot),
        state=tuple(state for table in tables for state in table.state),
        settings=columns(lambda table: table.settings),
        others=columns(lambda table: table.others),
        unsure=columns(lambda table: table.unsure),
        **{name: np.concatenate([getattr(table, name) for table in tables]) for name in arrays},
    )


def lots_of(seen: Observations, rows: NDArray[np.bool_]) -> tuple[Indices, tuple[str, ...]]:
    """``(n,)`` which sheet each of the rows is from, and their names; a burn without a lot is a sheet of its own."""
    names = [lot if lot is not None else f"burn {burn}" for lot, burn in zip(seen.lot, seen.burn.tolist(), strict=True)]
    kept = [name for name, counts in zip(names, rows.tolist(), strict=True) if counts]
    order = tuple(dict.fromkeys(kept))
    return np.array([order.index(name) for name in kept], np.int64), order


def burns_of(seen: Observations, rows: NDArray[np.bool_]) -> Indices:
    """``(n,)`` which burn each of the rows is from, of burns that share their sheet with others; -1 of one that is its
    sheet's only one, whose luck is the sheet's."""
    lot, burn = lots_of(seen, rows)[0], seen.burn[rows]
    sharing = [one for one in dict.fromkeys(burn.tolist()) if len(set(burn[lot == lot[burn == one][0]].tolist())) > 1]
    return np.array([sharing.index(one) if one in sharing else -1 for one in burn.tolist()], np.int64)
