"""What goes over the wire. Requests are validated by these; responses are documented by them, and the tests
hold every response against its shape."""

from __future__ import annotations

from typing import Any, Literal

from flask_openapi3 import RawModel
from pydantic import BaseModel, ConfigDict, Field

Json = dict[str, Any]
ProcessKey = Literal["cut", "line", "area", "deep", "surface", "photo"]
Face = Literal["front", "back"]
Stage = Literal["plan", "burn", "read", "decide", "kept"]
Standing = Literal["estimate", "heard", "tried", "proven", "doubtful", "retired"]
Role = Literal["guest", "member", "technician", "keeper"]


class Shape(BaseModel):
    model_config = ConfigDict(extra="forbid")


# --- requests ---------------------------------------------------------------------------------------------


class IdPath(Shape):
    id: int = Field(ge=1, le=2**53)


class PatchPath(IdPath):
    patch: str = Field(max_length=12)


class FacePath(IdPath):
    face: Face


class FilePath(IdPath):
    revision: int = Field(ge=1, le=2**31)
    kind: str = Field(max_length=20)


class PhotoPath(Shape):
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


class AskQuery(Shape):
    process: ProcessKey
    material: int
    head: int


class TrialsQuery(Shape):
    head: int | None = None
    material: int | None = None
    bench: bool = False


class BookQuery(Shape):
    text: str = Field("", max_length=200)
    head: int | None = None
    material: int | None = None
    process: ProcessKey | None = None


class PickMember(Shape):
    member: int


class NewTrial(Shape):
    process: ProcessKey
    material: int
    head: int


class TypedDesign(Shape):
    """A design as typed: texts with units may stand wherever a number belongs."""

    design: Json
    units: dict[str, str] = {}


class ChangeDraft(TypedDesign):
    edit: int


class Edit(Shape):
    edit: int


class Burned(Edit):
    lot: str = ""
    measured_mm: float | str | None = None
    focus: str = ""
    air: str = ""
    note: str = ""


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


class PhotoBytes(RawModel):
    mimetypes = ["image/jpeg", "image/png"]


# --- responses --------------------------------------------------------------------------------------------


class ErrorAt(Shape):
    path: str
    detail: str


class Problem(BaseModel):
    """RFC 9457. `current` and `yours` come with a stale edit."""

    type: str
    title: str
    status: int
    detail: str
    errors: list[ErrorAt]
    current: Json | None = None
    yours: Json | None = None


class MemberOut(Shape):
    id: int
    name: str
    role: Role


class Me(MemberOut):
    may_prove: bool
    may_write: bool


class ShopOut(Shape):
    name: str
    tag: str
    demo: bool


class MachineFacts(BaseModel):
    name: str
    source: str
    motion: str
    rated_power_w: float
    wavelength_nm: float
    field_width_mm: float
    field_height_mm: float
    max_speed_mm_s: float
    firing_floor_pct: float
    max_power_pct: float
    frequency_khz: list[float] | None
    air: str


class HeadFacts(BaseModel):
    name: str
    spot_mm: float | None
    focal_mm: float | None


class HeadOut(Shape):
    id: int
    name: str
    title: str
    machine_id: int
    machine: str
    heads: int
    facts: HeadFacts
    machine_facts: MachineFacts


class MaterialOut(Shape):
    id: int
    name: str
    title: str
    family: str
    thickness_mm: float | None
    mark: Literal["darker", "lighter"]
    hazards: list[str]
    ground_lab: list[float] | None
    processes: list[ProcessKey]


class LotOut(Shape):
    id: int
    material_id: int
    name: str
    measured_mm: float | None


class ParameterOut(Shape):
    key: str
    name: str
    unit: str
    quantity: str
    scale: str
    step: float
    default: float | None
    processes: list[ProcessKey]
    sources: list[str]
    motions: list[str]


class ProcessOut(Shape):
    key: ProcessKey
    name: str
    verb: str
    toolpath: Literal["outline", "hatch"]
    dose_key: Literal["dose_j_mm", "dose_j_mm2"]
    dose_unit: str
    outcome: Literal["through", "darkness"]


class UnitOut(Shape):
    symbol: str
    factor: float
    inverse: bool


class TagOut(Shape):
    key: str
    processes: list[ProcessKey]


