"""What is known elsewhere: in words why it counts here."""

import unittest

from rezept.core.begin.known import Known, Sheet, like_wavelength, why_it_counts
from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.process import PROCESSES
from tests.made import HERON, WREN

POPLAR = Sheet("Poplar", "wood", 4.0, 450.0, 2, (80.0, 5.0, 20.0))
BIRCH = Sheet("Birch", "wood", 4.0, 630.0, 3, (82.0, 4.0, 18.0))
OAK = Sheet("Oak", "wood", 6.0, 450.0, 1, (55.0, 8.0, 20.0))
ROBIN = {**WREN, "name": "Robin", "rated_power_w": 120.0}


def machine(facts=WREN, **head):
    return read_machine(Fields({**facts, "head": head}))


def known(sheet=POPLAR, on=None, standing="proven", speed=18.0, power=60.0, **more):
    on = on or machine()
    settings = {"speed_mm_s": speed, "power_pct": power, "passes": 1.0, **more}
    return Known(1, standing, settings, sheet, on, f"{on.name} {on.head.name}".strip())


class WordsTest(unittest.TestCase):
    def why(self, one, sheet=POPLAR, on=None, process="cut"):
        return why_it_counts(PROCESSES[process], sheet, on or machine(), one)

    def test_the_same_on_the_machine_itself(self):
        self.assertEqual(self.why(known()), ("same material", "same thickness", "on Wren itself"))

    def test_thickness_is_of_no_matter_to_a_mark(self):
        self.assertEqual(self.why(known(), process="line"), ("same material", "on Wren itself"))

    def test_another_material(self):
        self.assertEqual(
            self.why(known(BIRCH)),
            ("Birch is wood, too", "harder", "40% denser", "ground of like colour", "same thickness", "on Wren itself"),
        )
        self.assertEqual(self.why(known(OAK))[1:5], ("softer", "as dense", "ground of another colour", "6 mm thick"))

    def test_another_family_is_named(self):
        felt = Sheet("Felt", "textile", None, None, None, None)
        self.assertEqual(self.why(known(felt))[:2], ("Felt is textile", "thickness not said"))

    def test_other_heads_and_machines(self):
        self.assertEqual(self.why(known(on=machine(ROBIN)))[-1], "on Robin, of like wavelength")
        other = known(on=machine(name="lens 2", spot_mm=0.3))
        self.assertEqual(self.why(other)[-1], "on Wren lens 2, another head of the same machine")

    def test_wavelengths(self):
        self.assertTrue(like_wavelength(machine(), machine(ROBIN)))
        self.assertFalse(like_wavelength(machine(), machine(HERON)))


if __name__ == "__main__":
    unittest.main()
