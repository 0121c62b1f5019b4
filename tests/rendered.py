"""Photographs of plates by a camera that shares no code with Rezept, neither with its reader nor with its bench: rays
through a pinhole onto a sheet that has a thickness, with what lies below seen through its openings.

It is given the plate's document, as it stands in docs/formats/plate.md, and decides itself how each patch came out:
that is the truth a reading is judged by.
"""

from __future__ import annotations

import io
import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFilter
from scipy import ndimage

Floats = NDArray[np.float64]
Below = Literal["honeycomb", "steel", "lightpad", "table", "same"]
Face = Literal["front", "back"]
Colour = tuple[float, float, float]

CELL_MM = 0.04
# What is drawn on the sheet, and the wall of a groove, as a share of the sheet's light.
LINE_MM, LINE_SHARE, WALL_SHARE = 0.16, 0.35, 0.12
# A line that marks a patch in another colour.
MARKED_LINE_MM = 0.45
# A cut is wider where the beam enters than where it leaves.
TAPER = 0.6
RAYS_A_SIDE = 2
ROWS_AT_ONCE = 4


@dataclass(frozen=True)
class Scene:
    """What is photographed, and how. Colours are linear light, 0 to 1.

    tilt_deg, towards_deg, roll_deg : how far the camera leans, which way, and how far it is turned about its own axis
    away_mm : from the middle of the sheet to the lens; filling : share of the picture's width or height it takes
    fall_off : how much less light there is at one end than in the middle; warm : how yellow it is
    below_dark : how much of its own light another sheet below gives back
    beyond_mm : by how much the sheet reaches beyond the plate; beside : how many cards and offcuts lie against it
    """

    below: Below = "honeycomb"
    sheet: tuple[float, float, float] = (0.55, 0.40, 0.24)
    thickness_mm: float = 3.0
    kerf_mm: float = 0.24
    gap_mm: float = 1.0
    tilt_deg: float = 6.0
    towards_deg: float = 40.0
    roll_deg: float = 3.0
    away_mm: float = 420.0
    filling: float = 0.75
    size: tuple[int, int] = (1440, 1080)
    k1: float = 0.004
    fall_off: float = 0.1
    warm: float = 0.03
    blur_px: float = 0.6
    noise: float = 0.004
    quality: int = 90
    seed: int = 1
    below_dark: float = 1.0
    beyond_mm: float = 0.0
    beside: int = 0


@dataclass(frozen=True)
class Rendered:
    """A JPEG and what is true of it.

    matrix : ``(3, 3)`` plate mm (x, y, 1) to pixels, (0, 0) the centre of the top left one, before ``r' = r (1 + k1
        r^2)``, r over half the diagonal about the middle
    through : by patch 0 not, 1 partly, 2 with a push, 3 drops out
    shade : by patch the share of the sheet's light a filled patch gives back
    colour : by patch the linear light it gives back, filled or along its lines, whatever the sheet's
    """

    jpeg: bytes
    face: Face
    matrix: Floats
    k1: float
    size: tuple[int, int]
    through: Mapping[str, int] = field(default_factory=dict)
    shade: Mapping[str, float] = field(default_factory=dict)
    colour: Mapping[str, Colour] = field(default_factory=dict)

    def pixels(self, mm: Floats) -> Floats:
        """``(n, 2)`` where plate points are in the picture."""
        mapped = np.column_stack([mm, np.ones(len(mm))]) @ self.matrix.T
        middle, half = (np.array(self.size) - 1) / 2, math.hypot(*self.size) / 2
        away = mapped[:, :2] / mapped[:, 2:] - middle
        seen: Floats = middle + away * (1 + self.k1 * ((away / half) ** 2).sum(axis=1, keepdims=True))
        return seen


class _Mask:
    """Something drawn on a face of the sheet, cell by cell; rows run up."""

    def __init__(self, width_mm: float, height_mm: float) -> None:
        self.image = Image.new("L", (math.ceil(width_mm / CELL_MM), math.ceil(height_mm / CELL_MM)))
        self.pen = ImageDraw.Draw(self.image)

    def line(self, way: Floats, width_mm: float, value: int = 255) -> None:
        points = [(x / CELL_MM, y / CELL_MM) for x, y in way.tolist()]
        self.pen.line(points, fill=value, width=max(1, round(width_mm / CELL_MM)), joint="curve")

    def area(self, way: Floats, value: int = 255) -> None:
        self.pen.polygon([(x / CELL_MM, y / CELL_MM) for x, y in way.tolist()], fill=value)

    def cells(self) -> NDArray[np.float32]:
        return np.asarray(self.image, np.float32) / 255


