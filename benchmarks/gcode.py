"""Writing the program of a 20 x 20 area plate, against formatting as many numbers in blocks."""

from __future__ import annotations

import re
import tempfile
import tracemalloc
from pathlib import Path

import numpy as np

from benchmarks.planning import ten_by_ten
from benchmarks.timing import Figure, interleaved_best
from rezept.core.plan import Plate, plan, read_trial
from rezept.formats.gcode import write_gcode

LINES_A_BLOCK = 4000


def large_plate(side: int = 20, spacing_mm: float = 0.05) -> Plate:
    """`side` x `side` engraved patches of 8 x 8 mm; 20 x 20 at 0.05 mm are 64 000 lines."""
    document = ten_by_ten()
    document |= {"process": "area", "hold": {"line_spacing_mm": spacing_mm}, "labels": {}}
    document["patch"] = {"width_mm": 8, "height_mm": 8, "gap_mm": 3}
    document.pop("starting_dose_j_mm")
    document["machine"] |= {"field_width_mm": 2000, "field_height_mm": 2000}
    document["axes"] = [
        {"parameter": "speed_mm_s", "along": "x", "from": 50, "to": 240, "count": side, "spacing": "linear"},
        {"parameter": "power_pct", "along": "y", "from": 10, "to": 67, "count": side, "spacing": "linear"},
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


def _on_disk(plate: Plate, folder: Path) -> int:
    file = folder / "plate.gcode"
    file.write_bytes(write_gcode(plate))
    return file.stat().st_size


def _peak_share(plate: Plate) -> float:
    """Most memory taken while writing, as a multiple of the file."""
    tracemalloc.start()
    size = len(write_gcode(plate))
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return peak / size


def figures() -> list[Figure]:
    plate = large_plate()
    # Ten times the lines: the same patches with lines a tenth as far apart.
    tenth = large_plate(spacing_mm=0.5)
    program = write_gcode(plate)
    # The reference formats as many numbers as the program's moves hold coordinates.
    count = len(re.findall(rb"[XY]-?\d", program)) // 2 * 2
    numbers = np.random.default_rng(1).uniform(0, 240, count).round(3).tolist()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)

        def reference() -> None:
            (folder / "numbers").write_bytes("".join(blocks(numbers)).encode())

        ours, theirs = interleaved_best(lambda: _on_disk(plate, folder), reference, 7)
        many, few = interleaved_best(lambda: _on_disk(plate, folder), lambda: _on_disk(tenth, folder), 5)
    size = f"{len(program) / 1e6:.1f} MB"
    said = f"{1000 * ours:.0f} ms, {size}; {count} numbers in blocks {1000 * theirs:.0f} ms"
    return [
        Figure("G-code of 64 000 lines on disk, ratio", ours / theirs, "x", 2, said),
        Figure("its most memory, as multiple of the file", _peak_share(plate), "x", 4, size),
        Figure("ten times the lines cost", many / few, "x", 12, f"{1000 * few:.0f} ms and {1000 * many:.0f} ms"),
    ]
