"""The worker: one job after the other, in a process that may break over one of them.

What it is to do stands in the records, in the order in which it is taken; what ran when a server ended is
interrupted, kept as what it is, and not begun again by itself.
"""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Mapping
from dataclasses import asdict
from datetime import timedelta
from functools import partial
from typing import Any

from rezept.actions.commands.people import member_by_id
from rezept.actions.members import Member, NotAllowed
from rezept.actions.open_shop import Shop, stamp
from rezept.actions.running import work
from rezept.actions.running.kinds import KINDS
from rezept.actions.running.process import Process
from rezept.actions.running.work import Limits, Outcome, perform
from rezept.core.errors import NotFound
from rezept.store import jobs as job_table
from rezept.store.errors import NotSaved
from rezept.store.jobs import JobRow
from rezept.store.rows import AnyRow, Row

PROCESS = "rezept.actions.running.worker_process"
# So long it may take to begin, on a machine that is busy.
BEGINS_WITHIN_S = 120.0
WAITS_FOR_RECORDS_S = 1.0
KEPT_FOR = timedelta(days=1)

log = logging.getLogger(__name__)


class Jobs:
    """The queue as the rest of the house sees it: whoever submits a job can wait for it, look at it and cancel it."""

    def __init__(self, shop: Shop) -> None:
        self.shop = shop
        self._news = threading.Condition()
        self._submitted = 0

    def submit(self, by: Member, kind: str, task: Mapping[str, Any], urgent: bool = False) -> int:
        """Put a job into the queue; one that waits there already is the same. Returns its id."""
        assert kind in KINDS
        with self.shop.database.writing() as db:
            job_table.forget(db, stamp(self.shop.clock() - KEPT_FOR))
            job_id = job_table.add(db, kind, dict(task), urgent, by.id, self.shop.now())
        with self._news:
            self._submitted += 1
            self._news.notify_all()
        return job_id

    def job(self, job_id: int) -> Row:
        """A job, and how many come before it."""
        with self.shop.database.reading() as db:
            one = job_table.job(db, job_id)
            return {**one, "before": job_table.before(db, one) if one["state"] == "waiting" else 0}

    def jobs(self, most: int = 50) -> list[JobRow]:
        with self.shop.database.reading() as db:
            return job_table.jobs(db, most)

    def wait(self, job_id: int, seconds: float) -> Row:
        """A job as soon as it is over, or as it is after so many seconds."""
        until = time.monotonic() + seconds
        with self._news:
            while True:
                one = self.job(job_id)
                left = until - time.monotonic()
                if one["state"] in job_table.OVER or left <= 0:
                    return one
                self._news.wait(left)

    def cancel(self, by: Member, job_id: int) -> None:
        """Give a job up; its member may, and technicians.

        Raises
        ------
        NotAllowed : it is somebody else's
        """
        one = self.job(job_id)
        if one["by_member"] != by.id and not by.may("technician"):
            raise NotAllowed(f"This was begun by {one['by_name']}; to end it, ask a technician.", "technician")
        self._end(one, Outcome("cancelled", f"Ended by {by.name}."))

    def _end(self, job: AnyRow, outcome: Outcome) -> None:
        """Keep what is to be seen of a job that broke, and then how it ended: whoever waits for that sees both."""
        if outcome.broke or outcome.state == "interrupted":
            try:
                if self.job(job["id"])["state"] not in job_table.OVER:
                    member = member_by_id(self.shop, job["by_member"])
                    KINDS[job["kind"]].broke(self.shop, member, job["task"], outcome.sentence)
            except NotFound:
                log.info("what job %s was about is gone", job["id"])
        with self.shop.database.writing() as db:
            job_table.end(db, job["id"], outcome.state, outcome.sentence, outcome.answer, self.shop.now())
        with self._news:
            self._news.notify_all()

    def close(self) -> None:
        """Nothing is begun any more."""


class HereAndNow(Jobs):
    """Does each job at once, in the process and thread that asks for it: for tests and tools."""

    def __init__(self, shop: Shop) -> None:
        super().__init__(shop)
        self._one = threading.Lock()

    def submit(self, by: Member, kind: str, task: Mapping[str, Any], urgent: bool = False) -> int:
        job_id = super().submit(by, kind, task, urgent)
        with self._one, self.shop.database.writing() as db:
            begun = job_table.begin(db, job_id)
        if begun:
            job = self.job(job_id)
            self._end(job, perform(self.shop, job, lambda share: None, Limits()))
        return job_id


