"""Photographs of plates, and what they show."""

from __future__ import annotations

from typing import Literal

from flask_openapi3 import RawModel
from pydantic import Field

from rezept.core.process import Face, ProcessKey
from rezept.core.treatment import TreatmentKey
from rezept.server.shapes.common import Edit, Id, IdPath, Shape
from rezept.server.shapes.plates import PlateSize


class FacePath(IdPath):
    face: Face


class FilePath(Shape):
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


class PhotoQuery(Shape):
    untouched: bool = Field(default=False, description="With what the phone wrote into it; for the keeper.")


class PhotoBytes(RawModel):
    mimetypes = ["image/jpeg", "image/png", "image/webp", "image/heic"]


class OutlineOut(Shape):
    """A piece as a photo shows it, mm: its corners, and x, y and diameter of its holes."""

    outline: list[list[float]]
    holes: list[list[float]]


class BroughtTo(Shape):
    """Where a photo is thought to belong; its own code knows better."""

    burn: Id | None = None
    face: Face | None = None


class PartPath(IdPath):
    patch: str = Field(max_length=12)


class PartPhotoChange(Shape):
    removed: bool


class PartPhotoOut(Shape):
    """A photo of the part a patch was cut as."""

    id: int
    burn_id: int
    patch: str
    sha256: str
    removed: bool
    at: str
    by_name: str


class PhotoOut(Shape):
    """A photo of a burn. `matrix` (plate mm to upright pixels) and the radial distortion
    `k1` after it are null where the plate was not found."""

    id: int
    burn_id: int
    face: Face
    sha256: str
    width: int
    height: int
    treatment: TreatmentKey
    pushed: bool | None = Field(description="Whether parts had been pushed out before; null: nobody has said.")
    found_by: Literal["marks", "outline", "corners"] | None
    residual_mm: float | None
    matrix: list[list[float]] | None
    k1: float | None
    sheet_mm: list[list[float]] | None
    card: bool
    doubts: list[str]
    rule: str
    trouble: str
    picked: int
    reads: bool = Field(description="Its face is read by this one.")
    removed: bool
    edit: int
    at: str
    by_name: str


class Handles(Shape):
    """Four places one can point at to lay the plate by hand: where on the plate (its corner marks, or the corners of
    what is burned), where it has them turned round, and where they are in the upright photo."""

    on_marks: bool
    places_mm: list[list[float]]
    turned_mm: list[list[float]]
    at_px: list[list[float]] | None


class ShownPhoto(PhotoOut):
    """A photo on its plate's page, where it can be put right; `other_rule` where it was scored by another one than
    holds today."""

    handles: Handles
    other_rule: bool


class BroughtPhoto(ShownPhoto):
    """`moved`: its code says it is of another burn than it was brought to."""

    trial_id: int
    moved: bool


class PhotoChange(Edit):
    treatment: TreatmentKey | None = None
    pushed: bool | None = None
    removed: bool | None = None
    picked: bool | None = None


class Corner(Shape):
    """A place on the plate, and where it is in the upright photo."""

    x_mm: float
    y_mm: float
    x_px: float
    y_px: float


class Corners(Edit):
    """How the plate lies, by hand; none: look for it anew."""

    corners: list[Corner] = Field(default=[], max_length=12)


class FlatQuery(Shape):
    v: int = Field(default=0, description="The photo's edit: another one is another picture.")


class FiguresOut(Shape):
    patch: str
    ratio: float | None
    lightness: float | None
    a: float | None
    b: float | None
    lightness_unsure: float | None
    contrast: float | None
    evenness: float | None
    banding: float | None
    open: float | None
    open_outline: float | None
    outline_unsure: float | None
    bridge_mm: float | None
    holding_mm: float | None
    kerf_mm: float | None
    halo_mm: float | None
    soot: float | None
    edge_mm: float | None
    flags: list[str]


class PhotoScore(Shape):
    """What the photos say of a patch; `sure` ones count until a person says otherwise."""

    patch: str
    values: dict[str, float]
    confidence: float | None
    sure: bool


class MeasuredQuery(Shape):
    """By which photo to read its face; without, by the one that was picked. `step`: which of several steps."""

    photo: Id | None = None
    step: int | None = Field(None, ge=1, le=8)


class Measured(Shape):
    front: list[FiguresOut]
    back: list[FiguresOut]
    scores: list[PhotoScore]


class LooksQuery(Shape):
    """A colour, where one is looked for, and where to look."""

    lightness: float | None = Field(default=None, ge=0, le=100)
    a: float = Field(default=0.0, ge=-128, le=128)
    b: float = Field(default=0.0, ge=-128, le=128)
    colour: str | None = Field(default=None, max_length=20, description="#rrggbb instead of L*, a*, b*")
    darkness_only: bool = Field(default=False, description="only how dark it is counts, not its hue")
    head: Id | None = None
    material: Id | None = None
    process: ProcessKey | None = None
    most: int = Field(default=12, ge=1, le=60)


class Shade(Shape):
    """A patch of the shop by its colour: L*, a*, b*."""

    trial_id: int
    patch: str
    lab: list[float]


class Box(Shape):
    x_mm: float
    y_mm: float
    width_mm: float
    height_mm: float


class LookOut(Shade):
    """A patch near to the colour; `difference` is CIEDE2000."""

    head_id: int
    head: str
    material_id: int
    material: str
    process: ProcessKey
    process_name: str
    burn_id: int
    number: int
    recipe_id: int | None
    photo_id: int
    photo_edit: int
    card: bool
    lightness_unsure: float | None
    difference: float
    plate: PlateSize
    box: Box
    settings: dict[str, float]
    ground_assumed: bool


class Looks(Shape):
    total: int
    shades: list[Shade]
    nearest: list[LookOut]
