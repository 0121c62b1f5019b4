"""A hand-held photograph of a burned sheet: where it lies, how it is lit, and what the camera makes of it.

Everything is drawn from a seed. The truth of a photograph, which no reader gets to see, can be written beside it.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageFilter
from scipy import ndimage

from rezept.bench.material import Burned

Floats = NDArray[np.float64]
PHOTO_PX = (4000, 3000)
TABLE = (0.09, 0.08, 0.075)
BELOW = (0.018, 0.018, 0.02)
CARD_PX_PER_MM, CARD_GAP_MM = 10.0, 6.0
MESH = (40, 30)
BAND = 250


@dataclass(frozen=True)
class Shot:
    """How a photograph is taken.

    tilt_deg : away from straight above; turn_deg : about the line of sight; filling : share of the shorter side of the
        picture that the sheet takes
    fall_off : how much darker the darkest corner of the light is; warm : how far the light is from daylight
    bow : k1 of the lens, as a share of the half diagonal; s_curve : strength of the phone's tone curve
    card : what lies on the table below the sheet, as shares of light, `CARD_PX_PER_MM` to the mm
    """

    tilt_deg: float = 6.0
    towards_deg: float = 20.0
    turn_deg: float = 2.0
    filling: float = 0.8
    fall_off: float = 0.15
    warm: float = 0.04
    vignette: float = 0.12
    bow: float = 0.01
    noise: float = 0.006
    blur_px: float = 0.8
    s_curve: float = 0.12
    quality: int = 88
    card: NDArray[np.float32] | None = None
    size: tuple[int, int] = PHOTO_PX
    seed: int = 1

    @classmethod
    def by_hand(cls, seed: int, **fixed: Any) -> Shot:
        """As somebody would take it, every time a little differently."""
        rng = np.random.default_rng(seed)
        drawn = {
            "tilt_deg": float(abs(rng.normal(0, 7))),
            "towards_deg": float(rng.uniform(0, 360)),
            "turn_deg": float(rng.normal(0, 5)),
            "filling": float(rng.uniform(0.7, 0.88)),
            "fall_off": float(rng.uniform(0.05, 0.25)),
            "warm": float(rng.normal(0, 0.05)),
            "bow": float(rng.uniform(-0.01, 0.02)),
            "blur_px": float(rng.uniform(0.5, 1.0)),
        }
        return cls(**{**drawn, **fixed, "seed": seed})


@dataclass(frozen=True)
class Photograph:
    """The JPEG, and the truth: `homography` takes the sheet's mm (x, y, 1) to pixels before the lens bows them."""

    jpeg: bytes
    homography: Floats
    bow: float
    face: str

    def truth(self) -> dict[str, Any]:
        return {
            "face": self.face,
            "homography_mm_to_px": self.homography.tolist(),
            "bow_k1": self.bow,
        }


def _homography(width_mm: float, height_mm: float, shot: Shot) -> Floats:
    """From the sheet's mm, y up, to pixels: a pinhole that looks at the middle of the sheet from about 40 cm."""
    tilt, towards, turn = (np.deg2rad(angle) for angle in (shot.tilt_deg, shot.towards_deg, shot.turn_deg))
    cos, sin = np.cos, np.sin
    about = np.array([[cos(towards), -sin(towards), 0], [sin(towards), cos(towards), 0], [0, 0, 1]])
    lean = np.array([[1, 0, 0], [0, cos(tilt), -sin(tilt)], [0, sin(tilt), cos(tilt)]])
    twist = np.array([[cos(turn), -sin(turn), 0], [sin(turn), cos(turn), 0], [0, 0, 1]])
    rotation = twist @ about @ lean @ about.T
    away = 4.0 * max(width_mm, height_mm)
    px = shot.filling * min(shot.size[0] / width_mm, shot.size[1] / height_mm)
    camera = np.array([[px * away, 0, shot.size[0] / 2], [0, -px * away, shot.size[1] / 2], [0, 0, 1.0]])
    pose = np.column_stack([rotation[:, 0], rotation[:, 1], [0, 0, away]])
    centre = np.array([[1, 0, -width_mm / 2], [0, 1, -height_mm / 2], [0, 0, 1.0]])
    matrix = camera @ pose @ centre
    scaled: Floats = matrix / matrix[2, 2]
    return scaled