class Words(Shape):
    through: list[str]
    darkness: list[str]
    evenness: list[str]
    degrees: list[TagOut]
    tags: list[TagOut]


class Inventory(Shape):
    """Everything the interface needs to begin: the shop, and the tables of the core."""

    shop: ShopOut | None
    members: list[MemberOut]
    heads: list[HeadOut]
    materials: list[MaterialOut]
    lots: list[LotOut]
    parameters: list[ParameterOut]
    processes: list[ProcessOut]
    units: dict[str, list[UnitOut]]
    words: Words


class WarningOut(Shape):
    kind: str
    level: Literal["note", "warning", "refusal"]
    sentence: str
    path: str
    value: float | None
    limit: float | None


class AxisOut(BaseModel):
    """An axis of a design; `from`, `to`, `count`, `spacing`, or `values`. Numbers may be typed texts."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)
    parameter: str
    along: Literal["x", "y"]
    start: float | str | None = Field(None, alias="from")
    end: float | str | None = Field(None, alias="to")
    count: int | str | None = None
    spacing: Literal["linear", "geometric"] | None = None
    values: list[float | str] | str | None = None


class PatchShapeOut(Shape):
    shape: str
    width_mm: float | str
    height_mm: float | str
    gap_mm: float | str


class LabelsOut(Shape):
    on: bool
    height_mm: float | str
    qr: bool = False
    marks: bool = False
    settings: dict[str, float | str]


class PlaceOut(Shape):
    at: Literal["corner", "centre"]
    x_mm: float | str
    y_mm: float | str
    turn_deg: float


class PieceOut(Shape):
    shape: Literal["rectangle", "disc"]
    width_mm: float | str
    height_mm: float | str
    margin_mm: float | str


class Design(Shape):
    """The part of a trial that its author edits."""

    title: str = ""
    hold: dict[str, float | str]
    axes: list[AxisOut]
    patch: PatchShapeOut
    labels: LabelsOut
    order: Literal["rows", "weakest_first"]
    place: PlaceOut | None = None
    piece: PieceOut | None = None
    off: list[str]
    starting_dose_j_mm: float | None = None
    starting_dose_j_mm2: float | None = None


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
    warnings: list[WarningOut]


class PlateSize(Shape):
    width_mm: float
    height_mm: float


class PlateOut(Shape):
    """A plate of format `rezept-plate`, version 1."""

    format: Literal["rezept-plate"]
    version: Literal[1]
    trial: Json
    plate: PlateSize
    marks: list[Json]
    patches: list[PlatePatch]
    order: list[str]
    seconds: float
    label_seconds: float
    travel_seconds: float
    warnings: list[WarningOut]


class TextOut(Shape):
    """A line of lettering as it will be burned: SVG path data at capital height 1, y up, to be placed and scaled."""

    kind: Literal["axis", "column", "row", "title"]
    text: str
    x_mm: float
    y_mm: float
    height_mm: float
    path: str


class FileOut(Shape):
    kind: str
    name: str
    suffix: str
    refused: str | None


class PreviewOut(Shape):
    """A plate as it would be, with its lettering and what could be written of it."""

    plate: PlateOut
    texts: list[TextOut]
    files: list[FileOut]


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


class TrialRow(Shape):
    id: int
    number: int
    process: ProcessKey
    process_name: str
    head_id: int
    head: str
    material_id: int
    material: str
    reason: str
    edit: int
    at: str
    author: str
    changed_at: str
    changed_by: str
    stage: Stage
    patches: int
    scored: int


class TrialCard(TrialRow):
    kept: int
    burned_at: str | None
    picture: Thumbnail | None


class Trials(Shape):
    trials: list[TrialCard]


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


class TrialPage(TrialRow):
    revision: int
    frozen: bool
    code: str
    design: Design
    plate: PlateOut | None
    texts: list[TextOut]
    problem: ErrorAt | None
    burned: PlateOut | None
    burned_texts: list[TextOut]
    burns: list[BurnOut]
    photos: list[FacePhoto]
    files: list[FileOut]
    last_conditions: Conditions | None
    face: Face
    readings: list[ReadingOut]
    not_burned: list[str]
    recipes: list[RecipeOut]


class Created(Shape):
    id: int


class Exported(Shape):
    revision: int
    edit: int


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
