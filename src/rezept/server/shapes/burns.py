"""Burned plates: scores, photos, margins."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from rezept.core.lay import LayKey
from rezept.core.process import Face
from rezept.core.treatment import TreatmentKey
from rezept.server.shapes.common import Edit, IdPath, Shape


class PatchPath(IdPath):
    patch: str = Field(max_length=12)


class HowBurned(Shape):
    """How a plate was burned, as it is noted."""

    lot: str = ""
    measured_mm: float | str | None = None
    focus: str = ""
    air: str = ""
    cleaning: str = ""
    hold_down: str = ""
    lay: LayKey = "flat"
    roller_mm: float | str | None = None
    stack_of: int | str | None = None
    below: str = ""
    tabs: str = ""
    note: str = ""


class Burned(HowBurned, Edit):
    """I burned it."""


class Between(Shape):
    """Two patches of a plate: the last that failed and the first that worked."""

    failed: str = Field(max_length=12)
    worked: str = Field(max_length=12)


class NotBurned(Shape):
    not_burned: bool


class Score(Edit):
    """What a person says of a patch: values by scale (a length may be typed with its unit), what is not said left
    out."""

    values: dict[str, float | str] = Field(default={}, max_length=100)
    cannot_tell: bool = False
    note: str = ""


class PatchScore(Score):
    patch: str = Field(max_length=12)


class Scores(Shape):
    """Several patches scored at once."""

    readings: list[PatchScore] = Field(min_length=1, max_length=2000)


class ReadingOut(Shape):
    patch: str
    face: Face
    values: dict[str, float]
    cannot_tell: bool
    note: str
    edit: int
    at: str
    by_name: str
    said_by: Literal["person", "photo"]
    sure: float | None = None


class ReadingsOut(Shape):
    readings: list[ReadingOut]
    repeated: dict[str, str] = Field(description="By patch how many of those with its settings came out.")


class JudgedBy(Shape):
    """How a burn's piece was treated before what counts of it was read."""

    treatment: TreatmentKey


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
    lay: LayKey
    roller_mm: float | None
    stack_of: int | None
    below: str
    tabs: str
    note: str
    treatment: TreatmentKey = Field(description="How its piece was treated before what it is judged by was read.")
    at: str
    by_member: int
    by_name: str
    corrected_by: str | None
    corrected_at: str | None
    taken_back_at: str | None


class BurnListed(BurnOut):
    """A burn among the others of its plate: how many patches were read, how many photos there
    are, and the piece from the shelf it lay on."""

    scored: int
    photos: int
    piece: str | None


class Conditions(Shape):
    lot: str | None
    measured_mm: float | None
    focus: str
    air: str
    cleaning: str
    hold_down: str
    lay: LayKey
    roller_mm: float | None
    stack_of: int | None
    below: str
    tabs: str
    at: str


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
    """By patch: its margins and those that did not come out as it did; those that came out as nothing to work by, and
    for each of them the ones that did come out; of patches with the same settings how many came out, in words."""

    repeated: dict[str, str]
    margins: dict[str, list[NeighbourOut]]
    failed: dict[str, list[str]]
    nothing_to_work_by: list[str]
    worked: dict[str, list[str]]
