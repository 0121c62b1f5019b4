"""The reference card: its steps, and the curve they give away."""

import unittest

import numpy as np

from rezept.core.colour import linear_to_srgb
from rezept.core.photo.card import (
    HEIGHT_MM,
    PAPER,
    STEPS,
    WIDTH_MM,
    card_reflectance,
    code_mm,
    read_card,
    steps_mm,
)

SCALE = 10.0
NO_CODE = np.zeros((21, 21), bool)


def pictured(bend=0.0, exposure=1.0, slope=0.0, warm=0.0):
    """The card straight from above, as a camera has it that bends its tones: ``x + bend (3 x^2 - 2 x^3 - x)``."""
    light = card_reflectance(NO_CODE, SCALE)[..., None] * np.array([1 + warm, 1.0, 1 - warm]) * exposure
    light = light * (1 + slope * np.linspace(-1, 1, light.shape[1]))[None, :, None]
    x = linear_to_srgb(np.clip(light, 0, 1).astype(float))
    return np.round(255 * (x + bend * (x * x * (3 - 2 * x) - x))).astype(np.uint8)


def corners():
    mm = code_mm()
    return np.column_stack([mm[:, 0] * SCALE - 0.5, (HEIGHT_MM - mm[:, 1]) * SCALE - 0.5])


class StepsTest(unittest.TestCase):
    def test_they_lie_on_the_card_and_not_on_one_another(self):
        boxes = sorted(steps_mm())
        self.assertEqual(len(boxes), 2 * len(STEPS))
        for (left, low, wide, high), after in zip(boxes, [*boxes[1:], (WIDTH_MM, 0, 0, 0)], strict=True):
            self.assertLessEqual(left + wide, after[0] + 1e-9)
            self.assertTrue(left > 0 and low > 0 and low + high < HEIGHT_MM)

    def test_drawn_as_they_are_said_to_be(self):
        card = card_reflectance(NO_CODE, SCALE)
        self.assertEqual(card.shape, (HEIGHT_MM * SCALE, WIDTH_MM * SCALE))
        for (left, low, wide, high), share in zip(steps_mm(), STEPS * 2, strict=True):
            row, column = int((HEIGHT_MM - low - high / 2) * SCALE), int((left + wide / 2) * SCALE)
            self.assertAlmostEqual(float(card[row, column]), share, places=6)
        self.assertAlmostEqual(float(card[2, 2]), PAPER, places=6)


class CurveTest(unittest.TestCase):
    def ratio_errors(self, read, **how):
        """How far ratios between greys come out wrong, over all greys a plate may show."""
        shares = np.linspace(0.05, 0.7, 40)
        x = linear_to_srgb(shares * how.get("exposure", 1.0))
        bend = how.get("bend", 0.0)
        value = np.round(255 * (x + bend * (x * x * (3 - 2 * x) - x))).astype(int)
        light = read.curve[value, 1]
        return np.abs(light / light[-1] / (shares / shares[-1]) - 1)

    def test_ratios_come_out_right_whatever_the_camera_bends(self):
        for how in ({}, {"bend": 0.25}, {"bend": 0.25, "exposure": 0.8}, {"bend": -0.1, "exposure": 0.9},
                    {"bend": 0.25, "slope": 0.12}):  # fmt: skip
            with self.subTest(how):
                read = read_card(pictured(**how), corners())
                self.assertIsNotNone(read)
                # 3 % of the light are 0.7 L* of a dark grey; an 8-bit step alone is 2 % there.
                self.assertLess(np.percentile(self.ratio_errors(read, **how), 90), 0.035)
        bent = np.abs(self.ratio_errors(read_card(pictured(), corners()), bend=0.25))
        self.assertGreater(np.percentile(bent, 90), 0.1, "without the right card it would be far off")

    def test_the_colour_of_the_light_is_undone(self):
        read = read_card(pictured(warm=0.1), corners())
        grey = pictured(warm=0.1)[int(HEIGHT_MM / 2 * SCALE), int((WIDTH_MM / 2 - 12) * SCALE)]
        light = [float(read.curve[value, channel]) for channel, value in enumerate(grey)]
        self.assertLess(max(light) / min(light), 1.04)

    def test_a_card_that_cannot_be_trusted_is_none(self):
        over = pictured(exposure=1.6)
        self.assertIsNone(read_card(over, corners()), "its white is clipped")
        self.assertIsNone(read_card(pictured()[:, : int(60 * SCALE)], corners()), "half of it is missing")
        covered = pictured()
        covered[:, : int(30 * SCALE)] = 120
        self.assertIsNone(read_card(covered, corners()), "something lies on it")


if __name__ == "__main__":
    unittest.main()
