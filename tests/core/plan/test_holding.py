"""What there is to set on a machine for a process."""

import copy
import unittest

from rezept.core.fields import Fields
from rezept.core.machine import AIRS, read_machine
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.holding import settings_on, why_not
from rezept.core.process import PROCESSES
from tests.made import HERON, WREN


def machine(facts, **changes):
    return read_machine(Fields({**copy.deepcopy(facts), **changes}))


class SettingsOnTest(unittest.TestCase):
    def test_a_glass_tube_has_no_pulses_and_a_cut_no_lines(self):
        cut, area = settings_on(machine(WREN), "cut"), settings_on(machine(WREN), "area")
        for key in ("speed_mm_s", "power_pct", "passes", "focus_offset_mm", "air_level", "pierce_dwell_ms"):
            self.assertIn(key, cut)
        for key in ("frequency_khz", "pulse_width_ns", "line_spacing_mm", "air_kpa"):
            self.assertNotIn(key, cut)
        self.assertIn("line_spacing_mm", area)
        self.assertNotIn("pierce_dwell_ms", area)

    def test_a_pulsed_source_has_what_it_says_it_has(self):
        self.assertLessEqual({"frequency_khz", "pulse_width_ns"}, set(settings_on(machine(HERON), "surface")))
        silent = machine(HERON, frequency_khz=None, pulse_widths=None)
        self.assertTrue({"frequency_khz", "pulse_width_ns"}.isdisjoint(settings_on(silent, "surface")))

    def test_air_is_set_by_level_or_by_pressure_or_not_at_all(self):
        for air, keys in (
            ("none", set()), ("on_off", {"air_level"}), ("low_high", {"air_level"}), ("pressure", {"air_kpa"}),
        ):  # fmt: skip
            found = set(settings_on(machine(WREN, air=air), "cut"))
            self.assertEqual(found & {"air_level", "air_kpa"}, keys, air)

    def test_a_level_the_machine_does_not_have_is_refused(self):
        row = PARAMETERS["air_level"]
        for air in AIRS.values():
            if air.levels:
                made = machine(WREN, air=air.key)
                reasons = [why_not(row, level, made, "cut") for level in range(3)]
                self.assertEqual([reason is None for reason in reasons], [level < air.levels for level in range(3)])

    def test_what_is_offered_is_taken(self):
        for facts in (WREN, HERON):
            made = machine(facts)
            for process in PROCESSES:
                for key in settings_on(made, process):
                    self.assertIsNone(why_not(PARAMETERS[key], None, made, process))


if __name__ == "__main__":
    unittest.main()
