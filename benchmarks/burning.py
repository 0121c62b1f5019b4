"""Burning live: bytes a second to the controller with and without watchers, the plan's time against the controller's
clock, and a cut plate burned and photographed."""

from __future__ import annotations

import json
import multiprocessing
import random
import statistics
import tempfile
import threading
import time
import urllib.request
from contextlib import ExitStack
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from tests.bench_port import link_in
from tests.demo_copy import copy_demo
from tests.made import HERON, WREN, planned, trial_document
from tests.server.real_server import Server

from benchmarks.timing import Figure, seconds
from rezept.bench.bed import Bed
from rezept.bench.camera import Shot
from rezept.bench.controller import Controller, Setup
from rezept.bench.energy import Source
from rezept.bench.material import Sheet
from rezept.bench.room import mechanics
from rezept.bench.serve import BenchServer
from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.plan import Plate
from rezept.formats.gcode import program_parts
from rezept.link.port import SerialPort
from rezept.link.stream import Part, Stream

WATCHERS = 30
ROUNDS = 4
TRIAL = 13  # an engraving on Finch: many lines
PLATES = 20
SPEED_UP = 60.0


def _bench_process(speed_up: float, said: Connection) -> None:
    server = BenchServer(Controller(Setup()), speed_up=speed_up)
    said.send((server.port, None))

    def tell() -> None:
        while said.recv() == "bytes":
            said.send(server.bytes_in)
        server.close()

    threading.Thread(target=tell, daemon=True).start()
    server.run()


def _watch(url: str, over: threading.Event, seen: list[int]) -> None:
    """One who follows the plate as it fills."""
    with urllib.request.urlopen(url, timeout=30) as stream:
        while not over.is_set():
            line = stream.readline()
            if line.startswith(b"event: live"):
                seen.append(1)


def _rate(server: Server, bench: Connection, watchers: int) -> tuple[float, int]:
    """Bytes a second that reach the controller while one plate burns, and how much the watchers saw."""
    over = threading.Event()
    seen: list[int] = []
    url = f"{server.base}/api/changes/stream?since=999999"
    following = [threading.Thread(target=_watch, args=(url, over, seen), daemon=True) for _ in range(watchers)]
    for thread in following:
        thread.start()
    time.sleep(1.0)
    page = server.ask("GET", f"/api/trials/{TRIAL}")
    bench.send("bytes")
    before = bench.recv()
    began = None
    run = server.ask("POST", f"/api/trials/{TRIAL}/live", {"edit": page["edit"], "how": "whole", "at_machine": True})
    while run["state"] not in ("done", "interrupted", "stopped"):
        time.sleep(0.05)
        run = next(one for one in server.ask("GET", "/api/live")["runs"] if one["key"] == run["key"])
        if began is None and run["state"] == "running":
            began = time.monotonic() - run["seconds_gone"]
    assert run["state"] == "done" and began is not None, run["reason"]
    elapsed = run["seconds_gone"] or time.monotonic() - began
    bench.send("bytes")
    rate = (bench.recv() - before) / max(elapsed, 1e-9)
    over.set()
    return rate, len(seen)


def watchers_figure() -> Figure:
    """The plate is burned in turn with and without watchers, so that a busy moment hits both."""
    ours, theirs = multiprocessing.Pipe()
    process = multiprocessing.get_context("spawn").Process(target=_bench_process, args=(SPEED_UP, theirs), daemon=True)
    process.start()
    port, _ = ours.recv()
    with tempfile.TemporaryDirectory() as folder, ExitStack() as stack:
        copy_demo(Path(folder) / "shop")
        link_in(Path(folder) / "shop", "Finch", f"socket://127.0.0.1:{port}")
        server = Server(Path(folder) / "shop")
        stack.callback(server.stop)
        alone, watched, seen = [], [], 0
        for _ in range(ROUNDS):
            alone.append(_rate(server, ours, 0)[0])
            rate, count = _rate(server, ours, WATCHERS)
            watched.append(rate)
            seen += count
    ours.send("over")
    process.join(5)
    one, other = statistics.median(alone), statistics.median(watched)
    lost = 100 * (1 - other / one)
    words = f"{one / 1000:.1f} kB/s alone, {other / 1000:.1f} with {WATCHERS}, who saw {seen} pictures"
    return Figure(f"bytes/s lost to {WATCHERS} watchers", max(0.0, lost), "%", 5, words)


