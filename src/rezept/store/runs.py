"""Runs of a burn, what became of each part, and what people remarked."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from typing import TypedDict

from rezept.core.put_back import PutBackKey
from rezept.store.rows import AnyRow, Row, as_json, declared, found

# A run whose job is gone: what was burning then is uncertain.
_END = "UPDATE burn_run SET state = :state, reason = :reason, ended_at = :at WHERE id = :run AND state = 'running'"
_UNSURE = "UPDATE run_part SET state = 'uncertain', at = :at WHERE run_id = :run AND state = 'burning'"


class PartRow(TypedDict):
    name: str
    kind: str
    state: str
    passes: int
    power: float
    speed: float
    focus_mm: float
    mixed: bool
    read_off: dict[str, float | None]


class LineRow(TypedDict):
    at: str
    sentence: str


class RunRow(TypedDict):
    """One time the machine worked on a plate, with its parts in burn order."""

    id: int
    burn_id: int
    kind: str
    via: str
    state: str
    reason: str
    at: str
    ended_at: str | None
    by_clock: bool
    put_back: PutBackKey
    doubtful: bool
    by_name: str
    parts: list[PartRow]
    lines: list[LineRow]


class RemarkRow(TypedDict):
    id: int
    kind: str
    patch: str | None
    note: str
    by_clock: bool
    at: str
    by_name: str


def add_run(
    db: sqlite3.Connection,
    burn_id: int,
    kind: str,
    via: str,
    parts: Sequence[AnyRow],
    by: int,
    at: str,
    log: str = "",
    by_clock: bool = False,
    put_back: PutBackKey = "still",
    doubtful: bool = False,
) -> int:
    """A run with its parts in burn order; one logged by hand is done already. `log` names the file it is kept in
    while it burns; `by_clock`: it goes on, and unless somebody says otherwise all of it burns; `doubtful`: what it
    burned may not meet what was there."""
    live = via == "link"
    going = live or by_clock
    cursor = db.execute(
        """
        INSERT INTO burn_run (burn_id, kind, via, state, by_clock, put_back, doubtful, by_member, at, ended_at, log)
        VALUES (:burn, :kind, :via, :state, :by_clock, :put_back, :doubtful, :by, :at, :ended, :log)
        """,
        {
            "burn": burn_id,
            "kind": kind,
            "via": via,
            "state": "running" if going else "done",
            "by_clock": int(by_clock),
            "put_back": put_back,
            "doubtful": int(doubtful),
            "by": by,
            "at": at,
            "ended": None if going else at,
            "log": log,
        },
    )
    run_id = int(cursor.lastrowid or 0)
    db.executemany(
        """
        INSERT INTO run_part (run_id, position, name, kind, state, passes, at)
        VALUES (:run, :position, :name, :kind, :state, :passes, :at)
        """,
        [
            {**part, "run": run_id, "position": i, "state": "waiting" if live else "done", "at": None if live else at}
            for i, part in enumerate(parts)
        ],
    )
    return run_id


def part_began(db: sqlite3.Connection, run_id: int, name: str, at: str) -> None:
    """The first line of a part was sent; one of which more is known already stays as it is."""
    db.execute(
        "UPDATE run_part SET state = 'burning', at = ? WHERE run_id = ? AND name = ? AND state = 'waiting'",
        (at, run_id, name),
    )


def part_done(db: sqlite3.Connection, run_id: int, name: str, received: AnyRow, at: str) -> None:
    """`received` holds power, speed, focus_mm and mixed."""
    db.execute(
        """
        UPDATE run_part SET state = 'done', power = :power, speed = :speed, focus_mm = :focus_mm, mixed = :mixed,
               at = :at
        WHERE run_id = :run AND name = :name AND state IN ('waiting', 'burning', 'uncertain')
        """,
        {**received, "run": run_id, "name": name, "at": at},
    )


def end_run(db: sqlite3.Connection, run_id: int, state: str, reason: str, at: str) -> bool:
    """Say how a run ended, unless somebody has already; whether this did."""
    values = {"run": run_id, "state": state, "reason": reason, "at": at}
    if db.execute(_END, values).rowcount != 1:
        return False
    db.execute(_UNSURE, values)
    return True


def running(db: sqlite3.Connection) -> list[Row]:
    """Runs over a link that have not ended, with the name of their log."""
    rows = db.execute("SELECT id, log FROM burn_run WHERE state = 'running' AND by_clock = 0 ORDER BY id")
    return [dict(row) for row in rows]


def add_line(db: sqlite3.Connection, run_id: int, number: int, sentence: str, at: str) -> None:
    """A line of a run's log; one that is there already is left as it is."""
    db.execute(
        "INSERT INTO run_line (run_id, number, sentence, at) VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING",
        (run_id, number, sentence, at),
    )


def line_count(db: sqlite3.Connection, run_id: int) -> int:
    (count,) = db.execute("SELECT count(*) FROM run_line WHERE run_id = ?", (run_id,)).fetchone()
    return int(count)