def _along(way: Floats, start: float, length: float) -> Floats:
    """A stretch of a closed way, from a share of its length on, so many mm long."""
    steps = np.linalg.norm(np.diff(way, axis=0), axis=1)
    at = np.concatenate([[0.0], np.cumsum(steps)])
    wanted = (start * at[-1] + np.linspace(0, length, max(2, math.ceil(length / 0.05)))) % at[-1]
    return np.column_stack([np.interp(wanted, at, way[:, axis]) for axis in (0, 1)])


def _length(way: Floats) -> float:
    return float(np.linalg.norm(np.diff(way, axis=0), axis=1).sum())


def _enclosed(way: Floats) -> float:
    x, y = way.T
    return abs(float(np.dot(x[:-1], y[1:]) - np.dot(x[1:], y[:-1]))) / 2


@dataclass
class _Sheet:
    """What was cut and drawn, as seen from the front: where it is open at the front and at the back, how much light
    the front and the back give back; what is painted, and in which of the colours (from 1)."""

    width_mm: float
    height_mm: float
    open_front: NDArray[np.float32]
    open_back: NDArray[np.float32]
    front: NDArray[np.float32]
    back: NDArray[np.float32]
    painted: NDArray[np.float32]
    colours: list[Colour]


def _ways(document: Mapping[str, Any], patch: Mapping[str, Any]) -> list[Floats]:
    figure = next(one for one in document["figures"] if one["id"] == patch["figure"])
    return [np.array(way) + (patch["x_mm"], patch["y_mm"]) for way in figure["ways"]]


def _cut(front: _Mask, back: _Mask, ways: list[Floats], through: int, kerf_mm: float, rng: np.random.Generator) -> None:
    leaving = kerf_mm * TAPER
    for way in ways:
        front.line(way, kerf_mm)
        if through == 1:
            # Open in stretches: by a quarter to two thirds of the outline in all.
            count = max(2, round(_length(way) / 8))
            share = rng.uniform(0.25, 0.65)
            for i in range(count):
                start = (i + rng.uniform(0, 1 - share)) / count
                back.line(_along(way, start, share * _length(way) / count), leaving)
        elif through >= 2:
            back.line(way, leaving)
            if through == 2:
                for _ in range(int(rng.integers(0, 3))):
                    back.line(_along(way, rng.uniform(), rng.uniform(0.3, 0.9)), 2 * leaving, value=0)
    if through == 3:
        outer = max(ways, key=_enclosed)
        for mask in (front, back):
            mask.area(outer)


def _worked(
    document: Mapping[str, Any],
    patch: Mapping[str, Any],
    masks: tuple[_Mask, _Mask, _Mask],
    scene: Scene,
    through: Mapping[str, int],
    shade: Mapping[str, float],
    rng: np.random.Generator,
) -> None:
    """A patch of several steps, each called as the plate calls it (`B3/2`): what is said to be shaded is filled, or its
    lines are; all else is cut."""
    filled, front_open, back_open = masks
    for number, step in enumerate(patch["steps"], start=1):
        name = f"{patch['id']}/{number}"
        ways = _ways(document, {**patch, "figure": step.get("figure", patch["figure"])})
        if name in through:
            _cut(front_open, back_open, ways, through[name], scene.kerf_mm, rng)
        elif step["process"] == "line":
            for way in ways:
                filled.line(way, MARKED_LINE_MM, round(255 * (1 - shade[name])))
        else:
            filled.area(max(ways, key=_enclosed), round(255 * (1 - shade[name])))


