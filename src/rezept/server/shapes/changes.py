"""Who did what, when."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from rezept.server.shapes.common import Json, Shape

Subject = Literal["shop", "member", "machine", "head", "material", "lot", "piece", "trial", "recipe", "array", "figure"]


class ChangesQuery(Shape):
    """The log of everything or of one thing; `before` is the id of the last line one has."""

    subject: Subject | None = None
    id: int | None = Field(None, ge=1, le=2**53)
    before: int | None = Field(None, ge=1, le=2**53)
    most: int = Field(50, ge=1, le=200)


class StreamQuery(Shape):
    since: int = Field(ge=0, le=2**53)


class ChangeOut(Shape):
    id: int
    subject: Subject
    subject_id: int
    verb: str
    title: str
    before: Json | None
    after: Json | None
    by_member: int
    by_name: str
    at: str


class Changes(Shape):
    changes: list[ChangeOut]


class TakenBack(Shape):
    subject: Subject
    row: Json
