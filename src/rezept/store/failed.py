"""Settings that were burned and failed."""

from __future__ import annotations

import sqlite3
from typing import TypedDict

from rezept.core.process import ProcessKey
from rezept.store.rows import AnyRow, as_json, declared, found, plain_row

_COLUMNS = """
    SELECT failed_setting.id, failed_setting.head_id, failed_setting.material_id, failed_setting.process,
           failed_setting.burn_id, failed_setting.patch, failed_setting.step, failed_setting.settings,
           failed_setting.note,
           failed_setting.taken_back_at, failed_setting.by_member, member.name AS by_name, failed_setting.at,
           revision.trial_id, trial.number AS trial_number
    FROM failed_setting
    JOIN member ON member.id = failed_setting.by_member
    JOIN burn ON burn.id = failed_setting.burn_id
    JOIN revision ON revision.id = burn.revision_id
    JOIN trial ON trial.id = revision.trial_id
"""


class FailedRow(TypedDict):
    """The settings a patch got, and whose plate shows that they failed."""

    id: int
    head_id: int
    material_id: int
    process: ProcessKey
    burn_id: int
    patch: str
    step: int
    settings: dict[str, float]
    note: str
    taken_back_at: str | None
    by_member: int
    by_name: str
    at: str
    trial_id: int
    trial_number: int


def _read(row: sqlite3.Row) -> FailedRow:
    return declared(FailedRow, plain_row(row, "settings"))


def add(db: sqlite3.Connection, failed: AnyRow, by: int, at: str) -> int:
    cursor = db.execute(
        """
        INSERT INTO failed_setting (head_id, material_id, process, burn_id, patch, step, settings, note, by_member, at)
        VALUES (:head_id, :material_id, :process, :burn_id, :patch, :step, :settings, :note, :by, :at)
        """,
        {**failed, "settings": as_json(failed["settings"]), "by": by, "at": at},
    )
    return int(cursor.lastrowid or 0)


def one(db: sqlite3.Connection, failed_id: int) -> FailedRow:
    row = db.execute(_COLUMNS + " WHERE failed_setting.id = ?", (failed_id,)).fetchone()
    return _read(found(row, f"failed setting {failed_id}"))


def failed_settings(
    db: sqlite3.Connection,
    *,
    material_name: str | None = None,
    material_id: int | None = None,
    head_id: int | None = None,
    process: str | None = None,
    trial_id: int | None = None,
    burn_id: int | None = None,
) -> list[FailedRow]:
    """Those that were not taken back, the latest first; what is not asked for may be any."""
    rows = db.execute(
        _COLUMNS
        + """
        JOIN material ON material.id = failed_setting.material_id
        WHERE failed_setting.taken_back_at IS NULL
              AND (:name IS NULL OR material.name = :name)
              AND (:material IS NULL OR failed_setting.material_id = :material)
              AND (:head IS NULL OR failed_setting.head_id = :head)
              AND (:process IS NULL OR failed_setting.process = :process)
              AND (:trial IS NULL OR revision.trial_id = :trial)
              AND (:burn IS NULL OR failed_setting.burn_id = :burn)
        ORDER BY failed_setting.id DESC
        """,
        {
            "name": material_name,
            "material": material_id,
            "head": head_id,
            "process": process,
            "trial": trial_id,
            "burn": burn_id,
        },
    )
    return [_read(row) for row in rows]


def take_back(db: sqlite3.Connection, failed_id: int, at: str) -> None:
    db.execute("UPDATE failed_setting SET taken_back_at = ? WHERE id = ?", (at, failed_id))
