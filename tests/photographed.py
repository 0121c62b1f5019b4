"""Plates burned and photographed on the bench, with the truth of both."""

from __future__ import annotations

from typing import Any

import numpy as np

from rezept.bench.camera import Photograph, Shot, bowed, photograph
from rezept.bench.energy import Grid, Source, sampled
from rezept.bench.material import Burned, Sheet, burn
from rezept.core.colour import lab_to_linear
from rezept.core.plan import Plate
from rezept.formats.gcode import write_gcode
from tests.bench.test_controller import ran
from tests.made import WREN, planned, trial_document

GROUND_LAB = (82.0, 5.0, 24.0)
MARKED = {"on": True, "qr": True, "marks": True, "settings": {"speed_mm_s": 80, "power_pct": 30}}
MACHINE = {**WREN, "head": {"name": "50 mm lens", "spot_mm": 0.18}}
MATERIAL = {"name": "Poplar plywood", "family": "wood", "thickness_mm": 4.0, "ground_lab": list(GROUND_LAB)}
SOURCE = Source(60, 10_600, firing_floor_pct=9, spot_mm=0.18)


def marked_plate(**changes: Any) -> Plate:
    """A plate with code and marks: 5 x 4 cuts from far too weak to far too strong."""
    axes = [
        {"parameter": "speed_mm_s", "along": "x", "from": 8, "to": 32, "count": 5, "spacing": "linear"},
        {"parameter": "power_pct", "along": "y", "from": 30, "to": 80, "count": 4, "spacing": "linear"},
    ]
    document = {
        "machine": MACHINE, "material": MATERIAL, "code": "7K3Q-T014.2", "labels": MARKED, "axes": axes,
        "hold": {"air_level": 1}, "patch": {"width_mm": 8, "height_mm": 8, "gap_mm": 3}, **changes,
    }  # fmt: skip
    return planned(trial_document(**document))


def burned_plate(plate: Plate, seed: int = 1, cell_mm: float = 0.08) -> Burned:
    ground = tuple(lab_to_linear(GROUND_LAB).tolist())
    sheet = Sheet("poplar", 3.7, ground, (0.022, 0.011, 0.007), seed=seed)  # type: ignore[arg-type]
    grid = Grid.over((0, 0), (plate.width_mm, plate.height_mm), cell_mm)
    return burn(sheet, sampled(ran(write_gcode(plate)).stretches, SOURCE, cell_mm / 2), SOURCE, grid)


def taken(burned: Burned, face: str, seed: int, **how: Any) -> tuple[Photograph, Shot]:
    rows, columns = burned.grid.shape
    size = (1350, 1800) if rows > columns else (1800, 1350)
    shot = Shot.by_hand(seed, **{"size": size, **how})
    return photograph(burned, face, shot), shot


def true_pixels(photo: Photograph, shot: Shot, burned: Burned, mm: np.ndarray) -> np.ndarray:
    """Where places of the plate are in a photograph, from what the camera knows."""
    mm = np.array(mm, float)
    if photo.face == "back":
        mm = np.column_stack([burned.grid.shape[1] * burned.grid.cell_mm - mm[:, 0], mm[:, 1]])
    flat = np.column_stack([mm, np.ones(len(mm))]) @ photo.homography.T
    return bowed(flat[:, :2] / flat[:, 2:], shot.size, photo.bow)


def true_through(plate: Plate, burned: Burned) -> dict[str, int]:
    """0 to 3 from the sheet itself: fallen out, nearly the whole outline open, a quarter of it or more, less."""
    cell = burned.grid.cell_mm
    states = {}
    for i, patch in enumerate(plate.ids):
        x, y = plate.x_mm[i], plate.y_mm[i]
        w, h = plate.trial.patch.width_mm, plate.trial.patch.height_mm
        middle = burned.open[int((y + h * 0.3) / cell) : int((y + h * 0.7) / cell),
                             int((x + w * 0.3) / cell) : int((x + w * 0.7) / cell)]  # fmt: skip
        if middle.mean() > 0.5:
            states[patch] = 3
            continue
        around = np.concatenate(
            [np.column_stack([np.linspace(x, x + w, 200), np.full(200, edge)]) for edge in (y, y + h)]
            + [np.column_stack([np.full(200, edge), np.linspace(y, y + h, 200)]) for edge in (x, x + w)]
        )
        rows, columns = (around[:, 1] / cell).astype(int), (around[:, 0] / cell).astype(int)
        reach = range(-3, 4)
        open_ = np.max([burned.open[rows + a, columns + b] for a in reach for b in reach], axis=0)
        share = float(open_.mean())
        states[patch] = 2 if share >= 0.9 else 1 if share >= 0.25 else 0
    return states
