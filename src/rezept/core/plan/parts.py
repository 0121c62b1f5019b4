"""The parts of a trial beside its settings: patch, lettering, cut-out, piece and place."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.path.figure import Figure
from rezept.core.path.lettering import must_be_writable
from rezept.core.path.shapes import LETTERING, SHAPES, Letters, shaped
from rezept.core.plan.contained import crosses
from rezept.core.plan.fit_slots import FitSlots, read_fit_slots
from rezept.core.plan.holding import need_speed_and_power, read_line_settings
from rezept.core.plan.letters import read_letters
from rezept.core.plan.own_figure import OwnFigure, read_own_figure, sized
from rezept.core.process import CUT, LINE, Process
from rezept.core.stand_off import MOST_RISE_MM, TOPS, TopKey

OWN, SLOTS = "figure", "slots"
PATCH_SHAPES = (*SHAPES, SLOTS, OWN)
FITS = ("as_given", "more_patches", "smaller_patches")
LABEL_SETTINGS = ("speed_mm_s", "power_pct", "passes", "air_level", "air_kpa", "frequency_khz", "pulse_width_ns")
# Every setting a cut has; what fills an area means nothing to it.
CUT_SETTINGS = tuple(key for key, row in PARAMETERS.items() if CUT.key in row.processes)
USUAL_TEXT = "Ag5"
PIECE_SHAPES = ("rectangle", "disc", "outline")


@dataclass(frozen=True)
class PatchShape:
    """What one patch looks like; `text` is what a patch of lettering says and `letters` how they are drawn, `own` the
    figure somebody brought, `slots` those of a slot-and-tab."""

    shape: str
    width_mm: float
    height_mm: float
    gap_mm: float
    block_gap_mm: float
    text: str | None
    own: OwnFigure | None = None
    letters: Letters = "strokes"
    slots: FitSlots | None = None

    def document(self) -> dict[str, Any]:
        document = dict(vars(self))
        del document["own"], document["slots"]
        if self.slots is not None:
            document["slots"] = self.slots.document()
        if self.letters == "strokes":
            del document["letters"]
        return document if self.own is None else {**document, "figure": self.own.document()}

    @property
    def figure(self) -> Figure:
        if self.own is not None:
            return self.own.in_box(self.width_mm, self.height_mm)
        if self.slots is not None:
            return self.slots.figure
        return shaped(self.shape, self.width_mm, self.height_mm, self.text, self.letters)


@dataclass(frozen=True)
class Labels:
    """Lettering, code and marks on the plate, drawn as lines with their own settings.

    heading : what the plate is and what is held; numbers : the values beside rows, columns and blocks
    text : the author's own words, before what is held and never instead of it
    estimated : nobody has tried the settings here
    ids : each patch carries the plate's number and its own name, marked before it is cut out
    """

    on: bool
    height_mm: float
    qr: bool
    marks: bool
    settings: Mapping[str, float]
    heading: bool
    numbers: bool
    text: str = ""
    estimated: bool = False
    ids: bool = False

    @property
    def lettered(self) -> bool:
        return self.heading or self.numbers or bool(self.text)

    def document(self) -> dict[str, Any]:
        document = {**vars(self), "settings": dict(self.settings)}
        # What follows from `on`, or says nothing, is left out: a file says only what was asked for.
        for key in ("heading", "numbers"):
            if document[key] == self.on:
                del document[key]
        for key in ("text", "estimated", "ids"):
            if not document[key]:
                del document[key]
        return document


@dataclass(frozen=True)
class CutOut:
    """The plate cut out of its piece, last of all, and the hole to hang it by; both with their own settings."""

    on: bool
    hang_hole_mm: float
    settings: Mapping[str, float]

    @property
    def any(self) -> bool:
        return self.on or self.hang_hole_mm > 0


@dataclass(frozen=True)
class Piece:
    """The sheet or blank the plate is burned on; a disc is as wide as it is high.

    outline : corners of one of any other shape, within its width and height; none of a rectangle or a disc
    holes : x, y, diameter of each, mm from its lower left
    rise_mm : how far its top lies above the bed, None where nobody said; top : whether that is level, and by how much
        it varies where it is not
    """

    shape: str
    width_mm: float
    height_mm: float
    margin_mm: float
    outline: tuple[tuple[float, float], ...] = ()
    holes: tuple[tuple[float, float, float], ...] = ()
    rise_mm: float | None = None
    top: TopKey = "level"
    top_varies_mm: float | None = None

    def document(self) -> dict[str, Any]:
        """Its object in a document; it says nothing of outline, holes and top where there is nothing to say."""
        document = dict(vars(self)) | {"outline": [list(point) for point in self.outline]}
        document["holes"] = [list(hole) for hole in self.holes]
        usual: dict[str, Any] = {"outline": [], "holes": [], "rise_mm": None, "top": "level", "top_varies_mm": None}
        return {key: value for key, value in document.items() if key not in usual or value != usual[key]}


def turned_over(piece: Piece) -> Piece:
    """The piece as it lies with its back up: what was on its left is on its right."""
    width = piece.width_mm
    return replace(
        piece,
        # Corners run the same way round as before.
        outline=tuple((width - x, y) for x, y in reversed(piece.outline)),
        holes=tuple((width - x, y, across) for x, y, across in piece.holes),
    )


@dataclass(frozen=True)
class Place:
    """Where the plate lies on the piece: its lower left from the piece's, centre from centre, or wherever the ground
    is clear."""

    at: str
    x_mm: float
    y_mm: float
    turn_deg: float


ZeroAt = Literal["piece", "lower_left", "lower_right", "upper_left", "upper_right", "middle"]
# Points of the plate somebody may put the machine's work zero on, as shares of its width and height.
ZERO_ON_PLATE: dict[ZeroAt, tuple[float, float]] = {
    "lower_left": (0.0, 0.0),
    "lower_right": (1.0, 0.0),
    "upper_left": (0.0, 1.0),
    "upper_right": (1.0, 1.0),
    "middle": (0.5, 0.5),
}
ZERO_ON_PIECE: ZeroAt = "piece"


@dataclass(frozen=True)
class Zero:
    """Which point lies at (x, y) of the program: the piece's own (a gantry's lower left corner, a galvo's middle), a
    corner of the plate or its middle. At (0, 0) it is where somebody sets the machine's work zero."""

    at: ZeroAt = ZERO_ON_PIECE
    x_mm: float = 0.0
    y_mm: float = 0.0

    def document(self) -> dict[str, Any]:
        return dict(vars(self))