def _random_plate(chance: random.Random) -> Plate:
    galvo, hatched = chance.random() < 0.4, chance.random() < 0.5
    machine = {**HERON, "polygon_delay_us": 80.0, "hears_settings": True} if galvo else WREN
    speeds = sorted(round(chance.uniform(8, 200), 1) for _ in range(chance.randint(2, 4)))
    size = round(chance.uniform(4, 9), 1)
    shape = chance.choice(["rectangle", "disc", "coupon"])
    hold: dict[str, Any] = {"power_pct": 40, "passes": chance.randint(1, 2)}
    if hatched:
        hold |= {"line_spacing_mm": 0.25, "hatch_angle_deg": chance.choice([0, 30, 90])}
    return planned(
        trial_document(
            machine=machine,
            process="area" if hatched else "cut",
            axes=[{"parameter": "speed_mm_s", "along": "x", "values": speeds}],
            hold=hold,
            patch={"shape": shape, "width_mm": size, "height_mm": size, "gap_mm": 2},
            labels={"on": True, "marks": True, "settings": {"speed_mm_s": 120, "power_pct": 20}},
            order=chance.choice(["rows", "scattered"]),
        )
    )


def _streamed_clock(plate: Plate) -> float:
    """The controller's clock after a plate was streamed to it, the barriers' dwells taken off."""
    known = read_machine(Fields(plate.trial.machine.document())).document()
    controller = Controller(Setup(mechanics(known), origin_mm=(50.0, 50.0)))
    server = BenchServer(controller, speed_up=400)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    parts = [Part(part.name, part.lines) for part in program_parts(plate)]
    port = SerialPort(server.url)
    ending = Stream(port, parts).run()
    port.close()
    server.close()
    thread.join(10)
    assert ending.state == "done", ending.reason
    return controller.clock - 0.02 * len(parts)


def clock_figure() -> Figure:
    chance = random.Random(11)
    away = []
    while len(away) < PLATES:
        plate = _random_plate(chance)
        if not plate.refusals():
            away.append(100 * abs(plate.total_seconds / _streamed_clock(plate) - 1))
    words = f"worst of {PLATES} random plates; median {statistics.median(away):.2f} %"
    return Figure("plan's time against the controller's clock", max(away), "%", 3, words)


def _six_by_six() -> Plate:
    document = json.loads((Path(__file__).parents[1] / "docs/formats/examples/lantern-sides.trial.json").read_text())
    for axis in document["axes"]:
        axis["count"] = 6
    return planned(document)


def plate_figure() -> Figure:
    plate = _six_by_six()
    controller = Controller(Setup())
    bed = Bed(controller, Source(60, 10_600, firing_floor_pct=9, spot_mm=0.18))
    piece = plate.trial.piece
    assert piece is not None
    bed.lay(Sheet("poplar", 3.7, (0.76, 0.62, 0.38), (0.02, 0.01, 0.01)), (piece.width_mm, piece.height_mm))
    server = BenchServer(controller, speed_up=SPEED_UP)
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    port = SerialPort(server.url)
    parts = [Part(part.name, part.lines) for part in program_parts(plate)]

    burning = seconds(lambda: Stream(port, parts).run())
    port.close()
    server.close()
    thread.join(10)
    taking = seconds(lambda: bed.photographs(("front", "back"), Shot.by_hand(1)))
    words = f"{plate.total_seconds:.0f} s planned took {burning:.1f} s at {SPEED_UP:g}x, photographs {taking:.1f} s"
    return Figure("6 x 6 cuts burned and photographed twice", burning + taking, "s", 20, words)


def figures() -> list[Figure]:
    return [clock_figure(), plate_figure(), watchers_figure()]
