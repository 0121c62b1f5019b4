"""The burns that go on now: one program at a time on each link, its job, its log, and how it gets into the records."""

from __future__ import annotations

import secrets
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from rezept.actions.open_shop import Shop
from rezept.actions.running.burn_job import SERVER_GONE
from rezept.actions.running.live_run import LiveRun
from rezept.actions.running.process import Process
from rezept.actions.running.recording import NOT_KEPT, Recorder, fold
from rezept.actions.running.run_log import FOLDER, events_in, left_alone, log_path, reserve
from rezept.core.errors import NotFound
from rezept.core.plan import Plate
from rezept.formats.gcode import ProgramPart
from rezept.link.lock import hold_link
from rezept.store import runs as run_table

JOB = "rezept.actions.running.burn_job"
JOB_DIED = "The program that speaks to the machine ended by itself."
CLOSE_S = 5.0
# The outline is shown until somebody stops it, and no longer than this.
OUTLINE_FOR_S = 600.0
# So long the jobs of a server that died may take to stop their machines.
LEFT_S = 10.0


@dataclass
class _Going:
    """A run with all that belongs to it."""

    run: LiveRun
    plate: Plate
    job: Process
    run_id: int | None
    recorder: Recorder | None
    over: threading.Event = field(default_factory=threading.Event)


@dataclass(frozen=True)
class Taken:
    """A link that is held for a run, a process that waits for its order, and room for its log."""

    key: str
    url: str
    job: Process


