"""Trials of figures people bring: their size, what is said of them, what is planned and written."""

import json
import math
import unittest

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.plan import plan, read_plate, read_trial
from rezept.core.plan.changed import changes
from tests.hatch_referee import length, polygon
from tests.made import planned, trial_document
from tests.random_figures import svg

KITE = '<path d="M0 10L10 0H30L40 10L30 20H10z"/>'
HOLE = '<path fill-rule="evenodd" d="M0 10L10 0H30L40 10L30 20H10zM15 10a5 5 0 1 0 10 0a5 5 0 1 0 -10 0z"/>'
LINE = '<path fill="none" stroke="red" d="M3 10h5"/>'


def brought(body=HOLE, process="area", figure=None, **patch):
    hold = {"speed_mm_s": 100, "line_spacing_mm": 0.2} if process == "area" else {"speed_mm_s": 20}
    return trial_document(
        process=process,
        hold=hold,
        axes=[{"parameter": "power_pct", "along": "x", "values": [20, 40]}],
        patch={"shape": "figure", "figure": {"svg": svg(body), **(figure or {})}, **patch},
    )


class SizeTest(unittest.TestCase):
    def size(self, **patch):
        elements = planned(brought(**patch)).elements
        return float(elements.width_mm[0]), float(elements.height_mm[0])

    def test_it_is_as_large_as_it_was_drawn(self):
        self.assertEqual(self.size(), (40.0, 20.0))

    def test_one_side_follows_the_other(self):
        self.assertEqual(self.size(width_mm=10), (10.0, 5.0))
        self.assertEqual(self.size(height_mm=10), (20.0, 10.0))

    def test_proportions_are_kept_unless_it_is_said(self):
        with self.assertRaisesRegex(InvalidInput, "patch.height_mm: At a width of 10 mm this figure is 5 mm high"):
            self.size(width_mm=10, height_mm=10)
        self.assertEqual(self.size(width_mm=10, height_mm=10, figure={"stretched": True}), (10.0, 10.0))
        # What was rounded is no other proportion.
        self.assertEqual(self.size(width_mm=10, height_mm=5.01), (10.0, 5.01))


class PlannedTest(unittest.TestCase):
    def test_lines_and_times_are_those_of_the_figure(self):
        plate = planned(brought(width_mm=20))
        ways = plate.document()["figures"][0]["ways"]
        area = polygon(ways)
        # Half of the drawing's size: the kite without the disc of 5 mm.
        self.assertAlmostEqual(area.area, (600 - math.pi * 25) / 4, delta=0.05)
        lines = plate.steps[0].work.path.passes(
            plate.elements.figures[0],
            tuple(
                (key, float(plate.judged.settings[key][0]))
                for key in ("line_spacing_mm", "hatch_angle_deg", "hatch_turn_deg", "passes")
            ),
        )
        total = sum(float(np.linalg.norm(one[:, 1] - one[:, 0], axis=1).sum()) for one in lines)
        self.assertAlmostEqual(total, length(area, 0.2, 0), delta=1e-3)
        self.assertGreater(plate.judged.seconds[0], total / 100)

    def test_a_frozen_plate_is_read_again(self):
        for process in ("area", "cut"):
            plate = planned(brought(HOLE + LINE, process))
            said = json.loads(json.dumps(plate.document()))
            self.assertEqual(json.loads(json.dumps(read_plate(said).document())), said)
            self.assertEqual(json.loads(json.dumps(plan(read_trial(said["trial"])).document())), said)

    def test_it_has_a_figure_or_has_none(self):
        document = brought()
        document["patch"]["shape"] = "disc"
        with self.assertRaisesRegex(InvalidInput, "patch.figure: Only a patch of the shape figure"):
            planned(document)
        del document["patch"]["figure"]
        document["patch"]["shape"] = "figure"
        with self.assertRaisesRegex(InvalidInput, "patch.figure"):
            planned(document)

    def test_what_is_wrong_with_it_is_said_where_it_stands(self):
        for words, figure in {
            "patch.figure.svg: This is no SVG": {"svg": "<svg"},
            "patch.figure.svg: There is no outline": {"svg": svg("<text>A</text>")},
            "patch.figure.close_gaps_mm": {"close_gaps_mm": 50},
            "patch.figure.file": {"file": "/etc/passwd"},
        }.items():
            with self.subTest(words), self.assertRaises(InvalidInput) as raised:
                planned(brought(figure=figure))
            self.assertIn(words, str(raised.exception))

    def test_nothing_that_closes_is_not_filled(self):
        with self.assertRaisesRegex(InvalidInput, "nothing to fill"):
            planned(brought(LINE + '<path fill="none" stroke="red" d="M5 5v5"/>'))
        followed = planned(brought(LINE + '<path fill="none" stroke="red" d="M5 5v5"/>', "line"))
        self.assertEqual([len(figure.strokes) for figure in followed.elements.figures], [2])


class WarnedTest(unittest.TestCase):
    def said(self, *of, **said):
        return [one.sentence for one in planned(brought(*of, **said)).warnings if one.path == "patch.figure"]

    def test_lines_that_do_not_close_are_not_filled(self):
        (sentence,) = self.said(HOLE + LINE)
        self.assertEqual(
            sentence,
            "1 line of the figure does not close and is not filled; the first ends at 3, 10 with a gap of 5 mm.",
        )
        # A cut follows them.
        self.assertEqual(self.said(HOLE + LINE, "cut"), [])

    def test_a_small_gap_is_closed_when_asked(self):
        almost = '<path d="M0 0H20V20H0V0.3"/>'
        with self.assertRaisesRegex(InvalidInput, "nothing to fill"):
            planned(brought(almost))
        self.assertEqual(self.said(almost, figure={"close_gaps_mm": 0.3}), [])

    def test_what_overlaps_counts_as_a_hole(self):
        (sentence,) = self.said(KITE + '<rect x="30" y="5" width="20" height="10"/>', "cut")
        self.assertIn("counts as a hole", sentence)

    def test_another_figure_is_another_trial(self):
        before, now = (planned(brought(body)).trial.document() for body in (HOLE, KITE))
        self.assertEqual(changes(before, now), ["patch: another figure"])
        self.assertEqual(changes(before, before), [])


if __name__ == "__main__":
    unittest.main()
