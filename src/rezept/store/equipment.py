"""Machines, heads, materials, lots and pieces: read, added, changed with their edit counter, retired."""

from __future__ import annotations

import sqlite3
from typing import Any, TypedDict

from rezept.core.colour import write_hex
from rezept.core.process import Face, ProcessKey
from rezept.core.sheet_facts import THICKNESS_SAID
from rezept.core.stand_off import TopKey
from rezept.core.thickness import sheet_title
from rezept.store.rows import Row, as_json, changed_once, declared, found, plain_row

# Each kind's statements; the values are bound by name. `retired_at` NULL: in use.
_INSERT = {
    "machine": """
        INSERT INTO machine (name, facts, assumed, note, link, by_member, at)
        VALUES (:name, :facts, :assumed, :note, :link, :by, :at)""",
    "head": """
        INSERT INTO head (machine_id, name, facts, assumed, by_member, at)
        VALUES (:machine_id, :name, :facts, :assumed, :by, :at)""",
    "material": """
        INSERT INTO material (name, family, thickness_mm, mark, hazards, ground_lab, processes, density_kg_m3, hardness,
                              facts, supplier_code, note, by_member, at)
        VALUES (:name, :family, :thickness_mm, :mark, :hazards, :ground_lab, :processes, :density_kg_m3, :hardness,
                :facts, :supplier_code, :note, :by, :at)""",
    "lot": """
        INSERT INTO lot (material_id, name, measured_mm, supplier_code, note, by_member, at)
        VALUES (:material_id, :name, :measured_mm, :supplier_code, :note, :by, :at)""",
    "piece": """
        INSERT INTO piece (material_id, lot_id, name, shape, width_mm, height_mm, margin_mm, outline, holes, count,
                           rise_mm, top, top_varies_mm, note, by_member, at)
        VALUES (:material_id, :lot_id, :name, :shape, :width_mm, :height_mm, :margin_mm, :outline, :holes, :count,
                :rise_mm, :top, :top_varies_mm, :note, :by, :at)""",
}
_UPDATE = {
    "machine": """
        UPDATE machine SET name = :name, facts = :facts, assumed = :assumed, note = :note, link = :link,
               retired_at = :retired_at, edit = edit + 1, by_member = :by, at = :at WHERE id = :id AND edit = :edit""",
    "head": """
        UPDATE head SET name = :name, facts = :facts, assumed = :assumed, retired_at = :retired_at,
               edit = edit + 1, by_member = :by, at = :at WHERE id = :id AND edit = :edit""",
    "material": """
        UPDATE material SET name = :name, family = :family, thickness_mm = :thickness_mm, mark = :mark,
               hazards = :hazards, ground_lab = :ground_lab, processes = :processes, density_kg_m3 = :density_kg_m3,
               hardness = :hardness, facts = :facts, supplier_code = :supplier_code, note = :note,
               retired_at = :retired_at, edit = edit + 1, by_member = :by, at = :at WHERE id = :id AND edit = :edit""",
    "lot": """
        UPDATE lot SET name = :name, measured_mm = :measured_mm, supplier_code = :supplier_code, note = :note,
               retired_at = :retired_at, edit = edit + 1, by_member = :by, at = :at WHERE id = :id AND edit = :edit""",
    "piece": """
        UPDATE piece SET lot_id = :lot_id, name = :name, shape = :shape, width_mm = :width_mm, height_mm = :height_mm,
               margin_mm = :margin_mm, outline = :outline, holes = :holes, count = :count, rise_mm = :rise_mm,
               top = :top, top_varies_mm = :top_varies_mm, note = :note,
               retired_at = :retired_at, edit = edit + 1, by_member = :by, at = :at WHERE id = :id AND edit = :edit""",
}


def _bare_on(face: Face) -> str:
    """How many of several pieces alike have not been burned on a face; null of a single one."""
    return f"""CASE WHEN count > 1 THEN count - (
                   SELECT count(*) FROM burn JOIN revision ON revision.id = burn.revision_id
                   WHERE burn.taken_back_at IS NULL AND json_extract(revision.design, '$.piece_id') = piece.id
                         AND coalesce(json_extract(revision.design, '$.piece_face'), 'front') = '{face}'
               ) END"""


_SELECT = {
    "machine": "SELECT id, name, facts, assumed, note, link, edit, retired_at FROM machine",
    "head": """
        SELECT head.id, head.name, head.facts, head.assumed, machine.assumed AS machine_assumed, head.machine_id,
               head.edit,
               coalesce(head.retired_at, machine.retired_at) AS retired_at,
               machine.name AS machine, machine.facts AS machine_facts, machine.link AS link,
               (SELECT count(*) FROM head AS other WHERE other.machine_id = head.machine_id) AS heads
        FROM head JOIN machine ON machine.id = head.machine_id""",
    "material": """
        SELECT id, name, family, thickness_mm, mark, hazards, ground_lab, processes, density_kg_m3, hardness,
               facts, supplier_code, note, edit, retired_at FROM material""",
    "lot": "SELECT id, material_id, name, measured_mm, supplier_code, note, edit, retired_at FROM lot",
    "piece": f"""
        SELECT id, material_id, lot_id, name, shape, width_mm, height_mm, margin_mm, outline, holes, count, rise_mm,
               top, top_varies_mm, note, edit,
               {_bare_on("front")} AS left,
               {_bare_on("back")} AS left_back,
               retired_at
        FROM piece""",
}
_ORDER = {
    "machine": " ORDER BY machine.id",
    "head": " ORDER BY machine.id, head.id",
    "material": " ORDER BY material.id",
    "lot": " ORDER BY lot.id DESC",
    "piece": " ORDER BY piece.id DESC",
}
_JSON = {
    "machine": ("facts", "assumed"),
    "head": ("facts", "assumed", "machine_facts", "machine_assumed"),
    "material": ("hazards", "ground_lab", "processes", "facts"),
    "lot": (),
    "piece": ("outline", "holes"),
}
KINDS = tuple(_SELECT)


