"""Runs that are followed by the clock, and what was said of them meanwhile."""

from __future__ import annotations

import sqlite3
from typing import TypedDict

from rezept.store.rows import declared, found

_RUNS = """
    SELECT burn_run.id, burn_run.burn_id, burn_run.state, burn.revision_id, revision.trial_id, trial.number,
           head.machine_id, burn_run.by_member, member.name AS by_name
    FROM burn_run
    JOIN burn ON burn.id = burn_run.burn_id
    JOIN revision ON revision.id = burn.revision_id
    JOIN trial ON trial.id = revision.trial_id
    JOIN head ON head.id = trial.head_id
    JOIN member ON member.id = burn_run.by_member
"""


class ClockRow(TypedDict):
    """A run by the clock and whose it is."""

    id: int
    burn_id: int
    state: str
    revision_id: int
    trial_id: int
    number: int
    machine_id: int
    by_member: int
    by_name: str


class EventRow(TypedDict):
    what: str
    by_s: float
    part: str
    moment: float


def going(db: sqlite3.Connection) -> list[ClockRow]:
    """The runs of which nobody has said that they are over."""
    rows = db.execute(
        _RUNS + " WHERE by_clock = 1 AND burn_run.state = 'running' AND burn.taken_back_at IS NULL ORDER BY burn_run.id"
    )
    return [declared(ClockRow, dict(row)) for row in rows]


def run_by_clock(db: sqlite3.Connection, burn_id: int) -> ClockRow:
    """The latest run of a burn that is followed by the clock."""
    row = db.execute(
        _RUNS + " WHERE by_clock = 1 AND burn_run.burn_id = ? ORDER BY burn_run.id DESC LIMIT 1", (burn_id,)
    ).fetchone()
    return declared(ClockRow, dict(found(row, "run of this burn by the clock", "burn")))


def is_going(db: sqlite3.Connection, burn_id: int) -> bool:
    row = db.execute(
        "SELECT 1 FROM burn_run WHERE by_clock = 1 AND state = 'running' AND burn_id = ?", (burn_id,)
    ).fetchone()
    return row is not None


def add_event(
    db: sqlite3.Connection, run_id: int, what: str, moment: float, by: int, by_s: float = 0.0, part: str = ""
) -> None:
    db.execute(
        "INSERT INTO clock_event (run_id, what, by_s, part, moment, by_member) VALUES (?, ?, ?, ?, ?, ?)",
        (run_id, what, by_s, part, moment, by),
    )


def events(db: sqlite3.Connection, run_id: int) -> list[EventRow]:
    rows = db.execute("SELECT what, by_s, part, moment FROM clock_event WHERE run_id = ? ORDER BY id", (run_id,))
    return [declared(EventRow, dict(row)) for row in rows]


def end_at(db: sqlite3.Connection, run_id: int, state: str, reached: str | None, bare: list[str], at: str) -> None:
    """Say how far a run came: the part nobody knows of, and those it has not reached; all others burned."""
    db.execute("UPDATE burn_run SET state = ?, ended_at = ? WHERE id = ? AND state = 'running'", (state, at, run_id))
    db.execute("UPDATE run_part SET state = 'uncertain' WHERE run_id = ? AND name = ?", (run_id, reached))
    db.executemany(
        "UPDATE run_part SET state = 'waiting', at = NULL WHERE run_id = ? AND name = ?",
        [(run_id, name) for name in bare],
    )


def mix(db: sqlite3.Connection, run_id: int, part: str) -> None:
    """A setting was turned while a part burned: no single one says what it got."""
    db.execute("UPDATE run_part SET mixed = 1 WHERE run_id = ? AND name = ?", (run_id, part))
