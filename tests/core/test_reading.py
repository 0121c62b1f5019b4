"""What can be said of a burned element, and whose word counts."""

import itertools
import unittest

from rezept.core.errors import InvalidInput, UnknownKey
from rezept.core.fields import Fields
from rezept.core.process import PROCESSES
from rezept.core.reading import SURE, Reading, as_it_counts, photo_counts, read_reading
from rezept.core.scales import SCALES

CUT, AREA, LINE = PROCESSES["cut"], PROCESSES["area"], PROCESSES["line"]


def said(process=CUT, cannot_tell=False, note="", **values):
    return read_reading(Fields({"values": values, "cannot_tell": cannot_tell, "note": note}), process)


class ScalesTest(unittest.TestCase):
    def test_every_scale_takes_its_range_and_nothing_else(self):
        for scale in SCALES.values():
            process = PROCESSES[scale.processes[0]]
            with self.subTest(scale.key):
                self.assertEqual(said(process, **{scale.key: scale.high}).values[scale.key], scale.high)
                for wrong in (scale.high + 1, scale.low - 1, "2", True, None, float("nan")):
                    with self.assertRaises(InvalidInput) as caught:
                        said(process, **{scale.key: wrong})
                    self.assertEqual(caught.exception.path, f"values.{scale.key}")
                if scale.kind in ("degrees", "yes"):
                    with self.assertRaisesRegex(InvalidInput, "whole number"):
                        said(process, **{scale.key: 0.5})

    def test_a_length_is_more_than_nothing(self):
        self.assertEqual(said(kerf_mm=0.25).values, {"kerf_mm": 0.25})
        with self.assertRaisesRegex(InvalidInput, "more than 0 mm"):
            said(kerf_mm=0)

    def test_degrees_have_a_word_each_and_letters_are_told_apart(self):
        for scale in SCALES.values():
            for words in (scale.words, scale.lighter_words):
                if scale.kind == "degrees" and words:
                    self.assertEqual(len(words), scale.high - scale.low + 1, scale.key)
        letters = [scale.letter for scale in SCALES.values() if scale.entry == "letter"]
        self.assertEqual(len(set(letters)), len(letters))
        self.assertTrue(all(len(letter) == 1 for letter in letters))
        # What else the keyboard of reading does: cannot tell, not burned, flip, compare, undo, zoom.
        self.assertFalse({"t", "o", "x", "k", "u", "z"} & set(letters))

    def test_every_process_is_decided_by_one_of_its_scales(self):
        for process in PROCESSES.values():
            self.assertIn(process.key, SCALES[process.outcome].processes)
            self.assertEqual(SCALES[process.outcome].entry, "digit")

    def test_a_scale_means_nothing_for_other_processes(self):
        for scale, process in itertools.product(SCALES.values(), PROCESSES.values()):
            if process.key not in scale.processes:
                with self.subTest(scale.key, process=process.key), self.assertRaisesRegex(InvalidInput, "not read of"):
                    said(process, **{scale.key: 1})

    def test_what_is_shown_where(self):
        """Kerf, char and back burn are of cuts; a line is not felt for roughness; soot and flame are of everything."""
        shown = {key: set(scale.processes) for key, scale in SCALES.items()}
        self.assertEqual(shown["kerf_mm"], {"cut"})
        self.assertEqual(shown["char"], {"cut"})
        self.assertEqual(shown["rough"], set(PROCESSES) - {"line"})
        self.assertEqual(shown["layer"], {"layer"})
        self.assertEqual(shown["darkness"], set(PROCESSES) - {"cut", "layer"})
        self.assertEqual(shown["soot"], set(PROCESSES))
        self.assertEqual(shown["blurred"], set(PROCESSES) - {"cut"})


