"""What every subject's shapes are made of."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

Json = dict[str, Any]
Stage = Literal["plan", "burn", "read", "decide", "kept"]


# What SQLite, JSON and JavaScript all hold exactly.
LARGEST = 2**53
Id = Annotated[int, Field(ge=1, le=LARGEST)]


class Shape(BaseModel):
    model_config = ConfigDict(extra="forbid")


class StepQuery(Shape):
    """Which of several steps it is about, from 1; none: what the trial set out to do."""

    step: int | None = Field(None, ge=1, le=8)


class IdPath(Shape):
    id: Id


class Edit(Shape):
    """The version of a row that a change was made from."""

    edit: int = Field(ge=0, le=LARGEST)


class Named(Shape):
    """One of a few: as it is kept, and as people say it."""

    key: str
    name: str


class Created(Shape):
    id: int


class ErrorAt(Shape):
    path: str
    detail: str


class BurnChoice(BaseModel):
    """A burn one may have meant."""

    id: int
    at: str
    by_name: str
    lot: str | None


class Problem(BaseModel):
    """RFC 9457. `current` and `yours` come with a stale edit, `choices` where somebody has to say which."""

    type: str
    title: str
    status: int
    detail: str
    errors: list[ErrorAt]
    current: Json | None = None
    yours: Json | None = None
    choices: list[BurnChoice] | None = None
