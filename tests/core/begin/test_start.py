"""Starting points: a range around a setting, or across what the machine can do."""

import unittest

from rezept.core.begin.start import start_around, start_blind
from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.process import PROCESSES
from tests.made import WREN


class StartTest(unittest.TestCase):
    machine = read_machine(Fields(WREN))

    def test_a_start_is_around_the_setting(self):
        settings = {"speed_mm_s": 20.0, "power_pct": 70.0, "passes": 1.0}
        start = start_around(self.machine, PROCESSES["cut"], settings, "Around it.")
        self.assertEqual((start.centre["speed_mm_s"], start.reason), (20.0, "Around it."))
        self.assertAlmostEqual(start.dose, 60 * 0.7 / 20)
        self.assertLess(start.speed_mm_s.start, 20.0)
        self.assertGreater(start.speed_mm_s.end, 20.0)

    def test_marks_count_dose_over_the_area(self):
        settings = {"speed_mm_s": 200.0, "power_pct": 20.0, "line_spacing_mm": 0.1}
        start = start_around(self.machine, PROCESSES["area"], settings, "")
        self.assertAlmostEqual(start.dose, 12 / 200 / 0.1)

    def test_ranges_stay_within_the_machine(self):
        for speed, power in [(480.0, 84.0), (0.5, 9.5), (500.0, 85.0)]:
            start = start_around(self.machine, PROCESSES["cut"], {"speed_mm_s": speed, "power_pct": power}, "")
            with self.subTest(speed=speed):
                self.assertLessEqual(start.speed_mm_s.end, 500.0)
                self.assertGreaterEqual(start.power_pct.start, 9.0)
                self.assertLessEqual(start.power_pct.end, 85.0)
                self.assertLess(start.speed_mm_s.start, start.speed_mm_s.end)

    def test_blind_start_knows_no_dose(self):
        start = start_blind(self.machine, PROCESSES["cut"])
        self.assertIsNone(start.dose)
        self.assertIn("Nothing is known", start.reason)
        self.assertGreater(start.power_pct.start, 9.0)


if __name__ == "__main__":
    unittest.main()