def bowed(points: Floats, size: tuple[int, int], k1: float) -> Floats:
    """Pixels after the lens: ``r' = r (1 + k1 r^2)``, r in half diagonals from the middle of the picture."""
    middle = (np.array(size, float) - 1) / 2
    half = float(np.hypot(*size)) / 2
    away = (points - middle) / half
    seen: Floats = middle + (points - middle) * (1 + k1 * (away**2).sum(axis=-1, keepdims=True))
    return seen


def _unbowed(points: Floats, size: tuple[int, int], k1: float) -> Floats:
    """The pixels a lens without a bow would have: `bowed` turned round, by fixed point."""
    middle = (np.array(size, float) - 1) / 2
    half = float(np.hypot(*size)) / 2
    straight = points.copy()
    for _ in range(6):
        away = (straight - middle) / half
        straight = middle + (points - middle) / (1 + k1 * (away**2).sum(axis=-1, keepdims=True))
    return straight


def _srgb(linear: Floats) -> Floats:
    """sRGB 0..1 of linear light (IEC 61966-2-1)."""
    bright = 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055
    return np.where(linear <= 0.0031308, 12.92 * linear, bright)


# Power functions cost more than all else in a photograph; a table of 16 bits is exact to a fraction of a grey step.
_STEPS = 65_535
_CODED = (_srgb(np.arange(_STEPS + 1) / _STEPS) * 255 + 0.5).astype(np.uint8)
_LINEAR = np.array(
    [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in np.arange(256) / 255.0], np.float32
)


def _coded(linear: NDArray[np.float32], table: NDArray[np.uint8] = _CODED) -> NDArray[np.uint8]:
    """8-bit sRGB of linear light through a table."""
    return table[(np.clip(linear, 0, 1) * _STEPS).astype(np.uint16)]


