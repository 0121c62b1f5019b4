"""The shop, its equipment, and the tables the interface works with."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from rezept.actions.members import RoleKey
from rezept.core.process import Face, ProcessKey
from rezept.core.recipe import FailedBecause, KeptAs, StandingKey, WrittenAs
from rezept.core.stand_off import HeightBy, TopKey
from rezept.server.shapes.common import Id, Json, Named, Shape
from rezept.server.shapes.people import MemberOut


class ShopOut(Shape):
    name: str
    tag: str
    demo: bool
    address: str | None


class ShopAddress(Shape):
    """Where the shop is reached; empty: wherever a card is printed from."""

    address: str = Field(max_length=200)


class PulseWidthOut(Shape):
    ns: float
    frequency_khz: list[float]
    full_power_from_khz: float


class CurveOut(Shape):
    """A scale of a control: pairs of what it shows and what that is inside."""

    unit: str
    pairs: list[list[float]]
    step: float | None = None


class AirLevelOut(Shape):
    """A level of a machine's air: what people call it, and what a gauge showed."""

    name: str
    kpa: float | None = None


class MachineFacts(Shape):
    name: str
    source: str
    motion: Literal["gantry", "galvo"]
    rated_power_w: float
    wavelength_nm: float
    field_width_mm: float
    field_height_mm: float
    max_speed_mm_s: float
    travel_speed_mm_s: float
    acceleration_mm_s2: float
    corner_jump_mm_s: float
    jump_delay_us: float
    settle_us: float
    polygon_delay_us: float
    firing_floor_pct: float
    max_power_pct: float
    trace_power_pct: float | None
    frequency_khz: list[float] | None
    pulse_widths: list[PulseWidthOut] | None
    air: str
    s_at_full_power: float
    power_mode: Literal["constant", "follows_speed"]
    focus_by_z: bool
    hears_settings: bool
    beam_drops_at_rest: bool
    dwells_with_beam: bool
    distinct_settings: int | None
    takes: list[str] | None
    shows: dict[str, float]
    units: dict[str, str]
    by_hand: list[str] = []
    curves: dict[str, CurveOut] = {}
    control_order: list[str] = []
    stops_in_program: bool = False
    pilot_pointer: bool = False
    air_levels: list[AirLevelOut] = Field([], description="Its levels of air above off, by name.")


class HeadFacts(Shape):
    name: str
    spot_mm: float | None
    m2: float | None
    focal_mm: float | None
    height_by: HeightBy | None = Field(None, description="How its height is set.")
    datum_mm: float | None = Field(None, description="At which figure it is in focus.")
    field_width_mm: float | None = None
    field_height_mm: float | None = None
    max_speed_mm_s: float | None = None
    travel_speed_mm_s: float | None = None
    acceleration_mm_s2: float | None = None


class Kept(Shape):
    """What every row of the shop has."""

    id: int
    name: str
    title: str
    edit: int
    retired: bool


class MachineOut(Kept):
    facts: MachineFacts
    assumed: list[str] = Field(description="Keys of figures nobody has looked up yet.")
    note: str
    link: str


class HeadOut(Kept):
    machine_id: int
    machine: str
    heads: int
    link: str
    facts: HeadFacts
    assumed: list[str]
    machine_facts: MachineFacts
    machine_assumed: list[str]


class MaterialOut(Kept):
    family: str
    thickness_mm: float | None
    mark: Literal["darker", "lighter"]
    hazards: list[str]
    ground_lab: list[float] | None
    ground_colour: str
    processes: list[ProcessKey]
    density_kg_m3: float | None
    hardness: int | None
    facts: dict[str, str]
    supplier_code: str
    note: str


class LotOut(Kept):
    material_id: int
    measured_mm: float | None
    supplier_code: str
    note: str


class StandOffOut(Shape):
    """How the height of a head is to be set for a piece, and the figures of its drawing; `cost`: what an uneven top
    costs in focus."""

    piece_id: int | None
    name: str
    words: str
    cost: str
    height_by: HeightBy | None
    set_mm: float | None
    rise_mm: float | None
    offset_mm: float


class PieceOut(Kept):
    material_id: int
    lot_id: int | None
    shape: Literal["rectangle", "disc", "outline"]
    width_mm: float
    height_mm: float
    margin_mm: float
    outline: list[list[float]] = []
    holes: list[list[float]] = []
    count: int = Field(1, description="So many alike, each burned once.")
    left: int | None = Field(None, description="How many of them are bare.")
    left_back: int | None = Field(None, description="How many of them are bare on the back.")
    rise_mm: float | None = Field(None, description="How far its top lies above the bed.")
    top: TopKey = "level"
    top_varies_mm: float | None = Field(None, description="By how much a top varies that is not level.")
    note: str


class NewEquipment(Shape):
    """A form of the shop: texts with units may stand wherever a number belongs."""

    facts: Json
    units: dict[str, str] = {}


class NewMachine(NewEquipment):
    heads: list[Json] = Field(min_length=1, max_length=20)


class ChangeEquipment(NewEquipment):
    edit: Id
    retired: bool = False


class BackupState(Shape):
    """Null throughout where no folder for backups is set; `latest` as YYYYmmddTHHMMSSZ."""

    warning: str

    folder: str | None
    every_hours: float | None
    keep: int | None
    latest: str | None


