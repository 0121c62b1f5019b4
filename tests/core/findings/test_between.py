"""The finer array between two patches."""

import unittest

from rezept.core.errors import InvalidInput
from rezept.core.findings.between import between
from tests.made import POWER, SPEED, planned, trial_document


class BetweenTest(unittest.TestCase):
    def finer(self, failed, worked, document=None):
        plate = planned(document or trial_document())
        axes, hold = between(plate, failed, worked)
        base = plate.trial.document()
        return planned({**base, "axes": axes, "hold": hold, "defaulted": []}), plate

    def test_one_setting_becomes_a_ladder(self):
        """B3 at 24 mm/s failed, B2 at 16 worked, both at 55 %: seven even steps from 24 down to 16."""
        finer, _ = self.finer("B3", "B2")
        self.assertEqual(len(finer.elements.ids), 7)
        speeds = finer.judged.settings["speed_mm_s"].tolist()
        self.assertEqual((speeds[0], speeds[-1]), (24, 16))
        self.assertAlmostEqual(speeds[1], 24 - 8 / 6)
        self.assertEqual(set(finer.judged.settings["power_pct"].tolist()), {55})

    def test_two_settings_become_a_grid(self):
        finer, plate = self.finer("A4", "C1")
        self.assertEqual(len(finer.elements.ids), 25)
        speed = finer.judged.settings["speed_mm_s"]
        self.assertEqual({speed.min(), speed.max()}, {8, 32})
        ends = {plate.judged.dose[plate.elements.ids.index("A4")], plate.judged.dose[plate.elements.ids.index("C1")]}
        self.assertEqual({finer.judged.dose.min(), finer.judged.dose.max()}, ends)

    def test_what_is_counted_goes_in_whole_steps(self):
        for last, expected in ((3, [1, 2, 3]), (20, [1, 4, 7, 10, 14, 17, 20])):
            axes = [{"parameter": "passes", "along": "x", "values": [1, last]}]
            document = trial_document(axes=axes, hold={"speed_mm_s": 20, "power_pct": 50})
            finer, _ = self.finer("A1", "A2", document)
            self.assertEqual(finer.judged.settings["passes"].tolist(), expected)

    def test_what_cannot_be(self):
        plate = planned(trial_document(axes=[{**SPEED, "count": 2}, POWER], overrides={"A2": {"speed_mm_s": 8}}))
        for failed, worked, words in (("A1", "A2", "same settings"), ("A1", "Q7", "no patch Q7")):
            with self.assertRaisesRegex(InvalidInput, words):
                between(plate, failed, worked)


if __name__ == "__main__":
    unittest.main()
