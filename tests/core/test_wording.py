"""Settings and numbers in words."""

import unittest

from rezept.core.parameters import PARAMETERS
from rezept.core.wording import counted, rounded, setting_words, value_words


class WordsTest(unittest.TestCase):
    def test_numbers_have_no_exponent(self):
        for value, digits, said in (
            (3484.2, 3, "3480"), (0.034512, 3, "0.0345"), (1234567.0, 2, "1200000"), (2.0, 3, "2"),
            (999.6, 3, "1000"),
        ):  # fmt: skip
            self.assertEqual(rounded(value, digits), said)

    def test_one_and_several(self):
        self.assertEqual([counted(n, "patch", "patches") for n in (0, 1, 2)], ["0 patches", "1 patch", "2 patches"])
        self.assertEqual(counted(3, "photo"), "3 photos")

    def test_levels_are_words(self):
        self.assertEqual([value_words("air_level", level) for level in (0, 1, 2)], ["off", "on", "high"])
        self.assertEqual(setting_words("air_level", 2.0), "air high")
        self.assertEqual((setting_words("passes", 1.0), setting_words("passes", 3.0)), ("1 pass", "3 passes"))
        self.assertEqual(value_words("power_pct", None), "not set")

    def test_every_setting_has_words(self):
        for key, row in PARAMETERS.items():
            value = row.default if row.default is not None else max(row.low, 0.0)
            self.assertTrue(setting_words(key, value).strip(), key)


if __name__ == "__main__":
    unittest.main()
