"""What the records hold of one member, and taking it out of them."""

from __future__ import annotations

import json
import re
import sqlite3
from collections.abc import Iterable, Sequence
from typing import Any

from rezept.core.names import name_key
from rezept.store.rows import Row, as_json, found

SOMEBODY = "somebody"
# Never shown: not to whoever it belongs to, either.
_SECRET_COLUMNS = ("secret", "token_sha256")
# Where Rezept itself has written who it was: sentences, and rows as they were when somebody changed them.
_SENTENCES = (("run_line", "sentence"), ("burn_run", "reason"), ("change", "title"))
_WHO = ("author", "changer", "by_name", "changed_by", "corrected_by")
_ROWS_OF_BEFORE = (("change", "before"), ("change", "after"), ("recipe_history", "recipe"))


def _referring(db: sqlite3.Connection) -> list[tuple[str, str]]:
    """Every column that refers to a member, whatever tables there are."""
    tables = db.execute(
        "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%' ORDER BY name"
    )
    return [
        (table["name"], key["from"])
        for table in tables.fetchall()
        for key in db.execute(f'PRAGMA foreign_key_list("{table["name"]}")').fetchall()
        if key["table"] == "member"
    ]


def about(db: sqlite3.Connection, member_id: int) -> Row:
    row = found(db.execute("SELECT * FROM member WHERE id = ?", (member_id,)).fetchone(), f"member {member_id}")
    return {**_open(row), "can_sign_in": row["secret"] is not None}


def _open(row: sqlite3.Row) -> Row:
    return {
        key: row[key]
        for key in row.keys()  # noqa: SIM118 a Row is no dict
        if key not in _SECRET_COLUMNS and not isinstance(row[key], bytes)
    }


def rows_of(db: sqlite3.Connection, member_id: int) -> dict[str, list[Row]]:
    """`table.column`: the rows that refer to the member there; empty ones left out."""
    every = {
        f"{table}.{column}": [
            _open(row) for row in db.execute(f'SELECT * FROM "{table}" WHERE "{column}" = ?', (member_id,))
        ]
        for table, column in _referring(db)
    }
    return {place: rows for place, rows in every.items() if rows}


def names_of(db: sqlite3.Connection, member_id: int) -> list[str]:
    """What a member is called and was called before, the present name first."""
    names = [about(db, member_id)["name"]]
    renamed = "SELECT title, before, after FROM change WHERE subject = 'member' AND subject_id = ? ORDER BY id"
    for row in db.execute(renamed, (member_id,)):
        names.append(row["title"])
        names += [json.loads(row[key])["name"] for key in ("before", "after") if row[key] and "name" in row[key]]
    return [name for name in dict.fromkeys(names) if name and name != SOMEBODY]


def sentences_naming(db: sqlite3.Connection, names: Iterable[str]) -> list[str]:
    """What Rezept wrote down with one of these names in it."""
    sentences = []
    for name in names:
        for table, column in _SENTENCES:
            rows = db.execute(f'SELECT DISTINCT "{column}" AS said FROM "{table}" WHERE instr("{column}", ?)', (name,))
            sentences += [row["said"] for row in rows]
    return list(dict.fromkeys(sentences))


def tries_of(db: sqlite3.Connection, names: Iterable[str]) -> list[Row]:
    rows = db.execute(
        "SELECT name_key, address, tries, last_s FROM sign_in_try WHERE name_key IN (SELECT value FROM json_each(?))",
        (as_json([name_key(name) for name in names]),),
    )
    return [dict(row) for row in rows]


class _Unnamed:
    """Takes some names out of sentences, and leaves longer names of others that begin like them."""

    def __init__(self, names: Sequence[str], others: Sequence[str]) -> None:
        self.names = frozenset(names)
        longest_first = sorted({*names, *others}, key=len, reverse=True)
        self._any = re.compile(r"(?<!\w)(?:" + "|".join(map(re.escape, longest_first)) + r")(?!\w)")

    def sentence(self, text: str) -> str:
        return self._any.sub(lambda hit: SOMEBODY if hit.group() in self.names else hit.group(), text)

    def row(self, value: Any, key: str = "") -> Any:
        if isinstance(value, dict):
            return {one: self.row(inner, one) for one, inner in value.items()}
        if isinstance(value, list):
            return [self.row(inner, key) for inner in value]
        return SOMEBODY if key in _WHO and value in self.names else value


def unname(db: sqlite3.Connection, member_id: int, names: Sequence[str]) -> None:
    """Wherever Rezept wrote one of these names it says somebody from now on."""
    others = [row["name"] for row in db.execute("SELECT name FROM member WHERE id <> ?", (member_id,))]
    unnamed = _Unnamed(names, others)
    db.execute(
        "UPDATE change SET title = ?, before = NULL, after = NULL WHERE subject = 'member' AND subject_id = ?",
        (SOMEBODY, member_id),
    )
    for table, column in _SENTENCES:
        for row in db.execute(f'SELECT rowid AS id, "{column}" AS said FROM "{table}"').fetchall():
            said = unnamed.sentence(row["said"])
            if said != row["said"]:
                db.execute(f'UPDATE "{table}" SET "{column}" = ? WHERE rowid = ?', (said, row["id"]))
    for table, column in _ROWS_OF_BEFORE:
        named = f'SELECT rowid AS id, "{column}" AS kept FROM "{table}" WHERE "{column}" IS NOT NULL'
        for row in db.execute(named).fetchall():
            before = json.loads(row["kept"])
            after = unnamed.row(before)
            if after != before:
                db.execute(f'UPDATE "{table}" SET "{column}" = ? WHERE rowid = ?', (as_json(after), row["id"]))


def remove(db: sqlite3.Connection, member_id: int, names: Iterable[str], at: str) -> None:
    """Leave of a member that there was one."""
    db.execute("DELETE FROM session WHERE member_id = ?", (member_id,))
    for name in names:
        db.execute("DELETE FROM sign_in_try WHERE name_key = ?", (name_key(name),))
    db.execute(
        """
        UPDATE member SET name = ?, name_key = NULL, secret = NULL, retired_at = coalesce(retired_at, ?),
                          removed_at = ?, edit = edit + 1
        WHERE id = ?
        """,
        (SOMEBODY, at, at, member_id),
    )
