"""`rezept bench`: one bench on a port, until somebody ends it."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Any

from rezept.bench.bed import Bed
from rezept.bench.camera import Shot
from rezept.bench.material import Sheet
from rezept.bench.response import SUBSTANCES
from rezept.bench.room import bed_of
from rezept.bench.serve import BenchServer, Fault
from rezept.core.colour import lab_to_linear, read_hex
from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.demo import stock

Laid = tuple[str, float, tuple[float, float], int]


def _bed(machine: Any) -> Bed:
    document = machine if machine is not None else {**stock.WREN, "head": dict(stock.MACHINES[0][1][0])}
    known = read_machine(Fields(document, "machine"))
    return bed_of(known.document(), known.head.spot_mm or 0.1, known.head.m2 or 1.3)


def _sheet(laid: Laid) -> Sheet:
    substance, thickness, _, seed = laid
    if substance not in SUBSTANCES:
        raise InvalidInput(f"There is no substance {substance!r}; there are {', '.join(SUBSTANCES)}.", "substance")
    stocked = next((one for one in stock.MATERIALS if one.substance == substance), stock.MATERIALS[0])
    ground = lab_to_linear(read_hex(stocked.colour)).tolist()
    lighter = stocked.mark == "lighter"
    mark = (0.85, 0.85, 0.82) if lighter else (0.022, 0.011, 0.007)
    return Sheet(substance, thickness, tuple(ground), mark, lighter, seed=seed)


def run_bench(
    machine: Any,
    port: int,
    speed_up: float,
    faults: Iterable[str],
    laid: Laid,
    photos: Path | None,
    truth: bool,
    say: Callable[[str], None],
) -> None:
    """Listen, and after every program photograph what was burned since the sheet was laid."""
    bed = _bed(machine)
    bed.lay(_sheet(laid), laid[2])
    try:
        wrong = [Fault.read(fault) for fault in faults]
    except ValueError as error:
        raise InvalidInput(f"{error}.", "fault") from error
    taken = 0

    def photograph() -> None:
        nonlocal taken
        if photos is None or not any(stretch.beam > 0 for stretch in bed.controller.stretches):
            return
        photos.mkdir(parents=True, exist_ok=True)
        taken += 1
        for photo in bed.photographs(("front", "back"), Shot.by_hand(laid[3] + taken)):
            file = photos / f"{taken:03d}-{photo.face}.jpg"
            file.write_bytes(photo.jpeg)
            if truth:
                file.with_suffix(".truth.json").write_text(json.dumps(photo.truth(), indent=1))
            say(f"{file}")

    try:
        server = BenchServer(bed.controller, port=port, speed_up=speed_up, faults=wrong, on_idle=photograph)
    except OSError as error:
        raise InvalidInput(f"Port {port} cannot be used: {error.strerror}.", "port") from error
    say(f"A bench listens at {server.url}  (Ctrl+C ends it)")
    server.run()