def _scene(burned: Burned, face: str, margin: int, shot: Shot, rng: np.random.Generator) -> Image.Image:
    """The sheet on its table as seen from straight above, in sRGB; its y runs down."""
    rows, columns = burned.grid.shape
    size = (columns + 2 * margin, rows + 2 * margin)
    speckled = np.array(TABLE) * (1 + 0.2 * rng.standard_normal((size[1] // 16, size[0] // 16, 1)))
    scene = Image.fromarray(_coded(speckled.astype(np.float32))).resize(size, Image.Resampling.BILINEAR)
    # A sheet lies a little above its table and throws a soft shadow on it.
    shade = max(2, margin // 25)
    dark = Image.new("L", size, 0)
    dark.paste(150, (margin, margin, margin + columns + shade // 2, margin + rows + shade))
    small = dark.resize((size[0] // 8, size[1] // 8)).filter(ImageFilter.GaussianBlur(shade / 20 + 0.5)).resize(size)
    scene.paste((8, 8, 8), (0, 0), small)
    sheet = _coded(_blurred(burned, face, shot))
    sheet = sheet[::-1] if face == "front" else sheet[::-1, ::-1]
    scene.paste(Image.fromarray(np.ascontiguousarray(sheet)), (margin, margin))
    if shot.card is not None:
        _lay_card(scene, shot.card, (margin + columns // 2, margin + rows), burned.grid.cell_mm)
    return scene


def _blurred(burned: Burned, face: str, shot: Shot) -> NDArray[np.float32]:
    """The sheet's light as the lens mixes it: light is what adds up, not its coded values."""
    colours = (burned.front if face == "front" else burned.back).copy()
    colours[burned.open] = BELOW
    rows, columns = burned.grid.shape
    px_a_cell = shot.filling * min(shot.size[0] / columns, shot.size[1] / rows)
    if shot.blur_px <= 0:
        return colours
    return np.asarray(ndimage.gaussian_filter(colours, (*[shot.blur_px / px_a_cell] * 2, 0), truncate=3.0))


def _lay_card(scene: Image.Image, card: NDArray[np.float32], below: tuple[int, int], cell_mm: float) -> None:
    """A printed card on the table, under the middle of the sheet's lower edge."""
    picture = Image.fromarray(_coded(card)).convert("RGB")
    share = 1 / (CARD_PX_PER_MM * cell_mm)
    picture = picture.resize((round(picture.width * share), round(picture.height * share)), Image.Resampling.LANCZOS)
    scene.paste(picture, (below[0] - picture.width // 2, below[1] + round(CARD_GAP_MM / cell_mm)))


def _warped(scene: Image.Image, matrix: Floats, origin: tuple[float, float], per_mm: float, shot: Shot) -> Image.Image:
    """The scene through pinhole and lens, quadrilateral by quadrilateral."""
    across, up = MESH
    width, height = shot.size
    xs, ys = np.linspace(0, width, across + 1).round(), np.linspace(0, height, up + 1).round()
    corners = np.stack(np.meshgrid(xs, ys), axis=-1)
    straight = _unbowed(corners - 0.5, shot.size, shot.bow)
    back = np.linalg.inv(matrix)
    flat = np.concatenate([straight, np.ones((*straight.shape[:2], 1))], axis=-1) @ back.T
    mm = flat[..., :2] / flat[..., 2:]
    source = np.stack([origin[0] + mm[..., 0] * per_mm, origin[1] - mm[..., 1] * per_mm], axis=-1)
    mesh = []
    for j in range(up):
        for i in range(across):
            box = (int(xs[i]), int(ys[j]), int(xs[i + 1]), int(ys[j + 1]))
            quad = (*source[j, i], *source[j + 1, i], *source[j + 1, i + 1], *source[j, i + 1])
            mesh.append((box, tuple(float(value) for value in quad)))
    table = tuple(_coded(np.array(TABLE, np.float32)).tolist())
    return scene.transform(shot.size, Image.Transform.MESH, mesh, Image.Resampling.BILINEAR, fillcolor=table)


def _developed(picture: Image.Image, shot: Shot, rng: np.random.Generator) -> Image.Image:
    """Light, vignette, noise and the phone's tone curve, a band of rows at a time."""
    width, height = shot.size
    pixels = np.asarray(picture)
    out = np.empty_like(pixels)
    x = np.linspace(-1, 1, width, dtype=np.float32)
    slope = rng.uniform(0, 2 * np.pi)
    colour = np.array([1 + shot.warm, 1.0, 1 - shot.warm], np.float32) * np.float32(0.92)
    toned = _srgb(np.arange(_STEPS + 1) / _STEPS)
    toned += shot.s_curve * (toned * toned * (3 - 2 * toned) - toned)
    curve = (toned * 255 + 0.5).astype(np.uint8)
    # Shot noise grows with the root of the light, read noise is always there.
    spread = (shot.noise * np.sqrt(_LINEAR * 0.5 + 0.004)).astype(np.float32)
    grain = rng.standard_normal((BAND + 61, width + 97, 3), np.float32)
    for top in range(0, height, BAND):
        rows = slice(top, min(top + BAND, height))
        seen = pixels[rows]
        y = np.linspace(-1, 1, height, dtype=np.float32)[rows]
        along = (np.cos(slope) * x[None, :] + np.sin(slope) * y[:, None]) / np.float32(np.sqrt(2))
        light = 1 - np.float32(shot.fall_off) * (0.5 + 0.5 * along)
        light *= 1 - np.float32(shot.vignette) * (x[None, :] ** 2 + y[:, None] ** 2) / 2
        linear = _LINEAR[seen] * (light[..., None] * colour)
        down, right = (int(rng.integers(0, most)) for most in (61, 97))
        linear += spread[seen] * grain[down : down + len(seen), right : right + width]
        out[rows] = _coded(linear, curve)
    return Image.fromarray(out)


def photograph(burned: Burned, face: str, shot: Shot) -> Photograph:
    """A JPEG of one face. Seen from the back the sheet is turned over its upright middle."""
    rng = np.random.default_rng(shot.seed)
    grid = burned.grid
    rows, columns = grid.shape
    width_mm, height_mm = columns * grid.cell_mm, rows * grid.cell_mm
    matrix = _homography(width_mm, height_mm, shot)
    margin = int(0.6 * max(rows, columns))
    scene = _scene(burned, face, margin, shot, rng)
    picture = _warped(scene, matrix, (float(margin), float(margin + rows)), 1 / grid.cell_mm, shot)
    if shot.blur_px > 0:
        # The sheet is blurred already; this is for its edge against the table.
        picture = picture.filter(ImageFilter.GaussianBlur(0.4))
    data = io.BytesIO()
    _developed(picture, shot, rng).save(data, "JPEG", quality=shot.quality)
    return Photograph(data.getvalue(), matrix, shot.bow, face)