class FactOut(Shape):
    """A figure of a machine or head, for its form."""

    key: str
    name: str
    unit: str
    quantity: str
    least: float
    most: float
    help: str
    needed: bool
    motion: Literal["", "gantry", "galvo"]
    of: Literal["machine", "head", "both"]
    matters: Literal["", "time", "power", "dose"] = Field(description="What follows from it where it is only assumed.")
    find_out: str


class SourceOut(Shape):
    key: str
    name: str
    wavelength_nm: float
    start: Json


class HazardOut(Shape):
    key: str
    consequence: str
    never: bool


class AirOut(Named):
    """How a machine's air is set, and how many levels it has, from off on."""

    levels: int


class SheetFactOut(Shape):
    """What may be said of a sheet, and what people usually say, by family; for all families by an empty key."""

    key: str
    name: str
    usual: dict[str, list[str]]
    colour: bool
    asked: bool = Field(description="It has a field of its own.")
    process: str = Field(description="It is asked only of what is meant for that; empty: of everything.")


class Forms(Shape):
    """What the shop's forms offer."""

    facts: list[FactOut]
    sources: list[SourceOut]
    airs: list[AirOut]
    lays: list[Named] = Field(description="How a piece can lie.")
    put_back: list[Named] = Field(description="Whether a piece lies where it lay when it is burned again.")
    treatments: list[Named] = Field(description="How a piece can be treated before it is judged.")
    below: list[str] = Field(description="What is usually below one.")
    by_hand: list[str] = Field(description="Keys of settings that may be turned by hand.")
    height_by: list[Named] = Field(description="How the height of a head is set.")
    tops: list[Named] = Field(description="How the top of a piece lies.")
    power_modes: list[Named]
    file_kinds: list[Named]
    families: list[str]
    sheet_facts: list[SheetFactOut]
    usually_meant_for: dict[str, list[ProcessKey]] = Field(description="By family, until somebody says otherwise.")
    hazards: list[HazardOut]
    hardness: list[str]


class ParameterOut(Shape):
    key: str
    name: str
    unit: str
    quantity: str
    scale: str
    step: float
    default: float | None
    needed: bool
    words: list[str]
    whole: bool
    processes: list[ProcessKey]
    sources: list[str]
    motions: list[str]


class ProcessOut(Shape):
    key: ProcessKey
    name: str
    verb: str
    fills: bool
    passes_through: bool
    faces: list[Face]
    deciding_face: Face
    dose_key: Literal["dose_j_mm", "dose_j_mm2"]
    dose_unit: str
    outcome: Literal["through", "layer", "darkness"]
    offered: bool
    put_back_doubt: str = Field(description="What it means for a patch that its piece was taken out and put back.")


class UnitOut(Shape):
    symbol: str
    factor: float
    inverse: bool


class CorrectionOut(Shape):
    """What can be turned while a plate burns: by which step, and how many of them either way."""

    what: Literal["power", "speed", "focus"]
    step: float
    unit: str
    most: int


class DesignKeyOut(Shape):
    """A key of a design, and how its value is put into words."""

    key: str
    name: str
    kind: Literal["text", "flag", "choice", "number", "settings", "by_patch", "list", "object", "axes", "rows", "steps"]
    unit: str


class ScaleOut(Shape):
    """What can be read of an element, and how a person enters it."""

    key: str
    name: str
    kind: Literal["degrees", "yes", "length", "position", "colour", "share", "count"]
    entry: Literal["digit", "shift_digit", "letter", "typed"]
    low: float
    high: float
    processes: list[ProcessKey]
    unit: str
    letter: str
    words: list[str]
    lighter_words: list[str]
    coloured_words: list[str]
    question: str
    lighter_question: str
    coloured_question: str
    said_by: list[Literal["person", "photo"]]
    works_from: float
    works_to: float | None
    wanted_from: int | None
    more_is_better: bool
    shapes: list[str] = Field(description="Of which patch shapes it is read; of all where there are none.")


class RoleOut(Shape):
    """What somebody of a role does here, and the roles whose work they may do."""

    key: RoleKey
    does: str
    reach: list[RoleKey]


class WrittenAsOut(Shape):
    """What a recipe can be that is only written down, and how one says it."""

    key: WrittenAs
    name: str


class FailedBecauseOut(Shape):
    """Why a recipe did not hold, as one says it in one tap, and the processes of which it is said."""

    key: FailedBecause
    name: str
    processes: list[ProcessKey]


class RemarkKindOut(Named):
    """What one key notes of a burn; without a letter it takes words."""

    letter: str


class Inventory(Shape):
    """Everything the interface needs to begin: the shop, and the tables of the core."""

    shop: ShopOut | None
    members: list[MemberOut]
    latest_change: int
    machines: list[MachineOut]
    heads: list[HeadOut]
    materials: list[MaterialOut]
    lots: list[LotOut]
    pieces: list[PieceOut]
    forms: Forms
    parameters: list[ParameterOut]
    processes: list[ProcessOut]
    settings_on: dict[int, dict[ProcessKey, list[str]]] = Field(
        description="By head and process: what there is to set, as keys of parameters."
    )
    units: dict[str, list[UnitOut]]
    scales: list[ScaleOut]
    roles: list[RoleOut]
    standings: list[StandingKey]
    kept_as: list[KeptAs]
    written_down_as: list[WrittenAsOut]
    failed_because: list[FailedBecauseOut]
    remarks: list[RemarkKindOut]
    design_keys: list[DesignKeyOut]
    corrections: list[CorrectionOut]
