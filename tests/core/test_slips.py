"""Words of a search and slips of the finger."""

import string
import unittest

from hypothesis import given
from hypothesis import strategies as st

from rezept.core.slips import distance, shortened, slips_of, words_of

WORD = st.text(string.ascii_lowercase, min_size=5, max_size=9)


class WordsTest(unittest.TestCase):
    def test_figures_and_letters_are_parted(self):
        self.assertEqual(words_of("Poplar plywood 4mm, Ø 3,2 mm"), ["poplar", "plywood", "4", "mm", "ø", "3.2", "mm"])

    def test_accents_and_case_do_not_count(self):
        self.assertEqual(words_of("Béton STRASSE straße"), ["beton", "strasse", "strasse"])

    def test_signs_are_no_words(self):
        self.assertEqual(words_of('"* OR (NEAR) -; \x00'), ["or", "near"])

    def test_what_counts_as_a_letter_and_is_none_is_no_number(self):
        """U+0F2A is half a digit, U+0967 a whole one."""
        self.assertEqual(words_of("\u0f2a \u0967.5"), ["\u0f2a", "1.5"])


class SlipTest(unittest.TestCase):
    def test_known_distances(self):
        for typed, word, slips in [
            ("poplar", "poplar", 0), ("popl", "poplar", 0), ("popalr", "poplar", 1), ("pople", "poplar", 1),
            ("poplrr", "poplar", 1), ("ppoplar", "poplar", 1), ("birch", "poplar", 5),
        ]:  # fmt: skip
            self.assertEqual(distance(typed, word), slips, typed)

    @given(WORD, st.data())
    def test_one_slip_is_always_found(self, word, data):
        """Leaving out, adding, changing or swapping one letter leaves a common shortened word."""
        at = data.draw(st.integers(0, len(word) - 1))
        letter = data.draw(st.sampled_from(string.ascii_lowercase))
        swapped = word[:at] + word[at : at + 2][::-1] + word[at + 2 :]
        for typed in (word[:at] + word[at + 1 :], word[:at] + letter + word[at:], word[:at] + letter + word[at + 1 :]):
            self.assertTrue(shortened(typed) & slips_of(word), typed)
            self.assertLessEqual(distance(typed, word), 1)
        self.assertLessEqual(distance(swapped, word), 1)
        self.assertTrue(shortened(swapped) & slips_of(word))

    def test_short_words_and_numbers_are_not_guessed_at(self):
        self.assertEqual(slips_of("oak"), set())
        self.assertEqual(slips_of("3.2"), set())


if __name__ == "__main__":
    unittest.main()
