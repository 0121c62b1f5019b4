"""All of an array so many times over, spread over the sheet: how many of each came out."""

import unittest

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.plan import read_trial
from rezept.core.plan.plate_words import block_words
from rezept.formats.gcode import write_gcode
from tests.formats.gcode_reader import read_gcode
from tests.made import planned, trial_document

LABELS = {"on": True, "height_mm": 2.0, "settings": {"speed_mm_s": 100, "power_pct": 20}}


class RepeatsTest(unittest.TestCase):
    def test_each_time_is_a_block_of_the_same_settings(self):
        once, plate = planned(trial_document()), planned(trial_document(repeats=3))
        count = len(once.elements)
        self.assertEqual(len(plate.elements), 3 * count)
        self.assertEqual(plate.elements.ids[:2], ("1-A1", "1-A2"))
        self.assertEqual(plate.elements.ids[-1], "3-C4")
        for key, column in once.judged.settings.items():
            np.testing.assert_array_equal(plate.judged.settings[key], np.tile(column, 3))
        # One beside the other, none on another, and all of it is burned.
        boxes = plate.elements.boxes.reshape(3, count, 4)
        self.assertLess(boxes[0, :, 0].max() + boxes[0, 0, 2], boxes[1, :, 0].min())
        np.testing.assert_array_equal(boxes[0, :, 1], boxes[2, :, 1])
        self.assertEqual(len(plate.order), 3 * count)
        lit = {round(move.length, 3) for move in read_gcode(write_gcode(plate)).moves if move.beam > 0}
        self.assertTrue(lit)

    def test_above_the_blocks_of_a_third_setting(self):
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "values": [10, 20]},
            {"parameter": "passes", "along": "block_x", "values": [1, 2, 3]},
        ]
        document = trial_document(axes=axes, hold={"power_pct": 60}, repeats=2, labels=LABELS)
        plate = planned(document)
        self.assertEqual(plate.judged.settings["passes"].tolist(), [1, 1, 2, 2, 3, 3] * 2)
        self.assertEqual(
            block_words(plate.trial)[:4], ["1 pass  1 of 2", "2 passes  1 of 2", "3 passes  1 of 2", "1 pass  2 of 2"]
        )
        y = plate.elements.y_mm.reshape(2, 6)
        self.assertGreater(y[1].min(), y[0].max() + plate.elements.height_mm[0])
        said = [text.text for text in plate.texts if text.kind == "block"]
        self.assertEqual(said, block_words(plate.trial))

    def test_what_cannot_be_repeated(self):
        listed = {"settings": [{"speed_mm_s": 10, "power_pct": 60}], "wrap": 1}
        for wrong, said in (
            ({"repeats": 0}, "repeats"),
            ({"repeats": 2.5}, "repeats"),
            ({"repeats": 21}, "repeats"),
            ({"repeats": 2, "axes": [], "listed": listed}, "repeat its lines"),
            ({"repeats": 20, "axes": [{"parameter": "speed_mm_s", "along": "x", "from": 5, "to": 50, "count": 60},
                                      {"parameter": "power_pct", "along": "y", "from": 10, "to": 80, "count": 60}]},
             "5000 at most"),
        ):  # fmt: skip
            with self.subTest(wrong), self.assertRaisesRegex(InvalidInput, said):
                read_trial(trial_document(**wrong))

    def test_once_is_not_said_and_another_array_is_burned_once(self):
        self.assertNotIn("repeats", read_trial(trial_document(repeats=1)).document())
        trial = read_trial(trial_document(repeats=2))
        self.assertEqual(read_trial(trial.document()).repeats, 2)
        axes = [{"parameter": "speed_mm_s", "along": "x", "values": [8, 9]}]
        self.assertEqual(read_trial(trial.with_array(axes, {"power_pct": 50})).repeats, 1)


if __name__ == "__main__":
    unittest.main()
