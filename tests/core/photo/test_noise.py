"""Medians by sorting are those of the library, whatever is not a number."""

import unittest

import numpy as np

from rezept.core.photo.noise import known_median, median, sigma_of


class MedianTest(unittest.TestCase):
    def test_along_any_axes_it_is_the_library_s(self):
        values = np.random.default_rng(3).standard_normal((3, 4, 5, 6))
        for axes in ((0,), (1, 3), (-1,), (0, 2, 3)):
            with self.subTest(axes):
                np.testing.assert_allclose(median(values, axes), np.median(values, axis=axes))
        self.assertEqual(float(median(values)), float(np.median(values)))

    def test_a_row_without_what_is_not_a_number(self):
        nan = np.nan
        rows = np.array([[3.0, nan, 1.0, 8.0], [nan, nan, nan, nan], [5.0, 4.0, nan, nan], [1.0, 2.0, 3.0, 4.0]])
        np.testing.assert_array_equal(known_median(rows), [3.0, nan, 4.5, 2.5])

    def test_one_wild_value_does_not_make_noise(self):
        noise = np.random.default_rng(4).normal(0, 2.0, 20001)
        noise[:2000] = 1e6
        self.assertAlmostEqual(float(sigma_of(noise)), 2.0, delta=0.35)


if __name__ == "__main__":
    unittest.main()
