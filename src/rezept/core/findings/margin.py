"""How far a patch is from the cliff: what its neighbours on the plate came out as."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.findings.observations import Observations
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.axes import Axis
from rezept.core.scales import SCALES


@dataclass(frozen=True)
class Neighbour:
    """One of the up to four patches beside the chosen one.

    holds : it came out as well; None while it is not read, and where the chosen one itself is nothing to work by:
        it has no margin
    holds_to : the farthest value in this direction up to which every patch held
    margin_pct : how far that is from the chosen value, per cent of it; 0 when the neighbour already fails
    open_end : held to the edge of the plate (or of what was read), so the true margin is larger
    """

    patch: str
    parameter: str
    value: float
    outcome: float | None
    holds: bool | None
    holds_to: float
    margin_pct: float
    open_end: bool
    direction: str

    def document(self) -> dict[str, Any]:
        return dict(vars(self))


def holds(outcome_key: str, chosen: float, other: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Whether other patches came out as the chosen one did.

    A cut holds where it goes through at least as well; a mark holds where its darkness is within one step.
    """
    if outcome_key == "through":
        return other >= chosen
    return np.abs(other - chosen) <= 1.0


def failed_beside(seen: Observations, index: int) -> NDArray[np.int64]:
    """The elements that did not come out as the chosen one did, as indices; those that do not count are not known."""
    outcome = seen.came_out
    read = ~np.isnan(outcome)
    held = holds(seen.process.outcome, outcome[index], np.where(read, outcome, np.inf))
    return np.flatnonzero(read & ~held)


def _like_but(seen: Observations, parameter: str, index: int) -> NDArray[np.bool_]:
    """``(n,)`` elements that were burned as the chosen one but for one setting: only they say what it alone does."""
    alike = np.ones(len(seen), bool)
    for key, column in seen.settings.items():
        if key != parameter:
            alike &= np.isclose(column, column[index], rtol=1e-9, atol=1e-12, equal_nan=True)
    return alike


def direction_word(parameter: str, upward: bool) -> str:
    """``faster``, ``more power`` and so on."""
    if parameter == "speed_mm_s":
        return "faster" if upward else "slower"
    return f"{'more' if upward else 'less'} {PARAMETERS[parameter].name}"


def margins(seen: Observations, axes: Sequence[Axis], index: int) -> list[Neighbour]:
    """The neighbours of one element of a plate along both axes, as far as they differ from it in nothing else.

    Parameters
    ----------
    seen : the observations of one plate
    axes : those of its array
    index : the chosen element; it must count
    """
    found: list[Neighbour] = []
    for along, line, own in (("x", seen.column, seen.row), ("y", seen.row, seen.column)):
        axis = next((one for one in axes if one.along == along), None)
        if axis is None or axis.wrap is not None:
            continue
        beside = np.flatnonzero((own == own[index]) & (seen.block == seen.block[index]))
        beside = beside[np.argsort(line[beside])]
        here = int(np.flatnonzero(beside == index)[0])
        alike = _like_but(seen, axis.parameter, index)
        for way in (beside[:here][::-1], beside[here + 1 :]):
            # An element that got another pass in place, or was mixed, says nothing of this setting; nor does what lies
            # beyond it, seen from here.
            other = np.flatnonzero(~alike[way])
            way = way[: other[0]] if len(other) else way
            if len(way):
                found.append(_towards(seen, axis.parameter, index, way))
    return found


def _towards(seen: Observations, parameter: str, index: int, way: NDArray[np.int64]) -> Neighbour:
    """One direction: the nearest element, and how far it holds."""
    value, outcome = seen.settings[parameter], seen.came_out
    came = outcome[way]
    read = ~np.isnan(came)
    failed = SCALES[seen.process.outcome].failed(float(outcome[index]))
    good = read & ~np.bool_(failed) & holds(seen.process.outcome, outcome[index], np.where(read, came, np.inf))
    failing = np.flatnonzero(~good)
    first_bad = int(failing[0]) if len(failing) else len(way)
    end = float(value[way[first_bad - 1]]) if first_bad else float(value[index])
    start = float(value[index])
    nearest = int(way[0])
    return Neighbour(
        patch=seen.element[nearest],
        parameter=parameter,
        value=float(value[nearest]),
        outcome=float(came[0]) if read[0] else None,
        holds=bool(good[0]) if read[0] and not failed else None,
        holds_to=end,
        margin_pct=abs(end - start) / abs(start) * 100.0 if start else 0.0,
        open_end=not failed and bool(first_bad == len(way) or not read[first_bad]),
        direction=direction_word(parameter, bool(value[nearest] > start)),
    )