def _made(
    document: Mapping[str, Any],
    scene: Scene,
    through: Mapping[str, int],
    shade: Mapping[str, float],
    colour: Mapping[str, Colour],
) -> _Sheet:
    rng = np.random.default_rng(scene.seed)
    size = document["plate"]["width_mm"], document["plate"]["height_mm"]
    front_open, back_open, drawn, filled, painted = (_Mask(*size) for _ in range(5))
    for one in document["drawn"]:
        for way in [*one["ways"], *one["lines"]]:
            drawn.line(np.array(way), LINE_MM)
    for patch in document["patches"]:
        if not patch["burn"]:
            continue
        if document["trial"].get("steps"):
            _worked(document, patch, (filled, front_open, back_open), scene, through, shade, rng)
            continue
        ways = _ways(document, patch)
        if patch["id"] in colour:
            which = 1 + list(colour).index(patch["id"])
            if document["trial"]["process"] == "line":
                for way in ways:
                    painted.line(way, MARKED_LINE_MM, which)
            else:
                painted.area(max(ways, key=_enclosed), which)
        elif patch["id"] in shade:
            filled.area(max(ways, key=_enclosed), round(255 * (1 - shade[patch["id"]])))
        else:
            _cut(front_open, back_open, ways, through[patch["id"]], scene.kerf_mm, rng)
    # Soot beside what was cut, on the front; less of it on the back.
    smoke = _blurred(front_open.cells(), 0.5)
    behind = _blurred(back_open.cells(), 0.3)
    front = (1 - (1 - LINE_SHARE) * drawn.cells()) * (1 - filled.cells()) * (1 - 0.35 * smoke)
    paint = np.asarray(painted.image, np.float32)
    return _Sheet(*size, front_open.cells(), back_open.cells(), front, 1 - 0.2 * behind, paint, list(colour.values()))


def _blurred(cells: NDArray[np.float32], sigma_mm: float) -> NDArray[np.float32]:
    """Shares 0 to 1 blurred over many cells, for which Pillow takes a tenth of the time of an exact filter."""
    image = Image.fromarray(np.round(255 * cells).astype(np.uint8))
    return np.asarray(image.filter(ImageFilter.GaussianBlur(sigma_mm / CELL_MM)), np.float32) / 255


def _sampled(cells: NDArray[np.float32], x: Floats, y: Floats) -> NDArray[np.float32]:
    """The cell a place lies in; 0 off the sheet."""
    column, row = np.floor(x / CELL_MM).astype(np.intp), np.floor(y / CELL_MM).astype(np.intp)
    inside = (column >= 0) & (row >= 0) & (column < cells.shape[1]) & (row < cells.shape[0])
    return np.where(inside, cells[np.clip(row, 0, cells.shape[0] - 1), np.clip(column, 0, cells.shape[1] - 1)], 0)


@dataclass(frozen=True)
class _Grain:
    """Wood: bands along x that wander, about 1. By band its period and phase and how it slants."""

    bands: list[tuple[float, float, float]]

    @classmethod
    def drawn(cls, rng: np.random.Generator) -> _Grain:
        return cls([(rng.uniform(0.6, 7.0), rng.uniform(0, 2 * np.pi), rng.normal(0, 0.02)) for _ in range(5)])

    def at(self, x: Floats, y: Floats) -> Floats:
        waves, wander = np.ones_like(x), 0.4 * np.sin(x / 17.0)
        for period, phase, slant in self.bands:
            waves += 0.018 * np.sin(2 * np.pi * (y + slant * x + wander) / period + phase)
        return waves


def _below(scene: Scene, x: Floats, y: Floats, grain: _Grain) -> Floats:
    """``(..., 3)`` light of what the sheet lies on."""
    if scene.below == "honeycomb":
        # Cells 7 mm apart: the nearest of two interleaved lattices is the middle of a hexagon.
        apart, high = 7.0, 7.0 * math.sqrt(3)
        away = []
        for shift in (0.0, 0.5):
            u, v = (x / apart + shift) % 1 - 0.5, (y / high + shift) % 1 - 0.5
            away.append(np.hypot(u * apart, v * high))
        wall = np.minimum(*away) > 0.5 * apart - 0.25
        return np.where(wall[..., None], (0.42, 0.42, 0.43), (0.012, 0.012, 0.012))
    if scene.below == "steel":
        return np.array([0.34, 0.35, 0.36]) * (1 + 0.06 * np.sin(9.0 * y + np.sin(0.7 * x)))[..., None]
    if scene.below == "lightpad":
        return np.broadcast_to(np.array([0.93, 0.95, 1.0]), (*x.shape, 3)) * 1.0
    colour = (0.11, 0.06, 0.035) if scene.below == "table" else tuple(scene.below_dark * c for c in scene.sheet)
    return np.array(colour) * grain.at(0.7 * x + 90, y + 31)[..., None]


