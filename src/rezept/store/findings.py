"""Findings that were kept: what was chosen, for what, by which model and from which plates."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from typing import TypedDict

from rezept.core.process import ProcessKey
from rezept.store.rows import AnyRow, Row, as_json, declared, found, plain_row


class FindingRow(TypedDict):
    id: int
    process: ProcessKey
    aim: str
    wish: Row
    settings: dict[str, float]
    predicted: dict[str, float]
    model: Row
    at: str
    by_name: str
    burns: list[int]


def add(db: sqlite3.Connection, finding: AnyRow, burns: Iterable[int], by: int, at: str) -> int:
    """Keep a finding with the burns it rests on; returns its id."""
    kept = {key: as_json(finding[key]) for key in ("wish", "settings", "predicted", "model")}
    cursor = db.execute(
        """
        INSERT INTO finding (material_id, head_id, process, aim, wish, settings, predicted, model, by_member, at)
        VALUES (:material_id, :head_id, :process, :aim, :wish, :settings, :predicted, :model, :by, :at)
        """,
        {**finding, **kept, "by": by, "at": at},
    )
    finding_id = int(cursor.lastrowid or 0)
    db.executemany("INSERT INTO finding_burn VALUES (?, ?)", [(finding_id, burn) for burn in burns])
    return finding_id


def one(db: sqlite3.Connection, finding_id: int) -> FindingRow:
    row = db.execute(
        """
        SELECT finding.id, process, aim, wish, settings, predicted, model, finding.at, member.name AS by_name
        FROM finding JOIN member ON member.id = finding.by_member WHERE finding.id = ?
        """,
        (finding_id,),
    ).fetchone()
    plain = plain_row(found(row, f"finding {finding_id}"), "wish", "settings", "predicted", "model")
    burns = db.execute("SELECT burn_id FROM finding_burn WHERE finding_id = ? ORDER BY burn_id", (finding_id,))
    return declared(FindingRow, plain | {"burns": [burn["burn_id"] for burn in burns]})
