"""The table of what plates say."""

import dataclasses
import unittest

import numpy as np
from numpy.testing import assert_array_equal

from rezept.core.findings.margin import failed_beside, margins
from rezept.core.findings.observations import Burned, Outcome, joined, observations_of
from tests.made import area_document, planned, trial_document

LADDER = [{"parameter": "speed_mm_s", "along": "x", "values": [10, 20, 30, 40, 50]}]


def ladder(**more):
    """Five cuts at 50 %, 10 to 50 mm/s."""
    return planned(trial_document(axes=LADDER, hold={"power_pct": 50}, **more))


def outcomes(*values):
    return {f"A{i}": Outcome(value) for i, value in enumerate(values, start=1)}


class ObservationsTest(unittest.TestCase):
    def test_a_row_says_what_was_burned_where_and_how_it_came_out(self):
        """30 W at 20 mm/s: 1.5 J/mm."""
        read = {**outcomes(3, 3), "A2": Outcome(2, 0.07)}
        seen = observations_of(ladder(), read, burned=Burned(7, "2026-11-23", "L4", 3.9))
        self.assertEqual((seen.element[1], seen.burn[1], seen.day[1], seen.lot[1]), ("A2", 7, "2026-11-23", "L4"))
        self.assertEqual((seen.measured_mm[1], seen.outcome[1], seen.doubt[1]), (3.9, 2.0, 0.07))
        self.assertAlmostEqual(seen.dose[1], 1.5)
        self.assertEqual(seen.settings_of(1)["speed_mm_s"], 20.0)
        assert_array_equal(seen.counts, [True, True, False, False, False])
        self.assertTrue(np.isnan(seen.doubt[2]))

    def test_what_says_nothing_of_its_settings_does_not_count(self):
        plate = dataclasses.replace(ladder(off=["A5"]), mixed=frozenset({"A1", "A2", "A3"}))
        seen = observations_of(plate, outcomes(3, 3, 2, 1, 0), bare={"A1"}, uncertain={"A2"})
        self.assertEqual(seen.state, ("not_burned", "uncertain", "mixed", "burned", "left_out"))
        assert_array_equal(seen.counts, [False, False, False, True, False])
        assert_array_equal(seen.came_out, [np.nan, np.nan, np.nan, 1.0, np.nan])

    def test_margins_end_where_nothing_is_known(self):
        """From A2 faster: A3 holds, A4 was mixed, so that A5 beyond it says nothing to A2."""
        plate = dataclasses.replace(ladder(), mixed=frozenset({"A4"}))
        seen = observations_of(plate, outcomes(3, 3, 3, 3, 3))
        faster = next(one for one in margins(seen, plate.trial.axes, 1) if one.direction == "faster")
        self.assertEqual((faster.holds_to, faster.open_end), (30.0, True))

    def test_only_what_counts_has_failed(self):
        seen = observations_of(ladder(), outcomes(3, 3, 1, 0), bare={"A4"})
        assert_array_equal(failed_beside(seen, 0), [2])

    def test_plates_lie_under_one_another_with_the_settings_of_all(self):
        first = observations_of(ladder(), outcomes(3), burned=Burned(1))
        held = planned(trial_document(axes=LADDER, hold={"power_pct": 50, "focus_offset_mm": -1}))
        both = joined([first, observations_of(held, outcomes(2), burned=Burned(2, lot="L5"))])
        self.assertEqual((len(both), both.burn.tolist()), (10, [1] * 5 + [2] * 5))
        self.assertEqual(both.lot, (None,) * 5 + ("L5",) * 5)
        self.assertEqual(both.settings_of(7)["focus_offset_mm"], -1.0)
        assert_array_equal(np.flatnonzero(both.counts), [0, 5])
        # What one plate says of a setting, and the other does not, is not made up.
        without = dataclasses.replace(first, settings={k: v for k, v in first.settings.items() if k != "passes"})
        self.assertNotIn("passes", joined([without, first]).settings_of(0))

    def test_processes_are_not_joined(self):
        marks = observations_of(planned(area_document()), {})
        for tables in ([], [marks, observations_of(ladder(), {})]):
            with self.assertRaises(ValueError):
                joined(tables)


if __name__ == "__main__":
    unittest.main()
