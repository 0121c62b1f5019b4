"""The nearest known recipes: ranked, with reasons, brought here by equal dose."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from rezept.core.begin.nearest import Known, Sheet, nearest
from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.process import PROCESSES
from tests.made import HERON, WREN

POPLAR = Sheet("Poplar", "wood", 4.0, 450.0, 2, (80.0, 5.0, 20.0))
THICK = Sheet("Poplar", "wood", 6.0, 450.0, 2, (80.0, 5.0, 20.0))
BIRCH = Sheet("Birch", "wood", 4.0, 630.0, 3, (82.0, 4.0, 18.0))
OAK = Sheet("Oak", "wood", 4.0, 720.0, 5, (55.0, 8.0, 20.0))
FELT = Sheet("Felt", "textile", 4.0, None, None, None)
ROBIN = {**WREN, "name": "Robin", "rated_power_w": 120.0}


def machine(facts=WREN, **head):
    return read_machine(Fields({**facts, "head": head}))


def known(number, sheet=POPLAR, facts=WREN, machine_id=1, head_id=1, standing="proven", speed=18.0, power=60.0, **head):
    settings = {"speed_mm_s": speed, "power_pct": power, "passes": 1.0}
    name = facts["name"]
    return Known(number, standing, settings, sheet, machine(facts, **head), machine_id, head_id, name)


def asked(recipes, sheet=POPLAR, process="cut", facts=WREN, **head):
    return nearest(PROCESSES[process], sheet, machine(facts, **head), 1, 1, recipes)


class NearestTest(unittest.TestCase):
    def test_the_order_of_neighbours(self):
        """Own head and thickness, other head, other machine, other thickness, then kin by likeness."""
        recipes = [
            known(6, OAK),
            known(5, BIRCH),
            known(4, Sheet("Poplar", "wood", 8.0, 450.0, 2, None)),
            known(3, POPLAR, ROBIN, 2, 3),
            known(2, POPLAR, WREN, 1, 2),
            known(1, POPLAR),
        ]
        self.assertEqual([one.known.id for one in asked(recipes)], [1, 2, 3, 4, 5, 6])

    def test_reasons_are_words(self):
        one = asked([known(1, BIRCH)])[0]
        self.assertIn("Birch is wood, too", one.reasons)
        self.assertIn("harder", one.reasons)
        self.assertIn("40% denser", one.reasons)
        self.assertIn("ground of like colour", one.reasons)
        self.assertIn("on Wren itself", one.reasons)

    def test_unlike_wavelengths_and_other_families_are_no_neighbours(self):
        self.assertEqual(asked([known(1, POPLAR, HERON, 2, 3), known(2, FELT)]), [])

    def test_cuts_slow_down_with_thickness(self):
        """18 mm/s at 4 mm is 12 mm/s at 6 mm."""
        one = asked([known(1)], THICK)[0]
        self.assertEqual((one.settings["speed_mm_s"], one.settings["power_pct"]), (12.0, 60.0))
        self.assertEqual(one.brought, ("speed by 1/thickness",))

    def test_twice_the_power_is_twice_the_speed(self):
        one = asked([known(1)], facts=ROBIN)[0]
        self.assertEqual(one.settings["speed_mm_s"], 36.0)
        self.assertIn("equal dose", one.brought[0])

    def test_density_and_spot(self):
        self.assertEqual(asked([known(1, BIRCH)])[0].settings["speed_mm_s"], 25.0)
        area = known(1, speed=100.0, power=30.0, spot_mm=0.1)
        one = asked([area], process="area", spot_mm=0.2)[0]
        self.assertEqual(one.settings["speed_mm_s"], 25.0)
        self.assertEqual(one.brought, ("by the area of the spot",))

    def test_what_cannot_be_had_by_speed_comes_off_the_power(self):
        one = asked([known(1, speed=400.0, power=40.0)], facts=ROBIN)[0]
        self.assertEqual((one.settings["speed_mm_s"], one.settings["power_pct"]), (500.0, 25.0))

    def test_what_the_machine_cannot_do_is_no_neighbour(self):
        """20 mm/s at 95 % is over Wren's ceiling of 85 %."""
        self.assertEqual(asked([known(1, power=95.0)]), [])

    def test_a_setting_for_the_same_thing_stays_as_it_is(self):
        one = asked([known(1, speed=17.63)])[0]
        self.assertEqual((one.settings["speed_mm_s"], one.brought), (17.63, ("as it is",)))

    def test_proven_comes_before_doubtful(self):
        ids = [one.known.id for one in asked([known(1, standing="doubtful"), known(2, standing="proven")])]
        self.assertEqual(ids, [2, 1])


SPEED, POWER = st.floats(1.0, 500.0), st.floats(9.0, 85.0)
THICKNESS = st.floats(0.5, 20.0)


class PropertyTest(unittest.TestCase):
    @given(SPEED, POWER, THICKNESS, THICKNESS, st.floats(10.0, 150.0))
    def test_the_dose_for_each_millimetre_stays(self, speed, power, here, there, watts):
        """Line dose over thickness is what is brought along, to the two digits an estimate has."""
        facts = {**WREN, "rated_power_w": watts}
        known_sheet = Sheet("Poplar", "wood", there, None, None, None)
        sheet = Sheet("Poplar", "wood", here, None, None, None)
        for one in asked([known(1, known_sheet, speed=speed, power=power)], sheet, facts=facts):
            before = 60.0 * power / speed / there
            after = watts * one.settings["power_pct"] / one.settings["speed_mm_s"] / here
            self.assertAlmostEqual(after / before, 1.0, delta=0.12)

    @given(SPEED, POWER, THICKNESS, THICKNESS, st.floats(10.0, 150.0))
    def test_what_is_brought_is_within_the_machine(self, speed, power, here, there, watts):
        facts = {**WREN, "rated_power_w": watts}
        known_sheet = Sheet("Poplar", "wood", there, None, None, None)
        sheet = Sheet("Poplar", "wood", here, None, None, None)
        for one in asked([known(1, known_sheet, speed=speed, power=power)], sheet, facts=facts):
            self.assertLessEqual(one.settings["speed_mm_s"], 500.0)
            self.assertGreaterEqual(one.settings["power_pct"], 8.9)
            self.assertLessEqual(one.settings["power_pct"], 85.5)

    @given(st.lists(st.tuples(THICKNESS, st.sampled_from(["proven", "tried", "heard", "doubtful"])), max_size=12))
    def test_the_order_does_not_hang_on_the_order_of_the_book(self, sheets):
        recipes = [
            known(i, Sheet("Poplar", "wood", thickness, None, None, None), standing=standing)
            for i, (thickness, standing) in enumerate(sheets)
        ]
        forth = [one.known.id for one in asked(recipes)]
        self.assertEqual([one.known.id for one in asked(recipes[::-1])], forth)
        distances = [one.distance for one in asked(recipes)]
        self.assertEqual(distances, sorted(distances))


if __name__ == "__main__":
    unittest.main()