class ReadReadingTest(unittest.TestCase):
    def test_nothing_said_is_nothing_scored(self):
        self.assertEqual(read_reading(Fields({}), CUT), Reading({}, False, ""))

    def test_what_is_only_said_or_not_is_left_out_where_it_is_not(self):
        self.assertEqual(said(flame=0, back_burn=1, char=0).values, {"back_burn": 1.0, "char": 0.0})

    def test_scored_or_cannot_tell_but_not_both(self):
        self.assertTrue(said(cannot_tell=True, char=1).cannot_tell)
        for process, values in [(CUT, {"through": 0}), (AREA, {"darkness": 0})]:
            with self.assertRaisesRegex(InvalidInput, "either scored or"):
                said(process, cannot_tell=True, **values)

    def test_unknown_words(self):
        with self.assertRaises(UnknownKey):
            read_reading(Fields({"trough": 3}), CUT)
        with self.assertRaisesRegex(InvalidInput, "nothing that is read"):
            said(trough=3)

    def test_a_cut_is_judged_by_its_back(self):
        self.assertEqual([process.deciding_face for process in (CUT, AREA, LINE)], ["back", "front", "front"])

    def test_a_push_says_how_it_came_out(self):
        """None needed: it dropped out; a light or a hard one: with a push; it will not: it did not."""
        for push, through in ((0, 3), (1, 2), (2, 2), (3, 1)):
            said = read_reading(Fields({"values": {"push": push}}), CUT)
            self.assertEqual(said.values, {"push": push, "through": through})
            # However sure the photos are.
            self.assertEqual(as_it_counts(said, {"through": 3}, 0.99, "through"), (said.values, "person"))
        self.assertEqual(read_reading(Fields({"values": {"push": 1, "through": 3}}), CUT).values["through"], 3)
        unsure = read_reading(Fields({"values": {"push": 3}, "cannot_tell": True}), CUT)
        self.assertEqual(unsure.values, {"push": 3})

    def test_a_note_has_a_length(self):
        with self.assertRaisesRegex(InvalidInput, "longer than 2000"):
            said(note="x" * 2001)


class AsItCountsTest(unittest.TestCase):
    """A person's word on the outcome outranks any photo; without one, a sure photo's counts."""

    PHOTO = {"through": 2.0, "char": 1.0, "soot": 0.0}

    def counts(self, own, sure, photo=None):
        return as_it_counts(own, self.PHOTO if photo is None else photo, sure, "through")

    def test_a_photo_alone(self):
        self.assertEqual(self.counts(None, SURE), (self.PHOTO, "photo"))
        for sure in (SURE - 1e-6, None):
            self.assertIsNone(self.counts(None, sure))
        self.assertIsNone(self.counts(None, 1.0, {"soot": 1.0}))

    def test_what_a_person_says_of_the_outcome_is_all_that_counts(self):
        self.assertEqual(self.counts(Reading({"through": 0.0}, False, ""), 1.0), ({"through": 0.0}, "person"))
        self.assertEqual(self.counts(Reading({}, True, ""), 1.0), ({}, "person"))

    def test_what_a_person_says_beside_it_stands_beside_it(self):
        own = Reading({"char": 3.0, "flame": 1.0}, False, "")
        self.assertEqual(self.counts(own, 0.95), ({"through": 2.0, "char": 3.0, "soot": 0.0, "flame": 1.0}, "photo"))
        self.assertEqual(self.counts(own, 0.5), ({"char": 3.0, "flame": 1.0}, "person"))

    def test_a_cleared_statement_leaves_the_word_to_the_photos(self):
        self.assertEqual(self.counts(Reading({}, False, ""), 0.95), (self.PHOTO, "photo"))
        self.assertEqual(self.counts(Reading({}, False, ""), None, {}), ({}, "person"))

    def test_sureness_is_about_the_outcome(self):
        self.assertTrue(photo_counts({"through": 1.0}, 0.9, "through"))
        self.assertFalse(photo_counts({"char": 1.0}, 0.99, "through"))


if __name__ == "__main__":
    unittest.main()
