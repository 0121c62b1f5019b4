"""A bench on a port of this machine, for tests that stream to one."""

from __future__ import annotations

import threading
import unittest

from rezept.bench.controller import Controller, Setup
from rezept.bench.motion import Mechanics
from rezept.bench.serve import BenchServer, Fault


def start_bench(
    case: unittest.TestCase,
    *faults: str,
    speed_up: float = 200.0,
    mechanics: Mechanics | None = None,
    **setup: object,
) -> BenchServer:
    """A bench that listens until the test is over; `faults` like ``alarm@200``."""
    controller = Controller(Setup(mechanics or Mechanics(), **setup))  # type: ignore[arg-type]
    bench = BenchServer(controller, speed_up=speed_up, faults=[Fault.read(fault) for fault in faults])
    thread = threading.Thread(target=bench.run, daemon=True)
    thread.start()
    case.addCleanup(thread.join, 10)
    case.addCleanup(bench.close)
    return bench
