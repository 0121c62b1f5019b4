"""Scores: what can be said of a burned patch."""

import unittest

from rezept.core.errors import InvalidInput, UnknownKey
from rezept.core.fields import Fields
from rezept.core.process import PROCESSES
from rezept.core.reading import TAGS, read_scores

CUT, AREA, LINE = PROCESSES["cut"], PROCESSES["area"], PROCESSES["line"]


class ReadScoresTest(unittest.TestCase):
    def scores(self, process=CUT, **document):
        return read_scores(Fields(document), process)

    def test_nothing_said_is_nothing_scored(self):
        empty = self.scores()
        self.assertEqual((empty.tags, empty.note), ((), ""))
        self.assertIsNone(empty.through)
        self.assertFalse(empty.cannot_tell)

    def test_every_score_has_its_scale(self):
        for process, key, most in [(CUT, "through", 3), (CUT, "char", 3), (AREA, "darkness", 5), (AREA, "evenness", 3),
                                   (AREA, "soot", 3), (LINE, "darkness", 5)]:  # fmt: skip
            with self.subTest(key=key):
                self.assertEqual(getattr(self.scores(process, **{key: most}), key), most)
                for wrong in (most + 1, -1, 0.5, "2", True):
                    with self.assertRaises(InvalidInput):
                        self.scores(process, **{key: wrong})

    def test_scores_of_another_process(self):
        for process, key in [(AREA, "through"), (CUT, "darkness"), (CUT, "evenness"), (AREA, "char")]:
            with self.subTest(key=key), self.assertRaisesRegex(InvalidInput, "not scored for this process"):
                self.scores(process, **{key: 1})

    def test_tags_are_kept_once_in_their_order(self):
        self.assertEqual(self.scores(tags=["flame", "back_burn", "flame"]).tags, ("flame", "back_burn"))

    def test_every_tag_says_where_it_means_something(self):
        for tag, processes in TAGS.items():
            for process in PROCESSES.values():
                with self.subTest(tag=tag, process=process.key):
                    if process.key in processes:
                        self.assertEqual(self.scores(process, tags=[tag]).tags, (tag,))
                    else:
                        with self.assertRaisesRegex(InvalidInput, "not a tag for this process"):
                            self.scores(process, tags=[tag])

    def test_scored_or_cannot_tell_but_not_both(self):
        self.assertTrue(self.scores(cannot_tell=True, char=1).cannot_tell)
        for process, document in [(CUT, {"through": 0}), (AREA, {"darkness": 0})]:
            with self.assertRaisesRegex(InvalidInput, "either scored or"):
                self.scores(process, cannot_tell=True, **document)

    def test_unknown_words(self):
        with self.assertRaises(UnknownKey):
            self.scores(trough=3)

    def test_a_cut_is_judged_by_its_back(self):
        self.assertEqual([process.deciding_face for process in (CUT, AREA, LINE)], ["back", "front", "front"])

    def test_a_note_has_a_length(self):
        with self.assertRaisesRegex(InvalidInput, "longer than 2000"):
            self.scores(note="x" * 2001)


if __name__ == "__main__":
    unittest.main()
