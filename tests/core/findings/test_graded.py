"""Graded outcomes: curves that turn, strange readings, sheets."""

import unittest

import numpy as np

from rezept.core.findings.coding import Coding
from rezept.core.findings.graded import STRANGE, fit_graded

POWER, SPEED = (one.ravel() for one in np.meshgrid(np.linspace(20, 80, 5), np.geomspace(100, 400, 5)))
SETTINGS = {"power_pct": POWER, "speed_mm_s": SPEED}
CODING = Coding(("power_pct", "speed_mm_s"), np.array([np.log(45), np.log(200)]), np.ones(2))
DOSE = np.log(POWER / 45) - np.log(SPEED / 200)


def turning(dose):
    """Darkens up to a dose, then turns to ash."""
    return 80 - 50 * np.exp(-((dose - 0.3) ** 2) / 0.5)


def fitted(values, lot=None, low=0.0, high=100.0, unsure=None):
    lot = np.zeros(len(values), np.int64) if lot is None else lot
    unsure = np.zeros(len(values)) if unsure is None else unsure
    return fit_graded(SETTINGS, CODING, values, lot, np.full(len(lot), -1), unsure, low=low, high=high)


class CurveTest(unittest.TestCase):
    def test_it_may_turn(self):
        model = fitted(turning(DOSE) + 0.5 * np.random.default_rng(1).standard_normal(25))
        for dose in (-0.8, 0.0, 0.3, 0.9):
            at = {"power_pct": np.array([45 * np.exp(dose)]), "speed_mm_s": np.array([200.0])}
            expected = model.expected(at)
            self.assertAlmostEqual(float(expected.mean[0]), float(turning(dose)), delta=max(4, 2 * expected.fresh[0]))
        best = model.expected({"power_pct": np.linspace(20, 80, 61), "speed_mm_s": np.full(61, 200.0)}).mean
        self.assertTrue(0 < int(np.argmin(best)) < 60)

    def test_where_nothing_was_burned_it_is_unsure(self):
        model = fitted(turning(DOSE))
        near, far = ({"power_pct": np.array([power]), "speed_mm_s": np.array([200.0])} for power in (45.0, 450.0))
        self.assertGreater(float(model.expected(far).unsure[0]), 4 * float(model.expected(near).unsure[0]))

    def test_a_steep_place_differs_most_between_sheets(self):
        model = fitted(turning(DOSE))
        steep, flat = ({"power_pct": np.array([45 * np.exp(d)]), "speed_mm_s": np.array([200.0])} for d in (-0.3, 0.3))
        self.assertGreater(float(model.expected(steep).sheets[0]), 3 * float(model.expected(flat).sheets[0]))

    def test_it_stays_within_what_can_be(self):
        char = np.clip(1.5 + 2 * DOSE, 0, 3)
        expected = fitted(char, high=3.0).expected({"power_pct": np.array([1e4]), "speed_mm_s": np.array([1.0])})
        self.assertLessEqual(float(expected.mean[0]), 3.0)

    def test_one_value_everywhere(self):
        expected = fitted(np.zeros(25), high=3.0).expected(SETTINGS)
        np.testing.assert_allclose(expected.mean, 0.0, atol=0.05)


class UnsureTest(unittest.TestCase):
    """Every other reading by an eye that is 6 L* off."""

    def setUp(self):
        chance = np.random.default_rng(7)
        self.eye = np.arange(25) % 2 == 1
        self.values = turning(DOSE) + np.where(self.eye, 6.0, 0.5) * chance.standard_normal(25)

    def off(self, model):
        return float(np.sqrt(np.mean((model.expected(SETTINGS).mean - turning(DOSE)) ** 2)))

    def test_who_is_unsure_counts_for_less(self):
        told, untold = fitted(self.values, unsure=np.where(self.eye, 6.0, 0.0)), fitted(self.values)
        self.assertLess(self.off(told), 0.7 * self.off(untold))

    def test_a_fresh_patch_is_not_as_unsure_as_an_eye(self):
        """What patches scatter by is what is left when the reading's own doubt is taken off."""
        told, untold = (
            fitted(turning(DOSE) + 6 * np.random.default_rng(3).standard_normal(25), unsure=np.full(25, off))
            for off in (6.0, 0.0)
        )
        at = {"power_pct": np.array([45.0]), "speed_mm_s": np.array([200.0])}
        self.assertLess(float(told.expected(at).patches[0]), 0.7 * float(untold.expected(at).patches[0]))


class StrangeTest(unittest.TestCase):
    def test_a_strange_reading_is_named_and_counts_for_little(self):
        values = turning(DOSE) + 0.5 * np.random.default_rng(2).standard_normal(25)
        odd = values.copy()
        odd[12] += 30
        model, plain = fitted(odd), fitted(values)
        self.assertEqual(np.flatnonzero(model.strange > STRANGE).tolist(), [12])
        at = {"power_pct": POWER[[12]], "speed_mm_s": SPEED[[12]]}
        self.assertAlmostEqual(float(model.expected(at).mean[0]), float(plain.expected(at).mean[0]), delta=3.0)

    def test_nothing_is_strange_about_an_even_plate(self):
        values = turning(DOSE) + 0.8 * np.random.default_rng(3).standard_normal(25)
        self.assertLess(float(fitted(values).strange.max()), STRANGE)


if __name__ == "__main__":
    unittest.main()
