"""What a proof on a real shape came to, and the same dose in more and faster passes."""

import unittest

import numpy as np
import shapely

from rezept.core.findings.proof import listed_with, more_passes, result_of
from rezept.core.path.proof import BRIDGES_MM, GAPS_MM, RIBS_MM, fineness, proof_piece
from rezept.core.process import PROCESSES
from tests.hatch_referee import polygon
from tests.made import planned, trial_document

CUT, AREA = PROCESSES["cut"], PROCESSES["area"]


class PieceTest(unittest.TestCase):
    def test_its_ribs_bridges_and_gaps_are_as_wide_as_it_says(self):
        """By a ray through each row: what is solid between two openings is a rib, a bridge, or what a gap leaves."""
        for width, height in ((40.0, 30.0), (20.0, 15.0), (50.0, 30.0)):
            scale = min(width / 40, height / 30)
            solid = polygon([way.tolist() for way in proof_piece(width, height).ways])
            left, low = (width - 40 * scale) / 2, (height - 30 * scale) / 2

            def solids(y, first, last, solid=solid, scale=scale, left=left, low=low):
                ray = shapely.LineString(
                    [(left + first * scale, low + y * scale), (left + last * scale, low + y * scale)]
                )
                parts = shapely.get_parts(ray.intersection(solid))
                return [part.length for part in sorted(parts, key=lambda part: part.bounds[0])][1:-1]

            np.testing.assert_allclose(solids(10, 2, 20), np.multiply(RIBS_MM, scale), atol=1e-6)
            np.testing.assert_allclose(solids(3 + 1.2, 20.5, 39), np.multiply(BRIDGES_MM, scale), atol=0.02)
            fine = fineness(width, height)
            np.testing.assert_allclose(fine.ribs_mm, np.multiply(RIBS_MM, scale))
            np.testing.assert_allclose(fine.gaps_mm, np.multiply(GAPS_MM, scale))

    def test_it_is_one_part_with_the_insides_of_two_letters(self):
        figure = proof_piece(40.0, 30.0)
        # The edge, and what falls out of the e and the b of its lettering.
        self.assertEqual(len(figure.faces), 3)
        self.assertEqual(figure.strokes, ())
        solid = polygon([way.tolist() for way in figure.ways])
        self.assertTrue(solid.is_valid)

    def test_it_is_planned_cut_and_filled(self):
        for process in ("cut", "area"):
            hold = {"speed_mm_s": 100, **({"line_spacing_mm": 0.1} if process == "area" else {})}
            axes = [{"parameter": "power_pct", "along": "x", "values": [20, 30]}]
            patch = {"shape": "proof", "width_mm": 40, "height_mm": 30}
            plate = planned(trial_document(process=process, hold=hold, axes=axes, patch=patch))
            self.assertTrue((plate.seconds > 0).all())


class ResultTest(unittest.TestCase):
    def test_of_a_cut(self):
        for values, key, reason in (
            ({"through": 3.0}, "held", None),
            ({"through": 2.0, "char": 2.0, "gave_way": 0.0}, "held", None),
            ({"through": 1.0}, "not_through", "not_through"),
            ({"through": 3.0, "char": 3.0}, "burned", "intricate"),
            ({"through": 3.0, "gave_way": 1.0}, "burned", "intricate"),
            ({"through": 3.0, "flame": 1.0, "gave_way": 2.0}, "flame", "flame"),
            ({"flame": 1.0}, "flame", "flame"),
        ):
            with self.subTest(values=values):
                result = result_of(CUT, values)
                self.assertEqual((result.key, result.reason), (key, reason))
        self.assertIsNone(result_of(CUT, {"char": 1.0}))
        self.assertEqual(result_of(CUT, {"through": 3.0, "gave_way": 1.0}).words, "It burned: a rib gave way first.")

    def test_of_a_mark(self):
        self.assertEqual(result_of(AREA, {"darkness": 3.0}).key, "held")
        self.assertEqual(result_of(AREA, {"darkness": 0.0}).reason, "otherwise")
        self.assertEqual(result_of(AREA, {"darkness": 3.0, "gave_way": 3.0}).reason, "intricate")


class MorePassesTest(unittest.TestCase):
    def test_the_dose_stays_and_the_machine_can_do_it(self):
        machine = planned(trial_document()).trial.machine
        before = {"speed_mm_s": 60.0, "power_pct": 55.0, "passes": 2.0, "air_level": 1.0}
        found = more_passes(before, machine)
        self.assertEqual([one["passes"] for one in found], [4, 6, 8])
        for one in found:
            self.assertAlmostEqual(one["passes"] / one["speed_mm_s"], 2 / 60)
            self.assertEqual((one["power_pct"], one["air_level"]), (55.0, 1.0))
            self.assertLessEqual(one["speed_mm_s"], machine.of_head("max_speed_mm_s"))
        fast = {"speed_mm_s": 0.45 * machine.of_head("max_speed_mm_s"), "power_pct": 55.0}
        self.assertEqual([one["passes"] for one in more_passes(fast, machine)], [2])
        self.assertEqual(more_passes({**fast, "passes": 60.0}, machine), [])

    def test_what_all_have_is_held_but_speed_and_power(self):
        shared, listed = listed_with([{"speed_mm_s": 10, "power_pct": 5, "passes": 2, "air_level": 1},
                                      {"speed_mm_s": 20, "power_pct": 5, "passes": 4, "air_level": 1}])  # fmt: skip
        self.assertEqual(shared, {"air_level": 1})
        self.assertEqual(listed[0], {"speed_mm_s": 10, "power_pct": 5, "passes": 2})


if __name__ == "__main__":
    unittest.main()
