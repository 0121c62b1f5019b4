"""Materials: what burns, what never may, and what each hazard leads to."""

import unittest

from rezept.core.errors import InvalidInput, UnknownKey
from rezept.core.fields import Fields
from rezept.core.material import CANNOT_BURN, FAMILIES, HAZARDS, NEVER_BURN, read_material


def material(**facts):
    return read_material(Fields({"name": "Sheet", **facts}))


class HazardTest(unittest.TestCase):
    def test_every_hazard_says_what_follows(self):
        for hazard, consequence in HAZARDS.items():
            self.assertGreater(len(consequence), 15, hazard)
        self.assertLessEqual(set(NEVER_BURN), set(HAZARDS))
        for hazard in NEVER_BURN:
            self.assertIn("never burned", HAZARDS[hazard])

    def test_an_unknown_hazard_is_refused_with_its_place(self):
        with self.assertRaises(InvalidInput) as caught:
            material(hazards=["fire", "ghosts"])
        self.assertEqual(caught.exception.path, "hazards[1]")

    def test_what_feeds_a_flame(self):
        for family in FAMILIES:
            self.assertEqual(material(family=family).can_burn, family not in CANNOT_BURN)
        self.assertTrue(material(family="metal", hazards=["fire"]).can_burn)


class ReadTest(unittest.TestCase):
    def test_titles(self):
        self.assertEqual(material(thickness_mm=4.0).title, "Sheet 4 mm")
        self.assertEqual(material(thickness_mm=0.8).title, "Sheet 0.8 mm")
        self.assertEqual(material().title, "Sheet")

    def test_there_and_back(self):
        facts = {"name": "Sheet", "family": "wood", "thickness_mm": 3.0, "mark": "lighter", "hazards": ["fumes"]}
        document = read_material(Fields({**facts, "ground_lab": [80, 4, 20]})).document()
        self.assertEqual(read_material(Fields(document)).document(), document)

    def test_what_cannot_be(self):
        for facts, path in [
            ({"thickness_mm": 0}, "thickness_mm"),
            ({"thickness_mm": 1001}, "thickness_mm"),
            ({"mark": "blue"}, "mark"),
            ({"ground_lab": [1, 2]}, "ground_lab"),
            ({"ground_lab": [1, 2, "x"]}, "ground_lab[2]"),
            ({"name": " "}, "name"),
        ]:
            with self.subTest(path), self.assertRaises(InvalidInput) as caught:
                material(**facts)
            self.assertEqual(caught.exception.path, path)
        with self.assertRaises(UnknownKey):
            material(colour="red")


if __name__ == "__main__":
    unittest.main()