class LiveBurns:
    """The runs of this server's life: one at a time on each link, and the latest of each trial."""

    def __init__(self, shop: Shop, clock: Callable[[], float] = time.monotonic) -> None:
        self.shop = shop
        self.clock = clock
        self._lock = threading.Lock()
        self._going: dict[str, _Going] = {}
        # Told of every run that begins and ends; the demo's bench lays sheets and takes photos by it.
        self.on_begin: list[Callable[[LiveRun, Plate], None]] = []
        self.on_end: list[Callable[[LiveRun], None]] = []
        self._settle_left_over()

    def _settle_left_over(self) -> None:
        """Runs that went on when the server died: what their logs say, and nothing after."""
        logs = {path.stem: path for path in (self.shop.folder / FOLDER).glob("*.log")}
        # A job that is still stopping its machine writes its log to the end first.
        written = {name for name, path in logs.items() if not left_alone(path, LEFT_S)}
        with self.shop.database.reading() as db:
            left = [run for run in run_table.running(db) if run["log"] not in written]
        if left:
            with self.shop.database.writing() as db:
                for run in left:
                    fold(db, run["id"], events_in(logs[run["log"]]) if run["log"] in logs else [])
                    run_table.end_run(db, run["id"], "interrupted", SERVER_GONE, self.shop.now())
        for name in logs.keys() - written:
            logs[name].unlink(missing_ok=True)

    # --- what is known --------------------------------------------------------------------------------------

    def runs(self) -> list[LiveRun]:
        with self._lock:
            return [going.run for going in self._going.values()]

    def _of(self, key: str) -> _Going:
        with self._lock:
            going = self._going.get(key)
        if going is None:
            raise NotFound("There is no such run, or it was before Rezept was started.", "key")
        return going

    def run(self, key: str) -> LiveRun:
        return self._of(key).run

    def plate_of(self, key: str) -> Plate:
        """What a run burns: the plate, the rest of it, or some of it again."""
        return self._of(key).plate

    def now_burns(self, key: str, plate: Plate) -> None:
        """A run goes on with another plate than it began with."""
        self._of(key).plate = plate

    def of_trial(self, trial_id: int) -> LiveRun | None:
        """The latest run of a trial in this server's life."""
        return next((run for run in reversed(self.runs()) if run.trial_id == trial_id), None)

    def version(self) -> int:
        return sum(run.version for run in self.runs())

    def run_id_of(self, key: str) -> int | None:
        """The run in the records; None for what burns nothing."""
        return self._of(key).run_id

    def job_of(self, key: str) -> Process:
        return self._of(key).job

    def wait_until_over(self, key: str, seconds: float) -> bool:
        """Wait until a run's process is gone and what it burned is in the records; whether it is."""
        return self._of(key).over.wait(seconds)

    def busy(self, machine_id: int) -> LiveRun | None:
        """The run a machine is at work on."""
        return next((run for run in self.runs() if run.machine_id == machine_id and not run.over), None)

    # --- beginning ------------------------------------------------------------------------------------------

    def take(self, url: str, parts: int, recorded: bool) -> Taken:
        """Hold a link for a run that is about to begin, make room for its log, and start the process that will
        stream; nothing is sent before `go`.

        Raises
        ------
        LinkBusy, NoRoom : nothing was begun
        """
        key = secrets.token_hex(8)
        lock = hold_link(url)
        try:
            if recorded:
                reserve(log_path(self.shop.folder, key), parts)
            job = Process(JOB, lambda what, said: self._heard(key, what, said), lambda: self._ended(key), lock.files)
        except BaseException:
            log_path(self.shop.folder, key).unlink(missing_ok=True)
            raise
        finally:
            # From here on the link is held by the job, and free as soon as it has ended.
            lock.release()
        return Taken(key, url, job)

    def drop(self, taken: Taken) -> None:
        """Let go what was taken for a run that is not begun after all."""
        taken.job.close()
        log_path(self.shop.folder, taken.key).unlink(missing_ok=True)

    def go(self, taken: Taken, run: LiveRun, plate: Plate, parts: Sequence[ProgramPart], run_id: int | None) -> None:
        """Begin a run with what was taken for it."""
        recorder = None
        if run_id is not None:
            recorder = Recorder(
                self.shop.database, run_id, lambda: self._not_kept(run.key), lambda: self._kept(run.key)
            )
            run.keep = recorder.add
        with self._lock:
            for old in [
                key for key, one in self._going.items() if one.run.trial_id == run.trial_id and one.over.is_set()
            ]:
                del self._going[old]
            self._going[run.key] = _Going(run, plate, taken.job, run_id, recorder)
        try:
            for told in self.on_begin:
                told(run, plate)
        except BaseException:
            # Nothing was sent: the job ends without an order, and its end is what the records say.
            taken.job.close()
            raise
        taken.job.begin(
            {
                "folder": str(self.shop.folder),
                "run_id": run_id,
                "log": taken.key if run_id is not None else "",
                "url": taken.url,
                "parts": [
                    {
                        "name": part.name,
                        "lines": [line.decode("ascii") for line in part.lines],
                        "waits": part.stop is not None,
                        "again_for_s": OUTLINE_FOR_S if run.how == "outline" else 0.0,
                    }
                    for part in parts
                ],
            }
        )

    # --- while it goes on -----------------------------------------------------------------------------------

    def send(self, key: str, command: Mapping[str, Any]) -> None:
        """Tell a run's job something. Touches no record: a stop has to work while nothing else does."""
        self._of(key).job.send(command)

    def _heard(self, key: str, what: str, said: Any) -> None:
        """Something a job told: shown at once, and kept."""
        going = self._of(key)
        if what == "ended":
            going.run.keep_what_is_left()
        going.run.event(what, said)
        if going.recorder is not None and what in ("began", "finished", "ended"):
            going.recorder.add(said)

    def _not_kept(self, key: str) -> None:
        self.send(key, {"do": "stop", "reason": NOT_KEPT, "by_hand": False})

    def _ended(self, key: str) -> None:
        """The job's process is gone. One that could not say how it ended was killed."""
        with self._lock:
            going = self._going.get(key)
        if going is None:
            return
        run = going.run
        run.keep_what_is_left()
        run.end("interrupted", JOB_DIED, run.current)
        if going.recorder is None:
            run.settle()
            going.over.set()
        else:
            # The log knows more than was told where the process was killed between the two.
            died = {"event": "ended", "at": self.shop.now(), "state": "interrupted", "reason": JOB_DIED}
            going.recorder.finish([*events_in(log_path(self.shop.folder, key)), died])
        for told in self.on_end:
            told(run)

    def _kept(self, key: str) -> None:
        """All of a run is in the records; its log has done its work."""
        log_path(self.shop.folder, key).unlink(missing_ok=True)
        with self._lock:
            going = self._going.get(key)
        if going is not None:
            going.run.settle()
            going.over.set()

    def close(self) -> None:
        """Stop what goes on; the jobs see it themselves when the server is gone."""
        with self._lock:
            going = list(self._going.values())
        for one in going:
            if not one.run.over:
                one.job.send({"do": "stop", "reason": SERVER_GONE, "by_hand": False})
                one.job.join(CLOSE_S)
            if one.recorder is not None:
                one.over.wait(CLOSE_S)
                one.recorder.give_up()
