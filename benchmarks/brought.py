"""Figures people bring: planned while typing, and filled."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import shapely
from tests.made import trial_document
from tests.random_figures import svg

from benchmarks.timing import Figure, median_ms
from rezept.core.path.hatch import hatch_loops
from rezept.core.path.svg import read_svg
from rezept.core.plan import plan, read_trial


def wave(corners: int, waves: int) -> str:
    """A drawing of one closed outline, 40 x 40 mm, of so many corners."""
    points = []
    for i in range(corners):
        angle = math.tau * i / corners
        reach = 17 + 3 * math.sin(waves * angle)
        points.append(f"{20 + reach * math.cos(angle):.5f} {20 + reach * math.sin(angle):.5f}")
    return svg(f'<path d="M{" ".join(points)}z"/>')


def brought_figure() -> Figure:
    """A 10 x 10 plate of a figure of 1000 corners, two sets of lines over one another."""
    document: dict[str, Any] = trial_document(
        steps=[
            {
                "name": "fill",
                "process": "area",
                "hatch": [
                    {"line_spacing_mm": 0.1, "hatch_angle_deg": 0},
                    {"line_spacing_mm": 0.2, "hatch_angle_deg": 90},
                ],
            }
        ],
        axes=[
            {"parameter": "speed_mm_s", "along": "x", "from": 100, "to": 400, "count": 10, "step": "fill"},
            {"parameter": "power_pct", "along": "y", "from": 10, "to": 80, "count": 10, "step": "fill"},
        ],
        patch={"shape": "figure", "figure": {"svg": wave(1000, 9)}, "width_mm": 12},
    )
    del document["process"], document["hold"]
    turn = iter(range(10**6))

    def typed() -> None:
        document["axes"][0]["to"] = 300 + 0.01 * next(turn)
        plan(read_trial(document))

    value = median_ms(typed)
    document["patch"] = {"width_mm": 12, "height_mm": 12}
    reference = median_ms(typed)
    return Figure("planning 10 x 10 of a brought figure, median", value, "ms", 15, f"of squares {reference:.1f} ms")


def filled_figure() -> Figure:
    """10 000 corners filled every 0.02 mm on 40 x 40 mm; the reference is one row of it asked of a polygon library."""
    loops = read_svg(wave(9999, 60)).figure.loops
    value = median_ms(lambda: hatch_loops(loops, 0.02, 30.0), 20)
    polygon, row = shapely.Polygon(loops[0]), shapely.LineString([(0, 19.3), (40, 19.3)])
    reference = median_ms(lambda: np.array(polygon.intersection(row).bounds), 20)
    return Figure(
        "filling 10 000 corners at 0.02 mm, median", value, "ms", 250, f"one row by polygons {reference:.2f} ms"
    )


def figures() -> list[Figure]:
    return [brought_figure(), filled_figure()]
