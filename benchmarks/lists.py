"""A wall of a thousand trials: one page of it, all on the bench, and what each more costs."""

from __future__ import annotations

import json
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from statistics import median
from typing import Any

from benchmarks.timing import Figure
from rezept.actions.open_shop import Shop, open_shop
from rezept.actions.queries import wall
from rezept.demo import build_demo

TRIALS = 1000
PAGE = 60
LIMIT_MS = 150


_TRIAL = "process, head_id, material_id, reason, edit, by_member, at, changed_by, changed_at"
_REVISION = "number, design, plate, frozen_at, frozen_by"
_BURN = "lot_id, focus, air, note, by_member, at, cleaning, hold_down"
_READING = "element, step, face, cannot_tell, note, edit, by_member, at"
_VALUE = "element, step, face, scale, said_by, value, by_member, sure, at"


def many_trials(shop: Shop, count: int) -> None:
    """Copies of the demo's trials, with their burns and readings, up to `count` of them."""
    with shop.database.writing() as db:

        def copied(table: str, columns: str, of: int, **new: int) -> int:
            names, values = ", ".join(new), ", ".join(map(str, new.values()))
            db.execute(
                f"INSERT INTO {table} ({names}, {columns}) SELECT {values}, {columns} FROM {table} WHERE id = {of}"
            )
            return int(db.execute("SELECT last_insert_rowid()").fetchone()[0])

        originals = [row[0] for row in db.execute("SELECT id FROM trial ORDER BY id")]
        for number in range(len(originals), count):
            of = originals[number % len(originals)]
            trial = copied("trial", _TRIAL, of, number=1000 + number)
            for revision in db.execute("SELECT id FROM revision WHERE trial_id = ?", (of,)).fetchall():
                made = copied("revision", _REVISION, revision["id"], trial_id=trial)
                for burn in db.execute("SELECT id FROM burn WHERE revision_id = ?", (revision["id"],)).fetchall():
                    copy = copied("burn", _BURN, burn["id"], revision_id=made)
                    for table, columns in (("reading", _READING), ("reading_value", _VALUE)):
                        db.execute(
                            f"INSERT INTO {table} (burn_id, {columns})"
                            f" SELECT ?, {columns} FROM {table} WHERE burn_id = ?",
                            (copy, burn["id"]),
                        )


def _ms(work: Callable[[], Any], times: int = 9) -> float:
    took = []
    for _ in range(times):
        began = time.perf_counter()
        work()
        took.append(1000 * (time.perf_counter() - began))
    return median(took)


def figures() -> list[Figure]:
    with tempfile.TemporaryDirectory() as folder:
        build_demo(Path(folder) / "shop")
        shop = open_shop(Path(folder) / "shop")
        try:
            few = _ms(lambda: wall.trial_list(shop, None, None, most=PAGE))
            many_trials(shop, TRIALS)
            began = time.perf_counter()
            wall.trial_list(shop, None, None, most=PAGE)
            first = 1000 * (time.perf_counter() - began)
            page = _ms(lambda: wall.trial_list(shop, None, None, most=PAGE))
            bench = _ms(lambda: wall.trial_list(shop, None, None, ("burn", "read", "decide"), most=PAGE))
            cards = len(json.dumps(wall.trial_list(shop, None, None, most=PAGE)))
        finally:
            shop.close()
    said = f"{cards / 1e3:.0f} kB; the first time {first:.0f} ms; the demo's 16 alone {few:.0f} ms"
    return [
        Figure(f"a page of {PAGE} of {TRIALS} trials", page, "ms", LIMIT_MS, said),
        Figure(f"those of {TRIALS} trials that wait on the bench", bench, "ms", LIMIT_MS, f"a page of {PAGE}"),
    ]
