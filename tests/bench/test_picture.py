"""Photographs drawn for the demo: the right face, the right places, the same each time."""

import io
import unittest

import numpy as np
from PIL import Image

from rezept.bench.picture import AROUND_MM, PX_PER_MM, Spot, photograph

COLOURS = {"ground": (0.85, 0.75, 0.60), "mark": (0.15, 0.10, 0.08)}


def seen(data: bytes) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(data)).convert("L"), float) / 255


def at(image: np.ndarray, x_mm: float, y_mm: float, height_mm: float) -> float:
    """Mean lightness around a place on the plate; the hand's turn of a degree and a half is small near the middle."""
    column, row = (AROUND_MM + x_mm) * PX_PER_MM, (AROUND_MM + height_mm - y_mm) * PX_PER_MM
    r = int(PX_PER_MM)
    return float(image[int(row) - r : int(row) + r, int(column) - r : int(column) + r].mean())


class MarkTest(unittest.TestCase):
    """Two filled patches side by side, one black and one faint."""

    spots = (Spot(5, 10, 10, 10, None, 5), Spot(25, 10, 10, 10, None, 1))

    def photo(self, face="front", seed=1):
        return seen(photograph(40, 30, self.spots, COLOURS, face, seed))

    def test_darker_is_darker(self):
        image = self.photo()
        black, faint, bare = at(image, 10, 15, 30), at(image, 30, 15, 30), at(image, 20, 25, 30)
        self.assertLess(black, faint - 0.2)
        self.assertLess(faint, bare - 0.03)

    def test_a_surface_mark_is_not_seen_from_the_back(self):
        image = self.photo("back")
        self.assertAlmostEqual(at(image, 10, 15, 30), at(image, 30, 15, 30), delta=0.08)

    def test_the_same_seed_is_the_same_picture(self):
        draw = [photograph(40, 30, self.spots, COLOURS, "front", seed) for seed in (1, 1, 2)]
        self.assertEqual(draw[0], draw[1])
        self.assertNotEqual(draw[0], draw[2])

    def test_it_is_a_jpeg_of_the_whole_plate_and_some_table(self):
        image = Image.open(io.BytesIO(photograph(40, 30, self.spots, COLOURS, "front", 1)))
        self.assertEqual(image.format, "JPEG")
        self.assertAlmostEqual(image.width / image.height, (40 + 2 * AROUND_MM) / (30 + 2 * AROUND_MM), delta=0.02)


class CutTest(unittest.TestCase):
    """One patch cut through and one not, side by side."""

    spots = (Spot(5, 10, 10, 10, 3, None), Spot(25, 10, 10, 10, 0, None))

    def test_what_drops_out_leaves_a_hole_and_the_back_is_mirrored(self):
        front = seen(photograph(40, 30, self.spots, COLOURS, "front", 4))
        back = seen(photograph(40, 30, self.spots, COLOURS, "back", 4))
        self.assertLess(at(front, 10, 15, 30), at(front, 30, 15, 30) - 0.3)
        self.assertLess(at(back, 30, 15, 30), at(back, 10, 15, 30) - 0.3)

    def test_char_darkens_around_the_cut(self):
        calm = seen(photograph(40, 30, self.spots, COLOURS, "front", 4))
        charred = (Spot(5, 10, 10, 10, 3, None, 3), self.spots[1])
        image = seen(photograph(40, 30, charred, COLOURS, "front", 4))
        self.assertLess(at(image, 16, 15, 30), at(calm, 16, 15, 30) - 0.05)


if __name__ == "__main__":
    unittest.main()
