"""Photographs by a camera that shares no code with Rezept: how plates are laid and read in them."""

import ast
import io
import unittest
from functools import cache
from pathlib import Path

import numpy as np
import zxingcpp
from PIL import Image

from rezept.actions.queries.photo_reading import read_face, read_plate
from rezept.core.photo.laid import place_doubted
from rezept.core.reading import PLACE_DOUBTFUL, SURE
from tests import rendered
from tests.photographed import MARKED, marked_plate, shaded_plate
from tests.rendered import Scene, render

# As fine as what is looked for takes; a code takes more.
SIZE, FINER = (960, 720), (1200, 900)
FACES = ("front", "back")
DARK, BLUE = (0.10, 0.058, 0.034), (0.03, 0.20, 0.62)
SHAPES = {
    "square": {"width_mm": 8, "height_mm": 8, "gap_mm": 3},
    "disc": {"shape": "disc", "width_mm": 8, "height_mm": 8, "gap_mm": 3},
    "coupon": {"shape": "coupon", "width_mm": 9, "height_mm": 9, "gap_mm": 3},
}


def plate_of(shape, **labels):
    return marked_plate(patch=SHAPES[shape], labels={**MARKED, **labels})


def chosen(plate, seed=3):
    """How each patch of a cut came out: at random, so that nothing but the picture tells."""
    drawn = np.random.default_rng(seed).integers(0, 4, len(plate.elements))
    return dict(zip(plate.elements.ids, drawn.tolist(), strict=True))


@cache
def photo(shape, face, below, **scene):
    plate = plate_of(shape)
    return plate, render(plate.document(), face, Scene(below=below, **{"size": SIZE, **scene}), chosen(plate))


class CameraTest(unittest.TestCase):
    """What the camera says of its own pictures, judged by what neither it nor Rezept has made."""

    def test_it_knows_nothing_of_rezept(self):
        tree = ast.parse(Path(rendered.__file__).read_text())
        named = [alias.name for node in ast.walk(tree) if isinstance(node, ast.Import) for alias in node.names]
        named += [str(node.module) for node in ast.walk(tree) if isinstance(node, ast.ImportFrom)]
        self.assertEqual([name for name in named if name.split(".")[0] in ("rezept", "tests", "benchmarks")], [])

    def test_the_code_is_where_it_says(self):
        plate, seen = photo("square", "front", "honeycomb", size=FINER)
        [code] = zxingcpp.read_barcodes(Image.open(io.BytesIO(seen.jpeg)))
        self.assertEqual(code.text, "REZEPT:7K3Q-T014.2")
        mark = next(mark for mark in plate.document()["marks"] if mark["kind"] == "qr")
        half = mark["size_mm"] / 2 * 21 / 29
        corners = np.array([(-half, half), (half, half), (half, -half), (-half, -half)])
        where = seen.pixels(corners + (mark["x_mm"], mark["y_mm"]))
        found = [getattr(code.position, at) for at in ("top_left", "top_right", "bottom_right", "bottom_left")]
        np.testing.assert_allclose([(at.x, at.y) for at in found], where, atol=3.0)

    def test_what_fell_out_shows_what_lies_below(self):
        plate, seen = photo("square", "back", "lightpad")
        light = np.asarray(Image.open(io.BytesIO(seen.jpeg)).convert("L"))
        middles = seen.pixels(np.array([(x + 4.0, y + 4.0) for x, y in plate.elements.corners])).round().astype(int)
        white = light[middles[:, 1], middles[:, 0]] > 240
        self.assertEqual(white.tolist(), [seen.through[one] == 3 for one in plate.elements.ids])


