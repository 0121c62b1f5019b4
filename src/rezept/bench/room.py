"""A room of benches in a process of its own: ``python -m rezept.bench.room``.

The first line on standard input says which machines stand there; `listening` answers with their addresses. Then come
commands, one a line: `lay` a sheet, `photograph` it into a folder. The room closes when standard input does.
"""

from __future__ import annotations

import json
import sys
import threading
from dataclasses import replace
from pathlib import Path
from typing import Any

from rezept.bench.bed import Bed
from rezept.bench.camera import Shot
from rezept.bench.controller import Controller, Setup
from rezept.bench.energy import Source
from rezept.bench.material import Sheet
from rezept.bench.motion import Mechanics
from rezept.bench.serve import BenchServer


def mechanics(facts: dict[str, Any]) -> Mechanics:
    """How a machine moves, from what its maker says of it."""
    galvo = facts["motion"] == "galvo"
    return Mechanics(
        galvo=galvo,
        acceleration_mm_s2=facts.get("acceleration_mm_s2", 3000.0),
        corner_jump_mm_s=facts.get("corner_jump_mm_s", 10.0),
        travel_speed_mm_s=facts.get("travel_speed_mm_s", facts["max_speed_mm_s"]),
        max_speed_mm_s=facts["max_speed_mm_s"],
        jump_delay_s=facts.get("jump_delay_us", 0.0) * 1e-6,
        settle_s=facts.get("settle_us", 0.0) * 1e-6,
        polygon_delay_s=facts.get("polygon_delay_us", 0.0) * 1e-6,
        field_mm=(facts["field_width_mm"], facts["field_height_mm"]),
    )


def bench_of(
    facts: dict[str, Any], spot_mm: float, m2: float, jitter: float = 0.0, seed: int = 1
) -> tuple[Controller, Source]:
    """A controller and a source that stand for a machine with these facts."""
    setup = Setup(mechanics(facts), facts.get("s_at_full_power", 1000.0), jitter=jitter, seed=seed)
    source = Source(
        facts["rated_power_w"],
        facts["wavelength_nm"],
        facts.get("s_at_full_power", 1000.0),
        facts.get("firing_floor_pct", 0.0),
        spot_mm,
        m2,
    )
    return Controller(setup), source


class Room:
    def __init__(self, machines: list[dict[str, Any]], speed_up: float) -> None:
        made = {one["name"]: bench_of(one["facts"], one["spot_mm"], one["m2"]) for one in machines}
        self.controllers = {name: controller for name, (controller, _) in made.items()}
        self.beds = {name: Bed(controller, source) for name, (controller, source) in made.items()}
        self.servers = {
            name: BenchServer(controller, speed_up=speed_up) for name, controller in self.controllers.items()
        }
        for server in self.servers.values():
            threading.Thread(target=server.run, daemon=True).start()

    def urls(self) -> dict[str, str]:
        return {name: server.url for name, server in self.servers.items()}

    def lay(self, order: dict[str, Any]) -> None:
        """A sheet under the head that is to burn it, with that head's spot and field."""
        bed, controller = self.beds[order["machine"]], self.controllers[order["machine"]]
        moves = replace(controller.setup.mechanics, field_mm=tuple(order["field_mm"]))
        controller.setup = replace(controller.setup, mechanics=moves)
        bed.source = Source(**{**vars(bed.source), "spot_mm": order["spot_mm"], "m2": order["m2"]})
        bed.lay(Sheet(**order["sheet"]), tuple(order["piece_mm"]), tuple(order["zero_mm"]))

    def photograph(self, order: dict[str, Any]) -> None:
        """Begin to photograph what lies there now; the next sheet may be laid at once."""
        bed = self.beds[order["machine"]].as_it_is()
        threading.Thread(target=lambda: _say_photographed(bed, order)).start()


def _say_photographed(bed: Bed, order: dict[str, Any]) -> None:
    _say("photographed", {"key": order["key"], "files": _photographed(bed, order)})


def _photographed(bed: Bed, order: dict[str, Any]) -> dict[str, str]:
    """Files of the faces asked for, by face."""
    faces = tuple(order["faces"])
    taken = bed.photographs(faces, Shot.by_hand(order["seed"]))
    files = {}
    for face, photo in zip(faces, taken, strict=True):
        path = Path(order["folder"]) / f"{order['key']}-{face}.jpg"
        path.write_bytes(photo.jpeg)
        files[face] = str(path)
    return files


_SAYING = threading.Lock()


def _say(event: str, said: object) -> None:
    with _SAYING:
        sys.stdout.write(json.dumps({event: said}) + "\n")
        sys.stdout.flush()


def main() -> None:
    order = json.loads(sys.stdin.readline())
    room = Room(order["machines"], order["speed_up"])
    _say("listening", room.urls())
    for line in sys.stdin:
        command = json.loads(line)
        if command["do"] == "lay":
            room.lay(command)
        elif command["do"] == "photograph":
            room.photograph(command)
    for server in room.servers.values():
        server.close()


if __name__ == "__main__":
    main()
