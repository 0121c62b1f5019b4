"""Pieces of any shape and with holes: a plate fits where a picture of the piece says so, and nowhere else."""

import unittest

import numpy as np
from PIL import Image, ImageDraw

from rezept.core.errors import InvalidInput
from rezept.core.path.inside import inside
from rezept.core.plan.contained import beyond_outline, over_holes
from rezept.core.plan.parts import read_piece
from rezept.core.plan.place import to_piece
from tests.made import planned, trial_document

L_SHAPE = [[0, 0], [200, 0], [200, 60], [70, 60], [70, 150], [0, 150]]
PX = 8  # a mm


def picture(outline, size=220):
    """The piece from above, True where there is sheet; drawn by a library that knows nothing of ours."""
    image = Image.new("1", (size * PX, size * PX))
    ImageDraw.Draw(image).polygon([(x * PX, y * PX) for x, y in outline], fill=1)
    return np.array(image)


def covered(sheet, corners, inset=0.0):
    """Whether all of a plate, shrunk by so many mm, lies on the sheet of a picture."""
    along = np.linspace(0, 1, 60)
    a, b, _, d = corners
    points = a + along[:, None, None] * (b - a) + along[None, :, None] * (d - a)
    middle = corners.mean(axis=0)
    points = middle + (points - middle) * (1 - inset / np.linalg.norm(a - middle))
    column, row = (points.reshape(-1, 2) * PX).astype(int).T
    there = (row >= 0) & (column >= 0) & (row < len(sheet)) & (column < len(sheet))
    return bool(there.all() and sheet[row, column].all())


def star(random):
    angle = np.sort(random.uniform(0, 2 * np.pi, random.integers(5, 14)))
    radius = random.uniform(40, 100, len(angle))
    return 105 + radius[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])


class ContainedTest(unittest.TestCase):
    def test_against_a_picture_of_it(self):
        """Random stars and plates: what fits covers only sheet, what does not reaches off it."""
        random, seen = np.random.default_rng(7), {True: 0, False: 0}
        for _ in range(400):
            outline = star(random)
            sheet = picture(outline)
            turn, (wide, high) = random.uniform(0, np.pi), random.uniform(8, 70, 2)
            corners = np.array([(0, 0), (wide, 0), (wide, high), (0, high)]) - (wide / 2, high / 2)
            rotation = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
            corners = corners @ rotation + random.uniform(60, 150, 2)
            beyond = beyond_outline(corners, outline, 0.0)
            fits = beyond <= 0
            # A pixel's doubt at the rim.
            if abs(beyond) < 0.3:
                continue
            self.assertEqual(covered(sheet, corners, 0.15 if fits else 0.0), fits, (outline.tolist(), corners.tolist()))
            seen[fits] += 1
        self.assertGreater(min(seen.values()), 60, seen)

    def test_the_margin_is_kept(self):
        plate = np.array([(5.0, 5.0), (60.0, 5.0), (60.0, 50.0), (5.0, 50.0)])
        self.assertAlmostEqual(beyond_outline(plate, np.array(L_SHAPE, float), 0.0), -5.0)
        self.assertAlmostEqual(beyond_outline(plate, np.array(L_SHAPE, float), 6.5), 1.5)

    def test_a_notch_between_corners_that_all_lie_inside(self):
        notched = np.array([(0, 0), (100, 0), (100, 50), (52, 50), (50, 10), (48, 50), (0, 50)], float)
        plate = np.array([(10.0, 5.0), (90.0, 5.0), (90.0, 40.0), (10.0, 40.0)])
        self.assertTrue(inside(plate, notched).all())
        self.assertGreater(beyond_outline(plate, notched, 0.0), 0)

    def test_holes(self):
        """A hole of 10 mm whose middle is 8 mm beside the plate is 3 mm clear of it; in the middle of it, it is not."""
        plate = np.array([(0.0, 0.0), (40.0, 0.0), (40.0, 20.0), (0.0, 20.0)])
        self.assertAlmostEqual(over_holes(plate, np.array([(48.0, 10.0, 10.0)]), 0.0), -3.0)
        self.assertAlmostEqual(over_holes(plate, np.array([(48.0, 10.0, 10.0)]), 2.0), -1.0)
        self.assertAlmostEqual(over_holes(plate, np.array([(20.0, 10.0, 4.0)]), 0.0), 12.0)


class PieceTest(unittest.TestCase):
    def piece(self, **facts):
        return read_piece(facts, "piece", [])

    def test_width_and_height_follow_from_the_outline(self):
        piece = self.piece(shape="outline", outline=[[-10, 5], [90, 5], [40, 65]], holes=[[50, 20, 6]])
        self.assertEqual((piece.width_mm, piece.height_mm), (100, 60))
        self.assertEqual(piece.outline[0], (0, 0))
        self.assertEqual(read_piece(piece.document(), "piece", []), piece)
        self.assertEqual(set(self.piece(width_mm=20, height_mm=10).document()),
                         {"shape", "width_mm", "height_mm", "margin_mm"})  # fmt: skip

    def test_what_is_none_is_refused(self):
        for facts, said in (
            ({"shape": "outline"}, "three corners"),
            ({"shape": "outline", "outline": [[0, 0], [10, 0]]}, "three corners"),
            ({"shape": "outline", "outline": [[0, 0], [10, 10], [10, 0], [0, 10]]}, "crosses itself"),
            ({"shape": "outline", "outline": [[0, 0], [10, 0], [20, 0]]}, "no area"),
            ({"shape": "rectangle", "width_mm": 9, "height_mm": 9, "outline": L_SHAPE}, "another shape"),
            ({"width_mm": 9, "height_mm": 9, "holes": [[1, 1, 0]]}, "diameter"),
            ({"shape": "outline", "outline": [[0, 0]] * 201}, "200"),
        ):
            with self.subTest(said), self.assertRaisesRegex(InvalidInput, said):
                self.piece(**facts)

    def test_the_plate_finds_its_place_on_an_offcut(self):
        """An L: laid where there is sheet, beside a hole and what was burned; said where it does not fit."""
        piece = {"shape": "outline", "outline": L_SHAPE, "margin_mm": 2, "holes": [[20, 20, 12]]}
        ground = [[[60, 0], [140, 0], [140, 60], [60, 60]]]
        plate = planned(trial_document(piece=piece, place={"at": "clear"}, burned_ground=ground))
        place, size = plate.trial.place, (plate.width_mm, plate.height_mm)
        corners = np.array([(0, 0), (size[0], 0), size, (0, size[1])], float)
        placed = to_piece(corners, place, plate.trial.piece, *size)
        self.assertTrue(covered(picture(L_SHAPE), placed, 0.2))
        self.assertLessEqual(over_holes(placed, np.array([(20.0, 20.0, 12.0)]), 2.0), 1e-6)
        self.assertEqual([one.kind for one in plate.warnings if one.kind == "piece"], [])
        off = planned(trial_document(piece=piece, place={"at": "corner", "x_mm": 60, "y_mm": 50}))
        self.assertIn("piece", [one.kind for one in off.warnings])
        with self.assertRaisesRegex(InvalidInput, "no clear place"):
            planned(trial_document(piece={**piece, "outline": [[0, 0], [60, 0], [0, 60]]}, place={"at": "clear"}))


if __name__ == "__main__":
    unittest.main()
