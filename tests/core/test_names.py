"""Names that are read as the same, names that imitate, and addresses."""

import unittest

from rezept.core.errors import InvalidInput
from rezept.core.names import clean_name, clean_own_name, name_key, public_address, slug, trial_name


class NameTest(unittest.TestCase):
    def test_what_is_read_as_the_same_is_the_same(self):
        for one, other in (
            ("Moss", " moss "),
            ("Straße", "STRASSE"),
            ("Zo\u00eb", "zoe\u0308"),  # composed and not
            ("\uff2d\uff4f\uff53\uff53", "Moss"),  # full width
            ("Ann  Marie", "ann marie"),
        ):
            self.assertEqual(name_key(one), name_key(other), (one, other))
        self.assertNotEqual(name_key("Moss"), name_key("Mosse"))

    def test_two_scripts_in_one_name_are_refused(self):
        for good in (
            "Ørsted-Åberg",
            "Анна Иванова",
            "Ελένη",
            "山田 タロウ",
            "Ken 山田",
            "민준",
            "O’Neil 3",
            "שרה",
            "ﬁ Noé",
        ):
            self.assertEqual(clean_own_name(good), good)
        for bad in ("K\u0430y", "М\u006fss", "Kαy", "Ann Иванова"):
            with self.subTest(bad), self.assertRaisesRegex(InvalidInput, "one script"):
                clean_own_name(bad)

    def test_what_cannot_be_seen_is_no_part_of_a_name(self):
        for bad in ("Mo\u200bss", "Moss\u202e", "Mo\ud800ss", "Mo\x07ss", "\uffff", "\ue000", "", "  ", "x" * 81):
            with self.subTest(bad[:9].encode("utf-8", "replace")), self.assertRaises(InvalidInput):
                clean_name(bad)


class FileNameTest(unittest.TestCase):
    def test_part_of_a_file_name(self):
        for name, expected in [
            ("Poplar plywood 4 mm", "poplar-plywood-4-mm"), ("Cast acrylic, amber 5 mm", "cast-acrylic-amber-5-mm"),
            ("Ébène 0.8 mm", "ebene-0-8-mm"), ("../../etc", "etc"), ("木", "plate"), ("a" * 90, "a" * 40),
        ]:  # fmt: skip
            self.assertEqual(slug(name), expected)

    def test_what_a_trial_is_called(self):
        self.assertEqual((trial_name(4), trial_name(1234)), ("T-004", "T-1234"))


class AddressTest(unittest.TestCase):
    def test_addresses(self):
        for text, address in (
            ("https://shop.example", "https://shop.example"),
            (" HTTPS://Shop.Example:8443/ ", "https://shop.example:8443"),
            ("http://192.168.1.7:8137", "http://192.168.1.7:8137"),
        ):
            self.assertEqual(public_address(text), address)
        bad = (
            "", "shop.example", "https://", "ftp://shop.example", "https://a.example/x", "https://u:p@a.example",
            "https://a.example?x", "https://a.example:99999", "https://a.example:0", "javascript:alert(1)",
        )  # fmt: skip
        for text in bad:
            with self.subTest(text), self.assertRaises(InvalidInput):
                public_address(text)


if __name__ == "__main__":
    unittest.main()
