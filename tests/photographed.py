"""Plates burned and photographed on the bench, with the truth of both."""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from PIL import Image, ImageOps

from rezept.bench.camera import CARD_PX_PER_MM, Photograph, Shot, bowed, photograph
from rezept.bench.energy import Grid, Source, sampled
from rezept.bench.material import Burned, Sheet, burn
from rezept.bench.picture import Spot
from rezept.bench.picture import photograph as picture
from rezept.core.colour import lab_to_linear, linear_to_lab
from rezept.core.photo.card import card_reflectance
from rezept.core.photo.course import course_of
from rezept.core.plan import Plate
from rezept.formats.gcode import write_gcode
from rezept.formats.qr import card_modules
from tests.bench.test_controller import ran
from tests.made import WREN, planned, trial_document

GROUND_LAB = (82.0, 5.0, 24.0)
MARKED = {"on": True, "qr": True, "marks": True, "settings": {"speed_mm_s": 80, "power_pct": 30}}
MACHINE = {**WREN, "head": {"name": "50 mm lens", "spot_mm": 0.18}}
MATERIAL = {"name": "Poplar plywood", "family": "wood", "thickness_mm": 4.0, "ground_lab": list(GROUND_LAB)}
# As badly as a photograph may be taken and still has to be read.
WORST = {"tilt_deg": 35.0, "fall_off": 0.3, "quality": 60, "blur_px": 1.5, "noise": 0.012}
SOURCE = Source(60, 10_600, firing_floor_pct=9, spot_mm=0.18)


@dataclass(frozen=True)
class Wood:
    """A sheet of the bench that can be cut, and the speeds between which it is on Wren; or a metal that is marked."""

    substance: str
    thickness_mm: float
    ground_lab: tuple[float, float, float]
    mark: tuple[float, float, float]
    speeds: tuple[float, float]
    lighter: bool = False
    brushed: float = 0.0
    source: Source = SOURCE


POPLAR = Wood("poplar", 3.7, GROUND_LAB, (0.022, 0.011, 0.007), (8, 32))
BRUSHED = (
    Wood("anodised", 1.0, (38.0, 2.0, -6.0), (0.45, 0.45, 0.46), (0, 0), lighter=True, brushed=0.1),
    Wood("stainless", 1.0, (72.0, 0.0, 2.0), (0.03, 0.03, 0.03), (0, 0), brushed=0.1,
         source=Source(60, 1064, firing_floor_pct=9, spot_mm=0.06)),
)  # fmt: skip


def marked_plate(wood: Wood = POPLAR, **changes: Any) -> Plate:
    """A plate with code and marks: 5 x 4 cuts from far too weak to far too strong."""
    low, high = wood.speeds
    axes = [
        {"parameter": "speed_mm_s", "along": "x", "from": low, "to": high, "count": 5, "spacing": "linear"},
        {"parameter": "power_pct", "along": "y", "from": 30, "to": 80, "count": 4, "spacing": "linear"},
    ]
    material = {**MATERIAL, "ground_lab": list(wood.ground_lab), "mark": "lighter" if wood.lighter else "darker"}
    document = {
        "machine": MACHINE, "material": material, "code": "7K3Q-T014.2",
        "labels": MARKED, "axes": axes, "hold": {"air_level": 1}, "patch": {"width_mm": 8, "height_mm": 8, "gap_mm": 3},
        **changes,
    }  # fmt: skip
    return planned(trial_document(**document))


def shaded_plate(wood: Wood = POPLAR) -> Plate:
    """A plate with code and marks: eight fills from hardly seen to as strong as they get."""
    powers = [9.5, 10, 11, 12, 14, 18, 24, 32] if wood.lighter else [10, 14, 18, 24, 32, 42, 55, 72]
    return marked_plate(
        wood,
        process="area",
        axes=[{"parameter": "power_pct", "along": "x", "values": powers}],
        hold={"speed_mm_s": 200, "line_spacing_mm": 0.06 if wood.source.wavelength_nm < 2000 else 0.15, "air_level": 1},
    )


def burned_plate(plate: Plate, seed: int = 1, cell_mm: float = 0.08, wood: Wood = POPLAR) -> Burned:
    ground = tuple(lab_to_linear(wood.ground_lab).tolist())
    sheet = Sheet(wood.substance, wood.thickness_mm, ground, wood.mark, wood.lighter, wood.brushed, seed=seed)  # type: ignore[arg-type]
    grid = Grid.over((0, 0), (plate.width_mm, plate.height_mm), cell_mm)
    return burn(sheet, sampled(ran(write_gcode(plate)).stretches, wood.source, cell_mm / 2), wood.source, grid)


