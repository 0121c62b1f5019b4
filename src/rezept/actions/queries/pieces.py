"""A piece from the shelf under a plate: its size, and what was burned on it before."""

from __future__ import annotations

import sqlite3
from typing import Any

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.plan.parts import read_piece, read_place
from rezept.core.plan.place import to_piece
from rezept.store import equipment as equipment_table
from rezept.store import trials as trial_table


def _ground(plate: dict[str, Any]) -> list[list[float]]:
    """The outline of a burned plate on its piece, mm from the piece's lower left."""
    width, height = plate["plate"]["width_mm"], plate["plate"]["height_mm"]
    trial = plate["trial"]
    corners = np.array([(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
    place = read_place(Fields(trial["place"], "place"))
    outline: list[list[float]] = to_piece(
        corners, place, read_piece(trial["piece"], "piece", []), width, height
    ).tolist()
    return outline


def piece_from_the_shelf(
    db: sqlite3.Connection, piece_id: object, trial_id: int, revision: int, growing_burn: int | None
) -> dict[str, Any]:
    """`piece` and `burned_ground` of a trial that lies on a piece of the shop; nothing where it does not.

    Every plate that was burned on the piece counts, labels and all, from whichever machine; but not the burn this
    plate adds to.
    """
    if piece_id is None:
        return {}
    if not isinstance(piece_id, int) or isinstance(piece_id, bool):
        raise InvalidInput("A piece is named by its number.", "piece_id", piece_id)
    piece = equipment_table.piece(db, piece_id)
    laid: dict[str, Any] = {key: piece[key] for key in ("shape", "width_mm", "height_mm", "margin_mm")}
    laid |= {key: piece[key] for key in ("outline", "holes") if piece[key]}
    if piece["count"] > 1:
        # Each of them is burned once, and the next one is bare.
        if growing_burn is None and piece["left"] is not None and piece["left"] < 1:
            raise InvalidInput(
                f"All {piece['count']} of {piece['name']} are burned; take others.", "piece_id", piece_id
            )
        return {"piece": laid}
    burned = trial_table.burned_on_piece(db, piece_id, trial_id, revision, growing_burn)
    return {
        "piece": laid,
        "burned_ground": [_ground(plate) for plate in burned],
    }
