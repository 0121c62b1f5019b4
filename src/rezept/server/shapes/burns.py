"""Burned plates: scores, photos, margins."""

from __future__ import annotations

from flask_openapi3 import RawModel
from pydantic import Field

from rezept.server.shapes.common import Edit, Face, IdPath, Shape


class PatchPath(IdPath):
    patch: str = Field(max_length=12)


class FacePath(IdPath):
    face: Face


class PhotoPath(Shape):
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


class Burned(Edit):
    lot: str = ""
    measured_mm: float | str | None = None
    focus: str = ""
    air: str = ""
    cleaning: str = ""
    hold_down: str = ""
    note: str = ""


class Between(Shape):
    """Two patches of a plate: the last that failed and the first that worked."""

    failed: str = Field(max_length=12)
    worked: str = Field(max_length=12)


class NotBurned(Shape):
    not_burned: bool


class Score(Edit):
    through: int | None = None
    darkness: int | None = None
    evenness: int | None = None
    char: int | None = None
    soot: int | None = None
    cannot_tell: bool = False
    tags: list[str] = []
    note: str = ""


class PhotoBytes(RawModel):
    mimetypes = ["image/jpeg", "image/png"]


class ReadingOut(Shape):
    patch: str
    face: Face
    through: int | None
    darkness: int | None
    evenness: int | None
    char: int | None
    soot: int | None
    cannot_tell: bool
    tags: list[str]
    note: str
    edit: int
    at: str
    by_name: str


class BurnOut(Shape):
    id: int
    revision_id: int
    revision: int
    trial_id: int
    lot_id: int | None
    lot: str | None
    measured_mm: float | None
    focus: str
    air: str
    cleaning: str
    hold_down: str
    note: str
    at: str
    by_name: str


class FacePhoto(Shape):
    face: Face
    sha256: str
    width: int
    height: int


class Conditions(Shape):
    lot: str | None
    measured_mm: float | None
    focus: str
    air: str
    cleaning: str
    hold_down: str


class NeighbourOut(Shape):
    patch: str
    parameter: str
    value: float
    outcome: float | None
    holds: bool | None
    holds_to: float
    margin_pct: float
    open_end: bool
    direction: str


class Decision(Shape):
    margins: dict[str, list[NeighbourOut]]
