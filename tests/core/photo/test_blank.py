"""The outline of a piece from a photograph with the reference card beside it, against the piece that was drawn.

Scene and camera are drawn here with a picture library; they share nothing with what reads them but the card.
"""

import io
import unittest

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from rezept.actions.queries.photo_reading import blank_of
from rezept.core.errors import InvalidInput
from rezept.core.photo.card import HEIGHT_MM, WIDTH_MM
from rezept.formats.photo_file import read_photo
from tests.photographed import printed_card

PX = 12  # of the scene, a mm
SCENE_MM = (260, 210)
CARD_AT = (20, 20)  # its lower left in the scene
WOOD, SLATE, STEEL, TABLE = (206, 178, 132), (92, 94, 99), (176, 176, 180), (64, 88, 78)
KEY = [(30, 60), (150, 60), (150, 74), (120, 74), (120, 82), (112, 82), (112, 74), (76, 74), (60, 96), (30, 96)]
OFFCUT = [(40, 55), (170, 52), (175, 120), (110, 118), (104, 170), (45, 165)]


def disc(x, y, diameter):
    angle = np.linspace(0, 2 * np.pi, 240, endpoint=False)
    return [(x + diameter / 2 * np.cos(a), y + diameter / 2 * np.sin(a)) for a in angle]


def scene(outline, holes=(), piece=WOOD, table=TABLE, card=True):
    """The table from above, y down."""
    high = SCENE_MM[1]
    image = Image.new("RGB", (SCENE_MM[0] * PX, high * PX), table)
    draw = ImageDraw.Draw(image)
    for shape, colour in ((outline, piece), *((disc(*hole), table) for hole in holes)):
        draw.polygon([(x * PX, (high - y) * PX) for x, y in shape], fill=colour)
    if card:
        light = (np.clip(printed_card(), 0, 1) ** (1 / 2.2) * 255).astype(np.uint8)
        printed = Image.fromarray(light).convert("RGB").resize((round(WIDTH_MM * PX), round(HEIGHT_MM * PX)))
        image.paste(printed, (CARD_AT[0] * PX, round((high - CARD_AT[1] - HEIGHT_MM) * PX)))
    return image


def taken(image, tilt=(0.0, 0.0), turn=0.0, seed=1, size=(2400, 1800)):
    """A photograph of a scene as JPEG: from so many radians off the perpendicular, half a metre away, turned in the
    hand, with noise and light that falls off."""
    random = np.random.default_rng(seed)
    corners = np.array([(0, 0), (image.width, 0), (image.width, image.height), (0, image.height)], float)
    flat = (corners - corners.mean(axis=0)) / PX
    cos, sin = np.cos(turn), np.sin(turn)
    flat = flat @ np.array([[cos, sin], [-sin, cos]])
    depth = 500 + flat[:, 0] * np.sin(tilt[0]) + flat[:, 1] * np.sin(tilt[1])
    flat = flat * np.cos(np.array(tilt)) / depth[:, None] * 500
    seen = flat * min(size) / 330 + np.array(size) / 2
    # Pixels of the photograph to those of the scene, as the library wants it.
    rows = []
    for (u, v), (x, y) in zip(seen, corners, strict=True):
        rows += [[u, v, 1, 0, 0, 0, -x * u, -x * v], [0, 0, 0, u, v, 1, -y * u, -y * v]]
    back = np.linalg.solve(np.array(rows), corners.ravel())
    photo = image.transform(size, Image.Transform.PERSPECTIVE, back.tolist(), Image.Resampling.BICUBIC, fillcolor=TABLE)
    pixels = np.asarray(photo.filter(ImageFilter.GaussianBlur(0.8)), float)
    x = np.linspace(-1, 1, size[0])
    pixels = pixels * (1 - 0.12 * x[None, :, None] ** 2) + random.normal(0, 3.0, pixels.shape)
    data = io.BytesIO()
    Image.fromarray(np.clip(pixels, 0, 255).astype(np.uint8)).save(data, "JPEG", quality=88)
    return data.getvalue()


def read(data):
    return blank_of(read_photo(data, "photo"))


def along(outline, step=0.25):
    """Points all along a closed way."""
    outline = np.asarray(outline, float)
    points = []
    for a, b in zip(outline, np.roll(outline, -1, axis=0), strict=True):
        count = max(1, int(np.linalg.norm(b - a) / step))
        points.append(a + np.linspace(0, 1, count, endpoint=False)[:, None] * (b - a))
    return np.concatenate(points)


def farthest(one, other):
    """The Hausdorff distance of two closed ways, mm."""
    a, b = along(one), along(other)
    away = np.linalg.norm(a[:, None] - b[None], axis=2)
    return max(away.min(axis=1).max(), away.min(axis=0).max())


class BlankTest(unittest.TestCase):
    def test_within_half_a_millimetre_from_whatever_hand(self):
        """Tokens, keys, an offcut, on tables of other colours, up to 7 degrees off the perpendicular."""
        worst = 0.0
        cases = (
            (disc(75, 80, 50), (), STEEL, (0.0, 0.0), 0.0),
            (disc(75, 80, 28), (), STEEL, (0.1, -0.06), 0.7),
            (KEY, ((42, 78, 12),), STEEL, (-0.12, 0.05), -0.4),
            (KEY, ((42, 78, 12),), WOOD, (0.05, 0.12), 2.8),
            # What is large takes the pixels that phones have.
            (OFFCUT, (), WOOD, (0.03, 0.04), 0.2, (3600, 2700)),
            (OFFCUT, ((70, 80, 8), (130, 90, 4)), SLATE, (-0.04, -0.03), 1.6, (3600, 2700)),
        )
        for i, (outline, holes, colour, tilt, turn, *size) in enumerate(cases):
            with self.subTest(i):
                blank = read(taken(scene(outline, holes, colour), tilt, turn, i, *size))
                off = farthest(blank.corners + CARD_AT, outline)
                worst = max(worst, off)
                # What reaches far beyond the card is carried on from it.
                self.assertLess(off, 0.5 if outline is not OFFCUT else 0.75)
                self.assertEqual(len(blank.holes), len(holes))
                for hole in np.array(holes).reshape(-1, 3):
                    nearest = min((blank.holes + [*CARD_AT, 0] - hole).tolist(), key=np.linalg.norm)
                    self.assertLess(np.abs(nearest).max(), 0.5)
                self.assertLessEqual(len(blank.corners), 120)
        self.assertGreater(worst, 0.0)

    def test_what_is_not_told_from_the_ground_is_said(self):
        with self.assertRaisesRegex(InvalidInput, "told from the ground"):
            read(taken(scene(disc(75, 80, 50), piece=TABLE)))

    def test_a_piece_that_reaches_out_of_the_picture_is_none(self):
        whole = Image.open(io.BytesIO(taken(scene(KEY))))
        part = io.BytesIO()
        whole.crop((0, 0, 1280, whole.height)).save(part, "JPEG", quality=90)
        with self.assertRaisesRegex(InvalidInput, "whole into the picture"):
            read(part.getvalue())


if __name__ == "__main__":
    unittest.main()
