"""The places of a plate one points at to lay it by hand."""

import dataclasses
import unittest

import numpy as np

from rezept.core.photo.handles import handles_of, plate_corners
from tests.made import planned, trial_document

LABELS = {"on": True, "height_mm": 2.5, "settings": {"speed_mm_s": 80, "power_pct": 30}}


class HandlesTest(unittest.TestCase):
    """A plate of 4 x 3 patches, 10 mm wide and 2 apart."""

    def test_the_front_is_laid_by_its_marks_from_the_upper_left_clockwise(self):
        plate = planned(trial_document(labels={**LABELS, "marks": True, "qr": True}, code="7K3Q-T014.2"))
        handles = handles_of(plate, "front")
        self.assertTrue(handles.on_marks)
        left, right = sorted({mark.x_mm for mark in plate.marks if mark.kind != "qr"})
        low, high = sorted({mark.y_mm for mark in plate.marks if mark.kind != "qr"})
        self.assertEqual(handles.places.tolist(), [[left, high], [right, high], [right, low], [left, low]])

    def test_the_back_is_laid_by_the_corners_of_what_is_burned(self):
        plate = planned(trial_document(labels={**LABELS, "marks": True}))
        boxes = plate.elements
        left, right = boxes.x_mm[0], boxes.x_mm[3] + boxes.width_mm[3]
        low, high = boxes.y_mm[0], boxes.y_mm[-1] + boxes.height_mm[-1]
        handles = handles_of(plate, "back")
        self.assertFalse(handles.on_marks)
        self.assertEqual(handles.places.tolist(), [[left, high], [right, high], [right, low], [left, low]])

    def test_what_is_left_out_is_no_corner(self):
        plate = planned(trial_document())
        burn = np.array([column != 4 for column in plate.elements.column])
        fewer = dataclasses.replace(plate, elements=dataclasses.replace(plate.elements, burn=burn))
        right = plate.elements.x_mm[2] + plate.elements.width_mm[2]
        self.assertEqual(handles_of(fewer, "back").places[1, 0], right)

    def test_turned_round_is_half_a_turn_about_the_middle_of_the_sheet(self):
        plate = planned(trial_document())
        handles = handles_of(plate, "back")
        sheet = np.array([(0.0, 0.0), (100.0, 0.0), (100.0, 80.0), (0.0, 80.0)])
        np.testing.assert_allclose(handles.turned_round(sheet), np.array([100.0, 80.0]) - handles.places)
        twice = 2 * plate_corners(plate).mean(axis=0) - handles.turned_round(plate_corners(plate))
        np.testing.assert_allclose(twice, handles.places)


if __name__ == "__main__":
    unittest.main()
