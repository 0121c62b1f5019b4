"""Kept figures."""

from __future__ import annotations

import sqlite3
from typing import Any, TypedDict

from rezept.core.names import name_key
from rezept.store.rows import Row, as_json, declared, found, plain_row


class FigureRow(TypedDict):
    """A kept figure as a list shows it; its drawing is read by itself (`svg`)."""

    id: int
    name: str
    width_mm: float
    height_mm: float
    picture: dict[str, str]
    by_member: int
    by_name: str
    at: str


_COLUMNS = """
    SELECT kept_figure.id, kept_figure.name, kept_figure.width_mm, kept_figure.height_mm, kept_figure.picture,
           kept_figure.by_member, member.name AS by_name, kept_figure.at
    FROM kept_figure JOIN member ON member.id = kept_figure.by_member
"""


def _declared(row: sqlite3.Row) -> FigureRow:
    return declared(FigureRow, plain_row(row, "picture"))


def add(db: sqlite3.Connection, figure: Row, by: int, at: str) -> int:
    """Keep a figure: its `name`, `svg`, `width_mm`, `height_mm` and `picture`."""
    cursor = db.execute(
        """
        INSERT INTO kept_figure (name, name_key, svg, width_mm, height_mm, picture, by_member, at)
        VALUES (:name, :key, :svg, :width_mm, :height_mm, :picture, :by, :at)
        """,
        {**figure, "key": name_key(figure["name"]), "picture": as_json(figure["picture"]), "by": by, "at": at},
    )
    return int(cursor.lastrowid or 0)


def figures(db: sqlite3.Connection) -> list[FigureRow]:
    """All that are in use, by name."""
    rows = db.execute(_COLUMNS + " WHERE kept_figure.retired_at IS NULL ORDER BY kept_figure.name_key")
    return [_declared(row) for row in rows]


def figure(db: sqlite3.Connection, figure_id: int) -> FigureRow:
    row = db.execute(_COLUMNS + " WHERE kept_figure.id = ?", (figure_id,)).fetchone()
    return _declared(found(row, f"kept figure {figure_id}"))


def named(db: sqlite3.Connection, name: str) -> FigureRow | None:
    """The one in use that is read as this name."""
    where = " WHERE kept_figure.name_key = ? AND kept_figure.retired_at IS NULL"
    row = db.execute(_COLUMNS + where, (name_key(name),)).fetchone()
    return None if row is None else _declared(row)


def svg(db: sqlite3.Connection, figure_id: int) -> str:
    row = db.execute("SELECT svg FROM kept_figure WHERE id = ?", (figure_id,)).fetchone()
    text: Any = found(row, f"kept figure {figure_id}")["svg"]
    return str(text)


def retire(db: sqlite3.Connection, figure_id: int, at: str) -> None:
    db.execute("UPDATE kept_figure SET retired_at = ? WHERE id = ? AND retired_at IS NULL", (at, figure_id))
