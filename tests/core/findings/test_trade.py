"""What it costs to be faster, in words: and where one dose stops being enough, or chars."""

import unittest

import numpy as np

from rezept.core.findings.decision import CUT_AIMS, decide
from rezept.core.findings.trade import trade_of
from tests.core.findings.test_decision import AXES, burned, chosen


class TradeTest(unittest.TestCase):
    def said(self, char=None, axes=None):
        others = None
        if char is not None:
            plate, _ = burned(axes=axes)
            speed = plate.judged.settings["speed_mm_s"]
            others = {"char": dict(zip(plate.elements.ids, char(speed).tolist(), strict=True))}
        plate, seen = burned(others=others, axes=axes)
        decision = decide(seen, plate.trial.machine, aims=CUT_AIMS)
        trade = trade_of(decision.aims, chosen(decision, "fastest"))
        return None if trade is None else trade.words

    def test_equal_dose_costs_as_much_power_as_it_gains_speed(self):
        words = self.said()
        self.assertRegex(words, r"12 % faster needs 1[0-4] % more power, up to Wren's ceiling, 85 % at \d+(\.\d)? mm/s")
        self.assertIn("settings of one dose come out alike", words)

    def test_where_slow_moves_char_the_same_dose_does(self):
        """Two degrees of char up to 12 mm/s, none from 16 on."""
        words = self.said(lambda speed: np.where(speed <= 12, 2.0, 0.0))
        self.assertRegex(words, r"Below 1[1-6](\.\d)? mm/s the same dose chars\.")
        self.assertNotIn("alike", words)

    def test_char_that_is_the_same_everywhere_is_no_matter_of_speed(self):
        self.assertNotIn("chars", self.said(lambda speed: np.ones(len(speed))))

    def test_one_power_tells_nothing_of_what_another_costs(self):
        self.assertIsNone(self.said(axes=[AXES[0], {**AXES[1], "values": [55]}]))


if __name__ == "__main__":
    unittest.main()
