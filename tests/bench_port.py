"""A bench on a port of this machine, for tests that stream to one."""

from __future__ import annotations

import threading
import unittest
from pathlib import Path

from rezept.actions.commands import equipment, people
from rezept.actions.open_shop import Shop, open_shop
from rezept.actions.queries import shop_facts
from rezept.bench.controller import Controller, Setup
from rezept.bench.motion import Mechanics
from rezept.bench.serve import BenchServer, Fault


def start_bench(
    case: unittest.TestCase | type[unittest.TestCase],
    *faults: str,
    speed_up: float = 200.0,
    mechanics: Mechanics | None = None,
    **setup: object,
) -> BenchServer:
    """A bench that listens until the test, or all of a class, is over; `faults` like ``alarm@200``."""
    clean = case.addClassCleanup if isinstance(case, type) else case.addCleanup
    controller = Controller(Setup(mechanics or Mechanics(), **setup))  # type: ignore[arg-type]
    bench = BenchServer(controller, speed_up=speed_up, faults=[Fault.read(fault) for fault in faults])
    thread = threading.Thread(target=bench.run, daemon=True)
    thread.start()
    clean(thread.join, 10)
    clean(bench.close)
    return bench


def link(shop: Shop, name: str, url: str, **facts: object) -> None:
    """Wire a machine of a shop to a bench, changing some of its facts on the way."""
    keeper = people.first_keeper(shop)
    assert keeper is not None
    machine = next(row for row in shop_facts.inventory(shop)["machines"] if row["name"] == name)
    changed = {**machine["facts"], **facts, "note": machine["note"], "link": url}
    equipment.change(shop, keeper, "machine", machine["id"], machine["edit"], changed, {}, False)


def link_in(folder: Path, name: str, url: str) -> None:
    """The same in a shop that is not open."""
    shop = open_shop(folder)
    link(shop, name, url)
    shop.close()
