"""Screen colours and CIELAB, against figures that can be looked up."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from rezept.core.colour import lab_to_srgb, read_hex, srgb_to_lab, write_hex
from rezept.core.errors import InvalidInput


class ColourTest(unittest.TestCase):
    def test_the_corners_of_the_screen(self):
        """White, black and the primaries of sRGB as published for D65, 2 degrees."""
        cases = {
            (1, 1, 1): (100, 0, 0), (0, 0, 0): (0, 0, 0), (1, 0, 0): (53.24, 80.09, 67.20),
            (0, 1, 0): (87.73, -86.18, 83.18), (0, 0, 1): (32.30, 79.19, -107.86),
        }  # fmt: skip
        for srgb, lab in cases.items():
            assert_allclose(srgb_to_lab(srgb), lab, atol=0.02)

    @given(st.integers(0, 2**24 - 1))
    def test_there_and_back(self, number):
        text = f"#{number:06x}"
        back = write_hex(read_hex(text))
        pairs = zip(bytes.fromhex(text[1:]), bytes.fromhex(back[1:]), strict=True)
        self.assertLessEqual(max(abs(a - b) for a, b in pairs), 1)

    def test_arrays_keep_their_shape(self):
        self.assertEqual(lab_to_srgb(np.full((4, 5, 3), 50.0)).shape, (4, 5, 3))

    def test_what_is_no_colour(self):
        for text in ("red", "#12345", "#12345g", "123456"):
            with self.assertRaises(InvalidInput):
                read_hex(text)


if __name__ == "__main__":
    unittest.main()
