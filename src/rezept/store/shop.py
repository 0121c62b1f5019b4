"""The shop itself, its members, machines, heads, materials and lots."""

from __future__ import annotations

import sqlite3
from typing import Any

from rezept.store.rows import Row, as_json, found, plain_row


def create_shop(db: sqlite3.Connection, name: str, tag: str, demo: bool, at: str) -> None:
    db.execute("INSERT INTO shop (id, name, tag, demo, at) VALUES (1, ?, ?, ?, ?)", (name, tag, int(demo), at))


def shop(db: sqlite3.Connection) -> Row | None:
    """The shop, or None before its first run."""
    row = db.execute("SELECT name, tag, demo FROM shop").fetchone()
    return None if row is None else {**dict(row), "demo": bool(row["demo"])}


def add_member(db: sqlite3.Connection, name: str, role: str, at: str) -> int:
    cursor = db.execute("INSERT INTO member (name, role, at) VALUES (?, ?, ?)", (name, role, at))
    return int(cursor.lastrowid or 0)


def members(db: sqlite3.Connection) -> list[Row]:
    return [dict(row) for row in db.execute("SELECT id, name, role FROM member ORDER BY id")]


def member(db: sqlite3.Connection, member_id: int) -> Row:
    row = db.execute("SELECT id, name, role FROM member WHERE id = ?", (member_id,)).fetchone()
    return dict(found(row, f"member {member_id}"))


def add_machine(db: sqlite3.Connection, name: str, facts: dict[str, Any], by: int, at: str) -> int:
    cursor = db.execute(
        "INSERT INTO machine (name, facts, by_member, at) VALUES (?, ?, ?, ?)", (name, as_json(facts), by, at)
    )
    return int(cursor.lastrowid or 0)


def add_head(db: sqlite3.Connection, machine_id: int, name: str, facts: dict[str, Any], by: int, at: str) -> int:
    cursor = db.execute(
        "INSERT INTO head (machine_id, name, facts, by_member, at) VALUES (?, ?, ?, ?, ?)",
        (machine_id, name, as_json(facts), by, at),
    )
    return int(cursor.lastrowid or 0)


_HEADS = """
    SELECT head.id, head.name, head.facts, head.machine_id, machine.name AS machine, machine.facts AS machine_facts,
           (SELECT count(*) FROM head AS other WHERE other.machine_id = head.machine_id) AS heads
    FROM head JOIN machine ON machine.id = head.machine_id
"""


def _head(row: sqlite3.Row) -> Row:
    head = plain_row(row, "facts", "machine_facts")
    # A machine with one head is known by its own name; with several, the head belongs to the name.
    head["title"] = head["machine"] if head["heads"] == 1 else f"{head['machine']} {head['name']}".strip()
    return head


def heads(db: sqlite3.Connection) -> list[Row]:
    """Every head with its machine, in the order in which they came."""
    return [_head(row) for row in db.execute(_HEADS + " ORDER BY machine.id, head.id")]


def head(db: sqlite3.Connection, head_id: int) -> Row:
    row = db.execute(_HEADS + " WHERE head.id = ?", (head_id,)).fetchone()
    return _head(found(row, f"head {head_id}", "head_id"))


def add_material(db: sqlite3.Connection, facts: dict[str, Any], processes: list[str], by: int, at: str) -> int:
    cursor = db.execute(
        """
        INSERT INTO material (name, family, thickness_mm, mark, hazards, ground_lab, processes, by_member, at)
        VALUES (:name, :family, :thickness_mm, :mark, :hazards, :ground_lab, :processes, :by, :at)
        """,
        {
            **facts,
            "hazards": as_json(facts["hazards"]),
            "ground_lab": None if facts["ground_lab"] is None else as_json(facts["ground_lab"]),
            "processes": as_json(processes),
            "by": by,
            "at": at,
        },
    )
    return int(cursor.lastrowid or 0)


_MATERIAL_COLUMNS = "id, name, family, thickness_mm, mark, hazards, ground_lab, processes"


def _material(row: sqlite3.Row) -> Row:
    material = plain_row(row, "hazards", "ground_lab", "processes")
    thickness = material["thickness_mm"]
    material["title"] = material["name"] if thickness is None else f"{material['name']} {thickness:g} mm"
    return material


def materials(db: sqlite3.Connection) -> list[Row]:
    rows = db.execute(f"SELECT {_MATERIAL_COLUMNS} FROM material ORDER BY id")
    return [_material(row) for row in rows]


def material(db: sqlite3.Connection, material_id: int) -> Row:
    row = db.execute(f"SELECT {_MATERIAL_COLUMNS} FROM material WHERE id = ?", (material_id,)).fetchone()
    return _material(found(row, f"material {material_id}", "material_id"))


def add_lot(db: sqlite3.Connection, material_id: int, name: str, measured_mm: float | None, by: int, at: str) -> int:
    cursor = db.execute(
        "INSERT INTO lot (material_id, name, measured_mm, by_member, at) VALUES (?, ?, ?, ?, ?)",
        (material_id, name, measured_mm, by, at),
    )
    return int(cursor.lastrowid or 0)


def lots(db: sqlite3.Connection) -> list[Row]:
    return [dict(row) for row in db.execute("SELECT id, material_id, name, measured_mm FROM lot ORDER BY id DESC")]


def lot_named(db: sqlite3.Connection, material_id: int, name: str) -> Row | None:
    row = db.execute(
        "SELECT id, name, measured_mm FROM lot WHERE material_id = ? AND name = ?", (material_id, name)
    ).fetchone()
    return None if row is None else dict(row)


def lot(db: sqlite3.Connection, lot_id: int) -> Row:
    row = db.execute("SELECT id, material_id, name, measured_mm FROM lot WHERE id = ?", (lot_id,)).fetchone()
    return dict(found(row, f"lot {lot_id}", "lot_id"))
