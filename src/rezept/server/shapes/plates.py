"""Plates as they go over the wire."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from rezept.core.plan.parts import ZeroAt
from rezept.core.plan.steps import Part
from rezept.core.process import ProcessKey
from rezept.server.shapes.common import Shape
from rezept.server.shapes.figures import BroughtOut


class WarningOut(Shape):
    kind: str
    level: Literal["note", "warning", "refusal"]
    sentence: str
    path: str
    value: float | None
    limit: float | None


class PatchStep(Shape):
    """A patch in one of several steps: what it is set to, its dose and time of one round."""

    process: ProcessKey
    settings: dict[str, float]
    dose_j_mm: float | None = None
    dose_j_mm2: float | None = None
    seconds: float
    corner_rise: float
    corner_slowing_mm: float
    set_by_hand: list[str] = []
    figure: str | None = None
    mixed: bool = False


class PlatePatch(Shape):
    """Where there are several `steps`, what stands beside them is that of the one the plate is judged by."""

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
    corner_rise: float
    corner_slowing_mm: float
    set_by_hand: list[str]
    figure: str = "patch"
    mixed: bool = False
    steps: list[PatchStep] | None = Field(None, description="Round after round, where there are several.")
    warnings: list[WarningOut]


class FigureOut(Shape):
    """A figure as it is drawn: SVG path data in mm, y up, from the lower left of an element's box.

    `face` is filled to show an element; a word on it stands about `word_x_mm`, no wider than `word_room_mm`: 0 where
    there is no room for one.
    """

    id: str
    face: str
    holes: str
    lines: str = Field("", description="What does not close.")
    word_x_mm: float
    word_room_mm: float
    sharpest_corners: list[list[float]]


class MarkPath(Shape):
    kind: Literal["corner", "distinct", "qr"]
    path: str


class Drawing(Shape):
    """What is drawn of a plate: SVG path data in mm, y up; marks and hole from the plate's lower left. `axes`: the
    planned values of each axis, in their order."""

    axes: list[list[float]]
    figures: list[FigureOut]
    marks: list[MarkPath]
    hang_hole: str | None


class Mark(Shape):
    """A mark on the plate by its centre; a code counts its bare border."""

    kind: Literal["corner", "distinct", "qr"]
    x_mm: float
    y_mm: float
    size_mm: float


class Hole(Shape):
    """The hole to hang a plate by: its centre and diameter."""

    x_mm: float
    y_mm: float
    size_mm: float


class Cooling(Shape):
    """What the burn order is worth: positions between neighbours, and the least wait between them."""

    least_apart: int | None
    best_apart: int | None
    shortest_wait_s: float | None


class PlateSize(Shape):
    width_mm: float
    height_mm: float


class Planned(BaseModel):
    """A part of a planned trial as screens use it; the whole of it is the format `rezept-trial`."""

    model_config = ConfigDict(extra="allow", populate_by_name=True)


class PlannedMachine(Planned):
    name: str
    motion: Literal["gantry", "galvo"]


class PlannedMaterial(Planned):
    name: str
    hazards: list[str]


class PlannedAxis(Planned):
    """An axis with its ends and their number of steps, or with its values."""

    parameter: str
    along: Literal["x", "y", "block_x", "block_y"]
    step: str | None = Field(None, description="Name of the step it varies, where there are several.")
    start: float | None = Field(None, alias="from")
    end: float | None = Field(None, alias="to")
    count: int | None = None
    values: list[float] | None = None
    wrap: int | None = None


class PlannedSet(Planned):
    line_spacing_mm: float | None = None
    hatch_angle_deg: float | None = None


class PlannedStep(Planned):
    """One of several steps of a trial, completed."""

    name: str
    process: ProcessKey
    part: Part
    hold: dict[str, float]
    hatch: list[PlannedSet] = []
    one_way: bool = False
    inset_mm: float = 0.0


class PlannedPatch(Planned):
    shape: Literal["rectangle", "disc", "coupon", "lettering", "proof", "slots", "figure"]
    width_mm: float
    height_mm: float
    gap_mm: float


class PlannedPiece(Planned):
    shape: Literal["rectangle", "disc", "outline"]
    width_mm: float
    height_mm: float
    margin_mm: float
    outline: list[list[float]] = []
    holes: list[list[float]] = []


class PlannedPlace(Planned):
    at: Literal["corner", "centre", "clear"]
    x_mm: float
    y_mm: float
    turn_deg: float


class PlannedZero(Planned):
    at: ZeroAt
    x_mm: float
    y_mm: float


class PlannedList(Planned):
    """Settings of patches one by one, each with what is its own; so many lie in a line."""

    settings: list[dict[str, float]]
    wrap: int
    burned: int | None = None


class PlannedAdded(PlannedList):
    """Patches that are burned one by one beside an array."""

    side: Literal["right", "above"]


class TrialOut(Planned):
    """The trial of a plate, completed; process and held settings, or its steps."""

    process: ProcessKey | None = None
    machine: PlannedMachine
    material: PlannedMaterial
    hold: dict[str, float] | None = None
    axes: list[PlannedAxis]
    steps: list[PlannedStep] = []
    rounds: int = 1
    listed: PlannedList | None = None
    added: PlannedAdded | None = None
    repeats: int = 1
    patch: PlannedPatch
    piece: PlannedPiece | None
    place: PlannedPlace
    zero: PlannedZero | None = None
    burned_ground: list[list[list[float]]] = []


class TypedValueOut(Shape):
    """A value as the machine's control shows it."""

    key: str
    name: str
    text: str
    unit: str
    changed: bool


class TypedRowOut(Shape):
    number: int
    step: str | None = Field(None, description="Which of several steps it is of.")
    patches: list[str]
    values: list[TypedValueOut]


class TypingOut(Shape):
    """What is typed into the machine's control, and about how long that takes."""

    seconds: float
    rows: list[TypedRowOut]


class PlateOut(Shape):
    """A plate of format `rezept-plate`, version 1."""

    format: Literal["rezept-plate"]
    version: Literal[1]
    trial: TrialOut
    plate: PlateSize
    hang_hole: Hole | None = None
    marks: list[Mark]
    brought: BroughtOut | None = Field(None, description="What was understood of a figure somebody brought.")
    judged: int = Field(description="Which of its steps the patches are shown by, from 0.")
    drawing: Drawing
    typing: TypingOut | None = None
    patches: list[PlatePatch]
    order: list[str]
    cooling: Cooling
    seconds: float
    label_seconds: float
    cut_seconds: float = 0.0
    travel_seconds: float
    warnings: list[WarningOut]


class TextOut(Shape):
    """A line of lettering as it will be burned: SVG path data at capital height 1, y up, to be placed and scaled."""

    kind: Literal["axis", "block", "column", "id", "row", "title"]
    text: str
    x_mm: float
    y_mm: float
    height_mm: float
    path: str


class FileOut(Shape):
    """A file that can be had; `part` counts where it comes in several."""

    kind: str
    part: int
    name: str
    suffix: str
    refused: str | None


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
    """`most` is the greatest degree of the outcome."""

    process: ProcessKey
    most: int
    patches: list[ThumbnailPatch]
