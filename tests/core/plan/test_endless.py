"""A plate says how many lines it takes before one is made, and refuses more than a machine burns in days."""

import tracemalloc
import unittest

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.path.filled import pass_lines
from rezept.core.path.hatch import MOST_HATCHES, MOST_LINES, hatch_loops
from rezept.core.path.shapes import shaped
from rezept.core.plan import plan, read_trial
from rezept.core.plan.elements import line_total, work_of
from rezept.core.plan.ground import clear_place, overlaps
from rezept.core.plan.layout import lay_out
from rezept.core.plan.parts import Piece, Place
from rezept.core.plan.patches import patch_elements, patch_settings
from rezept.core.plan.place import to_piece
from tests.made import WREN, area_document, planned, trial_document

HUGE = {**WREN, "field_width_mm": 3000.0, "field_height_mm": 3000.0}


def stepped(parameter, along, low, high, count):
    return {"parameter": parameter, "along": along, "from": low, "to": high, "count": count, "spacing": "linear"}


class EndlessTest(unittest.TestCase):
    def counted(self, document):
        """Lines of a trial by estimate, and as they are really made."""
        trial = read_trial(document)
        settings = patch_settings(trial)
        elements = patch_elements(trial, lay_out(trial), np.ones(len(trial.grid), bool))
        made = sum(
            len(lines)
            for i in range(len(elements))
            for lines in pass_lines(trial.patch.figure, {key: float(column[i]) for key, column in settings.items()})
        )
        return line_total(elements, [(work_of(trial.process), settings)]), made

    def test_the_estimate_is_what_is_made_or_a_little_more(self):
        for shape, passes, turn in (("rectangle", 1, 0), ("rectangle", 3, 31), ("disc", 2, 0), ("coupon", 2, 45)):
            patch = {"shape": shape, "width_mm": 12, "height_mm": 12 if shape == "disc" else 9, "gap_mm": 3}
            hold = {"power_pct": 20, "line_spacing_mm": 0.1, "passes": passes, "hatch_turn_deg": turn}
            estimate, made = self.counted(area_document(hold=hold, patch=patch))
            with self.subTest(shape, passes=passes, turn=turn):
                self.assertGreaterEqual(estimate, 0.98 * made)
                self.assertLess(estimate, 2.5 * made)

    def test_more_than_a_million_is_refused_before_any_is_made(self):
        hold = {"line_spacing_mm": 0.001, "passes": 100, "hatch_turn_deg": 7.3}
        axes = [stepped("speed_mm_s", "x", 100, 200, 70), stepped("power_pct", "y", 20, 60, 70)]
        patch = {"width_mm": 20, "height_mm": 20, "gap_mm": 1}
        trial = read_trial(area_document(machine=HUGE, hold=hold, axes=axes, patch=patch))
        tracemalloc.start()
        try:
            with self.assertRaisesRegex(InvalidInput, "12,.*million lines; 1 million") as caught:
                plan(trial)
            peak = tracemalloc.get_traced_memory()[1]
        finally:
            tracemalloc.stop()
        self.assertEqual((caught.exception.path, caught.exception.limit), ("hold.line_spacing_mm", MOST_LINES))
        self.assertLess(peak, 20 * 2**20)

    def test_passes_of_cuts_count_too(self):
        axes = [stepped("speed_mm_s", "x", 8, 32, 70), stepped("power_pct", "y", 30, 80, 70)]
        planned(trial_document(machine=HUGE, axes=axes))
        with self.assertRaisesRegex(InvalidInput, "lines") as caught:
            planned(trial_document(machine=HUGE, axes=axes, hold={"passes": 60}))
        self.assertEqual(caught.exception.path, "hold.passes")

    def test_too_many_ways_to_fill_are_refused(self):
        values = [0.05 * i for i in range(MOST_HATCHES + 1)]
        axis = {"parameter": "hatch_angle_deg", "along": "x", "values": values, "wrap": 30}
        hold = {"power_pct": 20, "line_spacing_mm": 0.2, "speed_mm_s": 100}
        with self.assertRaisesRegex(InvalidInput, "601 different ways"):
            planned(area_document(machine=HUGE, hold=hold, axes=[axis]))
        axis["values"] = values[:-1]
        self.assertEqual(len(planned(area_document(machine=HUGE, hold=hold, axes=[axis])).elements), MOST_HATCHES)

    def test_no_row_of_many_is_left_out(self):
        loops = shaped("coupon", 8.0, 6.0).ways
        whole = hatch_loops(loops, 0.01, 17.0)
        across = np.array([-np.sin(np.deg2rad(17)), np.cos(np.deg2rad(17))])
        rows = np.unique(np.round(whole[:, 0] @ across, 6))
        self.assertEqual(len(rows), round(np.ptp(np.concatenate(loops) @ across) / 0.01))


class GroundTest(unittest.TestCase):
    """Clear ground among a hundred burned plates: the same place as by trying each, without trying each."""

    def test_boxes_first_or_not_the_place_is_the_same(self):
        chance = np.random.default_rng(5)
        piece = Piece("rectangle", 600.0, 400.0, 2.0)
        for turn in (0.0, 20.0):
            corners = [tuple(chance.uniform((0, 0), (550, 350))) for _ in range(100)]
            ground = tuple(((x, y), (x + 40, y + 3), (x + 37, y + 33), (x - 2, y + 30)) for x, y in corners)
            place = clear_place(piece, ground, turn, 60.0, 40.0)
            # Shapely and the like are not needed: every box against every polygon, nothing left out beforehand.
            box = np.array([(0.0, 0.0), (60.0, 0.0), (60.0, 40.0), (0.0, 40.0)])
            placed = to_piece(box, place, piece, 60.0, 40.0)[None]
            self.assertFalse(any(overlaps(placed, polygon)[0] for polygon in ground))
            lower = [
                to_piece(box, Place("corner", x, place.y_mm - 0.6, turn), piece, 60.0, 40.0)
                for x in np.arange(2, 538, 5.0)
            ]
            inside = [one for one in lower if one.min() >= 2 and one[:, 0].max() <= 598 and one[:, 1].max() <= 398]
            clear = [one for one in inside if not any(overlaps(one[None], polygon)[0] for polygon in ground)]
            self.assertEqual(clear, [], "there was room below")

    def test_more_outlines_than_a_piece_can_have(self):
        square = [[0, 0], [5, 0], [5, 5]]
        with self.assertRaisesRegex(InvalidInput, "200 outlines at most"):
            read_trial(area_document(burned_ground=[square] * 201))


if __name__ == "__main__":
    unittest.main()
