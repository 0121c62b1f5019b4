"""A short ladder: as many steps as tell something, find room, and are worth typing."""

import math
import unittest

from rezept.core.begin.ladder import ladder_steps, why_ladder_first
from rezept.core.plan.chosen import Span


def span(low, high):
    return Span(low, high, "geometric")


class StepsTest(unittest.TestCase):
    def test_neighbours_lie_as_far_apart_as_patches_scatter(self):
        """4 : 1 in steps of at most 1.25: ln 4 / ln 1.25 is 6.2, so seven gaps and eight steps."""
        self.assertEqual(ladder_steps(span(4, 16), False, None), 8)
        self.assertEqual(ladder_steps(span(16, 4), False, None), 8)
        self.assertEqual(ladder_steps(span(4, 8), False, None), 5)
        for ratio in (1.3, 2.0, 3.0, 5.0, 20.0):
            steps = ladder_steps(span(1, ratio), False, None)
            self.assertTrue(4 <= steps <= 9)
            if steps < 9:
                self.assertLessEqual(math.log(ratio) / (steps - 1), math.log(1.25) + 1e-9)

    def test_typing_and_scrap_take_steps_away(self):
        self.assertEqual(ladder_steps(span(4, 16), True, None), 6)
        self.assertEqual(ladder_steps(span(4, 16), False, 5), 5)
        self.assertEqual(ladder_steps(span(4, 16), True, 20), 6)
        self.assertEqual(ladder_steps(span(4, 16), False, 1), 2)

    def test_why(self):
        self.assertEqual(why_ladder_first(False, "Birch", False), "")
        self.assertIn("typed", why_ladder_first(True, "Birch", False))
        self.assertIn("Birch is known in another thickness", why_ladder_first(True, "Birch", True))


if __name__ == "__main__":
    unittest.main()
