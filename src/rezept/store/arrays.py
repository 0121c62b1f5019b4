"""Kept arrays."""

from __future__ import annotations

import sqlite3
from typing import Any

from rezept.store.rows import Row, as_json, found, plain_row

_COLUMNS = """
    SELECT kept_array.id, kept_array.name, kept_array.process, kept_array.document, kept_array.by_member,
           member.name AS by_name, kept_array.at
    FROM kept_array JOIN member ON member.id = kept_array.by_member
"""


def add(db: sqlite3.Connection, document: dict[str, Any], by: int, at: str) -> int:
    """Keep an array; one of the same name is retired by it."""
    db.execute(
        "UPDATE kept_array SET retired_at = :at WHERE name = :name AND retired_at IS NULL",
        {"at": at, "name": document["name"]},
    )
    cursor = db.execute(
        "INSERT INTO kept_array (name, process, document, by_member, at) VALUES (?, ?, ?, ?, ?)",
        (document["name"], document["process"], as_json(document), by, at),
    )
    return int(cursor.lastrowid or 0)


def arrays(db: sqlite3.Connection) -> list[Row]:
    """All that are in use, by name."""
    rows = db.execute(_COLUMNS + " WHERE kept_array.retired_at IS NULL ORDER BY kept_array.name COLLATE NOCASE")
    return [plain_row(row, "document") for row in rows]


def array(db: sqlite3.Connection, array_id: int) -> Row:
    row = db.execute(_COLUMNS + " WHERE kept_array.id = ?", (array_id,)).fetchone()
    return plain_row(found(row, f"kept array {array_id}"), "document")


def retire(db: sqlite3.Connection, array_id: int, at: str) -> None:
    db.execute("UPDATE kept_array SET retired_at = ? WHERE id = ? AND retired_at IS NULL", (at, array_id))
