"""Trials and their designs."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from rezept.core.begin.ladder import BegunAs
from rezept.core.findings.observations import State
from rezept.core.path.shapes import Letters
from rezept.core.plan.parts import ZeroAt
from rezept.core.plan.steps import Part, StepsOrder
from rezept.core.process import Face, ProcessKey
from rezept.core.treatment import TreatmentKey
from rezept.server.shapes.book import FailedOut, RecipeOut
from rezept.server.shapes.burns import BurnListed, BurnOut, Conditions, ReadingOut
from rezept.server.shapes.common import ErrorAt, Id, IdPath, Json, Shape
from rezept.server.shapes.equipment import StandOffOut
from rezept.server.shapes.figures import OwnFigureOut
from rezept.server.shapes.findings import PredictedOut
from rezept.server.shapes.live import CheckOut, LiveOut, RemarkOut, RunOut
from rezept.server.shapes.photos import PartPhotoOut, PhotoOut, ShownPhoto
from rezept.server.shapes.plates import FileOut, PlateOut, TextOut
from rezept.server.shapes.proofs import ProofOut, ProofPage
from rezept.server.shapes.trial_cards import TrialRow


class FileQuery(Shape):
    part: int = Field(1, ge=1, le=5000)


class FilePath(IdPath):
    revision: int = Field(ge=1, le=2**31)
    kind: str = Field(max_length=20)


class TrialsQuery(Shape):
    head: Id | None = None
    material: Id | None = None
    bench: bool = False
    text: str = Field("", max_length=200)
    shelf: Literal["plates", "drafts", "away"] | None = None
    skip: int = Field(0, ge=0, le=2**53)
    most: int = Field(60, ge=1, le=200)


class PageQuery(Shape):
    """Which burn the page is about; the latest where none is named."""

    burn: Id | None = None
    step: int | None = Field(None, ge=1, le=8, description="Which of several steps what is read is shown of.")


class Shelved(Shape):
    """What is not given stays."""

    name: str | None = Field(None, max_length=200)
    put_away: bool | None = None


class NewTrial(Shape):
    process: ProcessKey
    material: Id
    head: Id
    begun_as: BegunAs = Field(
        "array", description="An array, a short ladder of speeds, coupons burned one by one, or a starter board."
    )


class TypedCoupon(Shape):
    """The settings of one coupon as typed; what is held and not named stays as held."""

    edit: int
    settings: dict[str, float | str]
    units: dict[str, str] = {}


class CouponOut(Shape):
    """The trial's edit, the coupon's name, and what changed since the one before where that is more than one thing."""

    edit: int
    patch: str
    changed: list[str]


class NextCouponOut(Shape):
    """What to burn next and why; `settled`: one may stop."""

    after: str
    settings: dict[str, float]
    why: str
    settled: bool
    predicted: PredictedOut | None


class TypedDesign(Shape):
    """A design as typed: texts with units may stand wherever a number belongs."""

    design: Json
    units: dict[str, str] = {}


class ChangeDraft(TypedDesign):
    edit: int


class AxisOut(BaseModel):
    """An axis of a design; `from`, `to`, `count`, `spacing`, or `values`. Numbers may be typed texts."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)
    parameter: str
    along: Literal["x", "y", "block_x", "block_y"]
    start: float | str | None = Field(None, alias="from")
    end: float | str | None = Field(None, alias="to")
    count: int | str | None = None
    spacing: Literal["linear", "geometric"] | None = None
    round: bool | None = None
    values: list[float | str] | str | None = None
    wrap: int | str | None = None
    step: str | None = Field(None, description="Name of the step it varies, where there are several.")


class HatchSetOut(Shape):
    """A set of parallel lines; the first of a step says its own."""

    line_spacing_mm: float | str | None = None
    hatch_angle_deg: float | str | None = None


