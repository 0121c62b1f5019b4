"""What a screen draws of a plate: the ways of the beam, read back from their path data by a reader of its own."""

import re
import unittest

import numpy as np
from numpy.testing import assert_allclose

from rezept.core.path.path_data import path_data
from rezept.core.path.shapes import SHAPES, shaped
from rezept.core.plan.drawing import drawing_of, room_for_a_word, seen, sharpest_corners
from rezept.core.plan.plate import figure_id
from tests.core.plan.test_elements import two_steps
from tests.made import planned, trial_document

LABELS = {"on": True, "qr": True, "marks": True, "height_mm": 2.0, "settings": {"speed_mm_s": 100, "power_pct": 20}}
CUT = {"hang_hole_mm": 4, "cut_settings": {"speed_mm_s": 12, "power_pct": 80}}


def subpaths(data):
    """Points of every subpath, and whether it closes."""
    assert re.fullmatch(r"(M[-\d.e,+L]+Z?)*", data), data
    found = []
    for body in data.split("M")[1:]:
        points = [[float(number) for number in point.split(",")] for point in body.rstrip("Z").split("L")]
        found.append((np.array(points), body.endswith("Z")))
    return found


class PathDataTest(unittest.TestCase):
    def test_closed_ways_end_with_z_and_say_no_point_twice(self):
        square = np.array([(0.0, 0.0), (2.0, 0.0), (2.0, 1.0), (-0.0, 0.0)])
        self.assertEqual(path_data([square], "g"), "M0,0L2,0L2,1Z")
        self.assertEqual(path_data([square[:2], square[1:3]], "g"), "M0,0L2,0M2,0L2,1")


class DrawingTest(unittest.TestCase):
    def test_a_figure_is_drawn_as_it_is_burned(self):
        plate = planned(trial_document(patch={"shape": "coupon", "width_mm": 10, "height_mm": 8, "gap_mm": 3}))
        (figure,) = drawing_of(plate)["figures"]
        hole, outer = plate.elements.figures[0].ways
        for data, way in ((figure["face"], outer), (figure["holes"], hole)):
            ((points, closes),) = subpaths(data)
            self.assertTrue(closes)
            assert_allclose(points, way[:-1], atol=1e-3)

    def test_marks_code_and_hole_lie_where_the_beam_draws_them(self):
        plate = planned(trial_document(labels=LABELS, code="7K3Q-T014.2", **CUT))
        drawing = drawing_of(plate)
        burned = {part.role: part for part in plate.drawn}
        for mark, document in zip(drawing["marks"], seen(plate)["marks"], strict=True):
            points = np.concatenate([points for points, _ in subpaths(mark["path"])])
            middle = np.array([document["x_mm"], document["y_mm"]])
            half = document["size_mm"] / 2 * (21 / 29 if mark["kind"] == "qr" else 1)
            assert_allclose(points.min(axis=0), middle - half, atol=1e-2)
            assert_allclose(points.max(axis=0), middle + half, atol=1e-2)
        ((hole, closes),) = subpaths(drawing["hang_hole"])
        self.assertTrue(closes)
        assert_allclose(hole, burned["hang-hole"].ways[0][:-1], atol=1e-3)

    def test_the_code_is_dark_where_its_lines_are(self):
        """As much area as its hatch lines cover: every module that burns, and nothing else."""
        plate = planned(trial_document(labels=LABELS, code="7K3Q-T014.2"))
        data = next(mark["path"] for mark in drawing_of(plate)["marks"] if mark["kind"] == "qr")
        area = sum(np.prod(points.max(axis=0) - points.min(axis=0)) for points, _ in subpaths(data))
        lines = next(part.lines for part in plate.drawn if part.role == "qr")
        spacing = np.diff(np.unique(lines[:, 0, 1].round(6)))
        self.assertAlmostEqual(
            area, np.abs(lines[:, 1, 0] - lines[:, 0, 0]).sum() * np.median(spacing), delta=0.02 * area
        )

    def test_corners_at_which_the_head_is_slowest(self):
        corners = {shape: sharpest_corners(shaped(shape, 10.0, 10.0, "Ag5")) for shape in SHAPES}
        self.assertEqual(sorted(map(tuple, corners["rectangle"])), [(0, 0), (0, 10), (10, 0), (10, 10)])
        self.assertEqual(corners["coupon"], [[0.0, 0.0]])
        self.assertEqual((corners["disc"], corners["lettering"]), ([], []))

    def test_a_word_stands_where_there_is_room(self):
        """A coupon's slanted edge is a quarter in at half its height; it ends at its right."""
        assert_allclose(room_for_a_word(shaped("coupon", 12.0, 8.0), 12.0, 8.0), (7.5, 9.0), atol=0.02)
        assert_allclose(room_for_a_word(shaped("disc", 10.0, 10.0), 10.0, 10.0), (5.0, 10.0), atol=0.02)
        self.assertEqual(room_for_a_word(shaped("lettering", 9.0, 3.0, "Ag5"), 9.0, 3.0), (4.5, 9.0))

    def lettered(self, process, text):
        hold = {"speed_mm_s": 100, "line_spacing_mm": 0.1} if process == "area" else {"speed_mm_s": 20}
        axes = [{"parameter": "power_pct", "along": "x", "values": [20, 40]}]
        patch = {"shape": "lettering", "width_mm": 20, "height_mm": 8, "text": text}
        return drawing_of(planned(trial_document(process=process, hold=hold, axes=axes, patch=patch)))["figures"][0]

    def test_letters_are_drawn_as_they_will_be_with_no_word_on_them(self):
        figure = self.lettered("area", "B8")
        self.assertEqual((figure["word_room_mm"], figure["holes"], figure["lines"]), (0.0, "", ""))
        rings = [points for points, _ in subpaths(figure["face"])]
        turns = [
            np.sign(sum(np.cross(a, b) for a, b in zip(ring, np.roll(ring, -1, axis=0), strict=True))) for ring in rings
        ]
        # Two letters one way round, their four holes the other.
        self.assertEqual(sorted(turns), [-1] * 4 + [1] * 2)

    def test_a_stroke_that_closes_is_no_face(self):
        """An 8 in single strokes has closed ones: it is drawn as its box like any other text; nothing is amiss."""
        figure = self.lettered("line", "B8")
        self.assertEqual((figure["lines"], figure["word_room_mm"]), ("", 20))
        ((box, _),) = subpaths(figure["face"])
        self.assertEqual((box.min(axis=0).tolist(), box.max(axis=0).tolist()), ([0, 0], [20, 8]))

    def test_every_figure_once_and_each_element_says_which(self):
        plate = two_steps()
        shown = seen(plate)
        self.assertEqual([figure["id"] for figure in shown["drawing"]["figures"]], [figure_id(0), figure_id(1)])
        self.assertEqual([patch["figure"] for patch in shown["patches"][:3]], ["patch", "patch-2", "patch"])
        self.assertNotIn("figure", seen(planned(trial_document()))["patches"][0])


if __name__ == "__main__":
    unittest.main()
