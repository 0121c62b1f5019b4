"""From the press of Stop to the beam off, wall time, while a dozen people keep the server busy and, every second time,
somebody else has the records locked."""

from __future__ import annotations

import json
import multiprocessing
import random
import sqlite3
import tempfile
import threading
import time
import urllib.error
import urllib.request
from contextlib import ExitStack, closing
from multiprocessing.connection import Connection
from pathlib import Path

from tests.bench_port import link_in
from tests.demo_copy import copy_demo
from tests.server.real_server import Server

from benchmarks.timing import Figure
from rezept.actions.open_shop import DATABASE_NAME
from rezept.bench.controller import Controller, Setup
from rezept.bench.serve import BenchServer

PRESSES = 12
PEOPLE = 12
TRIAL = 6  # cuts: the beam is on most of the time


class _Watched(Controller):
    """A controller that notes when it was last told to put the beam off, on the clock of this computer."""

    stopped_at = 0.0

    def stop(self) -> None:
        super().stop()
        self.stopped_at = time.monotonic()


def _bench_process(said: Connection) -> None:
    controller = _Watched(Setup())
    server = BenchServer(controller, speed_up=1.0)
    said.send(server.port)

    def tell() -> None:
        while said.recv() == "when":
            said.send((controller.stopped_at, controller.state))
        server.close()

    threading.Thread(target=tell, daemon=True).start()
    server.run()


def _work(base: str, over: threading.Event, number: int) -> None:
    """Somebody who looks around and plans without a pause."""
    with urllib.request.urlopen(f"{base}/api/trials/{TRIAL}", timeout=30) as answer:
        design = json.load(answer)["design"]
    body = json.dumps({"design": design, "units": {}}).encode()
    while not over.is_set():
        try:
            if number % 2:
                urllib.request.urlopen(f"{base}/api/trials", timeout=30).read()
            else:
                request = urllib.request.Request(
                    f"{base}/api/trials/{TRIAL}/preview", body, {"Content-Type": "application/json"}
                )
                urllib.request.urlopen(request, timeout=30).read()
        except urllib.error.URLError:
            return


def _pressed(server: Server, said: Connection, locked: Path | None, pause_s: float) -> float:
    """One burn, stopped in its middle: seconds from the press to the beam off."""
    page = server.ask("GET", f"/api/trials/{TRIAL}")
    body = {"edit": page["edit"], "lot": "", "at_machine": True}
    key = server.ask("POST", f"/api/trials/{TRIAL}/live", body)["key"]
    while server.ask("GET", f"/api/trials/{TRIAL}")["live"]["state"] != "running":
        time.sleep(0.05)
    time.sleep(pause_s)
    with ExitStack() as stack:
        if locked is not None:
            other = stack.enter_context(closing(sqlite3.connect(locked, isolation_level=None)))
            other.execute("BEGIN IMMEDIATE")
        pressed = time.monotonic()
        request = urllib.request.Request(
            f"{server.base}/api/live/{key}/stop", b"{}", {"Content-Type": "application/json"}, method="POST"
        )
        urllib.request.urlopen(request, timeout=30).read()
        while True:
            said.send("when")
            stopped, _ = said.recv()
            if stopped > pressed:
                break
            time.sleep(0.002)
    while server.ask("GET", f"/api/trials/{TRIAL}")["live"]["state"] != "stopped":
        time.sleep(0.05)
    return float(stopped - pressed)


def figures() -> list[Figure]:
    chance = random.Random(5)
    with ExitStack() as stack:
        folder = Path(stack.enter_context(tempfile.TemporaryDirectory())) / "shop"
        copy_demo(folder)
        said, theirs = multiprocessing.Pipe()
        bench = multiprocessing.get_context("spawn").Process(target=_bench_process, args=(theirs,), daemon=True)
        bench.start()
        link_in(folder, "Wren", f"socket://127.0.0.1:{said.recv()}")
        server = Server(folder)
        stack.callback(bench.join, 10)
        stack.callback(said.send, "over")
        stack.callback(server.stop)
        alone = _pressed(server, said, None, 1.0)
        over = threading.Event()
        people = [threading.Thread(target=_work, args=(server.base, over, i), daemon=True) for i in range(PEOPLE)]
        for person in people:
            person.start()
        taken = [
            _pressed(server, said, folder / DATABASE_NAME if i % 2 else None, chance.uniform(0.2, 1.0))
            for i in range(PRESSES)
        ]
        over.set()
        for person in people:
            person.join()
    reference = f"worst of {PRESSES}, {PEOPLE} people busy, half with locked records; idle {alone:.3f} s"
    return [Figure("press of Stop to beam off", max(taken), "s", 0.5, reference)]
