"""Levels of air by their names, each with the pressure a gauge showed: what stood as off, on and high becomes such."""

import copy
import unittest

from rezept.actions.typed import resolved_facts
from rezept.core.checklist import checklist
from rezept.core.control import own_amount, own_words, read_off
from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.plan.by_hand import hand_stops
from rezept.core.plan.changed import changes
from rezept.core.plan.first_axis import first_axis
from tests.made import WREN, planned, trial_document

LEVELS = [{"name": "soft", "kpa": 20.0}, {"name": "half", "kpa": 70.0}, {"name": "full"}]
VALVE = {**WREN, "air": "low_high", "by_hand": ["air_level"], "air_levels": LEVELS}


def machine(**facts):
    return read_machine(Fields({**WREN, **facts}))


class NamesTest(unittest.TestCase):
    def test_what_nobody_named_is_as_it_was(self):
        self.assertEqual(machine(air="on_off").air_words, ("off", "on"))
        self.assertEqual(machine(air="low_high").air_words, ("off", "on", "high"))
        self.assertEqual((machine(air="none").air_words, machine(air="pressure").air_words), (("off",), ()))
        self.assertNotIn("air_levels", machine().document())

    def test_named_they_are_said_and_read_back(self):
        valve = machine(**VALVE)
        self.assertEqual(valve.air_words, ("off", "soft", "half", "full"))
        self.assertEqual(read_machine(Fields(valve.document())), valve)
        self.assertEqual((own_words(valve, "air_level", 2), own_amount(valve, "air_level", 3)), ("air half", "full"))
        self.assertEqual((read_off(valve, "air_level", " Soft ", ""), read_off(valve, "air_level", "3", "")), (1, 3))

    def test_no_more_than_there_are(self):
        machine(air="on_off", air_levels=LEVELS[:1])
        for facts, said in (
            ({"air": "on_off", "air_levels": LEVELS[:2]}, "1 levels of air"),
            ({"air": "none", "air_levels": LEVELS[:1]}, "0 levels"),
            ({**VALVE, "air_levels": [{"name": f"level {i}"} for i in range(7)]}, "6 levels"),
            ({**VALVE, "air_levels": [{"name": "soft"}, {"name": "Soft"}]}, "one name"),
            ({**VALVE, "air_levels": [{"name": "off"}]}, "one name"),
            ({**VALVE, "air_levels": [{"name": "soft", "kpa": -1}]}, "more than 0"),
            ({**VALVE, "air_levels": [{"name": " "}]}, "empty"),
        ):
            with self.subTest(said), self.assertRaisesRegex(InvalidInput, said):
                machine(**facts)

    def test_as_they_are_typed_in_the_shop(self):
        typed = resolved_facts({"air_levels": "soft = 20 kPa\nhalf=0.7 bar\n\nfull"}, {})["air_levels"]
        self.assertEqual([one["name"] for one in typed], ["soft", "half", "full"])
        self.assertAlmostEqual(typed[1]["kpa"], 70)
        self.assertNotIn("kpa", typed[2])


class PlannedTest(unittest.TestCase):
    def plate(self, **changes):
        return planned(trial_document(machine=copy.deepcopy(VALVE), **changes))

    def test_an_axis_goes_through_all_of_them(self):
        self.assertEqual(first_axis(machine(**VALVE), "air_level", 1.0)["count"], 4)
        plate = self.plate(axes=[{"parameter": "air_level", "along": "x", "values": [0, 1, 2, 3]},
                                 {"parameter": "power_pct", "along": "y", "values": [40, 60]}],
                           hold={"speed_mm_s": 12},
                           labels={"on": True, "settings": {"speed_mm_s": 150, "power_pct": 15}})  # fmt: skip
        self.assertEqual([text.text for text in plate.texts if text.kind == "column"], ["off", "soft", "half", "full"])
        with self.assertRaisesRegex(InvalidInput, "no air level 4"):
            self.plate(hold={"air_level": 4})

    def test_what_changed_between_two_plates_is_said_by_name(self):
        before, now = (self.plate(hold={"air_level": level}).trial.document() for level in (0, 3))
        self.assertEqual(changes(before, now), ["air: off, now full"])
        self.assertEqual(changes(now, before), ["air: full, now off"])

    def test_the_hand_is_told_their_names(self):
        plate = self.plate(hold={"air_level": 2})
        [stop] = hand_stops(plate)
        self.assertEqual(own_words(plate.trial.machine, "air_level", stop.settings["air_level"]), "air half")
        checks = checklist(plate.trial.machine, plate.trial.material, {"air_level": 1.0}, (), None, False)
        self.assertIn("Air at soft (20 kPa).", [check.sentence for check in checks])


if __name__ == "__main__":
    unittest.main()
