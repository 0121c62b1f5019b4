"""The demo shop's machines, which are benches: what is burned on screen is burned there, and the photographs land in
the trial by themselves, as a member's phone would send them."""

from __future__ import annotations

import shutil
import tempfile
import threading
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from rezept.actions.commands import equipment, people, photos
from rezept.actions.open_shop import Shop
from rezept.actions.queries import shop_facts, views
from rezept.actions.running.live_burns import LiveBurns
from rezept.actions.running.live_run import LiveRun
from rezept.actions.running.process import Process
from rezept.actions.running.worker import Jobs
from rezept.core.colour import lab_to_linear, srgb_to_linear
from rezept.core.errors import RezeptError
from rezept.core.plan import Plate
from rezept.core.plan.place import zero_on_piece
from rezept.demo import stock
from rezept.demo.builder import CHARRED, FROSTED

ROOM = "rezept.bench.room"
SPEED_UP = 60.0
LISTEN_S = 30.0
# Lots need 3 to 12 % more or less than the usual one; the name decides, so that it is always the same.
LEAST_LOT, MOST_LOT = 0.03, 0.12


def lot_need(name: str | None) -> float:
    """How much dose a lot needs, the usual one being 1."""
    if not name:
        return 1.0
    chance = zlib.crc32(name.encode()) / 2**32
    away = LEAST_LOT + (MOST_LOT - LEAST_LOT) * abs(2 * chance - 1)
    return 1 + away if chance > 0.5 else 1 - away


class Benches:
    """The room of benches beside the demo's server."""

    def __init__(self, shop: Shop, live: LiveBurns, worker: Jobs, speed_up: float = SPEED_UP) -> None:
        self._shop = shop
        self._worker = worker
        self._live = live
        self._folder = Path(tempfile.mkdtemp())
        self._plates: dict[str, Plate] = {}
        self._laid: dict[str, int] = {}
        self._waiting: dict[str, LiveRun] = {}
        self._listening = threading.Event()
        self._urls: dict[str, str] = {}
        machines = [
            {"name": facts["name"], "facts": {"wavelength_nm": _NM[facts["source"]], **facts},
             "spot_mm": heads[0]["spot_mm"], "m2": heads[0]["m2"]}
            for facts, heads in stock.MACHINES
        ]  # fmt: skip
        self._job = Process(ROOM, self._event, lambda: None)
        self._job.begin({"machines": machines, "speed_up": speed_up})
        if not self._listening.wait(LISTEN_S):
            raise RezeptError("The demo's machines do not answer.")
        self._link()
        live.on_begin.append(self._begin)
        live.on_end.append(self._end)

    def close(self) -> None:
        self._job.close()
        shutil.rmtree(self._folder, ignore_errors=True)

    def _link(self) -> None:
        """Machines that are benches listen at their bench's address; its port differs from start to start."""
        keeper = people.first_keeper(self._shop)
        assert keeper is not None
        for machine in shop_facts.inventory(self._shop)["machines"]:
            url = self._urls.get(machine["name"])
            if url is not None and machine["link"] != url:
                facts = {**machine["facts"], "note": machine["note"], "link": url}
                equipment.change(
                    self._shop, keeper, "machine", machine["id"], machine["edit"], facts, {}, machine["retired"]
                )

    def _event(self, what: str, said: Any) -> None:
        if what == "listening":
            self._urls = said
            self._listening.set()
        elif what == "photographed":
            run = self._waiting.pop(said["key"], None)
            if run is not None:
                self._arrived(run, said["files"])

    def _begin(self, run: LiveRun, plate: Plate) -> None:
        """Lay a fresh sheet for a new plate; what is carried on or burned again lies there already."""
        machine = plate.trial.machine
        self._plates[run.key] = plate
        if run.how in ("rest", "again") or machine.name not in self._urls:
            return
        sheet = self._sheet(run, plate)
        piece = plate.trial.piece
        if piece is None:
            return
        self._job.send(
            {
                "do": "lay",
                "machine": machine.name,
                "sheet": sheet,
                "piece_mm": [piece.width_mm, piece.height_mm],
                "zero_mm": zero_on_piece(plate.trial, plate.width_mm, plate.height_mm).tolist(),
                "spot_mm": machine.head.spot_mm,
                "m2": machine.head.m2,
                "field_mm": [machine.of_head("field_width_mm"), machine.of_head("field_height_mm")],
            }
        )

    def _sheet(self, run: LiveRun, plate: Plate) -> dict[str, Any]:
        material = plate.trial.material
        burn = next(iter(views.trial_page(self._shop, run.trial_id)["burns"]), None) if run.burn_id else None
        lighter = material.mark == "lighter"
        return {
            "substance": stock.substance_of(material.name, material.family),
            "thickness_mm": (burn and burn["measured_mm"]) or material.thickness_mm or 1.0,
            "ground": lab_to_linear(material.ground_lab or (70.0, 0.0, 0.0)).tolist(),
            "mark": srgb_to_linear(FROSTED if lighter else CHARRED).tolist(),
            "lighter": lighter,
            "lot": lot_need(burn["lot"] if burn else None),
            "seed": run.burn_id or 1,
        }

    def _end(self, run: LiveRun) -> None:
        """Somebody takes out their phone."""
        plate = self._plates.pop(run.key, None)
        if plate is None or run.burn_id is None or not run.done or plate.trial.machine.name not in self._urls:
            return
        faces = list(plate.trial.process.faces)
        self._waiting[run.key] = run
        run.say("the photographs are being taken")
        self._job.send(
            {
                "do": "photograph",
                "machine": plate.trial.machine.name,
                "faces": faces,
                "folder": str(self._folder),
                "key": run.key,
                "seed": run.burn_id,
            }
        )

    def _arrived(self, run: LiveRun, files: dict[str, str]) -> None:
        sender = run.holder
        assert sender is not None and run.burn_id is not None
        for face, file in files.items():
            path = Path(file)
            task = photos.take_in(self._shop, sender, path.read_bytes(), run.burn_id, face)
            self._worker.submit(sender, "bring_in", task)
            path.unlink()
        run.say("the photographs are in the trial")


_NM = {"co2_glass": 10_600.0, "diode": 450.0, "fibre_mopa": 1064.0}


@contextmanager
def benches_beside(shop: Shop, live: LiveBurns, worker: Jobs) -> Iterator[None]:
    """The demo's machines while its server runs."""
    benches = Benches(shop, live, worker)
    try:
        yield
    finally:
        benches.close()
