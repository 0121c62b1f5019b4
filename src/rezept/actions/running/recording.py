"""From what a job tells and keeps to the shop's records."""

from __future__ import annotations

import sqlite3
import threading
import time
from collections.abc import Callable, Sequence

from rezept.store import runs as run_table
from rezept.store.database import Database
from rezept.store.errors import NotSaved
from rezept.store.rows import Row

# So long may records be locked before the beam is put off, and so often they are tried again.
PATIENCE_S, AGAIN_S = 2.0, 0.5
NOT_KEPT = "The records could not be written, so the beam was put off. What was burned is kept and will be added."


def fold(db: sqlite3.Connection, run_id: int, events: Sequence[Row]) -> None:
    """Take events of a run into the records; those that are there already change nothing."""
    for event in events:
        what, at = event["event"], event["at"]
        if what == "began":
            run_table.part_began(db, run_id, event["name"], at)
        elif what == "finished":
            run_table.part_done(db, run_id, event["name"], event["received"], at)
        elif what == "ended":
            run_table.end_run(db, run_id, event["state"], event["reason"], at)
        elif what == "said":
            run_table.add_line(db, run_id, event["number"], event["sentence"], at)


class Recorder:
    """Writes the events of one run into the records, in order, from a thread of its own; nobody waits for it.

    on_trouble : called once, when the records cannot be written
    """

    def __init__(
        self,
        database: Database,
        run_id: int,
        on_trouble: Callable[[], None],
        on_kept: Callable[[], None],
        pause: Callable[[float], object] = time.sleep,
    ) -> None:
        self._database, self._run_id = database, run_id
        self._on_trouble, self._on_kept, self._pause = on_trouble, on_kept, pause
        self._waiting: list[Row] = []
        self._news = threading.Condition()
        self._last = self._given_up = self._troubled = self._kept = False
        self._thread = threading.Thread(target=self._work, daemon=True)
        self._thread.start()

    def add(self, event: Row) -> None:
        with self._news:
            self._waiting.append(event)
            self._news.notify_all()

    def finish(self, events: Sequence[Row]) -> None:
        """The run is over; `on_kept` is called when all of it is in the records. Lines may still be added."""
        with self._news:
            self._waiting += events
            self._last = True
            self._news.notify_all()

    def give_up(self) -> None:
        """The shop is being closed; what is not in the records stays in the run's log for the next start."""
        with self._news:
            self._given_up = True
            self._news.notify_all()
        self._thread.join(PATIENCE_S + AGAIN_S + 1.0)

    def _work(self) -> None:
        while True:
            with self._news:
                self._news.wait_for(lambda: self._waiting or (self._last and not self._kept) or self._given_up)
                events, last = list(self._waiting), self._last
                if self._given_up:
                    return
            try:
                with self._database.writing(PATIENCE_S) as db:
                    fold(db, self._run_id, events)
            except NotSaved:
                if not self._troubled:
                    self._troubled = True
                    self._on_trouble()
                self._pause(AGAIN_S)
                continue
            with self._news:
                del self._waiting[: len(events)]
            if last and not self._kept:
                self._kept = True
                self._on_kept()
