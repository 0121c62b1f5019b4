"""Members of before their names were compared as they are read."""

from __future__ import annotations

import itertools
import sqlite3

from rezept.core.names import name_key


def fill_keys(db: sqlite3.Connection) -> None:
    """Give every member the key of their name. Of two who were read as the same, the later one gets a number, with
    which they sign in from now on; the keeper sees it in the list."""
    taken: set[str] = set()
    for row in db.execute("SELECT id, name FROM member ORDER BY id").fetchall():
        names = (row["name"] if number == 1 else f"{row['name']} {number}" for number in itertools.count(1))
        name = next(name for name in names if name_key(name) not in taken)
        taken.add(name_key(name))
        db.execute("UPDATE member SET name = ?, name_key = ? WHERE id = ?", (name, name_key(name), row["id"]))