def read_patch(fields: Fields, processes: Sequence[Process]) -> PatchShape:
    """What a patch looks like; `processes` are those that draw or fill its own figure."""
    shape = fields.choice("shape", PATCH_SHAPES, "rectangle")
    own = read_own_figure(fields.inner("figure")) if shape == OWN else None
    slots = read_fit_slots(fields.inner("slots", {})) if shape == SLOTS else None
    if slots is None and fields.data.get("slots") is not None:
        raise InvalidInput("Only a patch of the shape slots has slots.", fields.at("slots"))
    fields.known.add("slots")
    least, most = 0.1, 1000.0
    if slots is not None:
        # Sizes are what it is about: they are those of its slots and tab.
        fields.known.update(("width_mm", "height_mm"))
        width, height = (round(side, 4) for side in slots.size_mm)
    elif own is None:
        width = fields.number("width_mm", 10.0, at_least=least, at_most=most)
        height = fields.number("height_mm", 10.0, at_least=least, at_most=most)
    else:
        width, height = sized(own, fields, least, most)
    if own is None and fields.data.get("figure") is not None:
        raise InvalidInput("Only a patch of the shape figure has one of its own.", fields.at("figure"))
    fields.known.add("figure")
    lettered = shape == LETTERING
    text = fields.text("text", USUAL_TEXT, longest=40, empty=False) if lettered else None
    letters = read_letters(fields, text, any(process.fills for process in processes))
    patch = PatchShape(
        shape=shape,
        width_mm=width,
        height_mm=height,
        gap_mm=fields.number("gap_mm", 3.0, at_least=0.0, at_most=1000.0),
        block_gap_mm=fields.number("block_gap_mm", 8.0, at_least=0.0, at_most=1000.0),
        text=text,
        own=own,
        letters=letters,
        slots=slots,
    )
    if shape == "disc" and patch.width_mm != patch.height_mm:
        raise InvalidInput("A disc is as high as it is wide.", fields.at("height_mm"), patch.height_mm, patch.width_mm)
    fields.known.add("text")
    if text is None and fields.data.get("text") is not None:
        raise InvalidInput("Only a patch of lettering has a text.", fields.at("text"), fields.data["text"])
    fields.finish()
    return patch


