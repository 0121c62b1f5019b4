"""What follows from a process, each thing said once."""

import unittest

from rezept.core.process import PROCESSES

FILLING = ("area", "deep", "surface", "layer", "photo")


class ProcessTest(unittest.TestCase):
    def test_only_what_passes_through_shows_at_the_back_and_is_judged_there(self):
        for key, process in PROCESSES.items():
            with self.subTest(key):
                self.assertEqual(process.passes_through, key == "cut")
                self.assertEqual(process.faces, ("front", "back") if key == "cut" else ("front",))
                self.assertEqual(process.deciding_face, "back" if key == "cut" else "front")
                self.assertEqual(process.outcome, {"cut": "through", "layer": "layer"}.get(key, "darkness"))

    def test_dose_is_counted_along_lines_or_over_areas(self):
        units = {key: (process.dose_key, process.dose_unit) for key, process in PROCESSES.items()}
        line, area = ("dose_j_mm", "J/mm"), ("dose_j_mm2", "J/mm²")
        self.assertEqual(units, {"cut": line, "line": line} | dict.fromkeys(FILLING, area))
        self.assertEqual(PROCESSES["cut"].dose_limit_key("floor"), "dose_floor_j_mm")
        self.assertEqual(PROCESSES["deep"].dose_limit_key("ceiling"), "dose_ceiling_j_mm2")

    def test_what_draws_lines_leaves_the_sheet_whole(self):
        self.assertEqual([key for key, process in PROCESSES.items() if process.draws_lines], ["line"])
        self.assertEqual([key for key, process in PROCESSES.items() if process.takes_away], ["cut", "deep"])
