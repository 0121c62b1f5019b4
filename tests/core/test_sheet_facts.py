"""What is known of a sheet beyond its family: in words, none of it demanded, each used where it matters."""

import unittest

from rezept.core.begin.from_recipes import sheet_of
from rezept.core.checklist import checklist
from rezept.core.errors import InvalidInput, UnknownKey
from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.material import read_material
from rezept.core.sheet_facts import SHEET_FACTS, alike_by
from tests.made import POPLAR, WREN

MACHINE = read_machine(Fields(WREN))


def material(**facts):
    return read_material(Fields({**POPLAR, **facts}))


def keys(passes_through=True, **facts):
    return {
        check.key: check
        for check in checklist(MACHINE, material(**facts), {}, (), None, False, (), passes_through=passes_through)
    }


class FactsTest(unittest.TestCase):
    def test_a_colour_is_written_as_one(self):
        with self.assertRaisesRegex(InvalidInput, "below_colour: A colour is written like"):
            material(below_colour="white")
        self.assertEqual([round(value) for value in material(below_colour="#ffffff").below_lab], [100, 0, 0])
        self.assertIsNone(material().below_lab)

    def test_a_document_says_them_and_reads_back(self):
        said = {key: "#20242c" if fact.colour else f"some {key}" for key, fact in SHEET_FACTS.items()}
        document = material(**said).document()
        self.assertLessEqual(said.items(), document.items())
        self.assertEqual(read_material(Fields(document)).facts, said)

    def test_what_is_not_said_is_not_there(self):
        self.assertEqual(material(kind="  ").facts, {})
        self.assertFalse(set(material().document()) & set(SHEET_FACTS))

    def test_what_is_none_is_refused(self):
        with self.assertRaises(UnknownKey):
            material(colourful="yes")
        with self.assertRaises(InvalidInput):
            material(kind="x" * 81)
        with self.assertRaises(InvalidInput):
            material(finish=3)

    def test_of_one_kind_with_one_coating(self):
        self.assertEqual(alike_by({"kind": "Brass", "coating": "Lacquer"}), "brass, lacquer")
        self.assertEqual(alike_by({"kind": "brass", "finish": "brushed"}), "brass")
        for nothing in ({}, {"coating": "lacquer"}, {"kind": "unknown"}):
            self.assertEqual(alike_by(nothing), "")
        self.assertEqual(sheet_of(material(kind="birch")).kind, "birch")

    def test_a_plastic_of_unknown_kind_is_grave_and_wood_is_not(self):
        self.assertTrue(keys(family="plastic", kind="unknown")["unknown_kind"].grave)
        self.assertNotIn("unknown_kind", keys(family="wood", kind="unknown"))
        self.assertNotIn("unknown_kind", keys(family="plastic"))

    def test_what_is_to_be_seen_to(self):
        self.assertEqual({"adhesive", "backing", "grain"} - set(keys(adhesive="on the back", backing="paper",
                                                                     grain="across")), set())  # fmt: skip
        self.assertIn("(paper)", keys(backing="paper")["backing"].sentence)
        self.assertNotIn("grain", keys(grain="none"))
        self.assertNotIn("grain", keys(grain="across", passes_through=False))


if __name__ == "__main__":
    unittest.main()
