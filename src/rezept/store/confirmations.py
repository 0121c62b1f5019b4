"""How often a recipe held and failed."""

from __future__ import annotations

import sqlite3
from typing import TypedDict

from rezept.core.recipe import FailedBecause
from rezept.store.rows import declared, found

_COLUMNS = """
    SELECT confirmation.id, confirmation.recipe_id, confirmation.held, confirmation.note, confirmation.reason,
           confirmation.standing_before, confirmation.edit_after, confirmation.taken_back_at, confirmation.by_member,
           member.name AS by_name, confirmation.at
    FROM confirmation JOIN member ON member.id = confirmation.by_member
"""


class ConfirmationRow(TypedDict):
    """It held, or not; `standing_before` and `edit_after` where a rule changed the recipe's standing with it."""

    id: int
    recipe_id: int
    held: bool
    note: str
    reason: FailedBecause | None
    standing_before: str | None
    edit_after: int | None
    taken_back_at: str | None
    by_member: int
    by_name: str
    at: str


def _read(row: sqlite3.Row) -> ConfirmationRow:
    return declared(ConfirmationRow, {**dict(row), "held": bool(row["held"])})


def add(
    db: sqlite3.Connection,
    recipe_id: int,
    held: bool,
    note: str,
    reason: FailedBecause | None,
    changed_from: tuple[str, int] | None,
    by: int,
    at: str,
) -> int:
    """Note that a recipe held or failed; `changed_from` is the standing a rule changed with it, and the edit of that
    change."""
    standing_before, edit_after = changed_from or (None, None)
    cursor = db.execute(
        """
        INSERT INTO confirmation (recipe_id, held, note, reason, standing_before, edit_after, by_member, at)
        VALUES (?, ?, ?, ?, ?, ?, ?, ?)
        """,
        (recipe_id, int(held), note, reason, standing_before, edit_after, by, at),
    )
    return int(cursor.lastrowid or 0)


def of_recipe(db: sqlite3.Connection, recipe_id: int) -> list[ConfirmationRow]:
    """All that were not taken back, in order of time."""
    rows = db.execute(
        _COLUMNS + " WHERE recipe_id = ? AND taken_back_at IS NULL ORDER BY confirmation.id", (recipe_id,)
    )
    return [_read(row) for row in rows]


def confirmation(db: sqlite3.Connection, confirmation_id: int) -> ConfirmationRow:
    row = db.execute(_COLUMNS + " WHERE confirmation.id = ?", (confirmation_id,)).fetchone()
    return _read(found(row, f"confirmation {confirmation_id}"))


def take_back(db: sqlite3.Connection, confirmation_id: int, at: str) -> None:
    db.execute("UPDATE confirmation SET taken_back_at = ? WHERE id = ?", (at, confirmation_id))
