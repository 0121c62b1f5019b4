"""Photos of parts in the hand, by the patch each was cut as."""

from __future__ import annotations

import sqlite3
from typing import TypedDict

from rezept.store.rows import declared, found

_PART_PHOTOS = """
    SELECT part_photo.id, part_photo.burn_id, part_photo.element AS patch, part_photo.sha256, part_photo.removed,
           part_photo.at, member.name AS by_name
    FROM part_photo JOIN member ON member.id = part_photo.by_member
"""


class PartPhotoRow(TypedDict):
    id: int
    burn_id: int
    patch: str
    sha256: str
    removed: bool
    at: str
    by_name: str


def _row(row: sqlite3.Row) -> PartPhotoRow:
    return declared(PartPhotoRow, {**dict(row), "removed": bool(row["removed"])})


def add(db: sqlite3.Connection, burn_id: int, patch: str, sha256: str, by: int, at: str) -> int:
    """A photo of a part; the one that is there already comes back. Returns its id."""
    db.execute(
        """
        INSERT INTO part_photo (burn_id, element, sha256, by_member, at) VALUES (?, ?, ?, ?, ?)
        ON CONFLICT (burn_id, element, sha256) DO UPDATE SET removed = 0
        """,
        (burn_id, patch, sha256, by, at),
    )
    (photo_id,) = db.execute(
        "SELECT id FROM part_photo WHERE burn_id = ? AND element = ? AND sha256 = ?", (burn_id, patch, sha256)
    ).fetchone()
    return int(photo_id)


def one(db: sqlite3.Connection, photo_id: int) -> PartPhotoRow:
    row = db.execute(_PART_PHOTOS + " WHERE part_photo.id = ?", (photo_id,)).fetchone()
    return _row(found(row, f"photo {photo_id} of a part"))


def of_burn(db: sqlite3.Connection, burn_id: int) -> list[PartPhotoRow]:
    """Those of a burn that were not taken away, the oldest first."""
    rows = db.execute(_PART_PHOTOS + " WHERE part_photo.burn_id = ? AND NOT removed ORDER BY part_photo.id", (burn_id,))
    return [_row(row) for row in rows]


def remove(db: sqlite3.Connection, photo_id: int, removed: bool) -> None:
    """Take one away, or bring it back."""
    db.execute("UPDATE part_photo SET removed = ? WHERE id = ?", (int(removed), photo_id))