def _beside(scene: Scene, size: tuple[float, float]) -> list[tuple[Floats, float, Floats, Floats]]:
    """Cards and offcuts, half under the sheet: middle, angle, half sides and colour."""
    rng = np.random.default_rng(scene.seed + 3)
    cards = []
    for _ in range(scene.beside):
        side, along = int(rng.integers(4)), rng.uniform(0.15, 0.85)
        outward = scene.beyond_mm + rng.uniform(4, 12)
        middle = [(along * size[0], -outward), (size[0] + outward, along * size[1]),
                  (along * size[0], size[1] + outward), (-outward, along * size[1])][side]  # fmt: skip
        cards.append((np.array(middle), rng.uniform(0, np.pi), rng.uniform(8, 22, 2), rng.uniform(0.03, 0.7, 3)))
    return cards


def _rays(scene: Scene, width_mm: float, height_mm: float) -> tuple[Floats, Floats, Floats]:
    """The camera's matrix ``(3, 3)``, its axes in the sheet's ``(3, 3)`` and where it stands ``(3,)``, z up."""
    tilt, towards, roll = np.deg2rad([scene.tilt_deg, scene.towards_deg, scene.roll_deg])
    middle = np.array([width_mm / 2, height_mm / 2, 0.0])
    lean = np.array([math.sin(tilt) * math.cos(towards), math.sin(tilt) * math.sin(towards), math.cos(tilt)])
    stands, forward = middle + scene.away_mm * lean, -lean
    up = np.array([0.0, 1.0, 0.0])
    right = np.cross(forward, up)
    right /= np.linalg.norm(right)
    down = np.cross(forward, right)
    turned = math.cos(roll) * right + math.sin(roll) * down, math.cos(roll) * down - math.sin(roll) * right
    widest, highest = width_mm + 2 * scene.beyond_mm, height_mm + 2 * scene.beyond_mm
    focal = scene.filling * scene.away_mm * min(scene.size[0] / widest, scene.size[1] / highest)
    inner = np.array([[focal, 0, (scene.size[0] - 1) / 2], [0, focal, (scene.size[1] - 1) / 2], [0, 0, 1.0]])
    return inner, np.stack([*turned, forward]), stands


def _undistorted(scene: Scene, u: Floats, v: Floats) -> Floats:
    """By how much pixels, from the middle, come nearer to it without the lens; Newton's method on the radius."""
    seen = np.hypot(u, v) / (math.hypot(*scene.size) / 2)
    straight = seen.copy()
    for _ in range(4):
        straight -= (straight * (1 + scene.k1 * straight**2) - seen) / (1 + 3 * scene.k1 * straight**2)
    return np.divide(straight, seen, out=np.ones_like(seen), where=seen > 0)