class Worker(Jobs):
    """Does the jobs in a process of its own, one at a time.

    ready_after_s : begin the process after so long although there is nothing to do yet, so that whoever brings the
        first photo does not wait for it
    """

    def __init__(self, shop: Shop, limits: Limits | None = None, ready_after_s: float | None = None) -> None:
        super().__init__(shop)
        self.limits = limits or Limits()
        self._ready_after_s = ready_after_s
        self._closed = False
        self._process: Process | None = None
        # Of the job that runs: how it ended, once that is known.
        self._running: JobRow | None = None
        self._outcome: Outcome | None = None
        self._ready = False
        self._thread = threading.Thread(target=self._work, name="worker", daemon=True)
        self._settle()
        self._thread.start()

    def _settle(self) -> None:
        with self.shop.database.reading() as db:
            left = job_table.in_state(db, "running")
        for job in left:
            self._end(job, Outcome("interrupted", work.GONE))

    # --- the process ------------------------------------------------------------------------------------------

    def pid(self) -> int | None:
        """The process that works now, if there is one."""
        with self._news:
            return None if self._process is None else self._process.pid

    def _begin_process(self) -> Process:
        with self._news:
            # Whoever hears of its end waits until it is known here.
            self._ready = False
            process = self._process = Process(PROCESS, self._heard, lambda: self._gone(process))
        process.begin({"folder": str(self.shop.folder), "limits": asdict(self.limits)})
        with self._news:
            self._news.wait_for(lambda: self._ready or self._process is not process, BEGINS_WITHIN_S)
        return process

    def _heard(self, what: str, said: Any) -> None:
        with self._news:
            if what == "ready":
                self._ready = True
            elif what == "over":
                self._outcome = Outcome(**said)
            self._news.notify_all()
            running = self._running
        if what == "progress" and running is not None:
            self._note_progress(running["id"], float(said))

    def _note_progress(self, job_id: int, share: float) -> None:
        try:
            with self.shop.database.writing(patience_s=0.5) as db:
                job_table.progress(db, job_id, share)
        except NotSaved:
            log.info("the progress of job %s could not be kept", job_id)

    def _gone(self, process: Process) -> None:
        """A process has ended: by itself, killed by the system, or by us."""
        with self._news:
            if self._process is process:
                self._process = None
                if self._outcome is None:
                    self._outcome = Outcome("failed", work.BROKE, broke=True)
            self._news.notify_all()

    def _kill(self) -> None:
        process, self._process = self._process, None
        if process is not None:
            process.kill()

    # --- one after the other ----------------------------------------------------------------------------------

    def _work(self) -> None:
        while not self._closed:
            try:
                job = self._next()
            except NotSaved as error:
                # The records are locked, or the disk is full: it is looked again until they can be written.
                log.warning("the worker waits for the records: %s", error)
                time.sleep(WAITS_FOR_RECORDS_S)
                continue
            if job is not None:
                self._do(job)

    def _end_surely(self, job: AnyRow, outcome: Outcome) -> None:
        """Keep how a job ended as soon as the records can be written."""
        while not self._closed:
            try:
                self._end(job, outcome)
            except NotSaved as error:
                log.warning("how job %s ended waits for the records: %s", job["id"], error)
                time.sleep(WAITS_FOR_RECORDS_S)
            else:
                return

    def _next(self) -> JobRow | None:
        """The next job, begun; None once closed."""
        while True:
            # Counted before it is looked: what is submitted in between is looked for again.
            seen = self._submitted
            with self.shop.database.reading() as db:
                waiting = job_table.in_state(db, "waiting")
            for job in waiting:
                with self.shop.database.writing() as db:
                    if job_table.begin(db, job["id"]):
                        return job
            with self._news:
                early = self._process is None and self._ready_after_s is not None
                heard = self._news.wait_for(partial(self._is_news, seen), self._ready_after_s if early else None)
                if self._closed:
                    return None
            if early and not heard:
                self._begin_process()

    def _is_news(self, seen: int) -> bool:
        return self._closed or self._submitted != seen

    def _do(self, job: JobRow) -> None:
        # From here on the end of a process is the end of this job.
        with self._news:
            self._running, self._outcome = job, None
            process = self._process
        (process or self._begin_process()).send(job)
        until = time.monotonic() + self.limits.seconds
        with self._news:
            while self._outcome is None and not self._closed:
                if time.monotonic() > until:
                    self._outcome = Outcome("failed", self.limits.too_long, broke=True)
                elif self._is_over(job["id"]):
                    self._outcome = Outcome("cancelled")
                else:
                    self._news.wait(min(0.5, max(0.0, until - time.monotonic())))
            outcome = self._outcome
            if outcome is None or outcome.broke or outcome.state == "cancelled":
                self._kill()
            self._running = None
        if outcome is not None:
            self._end_surely(job, outcome)
            # The process has written into the records by itself.
            self.shop.database.announce()

    def _is_over(self, job_id: int) -> bool:
        with self.shop.database.reading() as db:
            return job_table.job(db, job_id)["state"] in job_table.OVER

    def close(self) -> None:
        """End what is worked on; it is interrupted when the shop is opened again."""
        with self._news:
            self._closed = True
            self._kill()
            self._news.notify_all()
        self._thread.join(5.0)
