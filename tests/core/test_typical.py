"""What work usually takes, and what is out of all proportion to it."""

import re
import unittest
from pathlib import Path

from rezept.core import typical
from rezept.core.checklist import checklist
from rezept.core.errors import InvalidInput
from rezept.core.material import FAMILIES
from rezept.core.plan.cautions import fire_words
from rezept.core.process import PROCESSES
from rezept.core.typical import typical_dose
from rezept.core.units import read_quantity
from tests.made import POPLAR, WREN, area_document, planned, trial_document

PHYSICS = Path(__file__).parents[2] / "docs" / "physics.md"


def one(speed, power, **more):
    """A plate of one patch."""
    axes = [{"parameter": "speed_mm_s", "along": "x", "values": [speed]}]
    return planned(trial_document(axes=axes, hold={"power_pct": power}, **more))


def kinds(plate):
    return [warning.kind for warning in plate.patch_warnings[0]]


class TypicalTest(unittest.TestCase):
    def test_worked_examples(self):
        self.assertAlmostEqual(typical_dose(PROCESSES["cut"], "wood", 4.0), 2.6)
        self.assertEqual(typical_dose(PROCESSES["area"], "leather", None), 0.7)
        self.assertEqual(typical_dose(PROCESSES["deep"], "rubber", 2.3), 9.0)
        for process, family, thickness in (("cut", "wood", None), ("cut", "metal", 1.0), ("line", "moonstone", 1.0)):
            self.assertIsNone(typical_dose(PROCESSES[process], family, thickness))

    def test_every_family_has_its_line_and_area(self):
        self.assertEqual(set(typical.LINE_J_MM) | {"ceramic"}, set(FAMILIES))
        self.assertEqual(set(typical.AREA_J_MM2), set(FAMILIES))
        self.assertLessEqual(set(typical.CUT_J_MM_A_MM), set(FAMILIES))

    def test_the_page_says_the_same(self):
        """docs/physics.md holds the table; each of its figures is the one that counts."""
        rows = re.findall(
            r"^\| (\w[\w ]*) \| ([\d.–-]+) \| ([\d.]+) \| ([\d.]+) \|$", PHYSICS.read_text(), re.MULTILINE
        )
        said = {family: (cut, line, area) for family, cut, line, area in rows}
        self.assertEqual(set(said), set(FAMILIES))
        for family, (cut, line, area) in said.items():
            expected = typical.CUT_J_MM_A_MM.get(family)
            self.assertEqual(cut, "–" if expected is None else f"{expected:g}")
            self.assertEqual(line, f"{typical.LINE_J_MM[family]:g}")
            self.assertEqual(area, f"{typical.AREA_J_MM2[family]:g}")


class FireTest(unittest.TestCase):
    """Cutting poplar of 4 mm usually takes 2.6 J/mm: six times is 15.6, three times 7.8."""

    def test_far_over(self):
        for speed, warned in ((48 / 15.5, False), (48 / 15.7, True)):
            plate = one(speed, 80, patch={"width_mm": 2, "height_mm": 2})
            self.assertEqual("fire" in kinds(plate), warned, speed)
        self.assertIn("6 times what cutting wood usually takes (about 2.6)", plate.patch_warnings[0][0].sentence)

    def test_over_and_for_long(self):
        """8 J/mm at 6 mm/s: round a square of 10 mm in 6.7 s, of 4 mm in 2.7 s."""
        self.assertIn("fire", kinds(one(6, 80, patch={"width_mm": 10, "height_mm": 10})))
        self.assertNotIn("fire", kinds(one(6, 80, patch={"width_mm": 4, "height_mm": 4})))

    def test_one_sentence_a_patch(self):
        plate = one(1, 80, starting_dose_j_mm=2.0)
        self.assertEqual(kinds(plate).count("fire") + kinds(plate).count("hot_end"), 1)

    def test_metal_does_not_burn_but_is_asked_about(self):
        steel = {"name": "Steel", "family": "metal"}
        plate = planned(area_document(material=steel, hold={"power_pct": 80, "line_spacing_mm": 0.01}))
        self.assertIn("look at these figures again", plate.patch_warnings[0][0].sentence)

    def test_leaving_them_out_settles_it(self):
        """Also where nothing is known and the strongest tenth is warned of: the next tenth is not the new hot end."""
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "values": list(range(10, 110, 10))},
            {"parameter": "power_pct", "along": "y", "values": [30, 31, 32]},
        ]
        unknown = {**POPLAR, "thickness_mm": None}
        plate = planned(trial_document(material=unknown, axes=axes, hold={}))
        hot = self.hot(plate)
        self.assertEqual(len(hot), 3)
        after = planned(trial_document(material=unknown, axes=axes, hold={}, off=hot))
        self.assertEqual(self.hot(after), [])

    def hot(self, plate):
        return [
            patch
            for patch, said in zip(plate.elements.ids, plate.patch_warnings, strict=True)
            if {"fire", "hot_end"} & {warning.kind for warning in said}
        ]


class CommaTest(unittest.TestCase):
    def test_before_three_digits_it_is_asked_about(self):
        for text in ("1,700 mm/min", "1,700", "12,500 mm/min", "-1,250"):
            with self.assertRaisesRegex(InvalidInput, "could be"):
                read_quantity(text, "speed")

    def test_elsewhere_it_is_a_decimal_comma(self):
        for text, value in (("0,125", 0.125), ("1,7", 1.7), ("1,7000", 1.7), ("12,50", 12.5), ("1700,5", 1700.5)):
            self.assertAlmostEqual(read_quantity(text, "speed"), value)


class ChecklistTest(unittest.TestCase):
    def said(self, plate, key):
        machine, material = plate.trial.machine, plate.trial.material
        checks = checklist(machine, material, plate.trial.hold, plate.varied(), fire_words(plate), False)
        return next((check.sentence for check in checks if check.key == key), None)

    def test_the_fire_of_the_plan(self):
        self.assertIn("A1: Poplar plywood 4 mm may catch fire", self.said(one(1, 80), "hot_patches"))
        self.assertIsNone(self.said(one(20, 80), "hot_patches"))

    def test_air_that_the_program_switches(self):
        axes = [{"parameter": "air_level", "along": "x", "values": [0, 1]}]
        plate = planned(trial_document(axes=axes, hold={"speed_mm_s": 20, "power_pct": 60}))
        self.assertIn("switches the air patch by patch", self.said(plate, "air"))
        levels = {**WREN, "air": "low_high"}
        plate = planned(trial_document(machine=levels, axes=axes, hold={"speed_mm_s": 20, "power_pct": 60}))
        self.assertIn("by hand", self.said(plate, "air"))
        self.assertIn("set it yourself", self.said(one(20, 80), "air"))

    def test_the_focus_with_its_sign(self):
        hold = {"focus_offset_mm": -1.5}
        self.assertIn(
            "Focus offset -1.5 mm: the focus lies 1.5 mm below", self.said(planned(trial_document(hold=hold)), "focus")
        )
        moved = planned(trial_document(hold={"focus_offset_mm": 2}, machine={**WREN, "focus_by_z": True}))
        self.assertIn("moves it by +2 mm, 2 mm above", self.said(moved, "focus"))


if __name__ == "__main__":
    unittest.main()
