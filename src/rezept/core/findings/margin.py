"""How far a patch is from the cliff: what its neighbours on the plate came out as."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.parameters import PARAMETERS
from rezept.core.plan import Plate


@dataclass(frozen=True)
class Neighbour:
    """One of the up to four patches beside the chosen one.

    holds : it came out as well; None while it is not read
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


def failed_beside(outcome_key: str, outcome: NDArray[np.float64], index: int) -> NDArray[np.int64]:
    """The patches that did not come out as the chosen one did, as indices; those that were not read are not known."""
    read = ~np.isnan(outcome)
    held = holds(outcome_key, outcome[index], np.where(read, outcome, np.inf))
    return np.flatnonzero(read & ~held)


def _like_but(plate: Plate, parameter: str, index: int) -> NDArray[np.bool_]:
    """``(n,)`` patches that were burned as the chosen one but for one setting: only they say what it alone does."""
    alike = np.ones(len(plate.elements.ids), bool)
    for key, column in plate.judged.settings.items():
        if key != parameter:
            alike &= np.isclose(column, column[index], rtol=1e-9, atol=1e-12)
    return alike


def direction_word(parameter: str, upward: bool) -> str:
    """``faster``, ``more power`` and so on."""
    if parameter == "speed_mm_s":
        return "faster" if upward else "slower"
    return f"{'more' if upward else 'less'} {PARAMETERS[parameter].name}"


def margins(plate: Plate, outcome: NDArray[np.float64], index: int) -> list[Neighbour]:
    """The neighbours of one patch along both axes, as far as they differ from it in nothing else.

    Parameters
    ----------
    outcome : (n,) array over the patches of the plate, NaN where nothing was read or burned
    index : the chosen patch; it must have an outcome
    """
    chosen = outcome[index]
    found: list[Neighbour] = []
    elements = plate.elements
    for along, line, own in (("x", elements.column, elements.row), ("y", elements.row, elements.column)):
        axis = plate.trial.axis(along)
        if axis is None or axis.wrap is not None:
            continue
        same = own == own[index]
        beside = np.flatnonzero(same if elements.block is None else same & (elements.block == elements.block[index]))
        beside = beside[np.argsort(line[beside])]
        here = int(np.flatnonzero(beside == index)[0])
        value, alike = plate.judged.settings[axis.parameter], _like_but(plate, axis.parameter, index)
        for way in (beside[:here][::-1], beside[here + 1 :]):
            # A patch that got another pass in place, or was mixed, says nothing of this setting; nor does what lies
            # beyond it, seen from here.
            other = np.flatnonzero(~alike[way])
            way = way[: other[0]] if len(other) else way
            if len(way):
                found.append(_towards(plate, axis.parameter, value, outcome, chosen, index, way))
    return found


def _towards(
    plate: Plate,
    parameter: str,
    value: NDArray[np.float64],
    outcome: NDArray[np.float64],
    chosen: float,
    index: int,
    way: NDArray[np.int64],
) -> Neighbour:
    """One direction: the nearest patch, and how far it holds."""
    came = outcome[way]
    read = ~np.isnan(came)
    good = read & holds(plate.trial.process.outcome, chosen, np.where(read, came, np.inf))
    failing = np.flatnonzero(~good)
    first_bad = int(failing[0]) if len(failing) else len(way)
    end = float(value[way[first_bad - 1]]) if first_bad else float(value[index])
    start = float(value[index])
    nearest = int(way[0])
    return Neighbour(
        patch=plate.elements.ids[nearest],
        parameter=parameter,
        value=float(value[nearest]),
        outcome=float(came[0]) if read[0] else None,
        holds=bool(good[0]) if read[0] else None,
        holds_to=end,
        margin_pct=abs(end - start) / abs(start) * 100.0 if start else 0.0,
        open_end=first_bad == len(way) or not read[first_bad],
        direction=direction_word(parameter, bool(value[nearest] > start)),
    )