class HeadRow(TypedDict):
    """A head with the machine it is on; `retired` where one of them is."""

    id: int
    name: str
    facts: dict[str, Any]
    assumed: list[str]
    machine_assumed: list[str]
    machine_id: int
    edit: int
    machine: str
    machine_facts: dict[str, Any]
    link: str
    heads: int
    retired: bool
    title: str


class MaterialRow(TypedDict):
    id: int
    name: str
    family: str
    thickness_mm: float | None
    mark: str
    hazards: list[str]
    ground_lab: list[float] | None
    processes: list[ProcessKey]
    density_kg_m3: float | None
    hardness: int | None
    facts: dict[str, str]
    supplier_code: str
    note: str
    edit: int
    retired: bool
    ground_colour: str
    title: str


class PieceRow(TypedDict):
    """`left`: of several alike how many have not been burned, `left_back`: on their back; None of a single one."""

    id: int
    material_id: int
    lot_id: int | None
    name: str
    shape: str
    width_mm: float
    height_mm: float
    margin_mm: float
    outline: list[list[float]]
    holes: list[list[float]]
    count: int
    left: int | None
    left_back: int | None
    rise_mm: float | None
    top: TopKey
    top_varies_mm: float | None
    note: str
    edit: int
    retired: bool
    title: str


def _read(kind: str, row: sqlite3.Row) -> Row:
    plain = plain_row(row, *_JSON[kind])
    plain["retired"] = plain.pop("retired_at") is not None
    if kind == "material":
        plain["ground_colour"] = "" if plain["ground_lab"] is None else write_hex(tuple(plain["ground_lab"]))
    if kind == "piece" and plain["outline"]:
        plain["shape"] = "outline"
    if kind == "head":
        # A machine with one head is known by its own name; with several, the head belongs to the name.
        plain["title"] = plain["machine"] if plain["heads"] == 1 else f"{plain['machine']} {plain['name']}".strip()
    elif kind == "material":
        said = plain["facts"].get(THICKNESS_SAID, "")
        plain["title"] = sheet_title(plain["name"], plain["thickness_mm"], said)
    else:
        plain["title"] = plain["name"]
    return plain


def _bound(kind: str, facts: Row) -> Row:
    """Values ready to be bound: lists and objects as JSON."""
    if kind == "machine":
        # What the log keeps of a machine from before there were links says nothing of one.
        facts = {"link": "", **facts}
    if kind in ("machine", "head"):
        facts = {"assumed": [], **facts}
    if kind == "material":
        facts = {"facts": {}, **facts}
    if kind == "piece":
        facts = {
            "outline": [],
            "holes": [],
            "count": 1,
            "rise_mm": None,
            "top": "level",
            "top_varies_mm": None,
            **facts,
        }
        facts["shape"] = "rectangle" if facts["outline"] else facts["shape"]
    return {key: as_json(value) if key in _JSON[kind] and value is not None else value for key, value in facts.items()}


def add(db: sqlite3.Connection, kind: str, facts: Row, by: int, at: str) -> int:
    cursor = db.execute(_INSERT[kind], {**_bound(kind, facts), "by": by, "at": at})
    return int(cursor.lastrowid or 0)


def one(db: sqlite3.Connection, kind: str, row_id: int) -> Row:
    row = db.execute(f"{_SELECT[kind]} WHERE {kind}.id = ?", (row_id,)).fetchone()
    return _read(kind, found(row, f"{kind} {row_id}", f"{kind}_id"))


def all_of(db: sqlite3.Connection, kind: str) -> list[Row]:
    """Every row of a kind, retired ones too, in the order in which a list shows them."""
    return [_read(kind, row) for row in db.execute(_SELECT[kind] + _ORDER[kind])]


def change(
    db: sqlite3.Connection, kind: str, row_id: int, edit: int, facts: Row, retired: bool, by: int, at: str
) -> Row:
    """Change a row made from its version `edit`; returns it as it is now.

    Raises
    ------
    Stale : the row was changed since
    """
    before = one(db, kind, row_id)
    values: dict[str, Any] = {**_bound(kind, facts), "retired_at": at if retired else None}
    cursor = db.execute(_UPDATE[kind], {**values, "by": by, "at": at, "id": row_id, "edit": edit})
    changed_once(cursor.rowcount, before["title"], before, {**facts, "retired": retired, "edit": edit})
    return one(db, kind, row_id)


def head(db: sqlite3.Connection, head_id: int) -> HeadRow:
    return declared(HeadRow, one(db, "head", head_id))


def heads(db: sqlite3.Connection) -> list[HeadRow]:
    return [declared(HeadRow, row) for row in all_of(db, "head")]


def materials(db: sqlite3.Connection) -> list[MaterialRow]:
    return [declared(MaterialRow, row) for row in all_of(db, "material")]


def material(db: sqlite3.Connection, material_id: int) -> MaterialRow:
    return declared(MaterialRow, one(db, "material", material_id))


def pieces(db: sqlite3.Connection) -> list[PieceRow]:
    return [declared(PieceRow, row) for row in all_of(db, "piece")]


def piece(db: sqlite3.Connection, piece_id: int) -> PieceRow:
    return declared(PieceRow, one(db, "piece", piece_id))


def lot_named(db: sqlite3.Connection, material_id: int, name: str) -> Row | None:
    row = db.execute(f"{_SELECT['lot']} WHERE material_id = ? AND name = ?", (material_id, name)).fetchone()
    return None if row is None else _read("lot", row)
