"""A piece from the shelf under a plate: its size, and what was burned on it before."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.plan.parts import Piece, read_piece, read_place, turned_over
from rezept.core.plan.place import to_piece
from rezept.core.process import FACES, PROCESSES, Face
from rezept.store import equipment as equipment_table
from rezept.store import trials as trial_table
from rezept.store.equipment import PieceRow


def _ground(plate: dict[str, Any], seen_from_behind: bool) -> list[list[float]]:
    """The outline of a burned plate on its piece, mm from the lower left of that as it lies now.

    seen_from_behind : it was burned while the other face of the piece was up
    """
    width, height = plate["plate"]["width_mm"], plate["plate"]["height_mm"]
    trial = plate["trial"]
    corners = np.array([(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
    place = read_place(Fields(trial["place"], "place"))
    piece = read_piece(trial["piece"], "piece", [])
    outline = to_piece(corners, place, piece, width, height)
    if seen_from_behind:
        outline = (np.array([piece.width_mm, 0.0]) + outline * (-1.0, 1.0))[::-1]
    found: list[list[float]] = outline.tolist()
    return found


def _goes_through(plate: dict[str, Any]) -> bool:
    """Whether what was burned is to be seen on the other face, too."""
    trial = plate["trial"]
    return PROCESSES[trial["process"]].passes_through or bool(trial.get("cut_out"))


def piece_from_the_shelf(
    db: sqlite3.Connection, design: Mapping[str, Any], trial_id: int, revision: int, growing_burn: int | None
) -> dict[str, Any]:
    """`piece` and `burned_ground` of a trial that lies on a piece of the shop, as it lies with the face up that the
    design names; nothing where it does not.

    Every plate that was burned on that face counts, labels and all, from whichever machine, and what went through from
    the other; but not the burn this plate adds to.
    """
    piece_id, face = design.get("piece_id"), design.get("piece_face") or FACES[0]
    if piece_id is None:
        return {}
    if not isinstance(piece_id, int) or isinstance(piece_id, bool):
        raise InvalidInput("A piece is named by its number.", "piece_id", piece_id)
    if face not in FACES:
        raise InvalidInput("Which face of a piece is up is front or back.", "piece_face", face)
    kept = equipment_table.piece(db, piece_id)
    piece = _as_it_lies(kept, face)
    laid = piece.document()
    if kept["count"] > 1:
        # Each face of each of them is burned once, and the next one is bare.
        left = kept["left"] if face == "front" else kept["left_back"]
        if growing_burn is None and left is not None and left < 1:
            of = kept["name"] if face == "front" else f"{kept['name']} on the back"
            raise InvalidInput(f"All {kept['count']} of {of} are burned; take others.", "piece_id", piece_id)
        return {"piece": laid}
    burned = trial_table.burned_on_piece(db, piece_id, trial_id, revision, growing_burn)
    return {
        "piece": laid,
        "burned_ground": [
            _ground(one["plate"], one["face"] != face)
            for one in burned
            if one["face"] == face or _goes_through(one["plate"])
        ],
    }


def _as_it_lies(kept: PieceRow, face: Face) -> Piece:
    """A piece of the shelf with one of its faces up."""
    told = dict(kept)
    said = ("outline", "holes", "rise_mm", "top", "top_varies_mm")
    keys = ("shape", "width_mm", "height_mm", "margin_mm", *(key for key in said if told[key] not in ([], None)))
    piece = read_piece({key: told[key] for key in keys}, "piece", [])
    return piece if face == "front" else turned_over(piece)
