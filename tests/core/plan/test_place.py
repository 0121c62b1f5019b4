"""From the plate to the program and back."""

import itertools
import unittest

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.plan.moves import moves_of
from rezept.core.plan.place import from_program, nudged, to_program, work_zero
from rezept.core.plan.trial import read_trial
from tests.made import planned, token_document, trial_document

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

    def test_what_somebody_sets_the_zero_on_lies_at_the_zero(self):
        """A plate of 60 x 40 mm, its lower left 10 mm right of and 5 mm above the piece's."""
        points = {"lower_left": (0, 0), "lower_right": (60, 0), "upper_left": (0, 40), "upper_right": (60, 40),
                  "middle": (30, 20)}  # fmt: skip
        for make in (trial_document, token_document):
            for at, turn in itertools.product(points, (0, 90, 33.3)):
                place = {"at": "corner", "x_mm": 10, "y_mm": 5, "turn_deg": turn}
                trial = read_trial(make(piece=PIECE, place=place, zero={"at": at}))
                np.testing.assert_allclose(to_program(np.array(points[at], float), trial, 60, 40), [0, 0], atol=1e-9)
                away = read_trial(make(piece=PIECE, place=place, zero={"at": at, "x_mm": 3, "y_mm": -2}))
                np.testing.assert_allclose(to_program(np.array(points[at], float), away, 60, 40), [3, -2], atol=1e-9)

    def test_the_header_says_where_zero_is(self):
        for make, zero, words in (
            (trial_document, None, "lower left corner of the piece"),
            (token_document, None, "centre of the field"),
            (trial_document, {"at": "middle"}, "middle of the plate"),
            (token_document, {"at": "lower_left"}, "centre of the field, lower left corner of the plate"),
            (
                trial_document,
                {"at": "piece", "x_mm": 12.5, "y_mm": -3},
                "12.5 mm left of and 3 mm above the lower left corner of the piece",
            ),
            (token_document, {"x_mm": -1}, "centre of the field, 1 mm right of the middle of the piece"),
        ):  # fmt: skip
            with self.subTest(zero=zero):
                self.assertEqual(work_zero(read_trial(make(piece=PIECE, zero=zero))), words)

    def test_a_zero_nobody_changed_stands_in_no_document(self):
        self.assertNotIn("zero", read_trial(trial_document(zero={"at": "piece", "x_mm": 0})).document())
        kept = read_trial(trial_document(zero={"at": "middle"})).document()
        self.assertEqual(kept["zero"], {"at": "middle", "x_mm": 0.0, "y_mm": 0.0})
        self.assertEqual(read_trial(kept).zero.at, "middle")
        with self.assertRaisesRegex(InvalidInput, "zero.at"):
            read_trial(trial_document(zero={"at": "left"}))

    def test_nudged_everything_burns_so_far_away(self):
        points = np.random.default_rng(5).uniform(-20, 90, (9, 2))
        zeros = (None, {"at": "upper_right"}, {"x_mm": 4})
        for make, zero, pieceless in itertools.product((trial_document, token_document), zeros, (False, True)):
            before = read_trial(make(piece=PIECE, place={"at": "centre", "turn_deg": 30}, zero=zero))
            after = nudged(before, 3, -2, pieceless)
            moved = to_program(points, after, 60, 40) - to_program(points, before, 60, 40)
            np.testing.assert_allclose(moved, np.full((9, 2), (3.0, -2.0)), atol=1e-9)
            # On a piece whose corner is zero the plate lies elsewhere; else it is the zero that does.
            on_piece = zero != {"at": "upper_right"} and not pieceless
            self.assertEqual((after.place != before.place, after.zero != before.zero), (on_piece, not on_piece))

    def test_a_head_that_goes_left_of_its_zero_is_told_of(self):
        plate = planned(trial_document(zero={"at": "middle"}))
        room = next(warning for warning in plate.warnings if warning.kind == "room")
        left, below = -moves_of(plate).low.min(axis=0)
        self.assertAlmostEqual(room.value, max(left, below))
        self.assertIn(f"up to {left:.1f} mm to the left of and {below:.1f} mm below its zero", room.sentence)


if __name__ == "__main__":
    unittest.main()
