"""Settings a machine can show and a person would type."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from rezept.core.fields import Fields
from rezept.core.findings.choices import Wish, patches_worth, shown
from rezept.core.findings.decision import decide
from rezept.core.machine import read_machine
from tests.core.findings.test_decision import burned
from tests.made import WREN

MACHINE = read_machine(Fields(WREN))


class ShownTest(unittest.TestCase):
    def test_three_digits_in_the_machines_own_steps(self):
        """Wren shows tenths of mm/s."""
        for value, down, up in (
            (0.37, 0.3, 0.4),
            (19.96, 19.9, 20.0),
            (99.99, 99.9, 100.0),
            (431.1, 431.0, 432.0),
            (1856.3, 1850.0, 1860.0),
        ):
            with self.subTest(value):
                self.assertEqual(shown(MACHINE, "speed_mm_s", value, "down"), down)
                self.assertEqual(shown(MACHINE, "speed_mm_s", value, "up"), up)

    @given(st.floats(0.2, 20_000))
    def test_what_is_shown_stays_and_lies_on_the_side_asked_for(self, value):
        down, up = (shown(MACHINE, "speed_mm_s", value, way) for way in ("down", "up"))
        self.assertLessEqual(down, value * (1 + 1e-9) + 1e-9)
        self.assertGreaterEqual(up, value * (1 - 1e-9) - 1e-9)
        self.assertEqual(shown(MACHINE, "speed_mm_s", down, "down"), down)
        self.assertEqual(shown(MACHINE, "speed_mm_s", up, "up"), up)
        if value >= 10:
            self.assertLess(value - down, 0.011 * value)


class TypedTest(unittest.TestCase):
    def machine(self, **facts):
        return read_machine(Fields({**WREN, **facts}))

    def test_an_array_is_no_larger_than_a_machine_is_worth(self):
        for facts, most in (
            ({}, 16),
            ({"takes": ["gcode", "sheet"]}, 16),
            ({"takes": ["sheet"]}, 6),
            ({"distinct_settings": 8}, 7),
            ({"distinct_settings": 4, "takes": ["sheet"]}, 3),
        ):
            with self.subTest(facts):
                self.assertEqual(patches_worth(self.machine(**facts), 16), most)
        self.assertEqual(patches_worth(self.machine(takes=["sheet"]), 2), 2)

    def test_a_single_coupon_halves_what_is_open(self):
        _, seen = burned()
        every, one = (
            decide(seen, self.machine(), aims=("fastest",), wish=Wish(most=most)).next for most in (3, 1)
        )  # fmt: skip
        [speed] = one.axes[0]["values"]
        low, _, high = every.axes[0]["values"]
        self.assertAlmostEqual(speed, math.sqrt(low * high), delta=0.1)
        self.assertIn(f"about {speed:g} mm/s", one.why)
        self.assertEqual(len(one.axes), 1)

    def test_what_has_to_be_typed_is_counted(self):
        plate, seen = burned()
        for facts, says in (({"takes": ["sheet"]}, True), ({}, False)):
            following = decide(seen, self.machine(**facts), aims=("fastest",)).next
            count = math.prod(len(axis["values"]) for axis in following.axes)
            self.assertEqual(f"{count} settings to type." in following.why, says)
            self.assertLessEqual(count, 6 if says else 16)
        self.assertGreater(len(plate.elements), 16)


if __name__ == "__main__":
    unittest.main()
