"""Frozen plates, as they were kept: read from their documents, never planned again."""

from __future__ import annotations

import json
import sqlite3
from functools import lru_cache

from rezept.core.plan import Plate, read_plate
from rezept.store import trials as trial_table
from rezept.store.rows import unpacked


@lru_cache(maxsize=64)
def _read(document: str, ways: bytes | None) -> Plate:
    return read_plate({**json.loads(document), **(unpacked(ways) if ways is not None else {})})


def frozen_plate(db: sqlite3.Connection, revision_id: int) -> Plate:
    """The plate of a frozen revision.

    Raises
    ------
    NotFound : there is no such revision, or it is still a draft
    """
    return _read(*trial_table.frozen(db, revision_id))
