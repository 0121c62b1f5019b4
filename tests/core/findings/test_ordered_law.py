"""The law of cuts, against integrals and sums."""

import unittest

import numpy as np
from scipy import integrate
from scipy.special import expit
from scipy.stats import norm

from rezept.core.findings.ordered_law import LEVELS, level_bounds, score_share, share_of_fresh_sheets

THRESHOLDS = np.array([-0.3, -0.1, 0.0])


class ShareTest(unittest.TestCase):
    def test_the_levels_share_what_there_is(self):
        """Whatever the dose, one of the four levels comes out."""
        for dose in (-2.0, -0.11, 0.0, 0.4):
            low, high = level_bounds(np.arange(LEVELS, dtype=float), THRESHOLDS)
            shares, _, _ = score_share(dose, low, high, 0.05)
            self.assertAlmostEqual(float(shares.sum()), 1.0, places=12)

    def test_at_a_threshold_half_of_the_patches_reach_it(self):
        low, high = level_bounds(np.array([3.0]), THRESHOLDS)
        share, _, _ = score_share(0.0, low, high, 0.05)
        self.assertAlmostEqual(float(share[0]), 0.5, places=12)

    def test_far_away_nothing_overflows(self):
        low, high = level_bounds(np.array([0.0, 3.0]), THRESHOLDS)
        with np.errstate(all="raise", under="ignore"):
            shares, _, _ = score_share(9.0, low, high, 0.001)
        self.assertTrue((shares > 0).all())
        self.assertAlmostEqual(float(shares[1]), 1.0)


class FreshSheetTest(unittest.TestCase):
    def test_the_mean_over_sheets_is_the_integral(self):
        """Whether sheets differ more than patches or less."""
        for scale, tau in ((0.03, 0.07), (0.005, 0.12), (0.08, 0.02)):
            for margin in (-0.1, 0.0, 0.05, 0.2):
                whole, _ = integrate.quad(
                    lambda lot, m=margin, s=scale, t=tau: expit((m + lot) / s) * norm.pdf(lot, 0, t),
                    -8 * tau, 8 * tau, points=[-margin], limit=400,
                )  # fmt: skip
                found = float(share_of_fresh_sheets(np.array([margin]), scale, tau)[0])
                self.assertAlmostEqual(found, whole, delta=2e-4)

    def test_it_rises_with_the_margin(self):
        shares = share_of_fresh_sheets(np.linspace(-0.5, 0.5, 200), 0.03, 0.07)
        self.assertTrue((np.diff(shares) > 0).all())


if __name__ == "__main__":
    unittest.main()
