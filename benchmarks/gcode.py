"""Writing the program of a 20 x 20 area plate, against formatting as many numbers in blocks."""

from __future__ import annotations

import re

import numpy as np

from benchmarks.planning import ten_by_ten
from benchmarks.timing import Figure, interleaved_best
from rezept.core.plan import Plate, plan, read_trial
from rezept.formats.gcode import write_gcode

LINES_A_BLOCK = 4000


def large_plate() -> Plate:
    """400 engraved patches of 8 x 8 mm with lines 0.1 mm apart: 32 000 lines."""
    document = ten_by_ten()
    document |= {"process": "area", "hold": {"line_spacing_mm": 0.1}, "labels": {}}
    document["patch"] = {"width_mm": 8, "height_mm": 8, "gap_mm": 3}
    document.pop("starting_dose_j_mm")
    document["axes"] = [
        {"parameter": "speed_mm_s", "along": "x", "from": 50, "to": 240, "count": 20, "spacing": "linear"},
        {"parameter": "power_pct", "along": "y", "from": 10, "to": 67, "count": 20, "spacing": "linear"},
    ]
    return plan(read_trial(document))


def blocks(numbers: list[float]) -> list[str]:
    """The reference: one `%` on a repeated template, some 4000 lines of two numbers at a time."""
    template = "G1X%.3fY%.3f\n"
    out = []
    for start in range(0, len(numbers), 2 * LINES_A_BLOCK):
        block = numbers[start : start + 2 * LINES_A_BLOCK]
        out.append(template * (len(block) // 2) % tuple(block))
    return out


def figures() -> list[Figure]:
    plate = large_plate()
    program = write_gcode(plate)
    # The reference formats as many numbers as the program's moves hold coordinates.
    count = len(re.findall(rb"[XY]-?\d", program)) // 2 * 2
    numbers = np.random.default_rng(1).uniform(0, 240, count).round(3).tolist()
    ours, reference = interleaved_best(lambda: write_gcode(plate), lambda: blocks(numbers), 9)
    return [
        Figure(
            "G-code of a 20 x 20 area plate, ratio",
            ours / reference,
            "x",
            2,
            f"{1000 * ours:.0f} ms, {len(program) / 1e6:.1f} MB; {count} numbers in blocks {1000 * reference:.0f} ms",
        )
    ]
