"""A plate that grows patch by patch: what of it is burned already, and that none of that moves."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import Refused
from rezept.core.machine import Machine
from rezept.core.plan.again import only
from rezept.core.plan.drawn import Drawn
from rezept.core.plan.layout import pitch_beside
from rezept.core.plan.parts import Piece, Place, Zero
from rezept.core.plan.place import beyond_piece, field_mm, to_piece, to_program
from rezept.core.plan.plate import Plate


def burned_before(plate: Plate) -> int:
    """How many patches of a plate had been burned when it was planned; 0 of one that does not grow."""
    trial = plate.trial
    if trial.added is not None:
        return len(trial.grid) + (trial.added.burned or 0)
    return 0 if trial.listed is None or trial.listed.burned is None else trial.listed.burned


def burned_as_a_whole(plate: Plate) -> int:
    """How many patches of a plate are burned in one go: all but those that are added one by one."""
    listed = plate.trial.listed
    return 0 if listed is not None and listed.burned is not None else len(plate.trial.grid)


def still_to_burn(plate: Plate) -> Plate:
    """The plate as if only what has not been burned yet burned; lettering goes with the first of it, a patch's
    name with the patch."""
    before = burned_before(plate)
    if before == 0:
        return plate
    rest = only(plate, [name for index, _, name in plate.parts() if index >= before])
    return rest.only_in(rest.order, tuple(part for part in plate.drawn if _on_any(part, plate.elements.boxes[before:])))


def _on_any(part: Drawn, boxes: NDArray[np.float64]) -> bool:
    """Whether something is lettered on one of these boxes ``(n, 4)``."""
    if part.role != "id":
        return False
    inside = (part.start >= boxes[:, :2]) & (part.start <= boxes[:, :2] + boxes[:, 2:])
    return bool(inside.all(axis=1).any())


def held_in_place(before: Plate, pieceless: bool) -> dict[str, Any]:
    """What of a design holds its plate where it is on the machine while it grows: by its corner, which stays, and on a
    piece that does not grow with it.

    pieceless : nobody has said how large the piece is. On a gantry one counts from its corner; under a galvo, which
        counts from its middle, the field stands for it.
    """
    trial = before.trial
    assert trial.piece is not None
    x, y = to_piece(np.zeros(2), trial.place, trial.piece, before.width_mm, before.height_mm).tolist()
    place = {"at": "corner", "x_mm": x, "y_mm": y, "turn_deg": trial.place.turn_deg}
    laid: dict[str, Any] = {"place": place}
    if pieceless and trial.machine.motion == "galvo":
        width, height = field_mm(trial.machine).tolist()
        place |= {"x_mm": x + (width - trial.piece.width_mm) / 2, "y_mm": y + (height - trial.piece.height_mm) / 2}
        laid["piece"] = _field_as_piece(width, height)
    if trial.zero != Zero():
        laid["zero"] = _zero_held(before, laid).document()
    return laid


def _zero_held(before: Plate, laid: Mapping[str, Any]) -> Zero:
    """The zero, counted from the piece, with which a plate that is laid like this stays where it is: a corner of the
    plate, or its middle, moves while it grows."""
    trial, plate_mm = before.trial, (before.width_mm, before.height_mm)
    assert trial.piece is not None
    piece = Piece(**laid["piece"]) if "piece" in laid else trial.piece
    held = replace(trial, place=Place(**laid["place"]), piece=piece, zero=Zero())
    origin = np.zeros(2)
    x, y = (to_program(origin, trial, *plate_mm) - to_program(origin, held, *plate_mm)).tolist()
    return Zero(x_mm=x, y_mm=y)


def _field_as_piece(width: float, height: float) -> dict[str, Any]:
    return {"shape": "rectangle", "width_mm": width, "height_mm": height, "margin_mm": 0.0}


def room_beside(before: Plate, pieceless: bool) -> dict[str, Any]:
    """`side` and `wrap` for patches that are burned beside a plate, one by one: where more of them find room.

    pieceless : nobody has said how large the piece is; then it is as large as the field

    Raises
    ------
    Refused : the plate is cut out of its piece, or there is no room beside it
    """
    trial = before.trial
    if trial.cut_out.on:
        raise Refused("This plate was cut out of its piece: there is nothing beside it to burn on.", "cut_out")
    laid = held_in_place(before, pieceless)
    width, height = field_mm(trial.machine).tolist()
    piece = Piece(**_field_as_piece(width, height)) if pieceless else trial.piece
    trial = replace(trial, place=Place(**laid["place"]), piece=piece)
    across, up = pitch_beside(trial)
    layout = before.elements.boxes
    rows = max(1, int((layout[:, 1].max() - layout[:, 1].min()) / up + 1e-6) + 1)
    columns = max(1, int((layout[:, 0].max() - layout[:, 0].min()) / across + 1e-6) + 1)
    right = _lines_of_room(lambda count: beyond_piece(trial, before.width_mm + count * across, before.height_mm))
    above = _lines_of_room(lambda count: beyond_piece(trial, before.width_mm, before.height_mm + count * up))
    if right == 0 and above == 0:
        raise Refused("There is no room on this piece beside what is burned; begin another on the next.", "piece")
    if right * rows >= above * columns:
        return {"side": "right", "wrap": rows}
    return {"side": "above", "wrap": columns}


_MOST_LINES_BESIDE = 40


def _lines_of_room(beyond_mm: Callable[[int], float]) -> int:
    """So many more lines of patches lie on the piece."""
    return next((count - 1 for count in range(1, _MOST_LINES_BESIDE) if beyond_mm(count) > 1e-6), _MOST_LINES_BESIDE)


# A galvo counts from the middle of its field: so many lines of coupons find room around it.
_LINES_AROUND = 4


def begun_around_the_middle(machine: Machine, pitch_mm: float, wrap: int) -> dict[str, Any]:
    """Piece, place and wrap of a plate that begins with one coupon under a galvo, so that all it grows by lies around
    the middle of the field."""
    width, height = field_mm(machine).tolist()
    wrap = max(1, min(wrap, int(width // pitch_mm) - 1))
    lines = max(1, min(_LINES_AROUND, int(height // pitch_mm) - 1))
    place = {"at": "corner", "x_mm": (width - wrap * pitch_mm) / 2, "y_mm": (height - lines * pitch_mm) / 2}
    return {"piece": _field_as_piece(width, height), "place": place, "wrap": wrap}


def refuse_moved(before: Plate, after: Plate) -> None:
    """
    Raises
    ------
    Refused : a patch of the plate that was burned has other settings on the later one, or lies elsewhere
    """
    first = len(before.elements)
    moved = "What is burned stays as it is: "
    if after.elements.ids[:first] != before.elements.ids:
        raise Refused(f"{moved}this would take patches off, or call them otherwise.", "listed")
    if not np.allclose(after.elements.boxes[:first], before.elements.boxes, atol=1e-6):
        raise Refused(f"{moved}this would move it. Lettering, margins and sizes stay while a plate grows.", "listed")
    if not np.allclose(_on_the_machine(after, first), _on_the_machine(before, first), atol=1e-6):
        raise Refused(f"{moved}this would move it. Piece and place stay while a plate grows.", "place")
    for key, column in before.judged.settings.items():
        if not np.allclose(after.judged.settings.get(key, np.full(first, np.nan))[:first], column, rtol=1e-9):
            raise Refused(f"{moved}this would give it other settings.", "listed")


def _on_the_machine(plate: Plate, first: int) -> NDArray[np.float64]:
    """``(first, 2)`` where the first patches of a plate lie, counted from the machine's work zero."""
    return to_program(plate.elements.corners[:first], plate.trial, plate.width_mm, plate.height_mm)


def differing(before: Mapping[str, float], now: Mapping[str, float]) -> list[str]:
    """Settings that differ between two patches."""
    return [key for key in now if not math.isclose(now[key], before.get(key, math.nan), rel_tol=1e-6)]
