"""The process that streams one program: ``python -m rezept.actions.burn_job``.

The first line on standard input is the order; each line after it a command. Every line on standard output is an
event. When standard input ends, the server is gone: the machine is stopped and the run is kept as interrupted. What
became of each part is written to the shop's records here, so that it is known whoever dies.
"""

from __future__ import annotations

import json
import sys
import threading
from collections.abc import Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any

from rezept.actions.open_shop import DATABASE_NAME, wall_clock
from rezept.core.errors import RezeptError
from rezept.link.port import LinkError, SerialPort
from rezept.link.stream import CORRECTION_STEP, Ending, Part, Reports, Status, Stream
from rezept.store import runs as run_table
from rezept.store.database import Database

SERVER_GONE = "Rezept was ended while it burned."


def _now() -> str:
    return wall_clock().strftime("%Y-%m-%dT%H:%M:%SZ")


class _Keeping(Reports):
    """Tells the server what happens and keeps it; a run that burns nothing (dark, outline) keeps nothing."""

    def __init__(self, database: Database, run_id: int | None) -> None:
        self._database = database
        self._run_id = run_id
        self._telling = threading.Lock()

    def tell(self, event: str, said: Any) -> None:
        try:
            with self._telling:
                sys.stdout.write(json.dumps({event: said}) + "\n")
                sys.stdout.flush()
        except (BrokenPipeError, ValueError):
            # The server is gone; what matters is in the records.
            sys.stdout = open("/dev/null", "w")  # noqa: SIM115

    def connected(self, corrections: Sequence[str]) -> None:
        self.tell("connected", list(corrections))

    def began(self, key: str) -> None:
        if self._run_id is not None:
            with self._database.writing() as db:
                run_table.part_began(db, self._run_id, key, _now())
        self.tell("began", key)

    def finished(self, key: str, mixed: bool, corrections: dict[str, int]) -> None:
        if self._run_id is not None:
            received = {
                "power": 1 + corrections["power"] * CORRECTION_STEP["power"] / 100,
                "speed": 1 + corrections["speed"] * CORRECTION_STEP["speed"] / 100,
                "focus_mm": round(corrections["focus"] * CORRECTION_STEP["focus"], 6),
                "mixed": int(mixed),
            }
            with self._database.writing() as db:
                run_table.part_done(db, self._run_id, key, received, _now())
        self.tell("finished", {"name": key, "mixed": mixed})

    def status(self, status: Status) -> None:
        self.tell("status", asdict(status))

    def ended(self, ending: Ending) -> None:
        if self._run_id is not None:
            with self._database.writing() as db:
                run_table.end_run(db, self._run_id, ending.state, ending.reason, _now())
        self.tell("ended", asdict(ending))


def _listen(stream: Stream) -> None:
    """Commands until the server is gone."""
    for line in sys.stdin:
        order = json.loads(line)
        what = order["do"]
        try:
            if what == "hold":
                stream.hold()
            elif what == "go_on":
                stream.go_on()
            elif what == "stop":
                stream.stop(order["reason"], by_hand=order["by_hand"])
            elif what == "correct":
                stream.correct(order["what"], order["steps"])
        except RezeptError as error:
            sys.stderr.write(f"{error}\n")
    stream.stop(SERVER_GONE, by_hand=False)


def main() -> None:
    order = json.loads(sys.stdin.readline())
    keeping = _Keeping(Database(Path(order["folder"]) / DATABASE_NAME), order["run_id"])
    parts = [Part(part["name"], tuple(line.encode("ascii") for line in part["lines"])) for part in order["parts"]]
    try:
        port = SerialPort(order["url"])
    except LinkError as error:
        keeping.ended(Ending("interrupted", error.sentence, None))
        return
    stream = Stream(port, parts, keeping)
    threading.Thread(target=_listen, args=(stream,), daemon=True).start()
    ending = stream.run()
    # The wire is let go before anybody is told: whoever hears of the end may connect at once.
    port.close()
    keeping.ended(ending)


if __name__ == "__main__":
    main()
