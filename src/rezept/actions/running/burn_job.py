"""The process that streams one program: ``python -m rezept.actions.running.burn_job``.

The first line on standard input is the order; each line after it a command, which is obeyed also while the machine is
still being reached. Every line on standard output is an event. When standard input ends, the server is gone: the
machine is stopped. What became of each part is written to the run's own log first (`run_log`), so that it is known
whoever dies; into the records the server takes it, and only when there is none any more, the job itself.
"""

from __future__ import annotations

import json
import signal
import sys
import threading
import time
from collections.abc import Callable, Iterable, Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any, TextIO

from rezept.actions.open_shop import DATABASE_NAME, stamp, wall_clock
from rezept.actions.running.recording import fold
from rezept.actions.running.run_log import RunLog, events_in, log_path
from rezept.core.errors import RezeptError
from rezept.link.port import LinkError, Port, SerialPort
from rezept.link.stream import Commands, Ending, Part, Reports, Status, Stream, in_force

SERVER_GONE = "Rezept was ended while it burned."
NOT_LOGGED = "What was burned could not be kept, so the beam was put off."


def _now() -> str:
    return stamp(wall_clock())


class _Keeping(Reports):
    """Keeps what happens in the run's log and tells the server; a run that burns nothing (dark, outline) has no log."""

    def __init__(self, log: RunLog | None, out: TextIO, commands: Commands) -> None:
        self._log, self._out, self._commands = log, out, commands
        self._telling = threading.Lock()

    def tell(self, event: str, said: Any) -> None:
        try:
            with self._telling:
                self._out.write(json.dumps({event: said}) + "\n")
                self._out.flush()
        except (BrokenPipeError, ValueError):
            # The server is gone; what matters is in the log.
            self._out = open("/dev/null", "w")  # noqa: SIM115

    def _keep(self, event: str, **said: Any) -> dict[str, Any]:
        kept = {"event": event, "at": _now(), **said}
        if self._log is not None:
            try:
                self._log.write(kept)
            except OSError as error:
                self._commands.stop(f"{NOT_LOGGED} ({error.strerror})", by_hand=False)
        return kept

    def connected(self, corrections: Sequence[str]) -> None:
        self.tell("connected", list(corrections))

    def waits(self, key: str) -> None:
        self.tell("waits", {"name": key})

    def began(self, key: str) -> None:
        self.tell("began", self._keep("began", name=key))

    def finished(self, key: str, mixed: bool, corrections: dict[str, int]) -> None:
        self.tell("finished", self._keep("finished", name=key, received={**in_force(corrections), "mixed": int(mixed)}))

    def status(self, status: Status) -> None:
        self.tell("status", asdict(status))

    def ended(self, ending: Ending) -> None:
        kept = self._keep("ended", state=ending.state, reason=ending.reason)
        self.tell("ended", {**kept, "uncertain": ending.uncertain})


def _listen(lines: Iterable[str], commands: Commands, gone: threading.Event) -> None:
    """Commands until the server is gone."""
    for line in lines:
        order = json.loads(line)
        what = order["do"]
        try:
            if what == "hold":
                commands.hold()
            elif what == "go_on":
                commands.go_on()
            elif what == "turned":
                commands.turned(order["part"])
            elif what == "instead":
                commands.instead(order["part"], [line.encode("ascii") for line in order["lines"]])
            elif what == "stop":
                commands.stop(order["reason"], by_hand=order["by_hand"])
            elif what == "correct":
                commands.correct(order["what"], order["steps"])
        except RezeptError as error:
            sys.stderr.write(f"{error}\n")
    gone.set()
    commands.stop(SERVER_GONE, by_hand=False)


def _fold_alone(folder: Path, run_id: int, name: str) -> None:
    """Take the log into the records without a server; what cannot be written waits for the next one."""
    # Only where it is needed: the records' part of the house takes a while to import.
    from rezept.store.database import Database
    from rezept.store.errors import NotSaved

    try:
        database = Database(folder / DATABASE_NAME)
        with database.writing() as db:
            fold(db, run_id, events_in(log_path(folder, name)))
        database.close()
    except (NotSaved, RezeptError) as error:
        sys.stderr.write(f"{error}\n")


def run_job(
    lines: Iterable[str],
    out: TextIO,
    open_port: Callable[[str], Port] = SerialPort,
    clock: Callable[[], float] = time.monotonic,
    when_ended: Callable[[Commands], None] = lambda commands: None,
) -> None:
    """Do one job: the order and the commands as lines, events as lines, on a wire and a clock that are handed in.

    when_ended : sees to it that whoever ends the process stops the machine first
    """
    coming = iter(lines)
    first = next(coming, None)
    if first is None:
        return
    order = json.loads(first)
    folder, name = Path(order["folder"]), order["log"]
    commands, gone = Commands(), threading.Event()
    when_ended(commands)
    log = RunLog(log_path(folder, name)) if name else None
    keeping = _Keeping(log, out, commands)
    listening = threading.Thread(target=_listen, args=(coming, commands, gone), daemon=True)
    listening.start()
    parts = [
        Part(part["name"], tuple(line.encode("ascii") for line in part["lines"]), part["waits"], part["again_for_s"])
        for part in order["parts"]
    ]
    try:
        port = open_port(order["url"])
    except LinkError as error:
        ending = Ending("interrupted", error.sentence, None)
    else:
        ending = Stream(port, parts, keeping, commands, clock).run()
        # The wire is let go before anybody is told: whoever hears of the end may connect at once.
        port.close()
    keeping.ended(ending)
    if log is not None:
        if gone.is_set():
            _fold_alone(folder, order["run_id"], name)
        log.close()


def _stop_when_ended(commands: Commands) -> None:
    """A system that shuts down ends this process at the same moment as the server: the machine is stopped then, too."""

    def stop(number: int, frame: object) -> None:
        # In a thread of its own: the signal may have come while this one holds what stopping needs.
        threading.Thread(target=commands.stop, args=(SERVER_GONE,), kwargs={"by_hand": False}, daemon=True).start()

    signal.signal(signal.SIGTERM, stop)


if __name__ == "__main__":
    run_job(sys.stdin, sys.stdout, when_ended=_stop_when_ended)
