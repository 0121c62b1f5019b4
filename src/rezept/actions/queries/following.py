"""Following what others do, and reading who did what."""

from __future__ import annotations

from collections.abc import Iterator

from rezept.actions.open_shop import Shop
from rezept.store import changes
from rezept.store.rows import Row


def log(shop: Shop, subject: str | None, subject_id: int | None, before: int | None, most: int) -> list[Row]:
    """Who did what, newest first."""
    with shop.database.reading() as db:
        return changes.changes(db, subject, subject_id, before, most)


def follow(shop: Shop, since: int, heartbeat_s: float) -> Iterator[list[Row]]:
    """What is done after the line `since`, batch by batch as it happens, without end.

    An empty batch comes with news that has no line, and at least every `heartbeat_s` seconds; so do changes made by
    another process.
    """
    commits = -1
    while True:
        with shop.database.reading() as db:
            batch = changes.since(db, since)
        if batch:
            since = batch[-1]["id"]
            yield batch
            continue
        commits = shop.database.wait_for_commit(commits, heartbeat_s)
        yield []
