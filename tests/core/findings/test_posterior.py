"""Draws of a posterior, where all of it is known."""

import unittest

import numpy as np
from scipy.stats import norm

from rezept.core.findings.posterior import posterior

MEAN = np.array([1.0, -2.0, 0.5])
COVARIANCE = np.array([[0.5, 0.3, 0.0], [0.3, 0.4, -0.1], [0.0, -0.1, 0.2]])
PRECISION = np.linalg.inv(COVARIANCE)


def slope(at):
    off = at - MEAN
    return float(-0.5 * off @ PRECISION @ off), -PRECISION @ off


def density(places):
    off = places - MEAN
    return -0.5 * np.einsum("si,ij,sj->s", off, PRECISION, off)


class PosteriorTest(unittest.TestCase):
    def test_a_normal_one(self):
        found = posterior(slope, density, np.zeros(3), 400)
        np.testing.assert_allclose(found.mode, MEAN, atol=1e-3)
        np.testing.assert_allclose(found.draws.mean(axis=0), MEAN, atol=0.06)
        np.testing.assert_allclose(np.cov(found.draws.T), COVARIANCE, atol=0.09)
        self.assertGreater(found.worth, 200)

    def test_one_that_leans(self):
        """A skewed normal law: the mode is not the mean, and the draws know."""

        def lean_slope(at):
            x = float(at[0])
            return float(norm.logpdf(x) + norm.logcdf(4 * x)), np.array(
                [-x + 4 * np.exp(norm.logpdf(4 * x) - norm.logcdf(4 * x))]
            )

        found = posterior(lean_slope, lambda at: norm.logpdf(at[:, 0]) + norm.logcdf(4 * at[:, 0]), np.zeros(1), 400)
        # Its mean is d sqrt(2 / pi), d = 4 / sqrt(17).
        self.assertAlmostEqual(float(found.draws.mean()), 4 / np.sqrt(17) * np.sqrt(2 / np.pi), delta=0.03)
        self.assertLess(float(found.mode[0]), 0.6)

    def test_it_is_the_same_every_time(self):
        one, other = (posterior(slope, density, np.zeros(3), 50).draws for _ in range(2))
        np.testing.assert_array_equal(one, other)


if __name__ == "__main__":
    unittest.main()
