"""The log of who did what, when; what others watch to stay up to date, and what an undo goes back by."""

from __future__ import annotations

import sqlite3

from rezept.store.rows import Row, as_json, found, plain_row

_COLUMNS = """
    SELECT change.id, change.subject, change.subject_id, change.verb, change.title, change.before, change.after,
           change.by_member, member.name AS by_name, change.at
    FROM change JOIN member ON member.id = change.by_member
"""


def log(
    db: sqlite3.Connection,
    subject: str,
    subject_id: int,
    verb: str,
    title: str,
    by: int,
    at: str,
    before: Row | None = None,
    after: Row | None = None,
) -> int:
    """Note that `by` did `verb` to the thing called `title`; returns the line's id.

    Going on with the same, such as scoring patch after patch, is one line that moves up.
    """
    if before is None and after is None:
        db.execute(
            """
            DELETE FROM change WHERE before IS NULL AND after IS NULL AND verb = ? AND by_member = ? AND id = (
                SELECT max(id) FROM change WHERE subject = ? AND subject_id = ?)
            """,
            (verb, by, subject, subject_id),
        )
    cursor = db.execute(
        """
        INSERT INTO change (subject, subject_id, verb, title, before, after, by_member, at)
        VALUES (?, ?, ?, ?, ?, ?, ?, ?)
        """,
        (
            subject,
            subject_id,
            verb,
            title,
            None if before is None else as_json(before),
            None if after is None else as_json(after),
            by,
            at,
        ),
    )
    return int(cursor.lastrowid or 0)


def latest_id(db: sqlite3.Connection) -> int:
    (latest,) = db.execute("SELECT coalesce(max(id), 0) FROM change").fetchone()
    return int(latest)


def since(db: sqlite3.Connection, change_id: int, most: int = 500) -> list[Row]:
    """What was done after the line `change_id`, in order; the subjects only."""
    rows = db.execute(
        "SELECT id, subject, subject_id, by_member FROM change WHERE id > ? ORDER BY id LIMIT ?", (change_id, most)
    )
    return [dict(row) for row in rows]


def changes(
    db: sqlite3.Connection, subject: str | None, subject_id: int | None, before_id: int | None, most: int
) -> list[Row]:
    """The log, newest first, of everything or of one thing, older than `before_id`."""
    rows = db.execute(
        _COLUMNS
        + """
        WHERE (:subject IS NULL OR change.subject = :subject) AND (:id IS NULL OR change.subject_id = :id)
              AND (:before IS NULL OR change.id < :before)
        ORDER BY change.id DESC LIMIT :most
        """,
        {"subject": subject, "id": subject_id, "before": before_id, "most": most},
    )
    return [plain_row(row, "before", "after") for row in rows]


def change(db: sqlite3.Connection, change_id: int) -> Row:
    row = db.execute(_COLUMNS + " WHERE change.id = ?", (change_id,)).fetchone()
    return plain_row(found(row, f"change {change_id}"), "before", "after")
