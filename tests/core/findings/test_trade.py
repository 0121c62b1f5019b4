"""What it costs to be faster, in words: and where one dose stops being enough, or chars."""

import unittest

import numpy as np

from rezept.core.findings.choices import Wanted
from rezept.core.findings.decision import ORDERED_AIMS, decide
from rezept.core.findings.observations import observations_of
from rezept.core.findings.trade import trade_of, trade_of_mark
from tests.core.findings.test_decision import AXES, burned, chosen
from tests.made import area_document, planned


class TradeTest(unittest.TestCase):
    def said(self, char=None, axes=None):
        others = None
        if char is not None:
            plate, _ = burned(axes=axes)
            speed = plate.judged.settings["speed_mm_s"]
            others = {"char": dict(zip(plate.elements.ids, char(speed).tolist(), strict=True))}
        plate, seen = burned(others=others, axes=axes)
        decision = decide(seen, plate.trial.machine, aims=ORDERED_AIMS)
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


class MarkTradeTest(unittest.TestCase):
    """An engraving whose lightness falls by 20 with each doubling of what is called its dose."""

    def said(self, dose):
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "values": [60, 85, 120, 170, 240]},
            {"parameter": "power_pct", "along": "y", "values": [20, 28, 40, 56]},
        ]
        plate = planned(area_document(axes=axes, hold={"line_spacing_mm": 0.1}))
        lightness = (55 - 20 * np.log2(dose(plate.judged.settings))).tolist()
        others = {"lightness": dict(zip(plate.elements.ids, lightness, strict=True))}
        seen = observations_of(plate, {}, others=others)
        decision = decide(
            seen, plate.trial.machine, aims=("darkness",), ground=90.0, wanted=Wanted(lightness=50.0)
        )  # fmt: skip
        return trade_of_mark(decision.aims, decision.candidates[0]).words

    def test_by_equal_dose(self):
        words = self.said(lambda s: s["power_pct"] / 33 * 120 / s["speed_mm_s"])
        self.assertRegex(words, r"^For the same shade 12 % faster needs 1[1-4] % more power, up to")
        self.assertIn("settings of one dose come out alike", words)

    def test_power_that_counts_twice_needs_half_as_much_more(self):
        """Twice the power for four times the speed: 12 % faster needs 6 % more; the weak end stays lighter."""
        words = self.said(lambda s: (s["power_pct"] / 33) ** 2 * 120 / s["speed_mm_s"])
        self.assertRegex(words, r"12 % faster needs [5-7] % more power")
        self.assertRegex(words, r"Below \d+(\.\d)? % and \d+(\.\d)? mm/s the same dose comes out lighter\.")


if __name__ == "__main__":
    unittest.main()