def settle_uncertain(db: sqlite3.Connection, burn_id: int, burned: bool, at: str) -> list[str]:
    """What somebody saw of the uncertain parts of a burn: they burned whole, or stayed bare. Returns their names."""
    rows = db.execute(
        """
        UPDATE run_part SET state = :state, at = :at
        WHERE state = 'uncertain' AND run_id IN (SELECT id FROM burn_run WHERE burn_id = :burn)
        RETURNING name
        """,
        {"burn": burn_id, "state": "done" if burned else "bare", "at": at},
    )
    return [row["name"] for row in rows.fetchall()]


def runs_of_burn(db: sqlite3.Connection, burn_id: int) -> list[RunRow]:
    """Runs of a burn, the first one first, each with its parts in burn order."""
    runs = [
        dict(row)
        for row in db.execute(
            """
            SELECT burn_run.id, burn_run.burn_id, burn_run.kind, burn_run.via, burn_run.state, burn_run.reason,
                   by_clock, put_back, doubtful, burn_run.at, burn_run.ended_at, member.name AS by_name
            FROM burn_run JOIN member ON member.id = burn_run.by_member WHERE burn_run.burn_id = ? ORDER BY burn_run.id
            """,
            (burn_id,),
        )
    ]
    for run in runs:
        run |= {key: bool(run[key]) for key in ("by_clock", "doubtful")}
        turned = read_off(db, [run["id"]]).get(run["id"], {})
        run["parts"] = [
            declared(PartRow, {**dict(row), "mixed": bool(row["mixed"]), "read_off": turned.get(row["name"], {})})
            for row in db.execute(
                """
                SELECT name, kind, state, passes, power, speed, focus_mm, mixed FROM run_part
                WHERE run_id = ? ORDER BY position
                """,
                (run["id"],),
            )
        ]
        lines = db.execute("SELECT at, sentence FROM run_line WHERE run_id = ? ORDER BY number", (run["id"],))
        run["lines"] = [declared(LineRow, dict(row)) for row in lines]
    return [declared(RunRow, run) for run in runs]


def add_read_off(
    db: sqlite3.Connection, run_id: int, parts: Sequence[str], values: Mapping[str, float | None], by: int, at: str
) -> None:
    """What these parts burned with otherwise than planned: read off meanwhile, or asked for; None: turned, and nobody
    knows how far."""
    db.executemany(
        "INSERT INTO read_off (run_id, part, key, value, by_member, at) VALUES (?, ?, ?, ?, ?, ?)",
        [(run_id, part, key, value, by, at) for part in parts for key, value in values.items()],
    )


def read_off(db: sqlite3.Connection, runs: Iterable[int]) -> dict[int, dict[str, dict[str, float | None]]]:
    """By run and part the settings that were read off, the latest of each."""
    rows = db.execute(
        """
        SELECT run_id, part, key, value FROM read_off
        WHERE run_id IN (SELECT value FROM json_each(?)) ORDER BY id
        """,
        (as_json(list(runs)),),
    )
    said: dict[int, dict[str, dict[str, float | None]]] = {}
    for row in rows:
        said.setdefault(row["run_id"], {}).setdefault(row["part"], {})[row["key"]] = row["value"]
    return said


def add_remark(
    db: sqlite3.Connection, burn_id: int, kind: str, patch: str | None, note: str, by_clock: bool, by: int, at: str
) -> int:
    """`by_clock`: which patch it is about is told by the clock."""
    cursor = db.execute(
        "INSERT INTO remark (burn_id, kind, patch, note, by_clock, by_member, at) VALUES (?, ?, ?, ?, ?, ?, ?)",
        (burn_id, kind, patch, note, int(by_clock), by, at),
    )
    return int(cursor.lastrowid or 0)


def remark(db: sqlite3.Connection, remark_id: int) -> Row:
    row = db.execute("SELECT id, burn_id, kind, patch, note, by_member FROM remark WHERE id = ?", (remark_id,))
    return dict(found(row.fetchone(), f"remark {remark_id}"))


def take_back_remark(db: sqlite3.Connection, remark_id: int, at: str) -> None:
    db.execute("UPDATE remark SET taken_back_at = ? WHERE id = ? AND taken_back_at IS NULL", (at, remark_id))


def remarks(db: sqlite3.Connection, burn_id: int) -> list[RemarkRow]:
    """What was remarked on a burn and not taken back, the first first."""
    rows = db.execute(
        """
        SELECT remark.id, remark.kind, remark.patch, remark.note, remark.by_clock, remark.at, member.name AS by_name
        FROM remark JOIN member ON member.id = remark.by_member
        WHERE remark.burn_id = ? AND remark.taken_back_at IS NULL ORDER BY remark.id
        """,
        (burn_id,),
    )
    return [declared(RemarkRow, {**dict(row), "by_clock": bool(row["by_clock"])}) for row in rows]
