"""What is to be expected of a choice, in figures that agree with each other."""

import unittest

import numpy as np

from rezept.core.findings.candidates import expected_share


class ExpectedTest(unittest.TestCase):
    def test_the_mean_and_the_middle_eighty(self):
        """The draws 0.00 to 1.00 in hundredths: mean 0.5, and 80 in 100 between 0.1 and 0.9."""
        value, low, high = expected_share(np.linspace(0, 1, 101))
        np.testing.assert_allclose((value, low, high), (0.5, 0.1, 0.9))

    def test_no_figure_lies_outside_its_own_bounds(self):
        """95 draws that surely hold and five that hardly do: the middle alone would say 100 to 100."""
        shares = np.array([1.0] * 95 + [0.2] * 5)
        value, low, high = expected_share(shares)
        np.testing.assert_allclose((value, low, high), (0.96, 0.96, 1.0))
        mirrored = expected_share(1 - shares)
        np.testing.assert_allclose(mirrored, (0.04, 0.0, 0.04))

    def test_draws_that_taps_have_weighed(self):
        """The same draws with the weight on the five."""
        shares = np.array([1.0] * 95 + [0.2] * 5)
        weights = np.array([0.5 / 95] * 95 + [0.5 / 5] * 5)
        value, low, high = expected_share(shares, weights)
        np.testing.assert_allclose(value, 0.6)
        np.testing.assert_allclose((low, high), (0.2, 1.0), atol=1e-9)

    def test_of_many_settings_at_once(self):
        shares = np.column_stack([np.linspace(0, 1, 101), np.ones(101)])
        np.testing.assert_allclose(np.array(expected_share(shares)), [[0.5, 1], [0.1, 1], [0.9, 1]])


if __name__ == "__main__":
    unittest.main()
