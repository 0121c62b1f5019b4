"""Starting points: drawn from what is usual towards what is known, each source by how much it says."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from rezept.core.begin.estimate import MOST_SOURCES, estimate
from rezept.core.begin.known import Sheet
from rezept.core.process import CUT, PROCESSES
from tests.core.begin.test_known import BIRCH, HERON, POPLAR, ROBIN, known, machine

FELT = Sheet("Felt", "textile", 4.0, None, None, None)


def poplar(thickness):
    return Sheet("Poplar", "wood", thickness, 450.0, 2, (80.0, 5.0, 20.0))


def dose(found, watts=60.0):
    """J/mm of what is proposed, from the settings alone."""
    at = found.settings
    return watts * at["power_pct"] / 100 * at.get("passes", 1.0) / at["speed_mm_s"]


class EstimateTest(unittest.TestCase):
    def reckoned(self, recipes, sheet=POPLAR, process=CUT, on=None):
        return estimate(process, sheet, on or machine(), recipes)

    def test_what_is_proven_here_stays(self):
        """18 mm/s at 60 %: where the very thing is known there is hardly anything to reckon."""
        found = self.reckoned([known()])
        self.assertEqual((found.settings["speed_mm_s"], found.settings["power_pct"]), (18.0, 60.0))
        self.assertLess(found.high / found.low, 1.3)

    def test_thicker_is_slower(self):
        """Six instead of four millimetres takes at least as much more dose as it is thicker, and not its square."""
        found = self.reckoned([known()], poplar(6.0))
        self.assertTrue(18 / 1.5**2 < found.settings["speed_mm_s"] <= 18 / 1.5)

    def test_its_own_law_comes_out_of_three_thicknesses(self):
        """Doses of its own, 0.3 t^1.6 J/mm: at 8 mm it takes 8.36."""
        recipes = [known(poplar(t), speed=36 / (0.3 * t**1.6)) for t in (3.0, 4.0, 6.0)]
        found = self.reckoned(recipes, poplar(8.0))
        self.assertAlmostEqual(math.log(dose(found) / (0.3 * 8**1.6)), 0, delta=math.log(1.15))

    def test_twice_the_power_is_about_twice_the_speed(self):
        """Equal dose: at half the share of twice the watts the speed stays, and the machine may differ a little."""
        found = self.reckoned([known()], on=machine(ROBIN))
        self.assertEqual(found.settings["power_pct"], 30.0)
        self.assertAlmostEqual(found.settings["speed_mm_s"], 18.0, delta=2.0)

    def test_a_wider_spot_fills_slower(self):
        narrow = known(on=machine(spot_mm=0.1), speed=100.0, power=30.0, line_spacing_mm=0.1)
        found = self.reckoned([narrow], process=PROCESSES["area"], on=machine(spot_mm=0.2))
        self.assertTrue(15 < found.settings["speed_mm_s"] < 40)

    def test_kin_say_less_than_the_thing_itself(self):
        widths = [
            one.high / one.low
            for one in (
                self.reckoned([]),
                self.reckoned([known(FELT)]),
                self.reckoned([known(BIRCH)]),
                self.reckoned([known(poplar(6.0))]),
                self.reckoned([known()]),
            )
        ]
        self.assertEqual(widths, sorted(widths, reverse=True))

    def test_sources_have_weights_and_reasons(self):
        found = self.reckoned([known(BIRCH), known(poplar(5.0)), known(FELT)])
        self.assertEqual(found.sources[0].index, 1)
        self.assertIn("same material", found.sources[0].reasons)
        self.assertAlmostEqual(sum(one.weight for one in found.sources), 1.0, delta=0.05)

    def test_heard_of_counts_less_than_proven(self):
        slow, fast = known(speed=10.0), known(speed=40.0, standing="heard")
        self.assertLess(self.reckoned([slow, fast]).settings["speed_mm_s"], 13)

    def test_unlike_wavelengths_say_nothing(self):
        alone, beside = self.reckoned([]), self.reckoned([known(on=machine(HERON))])
        self.assertEqual((alone.settings, beside.sources), (beside.settings, ()))

    def test_without_anything_it_is_what_is_usual(self):
        """Wood takes 0.65 J/mm a millimetre at 700 kg/m3 and 3 mm, and this is lighter."""
        self.assertTrue(0.3 * 4 < dose(self.reckoned([])) < 0.65 * 4)

    def test_what_cannot_be_had_by_speed_comes_off_the_power(self):
        thin = Sheet("Tissue", "paper", 0.05, 300.0, 1, None)
        found = self.reckoned([], thin)
        self.assertEqual(found.settings["speed_mm_s"], 500.0)
        self.assertLess(found.settings["power_pct"], 60.0)

    def test_of_a_large_book_the_likest_are_asked(self):
        """Two thousand recipes of 72 / t mm/s: a matrix of all of them would take seconds and say no more."""
        chance = np.random.default_rng(2)
        recipes = [known(FELT, speed=300.0)] * 2000
        recipes += [known(poplar(float(t)), speed=float(72 / t)) for t in chance.uniform(2, 12, 90).round(2)]
        found = self.reckoned(recipes, poplar(5.0))
        self.assertLessEqual(len(found.sources), MOST_SOURCES)
        self.assertTrue(all(one.index >= 2000 for one in found.sources))
        self.assertAlmostEqual(found.settings["speed_mm_s"], 14.4, delta=1.0)


class PropertyTest(unittest.TestCase):
    @settings(max_examples=60)
    @given(
        st.lists(st.tuples(st.floats(0.5, 20), st.floats(1, 400), st.floats(10, 85)), max_size=6),
        st.floats(0.5, 20),
        st.floats(10, 150),
    )
    def test_what_is_proposed_is_within_the_machine(self, recipes, thickness, watts):
        recipes = [known(poplar(t), speed=speed, power=power) for t, speed, power in recipes]
        on = machine({**ROBIN, "rated_power_w": watts})
        found = estimate(CUT, poplar(thickness), on, recipes)
        self.assertTrue(0 < found.settings["speed_mm_s"] <= 500)
        self.assertTrue(8 <= found.settings["power_pct"] <= 85)
        self.assertTrue(found.low <= found.settings["speed_mm_s"] * 1.06 and found.high <= 500)
        self.assertTrue(found.speed.start < found.speed.end <= 500)
        self.assertTrue(8 <= found.power.start < found.power.end <= 85)

    @settings(max_examples=30)
    @given(st.permutations(range(5)))
    def test_the_order_of_the_book_does_not_matter(self, order):
        recipes = [known(poplar(t), speed=70 / t) for t in (2.0, 3.0, 5.0, 6.0, 9.0)]
        forth = estimate(CUT, poplar(4.0), machine(), recipes)
        back = estimate(CUT, poplar(4.0), machine(), [recipes[i] for i in order])
        self.assertEqual(forth.settings, back.settings)
        self.assertEqual([one.weight for one in forth.sources], [one.weight for one in back.sources])


if __name__ == "__main__":
    unittest.main()
