"""The log of who did what, when; what others watch to stay up to date, and what an undo goes back by."""

from __future__ import annotations

import sqlite3

from rezept.store.rows import AnyRow, Row, as_json, found, plain_row

_COLUMNS = """
    SELECT change.id, change.subject, change.subject_id, change.verb, change.title, change.before, change.after,
           change.by_member, member.name AS by_name, change.at
    FROM change JOIN member ON member.id = change.by_member
"""


# The next line about the same thing says the same of the same person.
_GOES_ON = """
    (change.before IS NULL AND change.after IS NULL AND EXISTS (
        SELECT 1 FROM change AS next
        WHERE next.id = (SELECT min(id) FROM change AS later WHERE later.subject = change.subject
                         AND later.subject_id = change.subject_id AND later.id > change.id)
            AND next.verb = change.verb AND next.by_member = change.by_member
            AND next.before IS NULL AND next.after IS NULL
    ))
"""


def log(
    db: sqlite3.Connection,
    subject: str,
    subject_id: int,
    verb: str,
    title: str,
    by: int,
    at: str,
    before: AnyRow | None = None,
    after: AnyRow | None = None,
) -> int:
    """Note that `by` did `verb` to the thing called `title`; returns the line's id. No line is ever taken out."""
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
    """The log, newest first, of everything or of one thing, older than `before_id`.

    Going on with the same, such as scoring patch after patch, is shown as one line: the last.
    """
    rows = db.execute(
        _COLUMNS
        + f"""
        WHERE (:subject IS NULL OR change.subject = :subject) AND (:id IS NULL OR change.subject_id = :id)
              AND (:before IS NULL OR change.id < :before) AND NOT {_GOES_ON}
        ORDER BY change.id DESC LIMIT :most
        """,
        {"subject": subject, "id": subject_id, "before": before_id, "most": most},
    )
    return [plain_row(row, "before", "after") for row in rows]


def change(db: sqlite3.Connection, change_id: int) -> Row:
    row = db.execute(_COLUMNS + " WHERE change.id = ?", (change_id,)).fetchone()
    return plain_row(found(row, f"change {change_id}"), "before", "after")