def printed_card() -> np.ndarray:
    """The reference card as it lies on the bench's table."""
    return card_reflectance(card_modules(), CARD_PX_PER_MM)


def true_lab(plate: Plate, burned: Burned) -> np.ndarray:
    """``(n, 3)`` L*, a*, b* of each patch on the sheet itself: of the mean of its light, as an eye takes it."""
    cell, found = burned.grid.cell_mm, []
    w, h = plate.trial.patch.width_mm, plate.trial.patch.height_mm
    for x, y in zip(plate.elements.x_mm.tolist(), plate.elements.y_mm.tolist(), strict=True):
        rows = slice(int((y + 0.25 * h) / cell), int((y + 0.75 * h) / cell))
        columns = slice(int((x + 0.25 * w) / cell), int((x + 0.75 * w) / cell))
        found.append(burned.front[rows, columns].reshape(-1, 3).mean(axis=0))
    return linear_to_lab(np.array(found))


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


def mirrored(jpeg: bytes) -> bytes:
    """A photograph as a mirror shows it."""
    return _edited(jpeg, ImageOps.mirror)


def cropped(jpeg: bytes, box: tuple[int, int, int, int]) -> bytes:
    """A part of a photograph, left, top, right, bottom."""
    return _edited(jpeg, lambda image: image.crop(box))


def _edited(jpeg: bytes, edit: Callable[[Image.Image], Image.Image]) -> bytes:
    data = io.BytesIO()
    with Image.open(io.BytesIO(jpeg)) as image:
        edit(image).save(data, "JPEG", quality=90)
    return data.getvalue()


def filling(
    plate: Plate, burned: Burned, photo: Photograph, shot: Shot, inset_mm: float
) -> tuple[bytes, np.ndarray, np.ndarray]:
    """A photograph so near that no edge of the sheet is in it; four places so far inside its corners ``(4, 2)`` mm, and
    where these are in its pixels."""
    low, high = np.full(2, inset_mm), np.array([plate.width_mm, plate.height_mm]) - inset_mm
    rim = np.array([low, (high[0], low[1]), high, (low[0], high[1])])
    seen = true_pixels(photo, shot, burned, rim)
    left, top = seen.min(axis=0).astype(int).tolist()
    right, bottom = seen.max(axis=0).astype(int).tolist()
    return cropped(photo.jpeg, (left, top, right, bottom)), rim, seen - (left, top)


def ranked(plate: Plate, shares: Sequence[float]) -> np.ndarray:
    """``(n,)`` 0 for the patches of least dose, up to the first share of all of them, 1 up to the second, and so on."""
    rank = np.argsort(np.argsort(plate.judged.dose)) / len(plate.judged.dose)
    return np.searchsorted(list(shares), rank, side="right")


def drawn(plate: Plate, states: np.ndarray, ground: tuple[float, float, float], seed: int) -> dict[str, bytes]:
    """Drawn photographs of both faces of a plate whose cuts came out as these states ``(n,)`` say."""
    places = zip(plate.elements.x_mm.tolist(), plate.elements.y_mm.tolist(), states.tolist(), strict=True)
    spots = [Spot(x, y, 8, 8, state, None, char=int(state > 1)) for x, y, state in places]
    colours = {"ground": ground, "mark": (0.1, 0.06, 0.04)}
    return {face: picture(plate.width_mm, plate.height_mm, spots, colours, face, seed) for face in ("front", "back")}


def true_through(plate: Plate, burned: Burned) -> dict[str, int]:
    """0 to 3 from the sheet itself. Held against the light any opening is seen, however narrow: fallen out is 3, light
    along nine tenths of the outline or more is 2, along a tenth or more 1."""
    cell = burned.grid.cell_mm
    way = course_of(plate)
    across = np.arange(-0.35, 0.351, cell / 2)
    near = way.points[:, None] + way.outward[:, None] * across[:, None]
    states = {}
    for name, corner in zip(
        plate.elements.ids, np.column_stack([plate.elements.x_mm, plate.elements.y_mm]), strict=True
    ):
        columns, rows = np.moveaxis(((corner + way.inside) / cell).astype(int), -1, 0)
        if burned.open[rows, columns].mean() > 0.5:
            states[name] = 3
            continue
        columns, rows = np.moveaxis(((corner + near) / cell).astype(int), -1, 0)
        share = float(burned.open[rows, columns].any(axis=1).mean())
        states[name] = 2 if share >= 0.9 else 1 if share >= 0.1 else 0
    return states
