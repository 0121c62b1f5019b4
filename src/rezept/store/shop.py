"""The shop itself."""

from __future__ import annotations

import sqlite3

from rezept.store.rows import Row


def create_shop(db: sqlite3.Connection, name: str, tag: str, demo: bool, at: str) -> None:
    db.execute("INSERT INTO shop (id, name, tag, demo, at) VALUES (1, ?, ?, ?, ?)", (name, tag, int(demo), at))


def shop(db: sqlite3.Connection) -> Row | None:
    """The shop, or None before its first run."""
    row = db.execute("SELECT name, tag, demo FROM shop").fetchone()
    return None if row is None else {**dict(row), "demo": bool(row["demo"])}
