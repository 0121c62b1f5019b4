"""What has to be typed: rows in the control's own units, and how long that takes."""

import unittest

from rezept.core.plan.typed_settings import ROW_S, VALUE_S, typed_rows, types_settings, typing_of
from tests.core.plan.test_listed import listed_document
from tests.made import WREN, planned, trial_document

TYPED = {**WREN, "takes": ["svg", "sheet"], "units": {"speed": "mm/min"}}


class TypedSettingsTest(unittest.TestCase):
    def test_every_setting_is_one_row_in_the_units_of_the_control(self):
        plate = planned({**listed_document(), "machine": TYPED})
        rows = typed_rows(plate)
        self.assertEqual([row.patches for row in rows], [("A1",), ("A2",), ("A3", "B1"), ("B2",)])
        speeds = [next(one for one in row.values if one.key == "speed_mm_s") for row in rows]
        self.assertEqual([(one.text, one.unit) for one in speeds],
                         [("720", "mm/min"), ("960", "mm/min"), ("840", "mm/min"), ("1680", "mm/min")])  # fmt: skip

    def test_only_what_changes_takes_time(self):
        """All of the first row, then the speed; the last row has another speed and two passes."""
        plate = planned({**listed_document(), "machine": TYPED})
        rows = typed_rows(plate)
        changed = [sum(one.changed for one in row.values) for row in rows]
        self.assertEqual(changed[1:], [1, 1, 2])
        self.assertEqual(changed[0], len(rows[0].values))
        self.assertEqual(typing_of(plate)["seconds"], 4 * ROW_S + sum(changed) * VALUE_S)

    def test_a_machine_that_is_fed_programs_types_nothing(self):
        self.assertIsNone(typing_of(planned(trial_document())))
        for takes, types in ((["gcode"], False), (["sheet"], True), (["svg"], True), (["gcode", "sheet"], False)):
            machine = planned(trial_document(machine={**WREN, "takes": takes})).trial.machine
            self.assertEqual(types_settings(machine), types)

    def test_of_a_plate_that_grows_only_the_next(self):
        document = {**listed_document(), "machine": TYPED}
        document["listed"]["burned"] = 4
        self.assertEqual([row.patches for row in typed_rows(planned(document))], [("B2",)])


if __name__ == "__main__":
    unittest.main()
