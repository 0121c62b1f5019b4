"""Lettering part by part, and values beside the patches where there is little room."""

import unittest
from itertools import pairwise

from rezept.core.errors import InvalidInput
from rezept.core.path.lettering import text_width
from rezept.core.plan.layout import APART, steps_across, steps_up
from rezept.core.plan.plate_words import shortened
from tests.made import planned, trial_document

LINE = {"speed_mm_s": 120, "power_pct": 15}


def lettered(labels, **changes):
    return planned(trial_document(code="T3ST-T001.1", labels={"settings": LINE, **labels}, **changes))


def kinds(plate):
    return {text.kind for text in plate.texts}


class PartsTest(unittest.TestCase):
    def test_each_part_by_itself(self):
        for labels, expected in [
            ({"on": True}, {"axis", "column", "row", "title"}),
            ({"on": True, "heading": False}, {"axis", "column", "row"}),
            ({"on": False, "heading": True}, {"title"}),
            ({"numbers": True}, {"axis", "column", "row"}),
            ({"on": True, "heading": False, "numbers": False}, set()),
            ({"text": "for the lids"}, {"title"}),
        ]:
            with self.subTest(labels):
                self.assertEqual(kinds(lettered(labels)), expected)

    def test_own_words_stand_beside_what_is_held(self):
        plate = lettered({"on": True, "text": "for the lids"}, hold={"air_level": 1})
        said = " ".join(text.text for text in plate.texts if text.kind == "title")
        self.assertIn("for the lids", said)
        self.assertIn("air on", said)

    def test_a_completed_document_says_only_what_was_asked_for(self):
        self.assertEqual(
            set(lettered({"on": True}).trial.document()["labels"]), {"on", "height_mm", "qr", "marks", "settings"}
        )
        parts = lettered({"on": True, "heading": False, "text": "lids", "estimated": True}).trial.document()["labels"]
        self.assertEqual((parts["heading"], parts["text"], parts["estimated"]), (False, "lids", True))
        self.assertNotIn("numbers", parts)

    def test_what_cannot_be(self):
        for labels, path in [({"on": True, "heading": 1}, "labels.heading"), ({"text": "☃"}, "labels.text")]:
            with self.subTest(labels), self.assertRaises(InvalidInput) as caught:
                lettered(labels)
            self.assertEqual(caught.exception.path, path)

    def test_on_a_small_round_blank_the_number_alone(self):
        piece = {"shape": "disc", "width_mm": 38}
        small = {"patch": {"width_mm": 4, "height_mm": 4, "gap_mm": 1}, "piece": piece, "place": {"at": "centre"}}
        plate = lettered({"on": True, "height_mm": 1.2}, **small)
        self.assertEqual([text.text for text in plate.texts if text.kind in ("title", "axis")], ["T001.1"])
        larger = lettered({"on": True, "height_mm": 1.2}, **{**small, "piece": {**piece, "width_mm": 80}})
        self.assertIn("axis", kinds(larger))


class RoomTest(unittest.TestCase):
    def test_as_many_digits_as_tell_neighbours_apart(self):
        self.assertEqual(shortened(["17.57", "19.4", "21.22"]), ["18", "19", "21"])
        self.assertEqual(shortened(["101", "102", "103"]), ["101", "102", "103"])
        self.assertEqual(shortened(["1234", "1235"]), ["1234", "1235"])

    def test_shortened_then_by_turns_then_thinned(self):
        words, height = [f"{10 + 1.57 * i:.4g}" for i in range(8)], 2.0
        wide = max(text_width(word, height) for word in words) + APART * height
        short = max(text_width(word, height) for word in shortened(words)) + APART * height
        self.assertLess(short, wide)
        for pitch, texts, lines, left_out in [
            (wide, words, 1, 0), (short, shortened(words), 1, 0), (short * 0.6, shortened(words), 2, 0)
        ]:  # fmt: skip
            with self.subTest(pitch=pitch):
                steps = steps_across(words, pitch, height)
                self.assertEqual((list(steps.texts), steps.lines, steps.left_out), (texts, lines, left_out))
        thin = steps_across(words, short * 0.2, height)
        self.assertGreater(thin.left_out, 0)
        self.assertIsNotNone(thin.texts[0])

    def test_no_two_values_of_a_line_touch(self):
        for width in (2.0, 3.0, 4.0, 6.0, 10.0):
            axes = [
                {"parameter": "speed_mm_s", "along": "x", "from": 10, "to": 99, "count": 24, "spacing": "geometric"},
                {"parameter": "power_pct", "along": "y", "from": 30, "to": 80, "count": 12},
            ]
            patch = {"width_mm": width, "height_mm": width, "gap_mm": 0.5}
            plate = lettered({"on": True}, axes=axes, patch=patch)
            placed = [text for text in plate.texts if text.kind == "column"]
            by_line = {}
            for text in placed:
                by_line.setdefault(round(text.y_mm, 6), []).append(text)
            with self.subTest(width=width):
                for line in by_line.values():
                    ends = [(text.x_mm, text.x_mm + text_width(text.text, text.height_mm)) for text in line]
                    self.assertTrue(all(a[1] < b[0] for a, b in pairwise(ends)))
                rows = sorted(text.y_mm for text in plate.texts if text.kind == "row")
                self.assertTrue(all(b - a >= 2.0 for a, b in pairwise(rows)))
                left_out = 36 - len(placed) - len(rows)
                told = [warning.sentence for warning in plate.warnings if "left out" in warning.sentence]
                self.assertEqual(bool(told), left_out > 0)
                if told:
                    self.assertIn(f"{left_out} value", told[0])
                    self.assertIn("of 36", told[0])

    def test_rows_are_thinned(self):
        self.assertEqual(steps_up(["1", "2", "3", "4"], 3.0, 2.0).left_out, 0)
        self.assertEqual(steps_up(["1", "2", "3", "4"], 1.5, 2.0).texts, ("1", None, "3", None))


if __name__ == "__main__":
    unittest.main()