def _light(scene: Scene, sheet: _Sheet, face: Face) -> tuple[Floats, Floats]:
    """``(height, width, 3)`` light before the sensor, and the matrix of the plate's plane."""
    inner, axes, stands = _rays(scene, sheet.width_mm, sheet.height_mm)
    near, away, shown = sheet.open_front, sheet.open_back, sheet.front
    if face == "back":
        near, away, shown = (cells[:, ::-1] for cells in (sheet.open_back, sheet.open_front, sheet.back))
    # Little light comes down a narrow slit.
    room = None if scene.below == "lightpad" else _blurred(np.minimum(near, away), scene.thickness_mm / 2)
    rng = np.random.default_rng(scene.seed + 1)
    grain, grain_below = _Grain.drawn(rng), _Grain.drawn(rng)
    cards = _beside(scene, (sheet.width_mm, sheet.height_mm))
    beyond, (wide, high) = scene.beyond_mm, scene.size
    deep = scene.thickness_mm + (0.0 if scene.below == "same" else scene.gap_mm)

    def lit_by(u: Floats, v: Floats) -> Floats:
        """``(n, 3)`` light along the rays of places in the picture, counted from its middle."""
        shrink = _undistorted(scene, u, v)
        ways = np.stack([u * shrink / inner[0, 0], v * shrink / inner[1, 1], np.ones_like(u)], axis=-1) @ axes
        slope_x, slope_y = ways[:, 0] / ways[:, 2], ways[:, 1] / ways[:, 2]

        def meets(depth: float, rays: Any = slice(None)) -> tuple[Floats, Floats]:
            return (stands[axis] + (depth - stands[2]) * slope[rays] for axis, slope in enumerate((slope_x, slope_y)))  # type: ignore[return-value]

        x, y = meets(0.0)
        on_plate = (x >= 0) & (y >= 0) & (x < sheet.width_mm) & (y < sheet.height_mm)
        on_sheet = (x >= -beyond) & (y >= -beyond) & (x < sheet.width_mm + beyond) & (y < sheet.height_mm + beyond)
        entered = on_sheet & (_sampled(near, x, y) > 0.5)
        through = np.zeros_like(entered)
        through[entered] = _sampled(away, *meets(-scene.thickness_mm, entered)) > 0.5
        lit = np.empty((len(u), 3))
        lit[entered] = np.array(scene.sheet) * WALL_SHARE
        solid = on_sheet & ~entered
        drawn = np.where(on_plate[solid], _sampled(shown, x[solid], y[solid]), 1.0)
        lit[solid] = (grain.at(x[solid], y[solid]) * drawn)[:, None] * scene.sheet
        if face == "front" and sheet.colours:
            which = np.where(on_plate & solid, _sampled(sheet.painted, x, y), 0).astype(int)
            lit[which > 0] = np.array(sheet.colours)[which[which > 0] - 1]
        clear = ~on_sheet | through
        lit[clear] = _below(scene, *meets(-deep, clear), grain_below)
        for middle, angle, half, colour in cards:
            away_x, away_y = x - middle[0], y - middle[1]
            u_card = np.abs(away_x * math.cos(angle) + away_y * math.sin(angle))
            v_card = np.abs(away_y * math.cos(angle) - away_x * math.sin(angle))
            lit[~on_sheet & (u_card < half[0]) & (v_card < half[1])] = colour
        lamp = 1 + 2 * scene.fall_off * (u / wide * math.cos(scene.seed) + v / high * math.sin(scene.seed))
        if room is None:
            lamp[clear] = 1.0
        else:
            lamp[through] *= 0.25 + 0.75 * _sampled(room, x[through], y[through])
        lit *= lamp[:, None] * (1 + scene.warm, 1.0, 1 - scene.warm)
        return lit

    across, down = ((np.arange(count * RAYS_A_SIDE) + 0.5) / RAYS_A_SIDE - 0.5 for count in (wide, high))
    whole = np.empty((high, wide, 3))
    # Row by row of pixels, so that what is worked out stays near the processor.
    for top in range(0, high, ROWS_AT_ONCE):
        rows = slice(top, min(top + ROWS_AT_ONCE, high))
        at = np.meshgrid(across, down[RAYS_A_SIDE * rows.start : RAYS_A_SIDE * rows.stop])
        lit = lit_by(*(one.ravel() - inner[i, 2] for i, one in enumerate(at)))
        whole[rows] = lit.reshape(-1, RAYS_A_SIDE, wide, RAYS_A_SIDE, 3).mean(axis=(1, 3))
    matrix = inner @ np.column_stack([axes[:, 0], axes[:, 1], -axes @ stands])
    if face == "back":
        matrix = matrix @ np.array([[-1, 0, sheet.width_mm], [0, 1, 0], [0, 0, 1.0]])
    return whole, matrix / matrix[2, 2]


def _developed(scene: Scene, light: Floats) -> bytes:
    rng = np.random.default_rng(scene.seed + 2)
    light = ndimage.gaussian_filter(light, (scene.blur_px, scene.blur_px, 0))
    light = light + rng.normal(0, 1, light.shape) * scene.noise * np.sqrt(0.15 + np.maximum(light, 0))
    light = np.clip(light, 0, 1)
    coded = np.where(light <= 0.0031308, 12.92 * light, 1.055 * np.maximum(light, 1e-9) ** (1 / 2.4) - 0.055)
    data = io.BytesIO()
    Image.fromarray(np.round(255 * coded).astype(np.uint8)).save(data, "JPEG", quality=scene.quality)
    return data.getvalue()


def render(
    document: Mapping[str, Any],
    face: Face,
    scene: Scene,
    through: Mapping[str, int] | None = None,
    shade: Mapping[str, float] | None = None,
    colour: Mapping[str, Colour] | None = None,
) -> Rendered:
    """A photograph of a face of a plate, given as its document.

    through : how each patch of a cut came out; shade : how much of the sheet's light each filled patch gives back; of
        several steps both by the names of the parts
    colour : the linear light of each patch that has turned another colour
    """
    through, shade, colour = dict(through or {}), dict(shade or {}), dict(colour or {})
    light, matrix = _light(scene, _made(document, scene, through, shade, colour), face)
    return Rendered(_developed(scene, light), face, matrix, scene.k1, scene.size, through, shade, colour)
