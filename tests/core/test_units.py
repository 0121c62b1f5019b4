"""Quantities in the units people use."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from rezept.core.errors import InvalidInput
from rezept.core.units import UNITS, read_quantity, unit_named, write_quantity


class ReadQuantityTest(unittest.TestCase):
    """`read_quantity` on what people type."""

    def test_understands_units(self):
        cases = [
            ("28", "speed", 28.0),
            ("28mm/s", "speed", 28.0),
            ("1700 mm/min", "speed", 1700 / 60),
            ("1.1 in/s", "speed", 27.94),
            ("1,5 m/min", "speed", 25.0),
            ("60 ipm", "speed", 25.4),
            ("254 dpi", "spacing", 0.1),
            ("10 lines/mm", "spacing", 0.1),
            ("80 µm", "spacing", 0.08),
            ("0.6 bar", "pressure", 60.0),
            ("40%", "percent", 40.0),
            ("3x", "count", 3.0),
            ("90°", "angle", 90.0),
            ("50 kHz", "frequency", 50.0),
            ("1.2e2", "speed", 120.0),
            (" .5 in ", "length", 12.7),
        ]
        for text, quantity, value in cases:
            with self.subTest(text):
                self.assertAlmostEqual(read_quantity(text, quantity), value, places=9)

    def test_bare_number_is_in_the_persons_unit(self):
        self.assertAlmostEqual(read_quantity("1680", "speed", bare="mm/min"), 28.0)
        self.assertAlmostEqual(read_quantity("28 mm/s", "speed", bare="mm/min"), 28.0)

    def test_nonsense_gets_a_sentence_with_its_path(self):
        for text, quantity in [
            ("fast", "speed"), ("", "speed"), ("12 kg", "speed"), ("1 2", "speed"), ("nan", "speed"),
            ("inf", "speed"), ("1e999", "speed"), ("0 dpi", "spacing"), ("--3", "count"), ("3 mm/s", "percent"),
        ]:  # fmt: skip
            with self.subTest(text), self.assertRaises(InvalidInput) as caught:
                read_quantity(text, quantity, "axes[0].from", "Speed")
            self.assertEqual(caught.exception.path, "axes[0].from")
            self.assertGreater(len(caught.exception.sentence), 10)

    @given(st.sampled_from(sorted(UNITS)), st.floats(0.01, 1e5), st.data())
    def test_every_unit_goes_there_and_back(self, quantity, value, data):
        """Writing a value in any unit and reading it again gives the value, to the digits written."""
        unit = data.draw(st.sampled_from(UNITS[quantity]))
        text = write_quantity(value, quantity, unit.symbol, digits=12)
        self.assertAlmostEqual(read_quantity(text, quantity) / value, 1.0, places=9)

    def test_one_symbol_names_one_unit(self):
        for quantity, units in UNITS.items():
            with self.subTest(quantity):
                self.assertEqual(len({unit.symbol for unit in units}), len(units))
                for unit in units:
                    self.assertIs(unit_named(quantity, unit.symbol), unit)


class ShopQuantityTest(unittest.TestCase):
    """Figures of machines and materials, in the units their papers have them in."""

    def test_worked_cases(self):
        for text, quantity, value in [
            ("0.06 kW", "watts", 60.0), ("500 mW", "watts", 0.5), ("40 w", "watts", 40.0),
            ("10.6 um", "wavelength", 10_600.0), ("450", "wavelength", 450.0),
            ("4 m/s²", "acceleration", 4000.0), ("3000 mm/s2", "acceleration", 3000.0),
            ("0.43 g/cm³", "density", 430.0), ("1190 kg/m3", "density", 1190.0),
        ]:  # fmt: skip
            with self.subTest(text):
                self.assertAlmostEqual(read_quantity(text, quantity), value)

    def test_a_power_is_no_length(self):
        for text, quantity in (("60 W", "length"), ("4 mm", "watts"), ("1 m/s", "acceleration")):
            with self.subTest(text), self.assertRaises(InvalidInput):
                read_quantity(text, quantity)


if __name__ == "__main__":
    unittest.main()
