"""What a plate means: candidates, the map, the next array."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from rezept.core.findings.candidates import Aim, PredictedKey
from rezept.core.findings.choices import LEAST_PIECE, MOST_PIECE
from rezept.core.findings.proof import ResultKey
from rezept.core.recipe import StandingKey
from rezept.server.shapes.common import Shape
from rezept.server.shapes.plates import PlannedAxis


class Wish(Shape):
    """What somebody keeps to, the length (area of what is filled) seconds are said for, and what a mark shall be."""

    power_at_most_pct: float | None = Field(None, gt=0, le=100)
    bounds: str | None = Field(None, max_length=200, description="Of what is read, as `char=1,kerf_mm=0.2`.")
    piece_mm: float | None = Field(None, ge=LEAST_PIECE, le=MOST_PIECE)
    lightness: float | None = Field(None, ge=0, le=100)
    depth_mm: float | None = Field(None, gt=0, le=200)
    depth_off_mm: float | None = Field(None, gt=0, le=200)
    colour: str | None = Field(None, max_length=7, description="As a screen shows it: #aabbcc.")


class FindingQuery(Wish):
    """What somebody keeps to, and the slice to show where more settings vary than a plate's maps do."""

    slice: str | None = Field(None, max_length=200)
    step: int | None = Field(None, ge=1, le=8, description="Which of several steps it is about.")


class KeepCandidate(Shape):
    aim: Aim
    wish: Wish
    purpose: str = Field("", max_length=80)
    note: str = Field("", max_length=8000)


class KeptCandidate(Shape):
    id: int
    standing: StandingKey = Field(description="Tried where a real shape has held with it already.")


class PredictedOut(Shape):
    """The share of fresh sheets that drop out or lose their layer and no more, or the lightness of one fresh patch;
    80 % lie between low and high."""

    p_drops_out: float | None = None
    p_layer_off: float | None = None
    lightness: float | None = None
    low: float
    high: float


class MarginOut(Shape):
    power_down_pct: float | None
    speed_up_pct: float | None


class OnShape(Shape):
    trial_id: int
    number: int
    result: ResultKey
    words: str


class CandidateOut(Shape):
    """A setting for an aim; `place_mm` where it lies on the plate's map."""

    aim: Aim
    settings: dict[str, float]
    predicted: PredictedOut
    margin: MarginOut
    seconds: float
    certain: bool
    why: str
    place_mm: list[float] | None
    depth: list[str] = Field(description="How deep it gets pass by pass, in sentences.")
    shapes: list[OnShape] = Field(description="What came of real shapes with these very settings, the latest last.")


class DepthOut(Shape):
    """How deep an engraving gets pass by pass, said of the patch that got deepest; `read`: by so many depths."""

    patch: str
    words: list[str]
    read: int


class NextOut(Shape):
    """The array to burn next, or coupons one by one; neither: none is worth its wood. `box_mm`: its corners on the
    plate's map."""

    axes: list[PlannedAxis] | None
    listed: list[dict[str, float]] | None
    on: Literal["same lot", "another lot"]
    why: str
    box_mm: list[float] | None


class LookAgainOut(Shape):
    patch: str
    burn: int
    plate: str
    here: bool
    why: str


class EdgeOut(Shape):
    """One edge of the map: a setting, and where on the plate it has which value."""

    parameter: str
    mm: list[float]
    setting: list[float]


class SliceOut(Shape):
    """A setting other plates vary and this one's maps do not: its values, and which of them they show."""

    parameter: str
    values: list[float]
    at: float


class TurnOut(Shape):
    """The share of fresh sheets that reach a step, by the word of it."""

    name: str
    expected: list[list[float]]


class MapOut(Shape):
    """What is expected over a plate or a block of it, row by row from its lower left; `held`: the same all over it."""

    key: PredictedKey
    held: dict[str, float]
    x: EdgeOut
    y: EdgeOut
    expected: list[list[float]]
    low: list[list[float]]
    high: list[list[float]]
    dose: list[list[float]]
    seconds: list[list[float]]
    turns: list[TurnOut] = Field(description="Steps beside the wanted one, of what comes out in steps.")
    same_dose_mm: list[list[float]] = Field(description="Along it settings have the dose of the fastest.")


class BoundOut(Shape):
    """A scale a choice can be bounded by, and how it is asked for; a flag is kept to as 0."""

    key: str
    label: str
    hint: str
    is_flag: bool


class FindingOut(Shape):
    """What a plate means: the plates it rests on, itself first; candidates by aim; what is missing or odd."""

    plates: list[str]
    candidates: list[CandidateOut]
    depth: DepthOut | None
    next: NextOut | None
    can_be_wanted: list[Aim] = Field(description="What a mark can be chosen to be, by what was read.")
    can_be_bounded: list[BoundOut]
    questions: list[str]
    look_again: list[LookAgainOut]
    trade: str | None
    holds_from: float | None = Field(description="The share of fresh sheets from which a cut is said to hold.")
    slices: list[SliceOut]
    maps: list[MapOut]
    unit: float = Field(description="The length in mm (area in mm2) seconds are said for.")
