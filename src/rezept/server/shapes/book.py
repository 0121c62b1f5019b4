"""Ask and the book."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from rezept.server.shapes.burns import BurnOut, FacePhoto, ReadingOut
from rezept.server.shapes.common import Edit, Json, ProcessKey, Shape, Standing
from rezept.server.shapes.plates import Thumbnail


class AskQuery(Shape):
    process: ProcessKey
    material: int
    head: int


class BookQuery(Shape):
    text: str = Field("", max_length=200)
    head: int | None = None
    material: int | None = None
    process: ProcessKey | None = None


class KeepRecipe(Shape):
    burn: int
    patch: str = Field(max_length=12)
    standing: Literal["tried", "proven"] = "tried"
    purpose: str = ""
    note: str = ""


class ChangeRecipe(Edit):
    standing: Standing | None = None
    purpose: str | None = None
    note: str | None = None


class StepOut(Shape):
    position: int
    name: str
    process: ProcessKey
    settings: dict[str, float]


class RecipeOut(Shape):
    id: int
    head_id: int
    head: str
    material_id: int
    material: str
    process: ProcessKey
    process_name: str
    purpose: str
    standing: Standing
    note: str
    burn_id: int | None
    patch: str | None
    edit: int
    at: str
    author: str
    changed_at: str
    changed_by: str
    trial_id: int | None
    revision: int | None
    trial_number: int | None
    steps: list[StepOut]


class Evidence(Shape):
    burn: BurnOut
    code: str
    reading: ReadingOut | None
    picture: Thumbnail
    photos: list[FacePhoto]


class RecipeCard(RecipeOut):
    evidence: Evidence | None


class Version(Shape):
    edit: int
    recipe: Json
    at: str
    by_name: str


class RecipePage(RecipeCard):
    history: list[Version]


class Book(Shape):
    recipes: list[RecipeCard]


class StartOut(Shape):
    speed_mm_s: list[float]
    power_pct: list[float]
    centre: dict[str, float] | None
    reason: str


class Answer(Shape):
    meant: bool
    recipes: list[RecipeCard]
    related: list[RecipeCard]
    start: StartOut
