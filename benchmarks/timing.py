"""Measuring: the best of several runs for ratios, the median for what a person waits for."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """One measured figure against its limit, with the reference it was measured beside."""

    name: str
    value: float
    unit: str
    limit: float
    reference: str

    @property
    def holds(self) -> bool:
        return self.value <= self.limit

    def line(self) -> str:
        mark = "ok    " if self.holds else "MISSED"
        figure = f"{self.value:8.2f} {self.unit:<3} limit {self.limit:g} {self.unit:<3}"
        return f"{mark} {self.name:<44} {figure} ({self.reference})"


def seconds(work: Callable[[], object]) -> float:
    began = time.perf_counter()
    work()
    return time.perf_counter() - began


def cpu_seconds(work: Callable[[], object]) -> float:
    """Of this process and its threads, whatever else the machine does."""
    began = time.process_time()
    work()
    return time.process_time() - began


def median_ms(work: Callable[[], object], runs: int = 40) -> float:
    work()
    return 1000 * statistics.median(seconds(work) for _ in range(runs))


def interleaved_best(work: Callable[[], object], reference: Callable[[], object], runs: int) -> tuple[float, float]:
    """Best time of each, taken turn by turn so that a busy moment hits both."""
    pairs = [(seconds(work), seconds(reference)) for _ in range(runs)]
    return min(a for a, _ in pairs), min(b for _, b in pairs)