class DesignStep(Shape):
    """One of the ordered steps of a design."""

    name: str
    process: ProcessKey
    part: Part | None = None
    hold: dict[str, float | str]
    hatch: list[HatchSetOut] | None = None
    one_way: bool | None = None
    inset_mm: float | str | None = None
    text: str | None = None
    letters: Letters | None = None
    overrides: dict[str, dict[str, float | str]] | None = None
    dose_floor_j_mm: float | str | None = None
    dose_floor_j_mm2: float | str | None = None
    dose_ceiling_j_mm: float | str | None = None
    dose_ceiling_j_mm2: float | str | None = None
    starting_dose_j_mm: float | None = None
    starting_dose_j_mm2: float | None = None


class PatchShapeOut(Shape):
    """Of a figure somebody brought one side says the other."""

    shape: str
    width_mm: float | str
    height_mm: float | str | None = None
    gap_mm: float | str
    block_gap_mm: float | str | None = None
    text: str | None = None
    letters: Letters | None = None
    slots: SlotsOut | None = None
    figure: OwnFigureOut | None = None


class LabelsOut(Shape):
    on: bool
    height_mm: float | str
    qr: bool = False
    marks: bool = False
    heading: bool | None = None
    numbers: bool | None = None
    ids: bool | None = None
    text: str | None = None
    estimated: bool | None = None
    settings: dict[str, float | str]


class PlaceOut(Shape):
    at: Literal["corner", "centre", "clear"]
    x_mm: float | str
    y_mm: float | str
    turn_deg: float | str


class ZeroOut(Shape):
    """Which point lies at (x, y) of the program: the piece's own, a corner of the plate or its middle."""

    at: ZeroAt = "piece"
    x_mm: float | str = 0.0
    y_mm: float | str = 0.0


class DesignPiece(Shape):
    shape: Literal["rectangle", "disc", "outline"]
    width_mm: float | str
    height_mm: float | str
    margin_mm: float | str
    outline: list[list[float]] | None = None
    holes: list[list[float]] | None = None


class ListOut(Shape):
    """Settings of patches one by one, each with what is its own; so many lie in a line."""

    settings: list[dict[str, float | str]]
    wrap: int | str | None = None
    burned: int | None = Field(None, description="So many of them were burned before; the plate grows.")


class AddedOut(ListOut):
    """Patches that are burned one by one beside an array, `wrap` of them in a line."""

    side: Literal["right", "above"]


class Design(Shape):
    """The part of a trial that its author edits."""

    title: str = ""
    hold: dict[str, float | str]
    axes: list[AxisOut]
    steps: list[DesignStep] | None = Field(None, description="In place of `hold`, which is then empty.")
    rounds: int | str | None = None
    steps_order: StepsOrder | None = None
    listed: ListOut | None = None
    added: AddedOut | None = None
    patch: PatchShapeOut
    labels: LabelsOut
    order: Literal["rows", "weakest_first", "scattered"]
    fit: Literal["as_given", "more_patches", "smaller_patches"] | None = None
    place: PlaceOut | None = None
    zero: ZeroOut | None = None
    piece: DesignPiece | None = None
    repeats: int | str | None = None
    piece_id: int | None = None
    piece_face: Face | None = None
    accepted_hazards: list[str] | None = None
    off: list[str]
    overrides: dict[str, dict[str, float | str]] | None = None
    cut_out: bool | None = None
    hang_hole_mm: float | str | None = None
    cut_settings: dict[str, float | str] | None = None
    dose_floor_j_mm: float | str | None = None
    dose_floor_j_mm2: float | str | None = None
    dose_ceiling_j_mm: float | str | None = None
    dose_ceiling_j_mm2: float | str | None = None
    starting_dose_j_mm: float | None = None
    starting_dose_j_mm2: float | None = None


class Against(Shape):
    """The burned trial before this one on the same material, and what else is different since."""

    trial: int
    number: int
    changes: list[str]


_BURNABLE = Field(description="Whether any file that burns it can be written.")


class PreviewOut(Shape):
    """A plate as it would be, with its lettering."""

    plate: PlateOut
    texts: list[TextOut]
    burnable: bool = _BURNABLE
    against: Against | None


