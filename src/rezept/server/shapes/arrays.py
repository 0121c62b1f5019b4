"""Kept arrays as they go over the wire."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from rezept.core.process import ProcessKey
from rezept.server.shapes.common import Id, Json, Shape
from rezept.server.shapes.trials import AxisOut, PatchShapeOut, TypedDesign


class KeptArray(Shape):
    id: int
    name: str
    process: ProcessKey
    document: Json
    by_member: int
    by_name: str
    at: str


class KeptArrays(Shape):
    arrays: list[KeptArray]


class KeepArray(TypedDesign):
    """The array of a trial's typed design, to be kept under a name."""

    name: str = Field(min_length=1, max_length=80)
    trial: Id


class ArrayFile(Shape):
    """A document of format `rezept-array`."""

    document: Json


class OfTrial(Shape):
    trial: Id


class LetteredOut(Shape):
    """What is lettered, without the settings it is drawn with; what it does not say stays as it is."""

    on: bool | None = None
    heading: bool | None = None
    numbers: bool | None = None
    ids: bool | None = None
    qr: bool | None = None
    marks: bool | None = None
    height_mm: float | None = None
    text: str | None = None


class ArrayDesign(Shape):
    """What of a design a kept array replaces, and what is to be said of it."""

    axes: list[AxisOut]
    hold: dict[str, float]
    patch: PatchShapeOut
    order: Literal["rows", "weakest_first", "scattered"]
    labels: LetteredOut | None = None
    cut_out: bool | None = None
    hang_hole_mm: float | None = None
    notes: list[str]
