"""The queue of the worker."""

from __future__ import annotations

import sqlite3
from typing import Any, TypedDict

from rezept.store.rows import AnyRow, as_json, declared, found, plain_row

OVER = ("done", "failed", "cancelled", "interrupted")
_JOBS = """
    SELECT job.id, kind, task, urgent, state, progress, sentence, answer, by_member, job.at, ended_at,
           member.name AS by_name
    FROM job JOIN member ON member.id = job.by_member
"""


class JobRow(TypedDict):
    id: int
    kind: str
    task: dict[str, Any]
    urgent: int
    state: str
    progress: float
    sentence: str
    answer: Any
    by_member: int
    at: str
    ended_at: str | None
    by_name: str


def _job(row: sqlite3.Row) -> JobRow:
    return declared(JobRow, plain_row(row, "task", "answer"))


def add(db: sqlite3.Connection, kind: str, task: AnyRow, urgent: bool, by: int, at: str) -> int:
    """A job behind those that wait; the same one that waits already is not added twice. Returns its id."""
    text = as_json(task)
    same = db.execute(
        "SELECT id FROM job WHERE kind = ? AND task = ? AND state IN ('waiting', 'running')", (kind, text)
    ).fetchone()
    if same is not None:
        return int(same["id"])
    cursor = db.execute(
        "INSERT INTO job (kind, task, urgent, by_member, at) VALUES (?, ?, ?, ?, ?)", (kind, text, int(urgent), by, at)
    )
    return int(cursor.lastrowid or 0)


def job(db: sqlite3.Connection, job_id: int) -> JobRow:
    return _job(found(db.execute(_JOBS + " WHERE job.id = ?", (job_id,)).fetchone(), f"job {job_id}"))


def jobs(db: sqlite3.Connection, most: int) -> list[JobRow]:
    """What waits and runs, then what has ended lately, the latest first."""
    rows = db.execute(_JOBS + " ORDER BY state IN ('waiting', 'running') DESC, job.id DESC LIMIT ?", (most,))
    return [_job(row) for row in rows]


def in_state(db: sqlite3.Connection, state: str) -> list[JobRow]:
    """In the order in which they are taken: what somebody waits for on the screen first."""
    return [_job(row) for row in db.execute(_JOBS + " WHERE state = ? ORDER BY urgent DESC, job.id", (state,))]


def before(db: sqlite3.Connection, one: JobRow) -> int:
    """How many jobs come before one that waits."""
    row = db.execute(
        """
        SELECT count(*) AS jobs FROM job
        WHERE state = 'running' OR (state = 'waiting' AND (urgent > :urgent OR (urgent = :urgent AND id < :id)))
        """,
        one,
    ).fetchone()
    return int(row["jobs"])


def begin(db: sqlite3.Connection, job_id: int) -> bool:
    """Take a job that waits; False where somebody has cancelled it."""
    return db.execute("UPDATE job SET state = 'running' WHERE id = ? AND state = 'waiting'", (job_id,)).rowcount == 1


def progress(db: sqlite3.Connection, job_id: int, share: float) -> None:
    db.execute("UPDATE job SET progress = ? WHERE id = ? AND state = 'running'", (share, job_id))


def end(db: sqlite3.Connection, job_id: int, state: str, sentence: str, answer: Any, at: str) -> bool:
    """How a job ended; False where it is over already."""
    text = None if answer is None else as_json(answer)
    cursor = db.execute(
        """
        UPDATE job SET state = ?, sentence = ?, answer = ?, progress = iif(? = 'done', 1, progress), ended_at = ?
        WHERE id = ? AND state IN ('waiting', 'running')
        """,
        (state, sentence, text, state, at, job_id),
    )
    return cursor.rowcount == 1


def forget(db: sqlite3.Connection, before_at: str) -> None:
    """Forget what ended long ago."""
    db.execute("DELETE FROM job WHERE ended_at < ?", (before_at,))