def read_labels(fields: Fields, machine: Machine, processes: Sequence[Process]) -> Labels:
    on = fields.flag("on", False)
    inner = fields.inner("settings", {})
    settings = read_line_settings(inner, machine, LINE.key, LABEL_SETTINGS, "Labels")
    qr, marks = fields.flag("qr", False), fields.flag("marks", False)

    def said(key: str, otherwise: bool) -> bool:
        # Not among the defaults that were used: it follows from what was said.
        return fields.flag(key) if key in fields.data else otherwise

    heading, numbers = said("heading", on), said("numbers", on)
    text = fields.text("text", longest=120).strip() if "text" in fields.data else ""
    must_be_writable(text, fields.at("text"))
    ids = said("ids", False)
    if ids and not any(process.passes_through for process in processes):
        raise InvalidInput("Only parts that are cut out carry their own name.", fields.at("ids"))
    lettered = heading or numbers or bool(text) or ids
    if lettered or qr or marks:
        settings = need_speed_and_power(inner, settings, "Labels are on" if lettered else "Code or marks are on")
    height = fields.number("height_mm", 2.0, at_least=0.3, at_most=100.0)
    labels = Labels(on, height, qr, marks, settings, heading, numbers, text, said("estimated", False), ids)
    fields.finish()
    return labels


def read_cut_out(fields: Fields, machine: Machine) -> CutOut:
    """`cut_out`, `hang_hole_mm` and `cut_settings` of a trial."""
    on = fields.flag("cut_out", False)
    hole = fields.number("hang_hole_mm", 0.0, at_least=0.0, at_most=100.0)
    inner = fields.inner("cut_settings", {})
    settings = read_line_settings(inner, machine, CUT.key, CUT_SETTINGS, "The plate's own cuts")
    if on or hole > 0:
        settings = need_speed_and_power(inner, settings, "The plate's own cuts are on")
    return CutOut(on, hole, settings)


# As many corners and holes as somebody would type.
MOST_CORNERS, MOST_HOLES = 200, 20


def _figures(fields: Fields, key: str, each: int, most: int) -> tuple[tuple[float, ...], ...]:
    """Rows of so many figures of a piece; none where nothing is said."""
    items = fields.items(key) if fields.data.get(key) else []
    fields.known.add(key)
    if len(items) > most:
        raise InvalidInput(f"So many are too many; {most} is the most.", fields.at(key), len(items), most)
    return tuple(
        Fields({"row": item}, f"{fields.at(key)}[{i}]").numbers("row", each) or () for i, item in enumerate(items)
    )


def _read_outline(fields: Fields) -> tuple[tuple[float, float], ...]:
    """The corners of a piece of any shape, moved so that its lower left is the lower left of the box around it."""
    corners = np.array(_figures(fields, "outline", 2, MOST_CORNERS), float).reshape(-1, 2)
    if len(corners) < 3:
        raise InvalidInput("An outline has three corners or more.", fields.at("outline"), len(corners), 3)
    if np.ptp(corners, axis=0).min() <= 0 or crosses(corners, corners):
        raise InvalidInput("This outline crosses itself, or has no area.", fields.at("outline"))
    return tuple((float(x), float(y)) for x, y in (corners - corners.min(axis=0)).round(6).tolist())


