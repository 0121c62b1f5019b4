"""Ask and the book."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from rezept.core.findings.candidates import Aim
from rezept.core.lay import LayKey
from rezept.core.process import ProcessKey
from rezept.core.recipe import FailedBecause, KeptAs, StandingKey, WrittenAs
from rezept.core.treatment import TreatmentKey
from rezept.server.shapes.burns import BurnOut, ReadingOut
from rezept.server.shapes.common import Edit, Id, Json, Shape
from rezept.server.shapes.equipment import StandOffOut
from rezept.server.shapes.findings import PredictedOut
from rezept.server.shapes.photos import PhotoOut
from rezept.server.shapes.plates import Thumbnail
from rezept.server.shapes.trial_cards import TrialCard


class AskQuery(Shape):
    process: ProcessKey
    material: Id
    head: Id
    lay: LayKey = "flat"


class MapQuery(Shape):
    process: ProcessKey


class QrQuery(Shape):
    """A page of this shop, such as `/book/3`."""

    place: str = Field(max_length=300, pattern=r"^/([^/\s][^\s]*)?$")


class BookQuery(Shape):
    text: str = Field("", max_length=200)
    standing: StandingKey | None = None
    skip: int = Field(0, ge=0, le=2**53)
    most: int = Field(60, ge=1, le=200)
    head: Id | None = None
    material: Id | None = None
    process: ProcessKey | None = None


class KeepRecipe(Shape):
    burn: Id
    patch: str = Field(max_length=12)
    step: int | None = Field(None, ge=1, le=8, description="Which of several steps, with all that work its ground.")
    standing: KeptAs = "tried"
    purpose: str = ""
    note: str = ""


class LinkShape(Shape):
    title: str = ""
    url: str


class WriteDown(Shape):
    """A recipe from elsewhere: settings may be typed texts with units."""

    process: ProcessKey
    material: Id
    head: Id
    standing: WrittenAs = "heard"
    settings: Json
    units: dict[str, str] = {}
    purpose: str = ""
    note: str = ""
    conditions: str = ""
    supplier_code: str = ""
    pinned: str = ""
    good_enough: str = ""
    links: list[LinkShape] = []


class ChangeRecipe(Edit):
    """What is not given stays; `superseded_by` null takes it back."""

    standing: StandingKey | None = None
    purpose: str | None = None
    note: str | None = None
    conditions: str | None = None
    supplier_code: str | None = None
    pinned: str | None = None
    good_enough: str | None = None
    links: list[LinkShape] | None = None
    superseded_by: Id | None = None
    kerf_mm: float | str | None = None


class RestoreRecipe(Edit):
    version: int = Field(ge=1, le=2**53)


class Confirm(Shape):
    """`reason` is why it did not hold."""

    held: bool
    note: str = ""
    reason: FailedBecause | None = None


class NotWorking(Shape):
    """`reason` null: it is open again."""

    process: ProcessKey
    material: Id
    head: Id
    reason: str | None


class LaidOver(Shape):
    """Lines laid over a step's own."""

    line_spacing_mm: float
    hatch_angle_deg: float


class StepWay(Shape):
    """How a step goes over its figure, where that is not as usual."""

    part: Literal["both"] | None = None
    hatch: list[LaidOver] = []
    one_way: bool = False


class StepOut(Shape):
    position: int
    name: str
    process: ProcessKey
    settings: dict[str, float]
    way: StepWay


class RecipeOut(Shape):
    id: int
    head_id: int
    head: str
    material_id: int
    material: str
    process: ProcessKey
    process_name: str
    purpose: str
    standing: StandingKey
    note: str
    conditions: str
    supplier_code: str
    pinned: str
    good_enough: str
    links: list[LinkShape]
    kerf_mm: float | None = Field(description="How wide the cut is: so much smaller than drawn a part comes out.")
    superseded_by: int | None
    lay: LayKey
    roller_mm: float | None
    stack_of: int | None
    lay_words: str = Field(description="How the piece lay it was found on; empty: flat.")
    treatment: TreatmentKey
    treatment_words: str = Field(description="How its piece was treated before it was judged; empty: as burned.")
    held: int
    held_at: str | None
    failed: int
    failed_at: str | None
    burn_id: int | None
    patch: str | None
    read_as: int | None = Field(description="Under which of its steps the patch was read.")
    rounds: int
    finding_id: int | None
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
    failed: bool = Field(description="Its patch is read as nothing to work by: the recipe answers nothing.")
    picture: Thumbnail
    photos: list[PhotoOut]


