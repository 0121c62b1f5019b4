"""Settings a machine can show and a person would type."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from rezept.core.fields import Fields
from rezept.core.findings.choices import shown
from rezept.core.machine import read_machine
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


if __name__ == "__main__":
    unittest.main()