class LaidTest(unittest.TestCase):
    def off_mm(self, plate, seen, laid):
        middles = plate.elements.corners + plate.elements.boxes[:, 2:] / 2
        return np.linalg.norm(laid.pose.to_mm(seen.pixels(middles)) - middles, axis=1).max()

    def test_a_plate_lies_where_it_does_whatever_it_lies_on(self):
        for shape, face, below, scene in (
            ("square", "front", "lightpad", {}),
            ("coupon", "front", "table", {"k1": 0.02, "noise": 0.01, "quality": 65}),
            ("coupon", "back", "lightpad", {"sheet": DARK, "beside": 3, "seed": 4}),
            ("square", "back", "honeycomb", {"beyond_mm": 8.0, "beside": 2, "seed": 5}),
            ("coupon", "back", "steel", {"sheet": BLUE, "tilt_deg": 22.0, "fall_off": 0.25, "quality": 65}),
        ):
            with self.subTest(f"{shape} {face} {below}"):
                plate, seen = photo(shape, face, below, **scene)
                laid = read_face(plate, seen.jpeg, face).laid
                self.assertLess(self.off_mm(plate, seen, laid), 0.3)
                # One side may be left to look at; not the place of all of it.
                self.assertFalse(place_doubted(laid.doubts), laid.doubts)

    def test_where_no_edges_are_seen_places_are_doubted_and_elsewhere_they_are_not(self):
        plate = plate_of("square")
        # Only what is on the left is cut.
        cut = [patch for patch, x in zip(plate.elements.ids, plate.elements.corners[:, 0], strict=True) if x < 17]
        through = {patch: 3 if patch in cut else 0 for patch in plate.elements.ids}
        poor = Scene(below="table", size=FINER, noise=0.03, blur_px=2.5, quality=40)
        seen = render(plate.document(), "back", poor, through)
        document, _ = read_plate(plate, {"back": seen.jpeg})
        doubted = {one["id"] for one in document["patches"] if PLACE_DOUBTFUL in one["flags"]}
        sure = {one["id"] for one in document["patches"] if (one["confidence"] or 0) >= SURE}
        self.assertTrue(doubted)
        self.assertTrue(doubted.isdisjoint(sure))
        self.assertLessEqual(set(cut), sure)

    def test_a_plate_without_code_and_marks_is_laid_by_its_outline(self):
        plate = plate_of("square", qr=False, marks=False)
        seen = render(plate.document(), "front", Scene(size=SIZE), chosen(plate))
        laid = read_face(plate, seen.jpeg, "front").laid
        self.assertEqual(laid.found_by, "outline")
        self.assertTrue(self.off_mm(plate, seen, laid) < 0.3 or laid.doubts)

    def test_rings_tell_which_face_a_front_without_a_code_is(self):
        """Squares in a grid look the same in a mirror."""
        plate = plate_of("square", qr=False)
        front, back = (render(plate.document(), face, Scene(size=SIZE), chosen(plate)).jpeg for face in FACES)
        laid = read_face(plate, front, "front").laid
        self.assertNotIn("the other face", " ".join(laid.doubts))
        self.assertEqual(read_face(plate, back, "back", laid).laid.doubts, ())
        self.assertIn("the other face", read_face(plate, back, "front").laid.doubts[0])

    def test_a_code_without_rings_is_carried_on_by_the_cuts(self):
        plate = plate_of("coupon", marks=False)
        seen = render(
            plate.document(), "front", Scene(size=FINER, sheet=BLUE, below="steel", filling=1.05), chosen(plate)
        )
        laid = read_face(plate, seen.jpeg, "front").laid
        self.assertEqual(laid.found_by, "marks")
        self.assertLess(self.off_mm(plate, seen, laid), 0.3)


class ReadTest(unittest.TestCase):
    """What is said of cuts by both faces, as the shop reads them."""

    def said(self, shape, below, **scene):
        """By patch: what is said, how sure, and what is true."""
        plate = plate_of(shape)
        photos = {
            face: render(plate.document(), face, Scene(below=below, size=SIZE, **scene), chosen(plate))
            for face in FACES
        }
        document, missed = read_plate(plate, {face: seen.jpeg for face, seen in photos.items()})
        self.assertEqual(missed, [])
        through = photos["back"].through
        return document, [
            (one["through"], one["confidence"] >= SURE, through[one["id"]]) for one in document["patches"]
        ]

    def test_cuts_over_whatever_lies_below(self):
        for shape, below, scene in (
            ("coupon", "honeycomb", {"tilt_deg": 14.0, "fall_off": 0.25}),
            ("disc", "steel", {"sheet": BLUE, "noise": 0.01}),
            ("square", "lightpad", {"sheet": DARK}),
        ):
            with self.subTest(f"{shape} {below} {scene}"):
                _, read = self.said(shape, below, **scene)
                wrong = [one for one in read if one[0] != one[2]]
                # Dark slits and lit ones on a dark sheet: what the photo is not sure of may be wrong there.
                self.assertLessEqual(len(wrong), 2 if below == "lightpad" else 1, wrong)
                self.assertEqual([one for one in wrong if one[1]], [])
                self.assertGreater(np.mean([one[1] for one in read]), 0.6)

    def test_over_more_of_the_same_nothing_is_sure_and_one_is_told_what_to_do(self):
        document, read = self.said("coupon", "same", below_dark=0.75)
        self.assertFalse(any(one[1] for one in read))
        self.assertIn("lay something dark or lit under it", document["faces"][1]["doubts"][-1])
        self.assertIn("below_alike", document["patches"][0]["flags"])

    def test_light_that_shines_through_is_no_glare(self):
        document, read = self.said("square", "lightpad")
        fell = [one["flags"] for one, (_, _, true) in zip(document["patches"], read, strict=True) if true == 3]
        self.assertNotIn("glare", {flag for flags in fell for flag in flags})

    def test_fills_by_how_much_of_the_light_they_give_back(self):
        plate = shaded_plate()
        shares = dict(zip(plate.elements.ids, np.linspace(0.95, 0.1, len(plate.elements)).tolist(), strict=True))
        seen = render(plate.document(), "front", Scene(size=SIZE, fall_off=0.25), shade=shares)
        figures = read_face(plate, seen.jpeg, "front").figures
        np.testing.assert_allclose(figures.ratio, list(shares.values()), atol=0.03)


if __name__ == "__main__":
    unittest.main()
