"""A short ladder is offered where a sheet is known in another thickness or settings are typed, and lies on a scrap."""

import unittest

from rezept.actions.commands import burning, equipment, keeping, planning, reading
from rezept.actions.queries import asking, views
from tests.made import WREN, ShopCase


class LadderTest(ShopCase):
    def known(self):
        """A tried cut of the 4 mm poplar."""
        trial = planning.new_trial(self.shop, self.technician, "cut", self.poplar, self.wren)
        burn = burning.mark_burned(self.shop, self.technician, trial, 1, {})
        reading.score(self.shop, self.technician, burn, "C3", 0, {"values": {"through": 3}})
        keeping.keep_recipe(self.shop, self.technician, burn, "C3", {"standing": "tried"})

    def first(self, material, head=None):
        return asking.ask(self.shop, "cut", material, head or self.wren, "flat")["start"]["ladder_first"]

    def scrap(self, name, width):
        facts = {"material_id": self.poplar, "name": name, "shape": "rectangle", "width_mm": width, "height_mm": 60.0,
                 "margin_mm": 2.0}  # fmt: skip
        return equipment.add(self.shop, self.technician, "piece", facts, {})

    def ladder(self):
        trial = planning.new_trial(self.shop, self.technician, "cut", self.poplar, self.wren, "ladder")
        return views.trial_page(self.shop, trial)

    def test_another_thickness_begins_with_a_ladder(self):
        self.assertEqual(self.first(self.thick), "")
        self.known()
        self.assertIn("known in another thickness", self.first(self.thick))
        self.assertEqual(self.first(self.poplar), "")

    def test_where_settings_are_typed_too(self):
        typed = equipment.add_machine(self.shop, self.keeper, {**WREN, "name": "Dial", "takes": ["svg", "sheet"]}, [{}])
        self.assertIn("typed into the control", self.first(self.poplar, typed[0]))

    def test_one_line_of_speeds_at_one_power(self):
        page = self.ladder()
        self.assertIsNone(page["problem"])
        [axis] = page["design"]["axes"]
        self.assertEqual((axis["parameter"], axis["along"]), ("speed_mm_s", "x"))
        patches = page["plate"]["patches"]
        self.assertTrue(4 <= len(patches) <= 9)
        self.assertEqual(len({patch["settings"]["power_pct"] for patch in patches}), 1)

    def test_it_lies_on_the_smallest_scrap_that_holds_it(self):
        self.scrap("chip", 30.0)
        small = self.scrap("strip", 90.0)
        self.scrap("half sheet", 300.0)
        page = self.ladder()
        self.assertIsNone(page["problem"])
        self.assertEqual(page["design"]["piece_id"], small)
        # As the wire declares a place: all of it.
        self.assertEqual(set(page["design"]["place"]), {"at", "x_mm", "y_mm", "turn_deg"})
        # (90 - 2 x 2) / 13 mm, less the room of the axis.
        self.assertEqual(len(page["plate"]["patches"]), 5)

    def test_where_that_is_burned_already_it_is_planned_without(self):
        self.scrap("strip", 90.0)
        for _ in range(8):
            page = self.ladder()
            self.assertIsNone(page["problem"])
            if page["design"].get("piece_id") is None:
                break
            burning.mark_burned(self.shop, self.technician, page["id"], page["edit"], {})
        self.assertIsNone(page["design"].get("piece_id"))
        self.assertGreater(len(page["plate"]["patches"]), 3)


if __name__ == "__main__":
    unittest.main()
