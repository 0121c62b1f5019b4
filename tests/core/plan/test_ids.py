"""Each part that is cut out carries the plate's number and its own name, marked before it falls."""

import copy
import unittest

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.plan.growing import still_to_burn
from rezept.core.plan.moves import moves_of
from tests.core.plan.test_listed import listed_document
from tests.made import area_document, planned, trial_document

LABELS = {"on": False, "ids": True, "settings": {"speed_mm_s": 150, "power_pct": 15}}


def marked(**changes):
    document = {"labels": LABELS, "code": "7K3Q-T014.2", **changes}
    return planned(trial_document(**copy.deepcopy(document)))


def strokes_inside(plate, margin_mm):
    """Every stroke that is lettered lies in the box of the patch it names, so far from its edge; by the patch."""
    names = {}
    for part in plate.drawn:
        ends = part.points
        low, size = plate.elements.corners, plate.elements.boxes[:, 2:]
        inside = (ends[:, None] >= low + margin_mm - 1e-9) & (ends[:, None] <= low + size - margin_mm + 1e-9)
        [at] = np.flatnonzero(inside.all(axis=(0, 2)))
        names.setdefault(plate.elements.ids[at], []).append(part.name)
    return names


class IdsTest(unittest.TestCase):
    def test_number_and_name_stand_within_each_part(self):
        plate = marked()
        names = strokes_inside(plate, 0.9)
        self.assertEqual(len(names), 12)
        self.assertTrue(all(said == ["T014", name] for name, said in names.items()), names)
        self.assertEqual({text.height_mm for text in plate.texts}, {2.0})

    def test_they_are_drawn_before_anything_is_cut(self):
        kinds = moves_of(marked()).kinds
        self.assertEqual(kinds, ("label",) * 24 + ("patch",) * 12)

    def test_smaller_parts_carry_less_and_say_so(self):
        for size, said in ((6.0, ["T014", "A1"]), (4.0, ["A1"]), (2.5, None)):
            plate = marked(patch={"width_mm": size, "height_mm": size, "gap_mm": 3})
            names = strokes_inside(plate, 0.9)
            self.assertEqual(names.get("A1"), said, size)
            self.assertTrue(all(1.0 <= text.height_mm <= 2.0 for text in plate.texts))
            warned = [warning.sentence for warning in plate.warnings if warning.path == "labels.ids"]
            self.assertEqual(bool(warned), said is None)
        self.assertIn("12 patches are too small to carry a name", warned[0])

    def test_only_what_falls_carries_one(self):
        with self.assertRaisesRegex(InvalidInput, "cut out"):
            planned(area_document(labels=LABELS))

    def test_what_is_left_out_carries_none(self):
        self.assertNotIn("B2", strokes_inside(marked(off=["B2"]), 0.9))

    def test_a_plate_that_grows_marks_the_next_one_alone(self):
        document = listed_document([{"speed_mm_s": 8}, {"speed_mm_s": 10}, {"speed_mm_s": 12}])
        document["listed"]["burned"] = 2
        plate = planned({**document, "labels": LABELS, "code": "7K3Q-T014.3"})
        self.assertEqual(len(strokes_inside(plate, 0.9)), 3)
        self.assertEqual(strokes_inside(still_to_burn(plate), 0.9), {"A3": ["T014", "A3"]})

    def test_a_document_says_it_only_where_it_is_so(self):
        self.assertTrue(marked().trial.document()["labels"]["ids"])
        self.assertNotIn("ids", planned(trial_document()).trial.document()["labels"])


if __name__ == "__main__":
    unittest.main()
