"""A list of settings: patches one by one, in their order, each lettered with its own numbers."""

import copy
import unittest

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.plan import plan, read_plate, read_trial
from rezept.core.plan.changed import changes
from rezept.core.plan.distinct import distinct_settings
from rezept.core.plan.kept_array import array_of, middle_of
from tests.made import planned, trial_document

ROWS = [{"speed_mm_s": 12}, {"speed_mm_s": 16}, {"speed_mm_s": 14}, {"speed_mm_s": 14}, {"speed_mm_s": 28, "passes": 2}]


def listed_document(rows=ROWS, wrap=3, **changes):
    document = trial_document(hold={"power_pct": 60, "air_level": 1, "passes": 1}, **changes)
    document.pop("axes")
    return copy.deepcopy({**document, "listed": {"settings": rows, "wrap": wrap}})


class ListTest(unittest.TestCase):
    def test_every_patch_has_its_own_and_what_is_held(self):
        plate = planned(listed_document())
        self.assertEqual(plate.elements.ids, ("A1", "A2", "A3", "B1", "B2"))
        settings = plate.judged.settings
        self.assertEqual(settings["speed_mm_s"].tolist(), [12, 16, 14, 14, 28])
        self.assertEqual(settings["passes"].tolist(), [1, 1, 1, 1, 2])
        self.assertEqual(settings["power_pct"].tolist(), [60] * 5)

    def test_the_next_line_lies_above(self):
        """10 mm patches 3 mm apart: columns 13 mm from one another; without lettering rows, too."""
        elements = planned(listed_document()).elements
        np.testing.assert_allclose(np.diff(elements.x_mm[:3]), 13)
        np.testing.assert_allclose(elements.y_mm[3:] - elements.y_mm[0], 13)

    def test_one_more_leaves_all_others_where_they_were(self):
        before, after = (planned(listed_document(ROWS[:count])).elements for count in (4, 5))
        self.assertEqual(after.ids[:4], before.ids)
        np.testing.assert_allclose(after.corners[:4], before.corners)

    def test_repeats_are_one_setting_to_type(self):
        self.assertEqual(len(distinct_settings(planned(listed_document()))), 4)

    def test_each_is_lettered_with_what_tells_it_apart(self):
        labels = {"on": True, "settings": {"speed_mm_s": 100, "power_pct": 12}}
        plate = planned(listed_document(labels=labels))
        below = [text for text in plate.texts if text.kind == "column"]
        self.assertEqual([text.text for text in below[-1:]], ["28  2"])
        self.assertEqual(below[0].text, "12  1")
        axis = " ".join(text.text for text in plate.texts if text.kind == "axis")
        self.assertEqual(axis, "each: speed mm/s  passes")
        for text, corner in zip(below, plate.elements.corners, strict=True):
            self.assertTrue(corner[1] - 4 < text.y_mm < corner[1], text)

    def test_what_all_of_them_have_stands_in_the_heading(self):
        """Passes and speed differ; all have 70 %, each of its own, and that is said once."""
        labels = {"on": True, "settings": {"speed_mm_s": 100, "power_pct": 12}}
        plate = planned(listed_document([{**row, "power_pct": 70} for row in ROWS], labels=labels))
        heading = " ".join(text.text for text in plate.texts if text.kind == "title")
        self.assertIn("power 70%", heading)
        self.assertNotIn("pass", heading)

    def test_numbers_that_are_too_wide_stand_in_a_line_each(self):
        labels = {"on": True, "height_mm": 4, "settings": {"speed_mm_s": 100, "power_pct": 12}}
        plate = planned(listed_document(labels=labels))
        below = [text.text for text in plate.texts if text.kind == "column"]
        self.assertEqual(below[:2], ["12", "1"])

    def test_completed_and_read_again_it_is_the_same(self):
        plate = planned(listed_document())
        again = plan(read_trial(plate.trial.document()))
        self.assertEqual(again.trial.document(), plate.trial.document())
        frozen = read_plate(plate.document())
        self.assertEqual(frozen.judged.settings["speed_mm_s"].tolist(), [12, 16, 14, 14, 28])

    def test_an_array_is_read_as_before_and_says_nothing_of_a_list(self):
        self.assertNotIn("listed", planned(trial_document()).trial.document())

    def test_what_cannot_be(self):
        document = listed_document()
        for change, path, said in (
            ({"axes": trial_document()["axes"]}, "listed", "not both"),
            ({"listed": {"settings": []}}, "listed.settings", "takes 1 to"),
            (
                {"listed": {"settings": [{"speed_mm_s": 12}, {}]}},
                "listed.settings[1].speed_mm_s",
                "Patch 2 of the list",
            ),
            ({"listed": {"settings": [{"speed_mm_s": -1}]}}, "listed.settings[0].speed_mm_s", "more than 0"),
            ({"listed": {"settings": [{"frequency_khz": 20}]}}, "listed.settings[0].frequency_khz", "frequency"),
            ({"listed": {"settings": [{"speed_mm_s": 12}], "wrap": 0}}, "listed.wrap", "1"),
            ({"listed": {"settings": [{"speed_mm_s": 12}], "colour": 1}}, "listed.colour", "colour"),
            ({"hold": {"speed_mm_s": 10}}, "hold.power_pct", "neither held nor varied"),
        ):
            with self.subTest(said), self.assertRaisesRegex(InvalidInput, said) as refused:
                read_trial({**document, **change})
            self.assertEqual(refused.exception.path, path)

    def test_nothing_but_a_list_or_axes(self):
        document = listed_document()
        document["listed"] = None
        with self.assertRaises(InvalidInput):
            read_trial(document)

    def test_it_is_no_array_to_keep_but_has_a_middle(self):
        trial = planned(listed_document()).trial
        with self.assertRaisesRegex(InvalidInput, "no array to keep"):
            array_of(trial, "x")
        # The mean of ratios from 12 to 28.
        self.assertAlmostEqual(middle_of(trial)["speed_mm_s"], np.sqrt(12 * 28))

    def test_what_both_vary_is_no_change(self):
        array, one_by_one = (planned(one).trial.document() for one in (trial_document(), listed_document()))
        said = changes(array, one_by_one)
        self.assertFalse([one for one in said if one.startswith("speed")], said)
        self.assertTrue([one for one in said if one.startswith("passes")], said)

    def test_what_most_share_may_be_held(self):
        document = listed_document([{}, {"power_pct": 70}, {"speed_mm_s": 20}])
        document["hold"]["speed_mm_s"] = 15
        settings = planned(document).judged.settings
        self.assertEqual(settings["speed_mm_s"].tolist(), [15, 15, 20])
        self.assertEqual(settings["power_pct"].tolist(), [60, 70, 60])

    def test_one_patch_is_a_list_too(self):
        plate = planned(listed_document([{"speed_mm_s": 12}]))
        self.assertEqual(plate.elements.ids, ("A1",))
        self.assertEqual(plate.trial.listed.varied, ["speed_mm_s"])


if __name__ == "__main__":
    unittest.main()
