"""Thickness as people say it, against figures worked out by hand from the definitions."""

import unittest

from rezept.core.errors import InvalidInput
from rezept.core.thickness import awg_mm, grammage, read_thickness, steel_mm


class ThicknessTest(unittest.TestCase):
    def test_as_it_is_said(self):
        for text, mm in (
            ("3", 3.0),
            ("3 mm", 3.0),
            ("2,5mm", 2.5),
            ("1/8 in", 3.175),
            ('1/8"', 3.175),
            ("3/32 inch", 2.38125),
            ("1/4", 6.35),
            ("1 1/2 in", 38.1),
            ("1-1/2 in", 38.1),
            ("12 mil", 0.3048),
            ("40 thou", 1.016),
            # 40 oz are 2.5 lb to the square foot; 2.5 / 41.82 = 0.05978 in.
            ("16 ga steel", 1.5184),
            ("24 gauge stainless", 0.60736),
            # 0.005 x 92^(18/39) = 0.040303 in.
            ("18 awg", 1.02369),
            ("18 ga aluminium", 1.02369),
        ):
            with self.subTest(text):
                said = read_thickness(text)
                self.assertAlmostEqual(said.mm, mm, places=4)
                self.assertFalse(said.about)

    def test_the_weight_of_paper_says_about_how_thick(self):
        """80 lb cover: 80 x 453.59 g over 500 sheets of 0.33548 m2 are 216.3 g/m2, at 0.8 g/cm3 0.270 mm."""
        for text, mm in (("300 g/m2", 0.375), ("300gsm", 0.375), ("80 lb cover", 0.2704), ("20# bond", 0.0940)):
            with self.subTest(text):
                said = read_thickness(text)
                self.assertAlmostEqual(said.mm, mm, places=3)
                self.assertTrue(said.about)

    def test_pounds_of_each_kind(self):
        """By the basic sizes: 20 lb bond is 75 g/m2, 100 lb text 148, 110 lb index 199."""
        for pounds, kind, grammes in ((20, "bond", 75.2), (100, "text", 148.0), (110, "index", 198.9)):
            self.assertAlmostEqual(grammage(pounds, kind), grammes, delta=0.2)

    def test_known_points_of_the_gauges(self):
        """AWG 36 is 0.005 in by definition, and 0000 (n = -3) 0.46."""
        self.assertAlmostEqual(awg_mm(36), 0.127)
        self.assertAlmostEqual(awg_mm(-3), 0.46 * 25.4, places=6)
        self.assertAlmostEqual(steel_mm(20), 1.5 / 41.82 * 25.4)

    def test_what_does_not_say_enough(self):
        for text, said in (
            ("18 ga", "Say which: 18 ga steel, or 18 awg"),
            ("18 gauge tin", "another thickness for steel"),
            ("5 ga steel", "from 7 to 30"),
            ("80 lb", "kind of paper"),
            ("80 lb napkin", "kind of paper"),
            ("1/0 in", "parted by 0"),
            ("1/8 kg", "cannot be in"),
            ("thin", "not a number"),
        ):
            with self.subTest(text), self.assertRaisesRegex(InvalidInput, said) as refused:
                read_thickness(text, "thickness_mm")
            self.assertEqual(refused.exception.path, "thickness_mm")


if __name__ == "__main__":
    unittest.main()