class RecipeCard(RecipeOut):
    evidence: Evidence | None


class Version(Shape):
    edit: int
    recipe: Json
    at: str
    by_name: str


class ConfirmationOut(Shape):
    id: int
    recipe_id: int
    held: bool
    note: str
    reason: FailedBecause | None
    standing_before: str | None
    edit_after: int | None
    taken_back_at: str | None
    by_member: int
    by_name: str
    at: str


class Chance(Shape):
    """The share of fresh sheets it is expected to hold on, 80 % of it, and what that rests on."""

    value: float
    low: float
    high: float
    plates: int
    patches: int
    taps: int


class FoundPlate(Shape):
    trial: int
    burn: int
    name: str


class KeptFinding(Shape):
    """What a recipe was chosen for from plates none of whose patches had its settings."""

    aim: Aim
    predicted: PredictedOut
    model: Json
    at: str
    by_name: str
    plates: list[FoundPlate]


class SpentOut(Shape):
    """What was burned of its material on its head until a recipe was first `proven`, or by now."""

    plates: int
    patches: int
    area_mm2: float
    seconds: float
    proven: str | None


class RecipePage(RecipeCard):
    chance: Chance | None
    finding: KeptFinding | None
    history: list[Version]
    confirmations: list[ConfirmationOut]
    worth_proving: bool
    spent: SpentOut | None
    offered: list[StandingKey]
    rules: list[str]
    stand_off: list[StandOffOut] = Field(description="How to set the head, piece by piece; of one step.")
    siblings: list[RecipeOut]


class Book(Shape):
    total: int
    recipes: list[RecipeCard]


class Wall(Shape):
    recipes: list[RecipeOut]


class KeepFailed(Shape):
    burn: Id
    patch: str = Field(max_length=12)
    step: int | None = Field(None, ge=1, le=8)
    note: str = ""


class FailedOut(Shape):
    """Settings that were burned and failed; `came_out` in words, null where nobody says so any more."""

    id: int
    head_id: int
    head: str
    material_id: int
    material: str
    process: ProcessKey
    process_name: str
    burn_id: int
    patch: str
    step: int
    settings: dict[str, float]
    note: str
    taken_back_at: str | None
    by_member: int
    by_name: str
    at: str
    trial_id: int
    trial_number: int
    came_out: str | None


class FailedQuery(Shape):
    material: Id | None = None
    head: Id | None = None
    process: ProcessKey | None = None


class FailedSettings(Shape):
    failed: list[FailedOut]


class StartOut(Shape):
    """Where to begin; `trial`, `burn` and `patch` where it is from a plate that waits to be decided."""

    speed_mm_s: list[float]
    power_pct: list[float]
    centre: dict[str, float] | None
    reason: str
    trial: int | None
    burn: int | None
    patch: str | None
    on_a_board: bool = Field(description="Whether a starter board holds this and other work of the sheet.")
    ladder_first: str = Field(description="Why one would begin with a short ladder; empty where an array is as good.")


class NearOut(Shape):
    """A known recipe that the starting point rests on: why it counts, and its share; 0 where it is doubtful."""

    recipe: RecipeCard
    reasons: list[str]
    weight: float


class MapCell(Shape):
    """`outcome` and `settings` are those of the best recipe."""

    head_id: int
    state: Literal["known", "gap", "not_meant", "does_not_work", "never"]
    reason: str | None = None
    recipe: int | None = None
    standing: StandingKey | None = None
    purpose: str | None = None
    known: int | None = None
    settings: dict[str, float] | None = None
    outcome: int | None = None


class MapRow(Shape):
    material_id: int
    title: str
    cells: list[MapCell]


class MapHead(Shape):
    id: int
    title: str


class BookMap(Shape):
    process: ProcessKey
    heads: list[MapHead]
    rows: list[MapRow]
    gaps: int
    known: int


class Answer(Shape):
    meant: bool
    never: list[str]
    does_not_work: str | None
    recipes: list[RecipeCard]
    unproven: list[RecipeCard]
    lay_otherwise: list[RecipeCard] = Field(description="Found on pieces that lay otherwise: no answer here.")
    chances: dict[int, Chance]
    failed: list[FailedOut]
    near: list[NearOut]
    related: list[RecipeCard]
    start: StartOut
    plates: list[TrialCard]
