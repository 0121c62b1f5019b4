"""How the height of a head is to be set for a piece: in the form that head is set."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from typing import Any

from rezept.actions.queries.shop_facts import machine_of
from rezept.core.machine import Machine
from rezept.core.plan import Plate
from rezept.core.plan.words import told_by_word
from rezept.core.stand_off import focus_cost, stand_off
from rezept.store import equipment as equipment_table
from rezept.store.equipment import HeadRow, MaterialRow, PieceRow
from rezept.store.rows import Row

# So many pieces of one material are shown side by side.
MOST_PIECES = 12


def _instruction(machine: Machine, material: MaterialRow, piece: PieceRow | None, offset_mm: float) -> Row:
    """What to do with a head for one piece; without one, for a sheet that lies flat on the bed."""
    by_program = offset_mm != 0 and told_by_word("focus_offset_mm", machine)
    rise = None if piece is None else piece["rise_mm"]
    by_thickness = rise is None and material["thickness_mm"] is not None
    if by_thickness:
        rise = material["thickness_mm"]
    of_head = machine.head
    stands = stand_off(of_head.height_by, of_head.datum_mm, rise, 0.0 if by_program else offset_mm)
    notes = []
    if by_thickness and of_head.height_by in ("scale", "entered"):
        notes.append("Its rise is taken from its thickness: flat on the bed.")
    if by_program:
        notes.append(f"The program moves the focus by {offset_mm:+g} mm.")
    cost = ""
    if piece is not None:
        spot, wave = of_head.spot_mm, machine.wavelength_nm
        cost = focus_cost(piece["top"], piece["top_varies_mm"], spot, wave, of_head.m2)
    return {
        "piece_id": None if piece is None else piece["id"],
        "name": f"{material['title']}, flat" if piece is None else piece["name"],
        "words": " ".join([stands.words, *notes]),
        "cost": cost,
        "height_by": stands.height_by,
        "set_mm": stands.set_mm,
        "rise_mm": stands.rise_mm,
        "offset_mm": stands.offset_mm,
    }


def of_pieces(db: sqlite3.Connection, head: HeadRow, material: MaterialRow, settings: Mapping[str, float]) -> list[Row]:
    """What to do for each piece of a material on the shelf; for a sheet that lies flat where there is none."""
    of_it = [one for one in equipment_table.pieces(db) if one["material_id"] == material["id"] and not one["retired"]]
    pieces: list[PieceRow | None] = [*of_it[:MOST_PIECES]] or [None]
    machine, offset = machine_of(head), settings.get("focus_offset_mm", 0.0)
    return [_instruction(machine, material, piece, offset) for piece in pieces]


def of_plate(
    db: sqlite3.Connection, head: HeadRow, material: MaterialRow, plate: Plate, design: Mapping[str, Any]
) -> Row:
    """What to do for the piece a plate lies on; where its offset varies, for the focus on the surface."""
    piece_id = design.get("piece_id")
    piece = equipment_table.piece(db, piece_id) if isinstance(piece_id, int) else None
    offset = 0.0 if "focus_offset_mm" in plate.varied() else plate.trial.hold.get("focus_offset_mm", 0.0)
    return _instruction(machine_of(head), material, piece, offset)