class ProvenCut(Shape):
    """The proven cut of this sheet on this head, for the plate's own cuts."""

    recipe: int
    settings: dict[str, float]


class ObservedOut(Shape):
    """What the burn a page is about says of a patch: at which dose it was burned, and whether it counts."""

    patch: str
    state: State
    dose: float


class OtherwiseRead(Shape):
    """What was read of a piece that was treated so."""

    treatment: TreatmentKey
    readings: list[ReadingOut]


class PageStep(Shape):
    """One of several steps of a plate, from 1: under which of them its outcome is read, and whether it is shown."""

    step: int
    name: str
    process: ProcessKey
    read_as: int
    shown: bool


class KerfOf(Shape):
    recipe_id: int
    edit: int
    kerf_mm: float | None


class SlotsOut(Shape):
    """A tab, and slots from narrow to wide, as they are drawn."""

    tab_mm: float | str
    widths_mm: list[float] | str | None = None


class TrialPage(TrialRow):
    revision: int
    frozen: bool
    code: str
    design: Design
    plate: PlateOut | None
    texts: list[TextOut]
    problem: ErrorAt | None
    against: Against | None
    burned: PlateOut | None
    burned_texts: list[TextOut]
    observed: list[ObservedOut]
    otherwise_read: list[OtherwiseRead] = Field(description="What was read of the piece treated otherwise.")
    repeated: dict[str, str] = Field(description="By patch how many of those with its settings came out.")
    burn: BurnOut | None
    burns: list[BurnListed]
    photos: list[ShownPhoto]
    part_photos: list[PartPhotoOut]
    files: list[FileOut]
    burnable: bool = _BURNABLE
    last_conditions: Conditions | None
    runs: list[RunOut]
    remarks: list[RemarkOut]
    checklist: list[CheckOut]
    stand_off: StandOffOut | None
    link: bool
    zero: str | None = Field(description="Where the program's zero lies, in words.")
    proven_cut: ProvenCut | None
    live: LiveOut | None
    face: Face
    steps: list[PageStep] = Field(description="Where there are several.")
    kerf_of: KerfOf | None = Field(description="The recipe whose kerf it finds.")
    known_kerf_mm: float | None = Field(description="How wide a cut is here, by the best recipe that says it.")
    proof: ProofPage | None = Field(description="Of a trial that proves something on a real shape.")
    proofs: list[ProofOut] = Field(description="What was proven of this burn.")
    readings: list[ReadingOut]
    not_burned: list[str]
    recipes: list[RecipeOut]
    failed: list[FailedOut]


class FirstStepQuery(Shape):
    process: ProcessKey


class FirstStepOut(Shape):
    """What one more step begins with, and why."""

    step: DesignStep
    reason: str


class FirstAxisQuery(Shape):
    parameter: str = Field(max_length=40)
    along: Literal["x", "y", "block_x", "block_y"] = "x"
    held: float | None = None
    pulse_width: float | None = None


class FirstAxisOut(BaseModel):
    """Where a setting begins to vary (an axis without its place), what the shop knows of it for this work, and what
    to hold it at where it does not vary."""

    model_config = ConfigDict(extra="forbid", populate_by_name=True)
    start: float | None = Field(None, alias="from")
    end: float | None = Field(None, alias="to")
    count: int | None = None
    spacing: Literal["linear", "geometric"] | None = None
    round: bool | None = None
    values: list[float] | None = None
    held: float


class Exported(Shape):
    revision: int
    edit: int


class TrialName(Shape):
    """What a trial is about, in a line."""

    id: int
    number: int
    process: ProcessKey
    process_name: str
    head: str
    material: str
    material_id: int


class BurnPage(Shape):
    """One burn with its plate as burned."""

    burn: BurnOut
    trial: TrialName
    plate: PlateOut
    photos: list[PhotoOut]
    readings: list[ReadingOut]
    not_burned: list[str]


class Comparable(Shape):
    burn: BurnOut
    trial: TrialName
    photos: list[PhotoOut]


class ComparableBurns(Shape):
    burns: list[Comparable]
