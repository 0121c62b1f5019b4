"""From the plate to the program and back."""

import itertools
import unittest

import numpy as np

from rezept.core.plan.place import from_program, to_program
from rezept.core.plan.trial import read_trial
from tests.made import token_document, trial_document

PIECE = {"shape": "rectangle", "width_mm": 100, "height_mm": 80}


class PlaceTest(unittest.TestCase):
    def test_a_gantry_counts_from_the_corner_of_the_piece(self):
        place = {"at": "corner", "x_mm": 10, "y_mm": 5}
        trial = read_trial(trial_document(piece=PIECE, place=place))
        np.testing.assert_allclose(to_program(np.array([2.0, 4.0]), trial, 60, 40), [12, 9])
        np.testing.assert_allclose(from_program(np.array([12.0, 9.0]), trial, 60, 40), [2, 4])

    def test_a_galvo_counts_from_the_middle_of_the_field(self):
        """The plate's right edge points up: 10 mm above the field's middle is 10 mm right of the plate's."""
        trial = read_trial(token_document(piece=PIECE, place={"at": "centre", "turn_deg": 90}))
        np.testing.assert_allclose(from_program(np.array([0.0, 10.0]), trial, 60, 40), [40, 20], atol=1e-12)

    def test_there_and_back_is_where_one_was(self):
        points = np.random.default_rng(3).uniform(-20, 90, (7, 5, 2))
        for make, at, turn in itertools.product((trial_document, token_document), ("corner", "centre"), (0, 90, 33.3)):
            trial = read_trial(make(piece=PIECE, place={"at": at, "x_mm": 7.5, "y_mm": -3, "turn_deg": turn}))
            back = from_program(to_program(points, trial, 61, 43), trial, 61, 43)
            np.testing.assert_allclose(back, points, atol=1e-9)


if __name__ == "__main__":
    unittest.main()