def _read_holes(fields: Fields) -> tuple[tuple[float, float, float], ...]:
    holes = _figures(fields, "holes", 3, MOST_HOLES)
    for i, (*_, diameter) in enumerate(holes):
        if diameter <= 0:
            raise InvalidInput("A hole has a diameter.", f"{fields.at('holes')}[{i}]", diameter, 0.0)
    return tuple((x, y, diameter) for x, y, diameter in holes)


def _read_top(fields: Fields) -> dict[str, Any]:
    """How far the top of a piece lies above the bed, whether it is level, and by how much it varies."""
    given = {key: fields.data.get(key) is not None for key in ("rise_mm", "top", "top_varies_mm")}
    fields.known.update(given)
    top: TopKey = fields.choice("top", tuple(TOPS)) if given["top"] else "level"
    if top == "level" and given["top_varies_mm"]:
        raise InvalidInput("What is level does not vary.", fields.at("top_varies_mm"), fields.data["top_varies_mm"])
    return {
        "rise_mm": fields.number("rise_mm", at_least=0.0, at_most=MOST_RISE_MM) if given["rise_mm"] else None,
        "top": top,
        "top_varies_mm": fields.number("top_varies_mm", above=0.0, at_most=MOST_RISE_MM)
        if given["top_varies_mm"]
        else None,
    }


def read_piece(raw: object, path: str, defaulted: list[str]) -> Piece:
    fields = Fields(raw, path, defaulted)
    shape = fields.choice("shape", PIECE_SHAPES, "rectangle")
    outline = _read_outline(fields) if shape == "outline" else ()
    size = np.array(outline).max(axis=0).tolist() if outline else None
    if shape != "outline" and fields.data.get("outline"):
        raise InvalidInput("Only a piece of another shape has an outline.", fields.at("outline"))
    fields.known.update(("outline", "holes"))
    width = fields.number("width_mm", *([] if size is None else [size[0]]), above=0.0, at_most=100_000.0)
    height = [width] if shape == "disc" else [] if size is None else [size[1]]
    piece = Piece(
        shape=shape,
        width_mm=width if size is None else size[0],
        height_mm=fields.number("height_mm", *height, above=0.0, at_most=100_000.0) if size is None else size[1],
        margin_mm=fields.number("margin_mm", 0.0, at_least=0.0),
        outline=outline,
        holes=_read_holes(fields),
        **_read_top(fields),
    )
    fields.known.add("height_mm")
    if shape == "disc" and piece.height_mm != width:
        raise InvalidInput("A disc is as high as it is wide.", fields.at("height_mm"), piece.height_mm, width)
    fields.finish()
    return piece


def read_place(fields: Fields) -> Place:
    place = Place(
        at=fields.choice("at", ("corner", "centre", "clear"), "corner"),
        x_mm=fields.number("x_mm", 0.0, at_least=-100_000.0, at_most=100_000.0),
        y_mm=fields.number("y_mm", 0.0, at_least=-100_000.0, at_most=100_000.0),
        turn_deg=fields.number("turn_deg", 0.0, at_least=-360.0, at_most=360.0),
    )
    fields.finish()
    return place


def read_zero(fields: Fields) -> Zero:
    zero = Zero(
        at=fields.choice("at", (ZERO_ON_PIECE, *ZERO_ON_PLATE), ZERO_ON_PIECE),
        x_mm=fields.number("x_mm", 0.0, at_least=-100_000.0, at_most=100_000.0),
        y_mm=fields.number("y_mm", 0.0, at_least=-100_000.0, at_most=100_000.0),
    )
    fields.finish()
    return zero
