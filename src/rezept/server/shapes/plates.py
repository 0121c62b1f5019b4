"""Plates as they go over the wire."""

from __future__ import annotations

from typing import Literal

from rezept.core.process import ProcessKey
from rezept.server.shapes.common import Json, Shape


class WarningOut(Shape):
    kind: str
    level: Literal["note", "warning", "refusal"]
    sentence: str
    path: str
    value: float | None
    limit: float | None


class PlatePatch(Shape):
    id: str
    row: int
    column: int
    block: int | None
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    burn: bool
    settings: dict[str, float]
    dose_j_mm: float | None = None
    dose_j_mm2: float | None = None
    seconds: float
    corner_rise: float
    corner_slowing_mm: float
    set_by_hand: list[str]
    mixed: bool = False
    warnings: list[WarningOut]


class Mark(Shape):
    """A mark on the plate by its centre; a code counts its bare border."""

    kind: Literal["corner", "distinct", "qr"]
    x_mm: float
    y_mm: float
    size_mm: float


class Hole(Shape):
    """The hole to hang a plate by: its centre and diameter."""

    x_mm: float
    y_mm: float
    size_mm: float


class Cooling(Shape):
    """What the burn order is worth: positions between neighbours, and the least wait between them."""

    least_apart: int | None
    best_apart: int | None
    shortest_wait_s: float | None


class PlateSize(Shape):
    width_mm: float
    height_mm: float


class PlateOut(Shape):
    """A plate of format `rezept-plate`, version 1."""

    format: Literal["rezept-plate"]
    version: Literal[1]
    trial: Json
    plate: PlateSize
    hang_hole: Hole | None = None
    marks: list[Mark]
    patches: list[PlatePatch]
    order: list[str]
    cooling: Cooling
    seconds: float
    label_seconds: float
    cut_seconds: float = 0.0
    travel_seconds: float
    warnings: list[WarningOut]


class TextOut(Shape):
    """A line of lettering as it will be burned: SVG path data at capital height 1, y up, to be placed and scaled."""

    kind: Literal["axis", "block", "column", "row", "title"]
    text: str
    x_mm: float
    y_mm: float
    height_mm: float
    path: str


class FileOut(Shape):
    """A file that can be had; `part` counts where it comes in several."""

    kind: str
    part: int
    name: str
    suffix: str
    refused: str | None


class ThumbnailPatch(Shape):
    id: str
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float
    burn: bool
    dose: float
    outcome: int | None


class Thumbnail(PlateSize):
    process: ProcessKey
    patches: list[ThumbnailPatch]
