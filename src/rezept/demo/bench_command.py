"""`rezept bench`: one bench on a port, until somebody ends it."""

from __future__ import annotations

import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.bench.bed import Bed
from rezept.bench.camera import CARD_PX_PER_MM, Shot
from rezept.bench.controller import Controller
from rezept.bench.energy import Source
from rezept.bench.material import Sheet
from rezept.bench.response import SUBSTANCES
from rezept.bench.room import bench_of
from rezept.bench.serve import BenchServer, Fault
from rezept.core.colour import lab_to_linear, read_hex
from rezept.core.errors import InvalidInput, quoted
from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.photo.card import card_reflectance
from rezept.demo import stock
from rezept.formats.qr import card_modules


@dataclass(frozen=True)
class BenchOrder:
    """What the command was asked for."""

    machine: Any
    port: int
    speed_up: float
    faults: Sequence[str]
    substance: str
    thickness_mm: float
    piece_mm: tuple[float, float]
    photos: Path | None
    truth: bool
    card: bool
    jitter: float
    seed: int


def _bench(order: BenchOrder) -> tuple[Controller, Source]:
    document = order.machine if order.machine is not None else {**stock.WREN, "head": dict(stock.MACHINES[0][1][0])}
    known = read_machine(Fields(document, "machine"))
    return bench_of(known.document(), known.head.spot_mm or 0.1, known.head.m2 or 1.3, order.jitter, order.seed)


def _sheet(order: BenchOrder) -> Sheet:
    if order.substance not in SUBSTANCES:
        raise InvalidInput(
            f"There is no substance {quoted(order.substance)}; there are {', '.join(SUBSTANCES)}.", "substance"
        )
    stocked = next((one for one in stock.MATERIALS if one.substance == order.substance), stock.MATERIALS[0])
    ground = lab_to_linear(read_hex(stocked.colour)).tolist()
    lighter = stocked.mark == "lighter"
    mark = (0.85, 0.85, 0.82) if lighter else (0.022, 0.011, 0.007)
    return Sheet(order.substance, order.thickness_mm, tuple(ground), mark, lighter, seed=order.seed)


def _card() -> NDArray[np.float32]:
    """The reference card, as it comes out of the printer."""
    return card_reflectance(card_modules(), CARD_PX_PER_MM)


def run_bench(order: BenchOrder, say: Callable[[str], None]) -> None:
    """Listen, and after every program photograph what was burned since the sheet was laid."""
    controller, source = _bench(order)
    bed = Bed(controller, source)
    bed.lay(_sheet(order), order.piece_mm)
    try:
        wrong = [Fault.read(fault) for fault in order.faults]
    except ValueError as error:
        raise InvalidInput(f"{error}.", "fault") from error
    taken = 0

    def photograph() -> None:
        nonlocal taken
        if order.photos is None or not any(stretch.beam > 0 for stretch in controller.stretches):
            return
        order.photos.mkdir(parents=True, exist_ok=True)
        taken += 1
        for photo in bed.photographs(
            ("front", "back"), Shot.by_hand(order.seed + taken, card=_card() if order.card else None)
        ):
            file = order.photos / f"{taken:03d}-{photo.face}.jpg"
            file.write_bytes(photo.jpeg)
            if order.truth:
                file.with_suffix(".truth.json").write_text(json.dumps(photo.truth(), indent=1))
            say(f"{file}")

    try:
        server = BenchServer(controller, port=order.port, speed_up=order.speed_up, faults=wrong, on_idle=photograph)
    except OSError as error:
        raise InvalidInput(f"Port {order.port} cannot be used: {error.strerror}.", "port") from error
    say(f"A bench listens at {server.url}  (Ctrl+C ends it)")
    server.run()
