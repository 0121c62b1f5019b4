"""Margins: how far a patch is from what failed beside it."""

import unittest

import numpy as np

from rezept.core.findings.margin import margins
from rezept.core.findings.observations import Outcome, observations_of
from tests.made import area_document, planned, trial_document

NAN = np.nan


class MarginTest(unittest.TestCase):
    """Speeds 8, 16, 24, 32 along x; powers 30, 55, 80 along y."""

    plate = planned(trial_document())
    outcome = np.array([3, 1, 0, 0, 3, 3, 1, 0, 3, 3, 3, NAN], float)

    def read(self, outcome, plate=None):
        ids = (plate or self.plate).elements.ids
        return {patch: Outcome(value) for patch, value in zip(ids, outcome.tolist(), strict=True) if value == value}

    def towards(self, patch):
        seen = observations_of(self.plate, self.read(self.outcome))
        found = margins(seen, self.plate.trial.axes, self.plate.elements.ids.index(patch))
        return {neighbour.direction: neighbour for neighbour in found}

    def test_neighbours_of_an_inner_patch(self):
        near = self.towards("B2")
        self.assertEqual(set(near), {"slower", "faster", "less power", "more power"})
        self.assertEqual((near["faster"].patch, near["faster"].outcome, near["faster"].holds), ("B3", 1.0, False))
        self.assertEqual((near["faster"].margin_pct, near["faster"].open_end), (0.0, False))
        self.assertEqual((near["slower"].holds_to, near["slower"].margin_pct), (8.0, 50.0))
        self.assertTrue(near["slower"].open_end)
        self.assertEqual(near["less power"].outcome, 1.0)

    def test_margin_runs_over_several_patches(self):
        """From C1 faster: 16 and 24 hold, 32 is not read: the margin is 200 % and open."""
        faster = self.towards("C1")["faster"]
        self.assertEqual((faster.holds_to, faster.margin_pct, faster.open_end), (24.0, 200.0, True))

    def test_unread_neighbour_says_nothing(self):
        faster = self.towards("C3")["faster"]
        self.assertIsNone(faster.outcome)
        self.assertIsNone(faster.holds)
        self.assertEqual(faster.margin_pct, 0.0)

    def test_edges_have_fewer_neighbours(self):
        self.assertEqual(set(self.towards("A1")), {"faster", "more power"})

    def test_marks_hold_within_one_step_of_darkness(self):
        axes = [{"parameter": "speed_mm_s", "along": "x", "values": [50, 100, 150, 200]}]
        plate = planned(area_document(axes=axes))
        near = {
            n.direction: n
            for n in margins(
                observations_of(plate, self.read(np.array([5.0, 4.0, 3.0, 2.0]), plate)), plate.trial.axes, 1
            )
        }
        self.assertTrue(near["slower"].holds)
        self.assertEqual(near["faster"].holds_to, 150.0)
        self.assertFalse(near["faster"].open_end)


if __name__ == "__main__":
    unittest.main()
