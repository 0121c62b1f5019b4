"""A starter board: line, engraving and cut of one sheet on one board, so that three recipes come off it."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import Any

from rezept.core.errors import InvalidInput
from rezept.core.process import PROCESSES

# Of each kind of work the first that a sheet is meant for, in the order in which they burn.
_KINDS = (("line",), ("area", "surface"), ("cut",))
# A coupon wide enough for a rim that is cut, a line inside it and a panel inside that, none on the ground of another.
COUPON_MM = 14.0
_INSETS = {"line": 2.0, "area": 4.0, "surface": 4.0, "cut": 0.0}


def holds_a_board(meant_for: Collection[str], process: str) -> bool:
    """Whether a starter board of a sheet holds a process, and another beside it."""
    kinds = [kind for kind in _KINDS if any(key in meant_for for key in kind)]
    return len(kinds) > 1 and any(process in kind for kind in kinds)


def board_processes(meant_for: Collection[str], process: str) -> list[str]:
    """What a starter board of a sheet holds, marks before cuts.

    meant_for : processes of the sheet; process : what somebody set out to do, which is among them

    Raises
    ------
    InvalidInput : there is only one kind of work for this sheet, or it is none of a starter board's
    """
    found = [
        process if process in kind else next(key for key in kind if key in meant_for)
        for kind in _KINDS
        if any(key in meant_for for key in kind)
    ]
    if process not in found:
        doing = PROCESSES[process].name.lower()
        raise InvalidInput(
            f"A starter board holds lines, engraving and cuts; this is another work: {doing}.", "process"
        )
    if len(found) < 2:
        raise InvalidInput("This sheet is meant for one kind of work only: plan an array of it.", "process", process)
    return found


def board_steps(
    steps: Mapping[str, Mapping[str, Any]], speeds: Mapping[str, Mapping[str, Any]]
) -> tuple[list[dict[str, Any]], list[dict[str, Any]]]:
    """Steps and axes of a starter board: what goes through varies up the board, all else across it.

    steps : what each process holds; speeds : the axis of its speeds, without its place. Without a cut the lines vary up
        the board.
    """
    ordered = [{**steps[key], "name": PROCESSES[key].name.lower(), "inset_mm": _INSETS[key]} for key in steps]
    up = next((key for key in steps if PROCESSES[key].passes_through), next(iter(steps)))
    axes = [
        {
            "parameter": "speed_mm_s",
            "along": "y" if key == up else "x",
            "step": PROCESSES[key].name.lower(),
            **speeds[key],
        }
        for key in steps
    ]
    return ordered, sorted(axes, key=lambda axis: str(axis["along"]))
