"""Depth pass by pass: laws that were made up, of the model's form and of another, are found again."""

import math
import unittest

import numpy as np

from rezept.core.findings.depth_law import cleaning_words, fit_depth, pass_words, way_words


def bent(first, reach, passes):
    """What follows from ``d' = a / (1 + d / R)``, by small steps."""
    depth, steps = 0.0, 2000
    for _ in range(round(passes * steps)):
        depth += first / steps / (1 + depth / reach)
    return depth


class LawTest(unittest.TestCase):
    def test_depths_of_a_known_law_without_noise(self):
        dose = np.repeat([0.8, 1.6], 4)
        passes = np.tile([1.0, 2.0, 4.0, 8.0], 2)
        depth = np.array([bent(0.1 * (f - 0.3), 0.6, n) for f, n in zip(dose, passes, strict=True)])
        law = fit_depth(dose, passes, depth)
        first = law.first_pass_mm(1.6)
        self.assertAlmostEqual(first.value, 0.13, delta=0.01)
        self.assertLess(first.low, 0.13)
        self.assertGreater(first.high, 0.13)
        self.assertAlmostEqual(law.half_at_mm, 0.6, delta=0.3)
        # Well past what was read: the same law, by small steps.
        truth = bent(0.13, 0.6, 16)
        self.assertAlmostEqual(law.depth_mm(1.6, 16).value, truth, delta=0.08 * truth)
        passes_to = law.passes_to(truth, 1.6)
        self.assertLessEqual(abs(passes_to.value - 16), 2)
        self.assertLessEqual(passes_to.low, 16)
        self.assertGreaterEqual(passes_to.high, 16)

    def test_its_bounds_hold_as_often_as_they_say_under_a_law_of_another_form(self):
        """Truth saturates, ``D (1 - exp(-a n / D))``, which the model cannot say; readings are off by a tenth."""
        random = np.random.default_rng(8)
        inside, errors = [], []
        for _ in range(200):
            full, rate = random.uniform(0.6, 3.0), random.uniform(0.04, 0.2)
            passes = np.array([1.0, 2.0, 3.0, 5.0, 8.0])
            dose = np.full(5, 1.0)
            true = full * (1 - np.exp(-rate * passes / full))
            read = true * (1 + random.normal(0, 0.08, 5)) + random.normal(0, 0.01, 5)
            law = fit_depth(dose, passes, np.maximum(read, 0.005))
            wanted = full * (1 - math.exp(-rate * 6 / full))
            expected = law.depth_mm(1.0, 6.0)
            inside.append(expected.low <= wanted <= expected.high)
            errors.append(abs(expected.value / wanted - 1))
        self.assertGreater(np.mean(inside), 0.7)
        self.assertLess(np.median(errors), 0.06)

    def test_where_nothing_falls_off_it_says_so(self):
        passes = np.array([1.0, 3.0, 6.0, 10.0])
        law = fit_depth(np.ones(4), passes, 0.05 * passes)
        self.assertIsNone(law.half_at_mm)
        self.assertIsNone(law.cleaning(0.5, 1.0))
        # Eight if it is just straight, one more if it bends as little as cannot be told.
        self.assertIn(law.passes_to(0.4, 1.0).value, (8, 9))
        self.assertIn("and the next as much as far as 0.5 mm", pass_words(law, 1.0))
        self.assertIn("saves nothing", cleaning_words(law, 0.4, 1.0))

    def test_too_little_says_nothing(self):
        nothing = np.array([np.nan, np.nan, 0.1, 0.2])
        self.assertIsNone(fit_depth(np.ones(4), np.arange(1.0, 5.0), nothing))
        self.assertIsNone(fit_depth(np.ones(4), np.arange(1.0, 5.0), np.zeros(4)))

    def test_a_dose_below_the_threshold_gets_nowhere(self):
        dose = np.array([1.0, 1.5, 2.0, 3.0])
        law = fit_depth(dose, np.full(4, 4.0), 0.2 * (dose - 0.9))
        self.assertIsNone(law.passes_to(0.5, 0.2))
        self.assertIn("out of reach", way_words(law, 0.5, 0.2, 1.0, "100 mm²"))

    def test_when_cleaning_pays(self):
        """First passes of 0.1 mm that halve at 0.2 mm: 0.6 mm takes 15 alone, and six without any fall-off."""
        passes = np.array([1.0, 2.0, 4.0, 8.0, 12.0])
        depth = np.array([bent(0.1, 0.2, n) for n in passes])
        law = fit_depth(np.ones(5), passes, depth)
        cleaning = law.cleaning(0.6, 1.0)
        # By hand, whole passes: d + d2 / 0.4 = 0.1 n. Alone 0.6 mm takes 15; in two rounds of 0.3 mm 6 each (5.25): 3
        # saved by one cleaning; in three of 0.2 mm 3 each: 6 saved by two; in four of 0.15 mm 3 each (2.06): 1.
        alone = law.passes_to(0.6, 1.0).value
        self.assertIn(alone, (15, 16))
        self.assertEqual((cleaning.every, cleaning.worth), (6, alone - 12))
        self.assertIn("bulk and clean in rounds", cleaning_words(law, 0.6, 1.0))
        # Fifteen by small steps, give or take one.
        self.assertRegex(
            way_words(law, 0.6, 1.0, 10.0, "100 mm²"), r"^0\.6 mm takes 1[456] passes .* min of beam for 100"
        )


if __name__ == "__main__":
    unittest.main()
