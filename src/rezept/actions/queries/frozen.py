"""Frozen plates, as they were kept: read from their documents, never planned again."""

from __future__ import annotations

import json
import sqlite3

from rezept.core.kept import kept
from rezept.core.plan import Plate, read_plate
from rezept.store import trials as trial_table
from rezept.store.rows import unpacked


def _weight(plate: Plate) -> int:
    """Bytes of a plate: its columns, and what is worked out from them while it is looked at."""
    return 20_000 + 2000 * len(plate.elements.ids) + sum(part.points.nbytes + part.lines.nbytes for part in plate.drawn)


@kept(96 * 2**20, _weight)
def _read(document: str, ways: bytes | None, process: str) -> Plate:
    return read_plate({**json.loads(document), **(unpacked(ways) if ways is not None else {})}).by_process(process)


def frozen_plate(db: sqlite3.Connection, revision_id: int) -> Plate:
    """The plate of a frozen revision, judged by the step of its trial's own process.

    Raises
    ------
    NotFound : there is no such revision, or it is still a draft
    """
    return _read(*trial_table.frozen(db, revision_id))
