"""What the worker does."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from rezept.server.shapes.common import BurnChoice, Shape
from rezept.server.shapes.photos import BroughtPhoto, OutlineOut


class JobQuery(Shape):
    wait: bool = Field(default=False, description="Answer when it is over, within two seconds.")


class JobOut(Shape):
    """Work that goes on by itself. `before`: how many jobs come first. `sentence`, `path` and `choices` say why it
    failed, as an error does; `photo` is what came of one that brings in or lays a photo.
    """

    id: int
    kind: Literal["bring_in", "read", "read_again", "lay", "outline", "picture", "file"]
    state: Literal["waiting", "running", "done", "failed", "cancelled", "interrupted"]
    progress: float
    before: int
    sentence: str
    path: str
    choices: list[BurnChoice] | None
    photo: BroughtPhoto | None
    outline: OutlineOut | None = Field(description="What came of one that looks for a piece.")
    by_name: str
    at: str
    ended_at: str | None


class JobList(Shape):
    jobs: list[JobOut]
