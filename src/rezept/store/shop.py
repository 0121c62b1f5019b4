"""The shop itself."""

from __future__ import annotations

import sqlite3

from rezept.store.rows import Row


def create_shop(db: sqlite3.Connection, name: str, tag: str, demo: bool, at: str) -> None:
    # The demo is the same whenever it is made; nobody signs in to it.
    db.execute(
        "INSERT INTO shop (id, name, tag, demo, at, key)"
        " VALUES (1, :name, :tag, :demo, :at, iif(:demo, 'demo', lower(hex(randomblob(6)))))",
        {"name": name, "tag": tag, "demo": int(demo), "at": at},
    )


def shop(db: sqlite3.Connection) -> Row | None:
    """The shop, or None before its first run."""
    row = db.execute("SELECT name, tag, demo, address FROM shop").fetchone()
    return None if row is None else {**dict(row), "demo": bool(row["demo"])}


def set_address(db: sqlite3.Connection, address: str | None) -> None:
    db.execute("UPDATE shop SET address = ?", (address,))


def key(db: sqlite3.Connection) -> str:
    """What tells this shop from others on the same machine; empty before its first run."""
    row = db.execute("SELECT key FROM shop").fetchone()
    return "" if row is None else str(row["key"])


def clear(db: sqlite3.Connection) -> list[str]:
    """Delete every row of every table; returns the names of the photos that stood in them."""
    photos = [row["sha256"] for row in db.execute("SELECT sha256 FROM photo")]
    # Checked at the end of the transaction, so that the order of the tables does not matter.
    db.execute("PRAGMA defer_foreign_keys = ON")
    tables = db.execute("SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%'").fetchall()
    for table in tables:
        db.execute(f'DELETE FROM "{table["name"]}"')
    return photos
