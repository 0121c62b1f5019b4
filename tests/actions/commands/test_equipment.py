"""The shop's equipment: edited in place, retired, taken back; hazards have consequences."""

import unittest

from rezept.actions.commands import equipment, planning
from rezept.actions.members import NotAllowed
from rezept.actions.queries import following, shop_facts, views
from rezept.actions.queries.starting import sheet_of_row
from rezept.core.errors import InvalidInput, Refused, SeveralErrors
from rezept.core.fields import Fields
from rezept.core.machine import SOURCES, read_machine
from rezept.core.machine_facts import FACTS, START_VALUES
from rezept.core.material import read_material
from rezept.store import equipment as equipment_table
from rezept.store.errors import Stale
from tests.made import BLANK, POPLAR, WREN, ShopCase


class EquipmentTest(ShopCase):
    def one(self, kind, row_id):
        with self.shop.database.reading() as db:
            return equipment_table.one(db, kind, row_id)

    def machine_id(self):
        return self.one("head", self.wren)["machine_id"]

    def change_machine(self, edit=1, by=None, retired=False, units=None, **changes):
        by = by or self.technician
        facts = {**WREN, **changes}
        return equipment.change(self.shop, by, "machine", self.machine_id(), edit, facts, units or {}, retired)

    def test_figures_are_typed_with_units(self):
        changed = self.change_machine(rated_power_w="0.08 kW", max_speed_mm_s="24000", units={"speed": "mm/min"})
        self.assertEqual(changed["facts"]["rated_power_w"], 80.0)
        self.assertEqual(changed["facts"]["max_speed_mm_s"], 400.0)
        self.assertEqual(changed["edit"], 2)
        self.assertEqual(shop_facts.machine_of(self.one("head", self.wren)).rated_power_w, 80.0)

    def test_every_wrong_figure_gets_its_sentence(self):
        with self.assertRaises(SeveralErrors) as caught:
            self.change_machine(rated_power_w="a lot", firing_floor_pct="9 mm")
        self.assertEqual({error.path for error in caught.exception.errors}, {"rated_power_w", "firing_floor_pct"})
        for key, value in (("rated_power_w", ""), ("max_power_pct", "8"), ("source", "sun"), ("colour", "red")):
            with self.subTest(key), self.assertRaises(InvalidInput) as refused:
                self.change_machine(**{key: value})
            self.assertEqual(refused.exception.path, key)
        self.assertEqual(self.one("machine", self.machine_id())["edit"], 1)

    def test_a_stale_change_tells_both(self):
        self.change_machine(note="new tube")
        with self.assertRaises(Stale) as caught:
            self.change_machine(note="old tube")
        self.assertEqual((caught.exception.current["note"], caught.exception.yours["note"]), ("new tube", "old tube"))

    def test_facts_of_a_sheet_are_kept_used_and_taken_back(self):
        facts = {**POPLAR, "family": "plastic", "name": "Offcut", "facts": {"kind": "unknown", "maker": " Northmill "}}
        sheet = equipment.add(self.shop, self.technician, "material", {**facts, "processes": ["cut"]}, {})
        row = self.one("material", sheet)
        self.assertEqual(row["facts"], {"kind": "unknown", "maker": "Northmill"})
        trial = planning.new_trial(self.shop, self.technician, "cut", sheet, self.wren)
        page = views.trial_page(self.shop, trial)
        self.assertEqual(page["planned"].trial.material.facts, row["facts"])
        self.assertIn("unknown_kind", [check["key"] for check in page["checklist"]])
        changed = {**facts, "facts": {"kind": "acrylic, cast"}}
        equipment.change(self.shop, self.technician, "material", sheet, 1, changed, {}, False)
        with self.shop.database.reading() as db:
            self.assertEqual(sheet_of_row(equipment_table.material(db, sheet)).kind, "acrylic, cast")
        line = following.log(self.shop, "material", sheet, None, 9)[0]
        equipment.take_back(self.shop, self.technician, line["id"])
        self.assertEqual(self.one("material", sheet)["facts"], row["facts"])
        with self.assertRaisesRegex(InvalidInput, "colour is not known"):
            equipment.add(
                self.shop, self.technician, "material", {**facts, "name": "x", "facts": {"colour": "red"}}, {}
            )

    def test_roles(self):
        with self.assertRaises(NotAllowed):
            self.change_machine(by=self.member)
        equipment.add(self.shop, self.member, "lot", {"material_id": self.poplar, "name": "pallet 2"}, {})
        with self.assertRaises(NotAllowed):
            equipment.add(self.shop, self.guest, "lot", {"material_id": self.poplar, "name": "pallet 3"}, {})

    def test_a_change_is_taken_back_and_that_too(self):
        before = self.one("machine", self.machine_id())
        self.change_machine(rated_power_w=80)
        line = following.log(self.shop, "machine", self.machine_id(), None, 10)[0]
        self.assertEqual((line["verb"], line["title"], line["by_name"]), ("changed", "Wren", "Tess"))
        _, after = equipment.take_back(self.shop, self.technician, line["id"])
        self.assertEqual(after["facts"], before["facts"])
        with self.assertRaises(Stale):
            equipment.take_back(self.shop, self.technician, line["id"])
        line = following.log(self.shop, "machine", self.machine_id(), None, 10)[0]
        _, again = equipment.take_back(self.shop, self.technician, line["id"])
        self.assertEqual(again["facts"]["rated_power_w"], 80)

    def test_what_was_added_is_retired_by_taking_it_back(self):
        equipment.add(self.shop, self.technician, "lot", {"material_id": self.poplar, "name": "wrong"}, {})
        line = following.log(self.shop, "lot", None, None, 1)[0]
        self.assertTrue(equipment.take_back(self.shop, self.technician, line["id"])[1]["retired"])

    def test_members_are_not_taken_back(self):
        line = following.log(self.shop, "member", None, None, 1)[0]
        with self.assertRaises(Refused):
            equipment.take_back(self.shop, self.keeper, line["id"])

    def test_what_is_retired_is_not_planned_with(self):
        planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        self.change_machine(retired=True)
        self.assertTrue(self.one("head", self.wren)["retired"])
        with self.assertRaisesRegex(Refused, "Wren is retired"):
            planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)

    def test_what_gives_off_chlorine_is_not_planned_by_members(self):
        facts = {"name": "Vinyl", "family": "plastic", "thickness_mm": 1, "hazards": ["chlorine"]}
        vinyl = equipment.add_material(self.shop, self.technician, facts, ["cut"])
        with self.assertRaisesRegex(Refused, "chlorine.*never burned"):
            planning.new_trial(self.shop, self.member, "cut", vinyl, self.wren)

    def test_a_sheet_is_as_thick_as_people_say(self):
        """Bare numbers in the person's unit; 1/8 in are 3.175 mm, 300 g/m2 of paper about 0.375."""
        for typed, units, mm in (("1/8 in", {}, 3.175), ("300 g/m2", {}, 0.375), ("0.125", {"length": "in"}, 3.175)):
            with self.subTest(typed):
                facts = {**POPLAR, "name": f"Sheet {typed}", "thickness_mm": typed, "processes": ["cut"]}
                row = self.one("material", equipment.add(self.shop, self.technician, "material", facts, units))
                self.assertEqual(row["thickness_mm"], mm)
                # It is called as it was said, where that is not in mm anyway.
                said = "" if units else typed
                self.assertEqual(row["facts"].get("thickness_said", ""), said)
                self.assertEqual(row["title"], f"Sheet {typed} {said or '3.175 mm'}")
                trial = planning.new_trial(self.shop, self.technician, "cut", row["id"], self.wren)
                plate = views.trial_page(self.shop, trial)["plate"]["trial"]
                self.assertEqual(read_material(Fields(plate["material"])).title, row["title"])
                shown = {**facts, "facts": row["facts"], "thickness_mm": "4.2"}
                after = equipment.change(
                    self.shop, self.technician, "material", row["id"], row["edit"], shown, {}, False
                )
                self.assertEqual((after["title"], after["facts"]), (f"Sheet {typed} 4.2 mm", {}))
        with self.assertRaisesRegex(SeveralErrors, "Say which: 18 ga steel"):
            facts = {**POPLAR, "name": "Plate", "thickness_mm": "18 ga", "processes": ["cut"]}
            equipment.add(self.shop, self.technician, "material", facts, {})

    def test_a_material_with_all_its_figures(self):
        facts = {
            **POPLAR, "name": "Birch", "thickness_mm": "0.16 in", "ground_colour": "#808080",
            "density_kg_m3": "0.62 g/cm3", "hardness": "3", "processes": ["area", "cut"], "supplier_code": " B-4 ",
        }  # fmt: skip
        row = self.one("material", equipment.add(self.shop, self.technician, "material", facts, {}))
        self.assertEqual((row["thickness_mm"], row["density_kg_m3"], row["hardness"]), (4.064, 620.0, 3))
        # 50 % grey of a screen has L* 53.585 (IEC 61966-2-1 and CIE 15).
        self.assertAlmostEqual(row["ground_lab"][0], 53.59, 2)
        self.assertEqual((row["processes"], row["supplier_code"]), (["cut", "area"], "B-4"))

    def test_wrong_materials_and_pieces(self):
        cases = [
            ("material", {**BLANK, "family": "cheese"}, "family"),
            ("material", {**BLANK, "name": "X", "ground_colour": "grey"}, "ground_colour"),
            ("material", {**BLANK, "name": "X", "hardness": 6}, "hardness"),
            ("material", {**BLANK, "name": "X", "processes": ["melt"]}, "processes[0]"),
            ("material", BLANK, "name"),
            ("lot", {"material_id": 99, "name": "X"}, "material_id"),
            ("lot", {"material_id": self.poplar, "name": " "}, "name"),
            ("piece", {"material_id": self.poplar, "name": "X", "width_mm": 0}, "width_mm"),
            ("piece", {"material_id": self.poplar, "name": "X", "width_mm": 9, "margin_mm": 5}, "margin_mm"),
            ("head", {"machine_id": 1, "name": "X", "spot_mm": -1}, "spot_mm"),
            ("head", {"machine_id": 1, "name": "lens"}, "name"),
        ]
        for kind, facts, path in cases:
            with self.subTest(f"{kind} {path}"), self.assertRaises(ValueError) as caught:
                equipment.add(self.shop, self.technician, kind, facts, {})
            self.assertEqual(caught.exception.path, path)

    def test_a_piece_of_another_materials_lot_is_refused(self):
        lot = equipment.add_lot(self.shop, self.member, self.poplar, "pallet", 3.9)
        piece = {"material_id": self.blank, "lot_id": lot, "name": "scrap", "width_mm": "30 cm"}
        with self.assertRaisesRegex(InvalidInput, "another material"):
            equipment.add(self.shop, self.member, "piece", piece, {})
        row = self.one(
            "piece", equipment.add(self.shop, self.member, "piece", {**piece, "material_id": self.poplar}, {})
        )
        self.assertEqual((row["width_mm"], row["height_mm"]), (300.0, 300.0))


class MachineFactsTest(unittest.TestCase):
    def test_every_fact_is_one_the_machine_or_head_has(self):
        # A figure in focus is written where it is known.
        machine = read_machine(Fields({**WREN, "head": {"datum_mm": 228}})).document()
        for fact in FACTS:
            owner = machine["head"] if fact.of == "head" else machine
            self.assertIn(fact.key.split(".")[0], owner)

    def test_every_source_has_start_values_that_make_a_machine(self):
        self.assertEqual(set(START_VALUES), set(SOURCES))
        for source, start in START_VALUES.items():
            facts = {**start, "name": "New", "source": source, "rated_power_w": 20, "max_speed_mm_s": 500}
            head = {"spot_mm": facts.pop("spot_mm")}
            machine = read_machine(Fields({**facts, "field_width_mm": 100, "field_height_mm": 100, "head": head}))
            self.assertEqual(machine.motion, start["motion"])


if __name__ == "__main__":
    unittest.main()
