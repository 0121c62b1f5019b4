"""Where a head stands: worked examples, the sign of the offset, and what an uneven top costs."""

import math
import unittest

from rezept.core.stand_off import HEIGHT_BY, focus_cost, stand_off


class StandOffTest(unittest.TestCase):
    def test_one_recipe_on_three_pieces_of_three_heights(self):
        """Focus 2 mm above the surface; the scale shows 228 in focus on the bed."""
        for rise, to in ((1.5, "231.5"), (0.8, "230.8"), (12.0, "242")):
            found = stand_off("scale", 228.0, rise, 2.0)
            self.assertIn(f"Set the scale to {to} mm", found.words)
            self.assertIn(f"the piece rises {rise:g} mm, and the focus lies 2 mm above its surface", found.words)
            self.assertAlmostEqual(found.set_mm, float(to))
            self.assertAlmostEqual(found.focus_mm, rise + 2)

    def test_a_head_stands_higher_for_a_focus_above_and_lower_for_one_below(self):
        for by in ("scale", "ruler", "entered"):
            heights = [stand_off(by, 50.0, 3.0, offset).set_mm for offset in (-2.0, 0.0, 2.0)]
            self.assertEqual([round(one - heights[1], 6) for one in heights], [-2, 0, 2])
        # A spacer measures from the surface; what comes after it says the way.
        self.assertIn("raise the head by 2 mm: the focus lies 2 mm above", stand_off("spacer", 6.0, 3.0, 2.0).words)
        self.assertIn("lower the head by 2 mm: the focus lies 2 mm below", stand_off("spacer", 6.0, 3.0, -2.0).words)
        self.assertIn("on its surface", stand_off("spacer", 6.0, None, 0.0).words)
        # The drawing measures from where the head stands in the end.
        self.assertEqual([stand_off("spacer", 6.0, 3.0, offset).set_mm for offset in (-2.0, 0.0, 2.0)], [4, 6, 8])

    def test_each_way_of_setting_it_has_its_own_words(self):
        words = {by: stand_off(by, 7.0, 3.0, 0.0).words for by in HEIGHT_BY}
        self.assertIn("Set the scale to 10 mm", words["scale"])
        self.assertIn("spacer of 7 mm just fits", words["spacer"])
        self.assertIn("ruler touches the piece at 7 mm", words["ruler"])
        self.assertIn("Enter 10 mm: it counts from 7 mm", words["entered"])
        self.assertIn("Enter 3 mm: the piece rises 3 mm", stand_off("entered", None, 3.0, 0.0).words)

    def test_what_is_not_known_is_said_and_what_would_touch_is_no_height(self):
        self.assertIn("say it in the Shop", stand_off(None, None, 3.0, 0.0).words)
        self.assertIn("nobody has said", stand_off("scale", None, 3.0, 0.0).words)
        self.assertIn("measure it", stand_off("scale", 228.0, None, 0.0).words)
        for by in ("ruler", "spacer"):
            found = stand_off(by, 5.0, 3.0, -5.0)
            self.assertIn("would touch the piece", found.words)
            self.assertIsNone(found.set_mm)


class CostTest(unittest.TestCase):
    def test_an_uneven_top_costs_energy_at_its_ends(self):
        """CO2, 0.1 mm, M2 1.2: zR is pi 0.01 / (4 x 1.2 x 0.0106) = 0.617 mm. 1.2 mm uneven is 0.6 at the ends."""
        zr = math.pi * 0.1**2 / (4 * 1.2 * 10_600e-6)
        grown = math.sqrt(1 + (0.6 / zr) ** 2)
        words = focus_cost("tapered", 1.2, 0.1, 10_600.0, 1.2)
        self.assertIn("0.6 mm out of focus", words)
        self.assertIn(f"{0.1 * grown:.3f}".rstrip("0"), words)
        self.assertIn(f"{round(100 / grown**2)} % of the energy", words)

    def test_what_costs_nothing_says_so(self):
        self.assertEqual(focus_cost("level", None, 0.1, 10_600.0, None), "")
        self.assertIn("costs nothing", focus_cost("round", 0.02, 0.2, 10_600.0, None))
        self.assertIn("say by how much", focus_cost("round", None, 0.2, 10_600.0, None))
        self.assertIn("nobody has said", focus_cost("tilted", 1.0, None, 10_600.0, None))


if __name__ == "__main__":
    unittest.main()
