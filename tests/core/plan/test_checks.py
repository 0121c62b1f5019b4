"""Warnings: each names its patch and its reason."""

import unittest

from tests.made import BLANK, HERON, POPLAR, WREN, area_document, planned, token_document, trial_document


def warned(plate, kind):
    """Patches with a warning of a kind."""
    return [
        i
        for i, found in zip(plate.elements.ids, plate.patch_warnings, strict=True)
        if any(w.kind == kind for w in found)
    ]


def axis(key, along, *values):
    return {"parameter": key, "along": along, "values": list(values)}


class MachineLimitTest(unittest.TestCase):
    def test_too_fast(self):
        plate = planned(trial_document(axes=[axis("speed_mm_s", "x", 500, 501), axis("power_pct", "y", 50)]))
        self.assertEqual(warned(plate, "speed"), ["A2"])
        warning = plate.patch_warnings[1][0]
        self.assertEqual((warning.level, warning.value, warning.limit), ("refusal", 501.0, 500.0))
        self.assertTrue(warning.sentence.startswith("A2: 501 mm/s is faster than Wren can go"))

    def test_below_the_firing_floor_and_above_the_ceiling(self):
        plate = planned(trial_document(axes=[axis("speed_mm_s", "x", 20), axis("power_pct", "y", 8.9, 9, 85, 86)]))
        self.assertEqual(warned(plate, "firing_floor"), ["A1"])
        self.assertEqual(warned(plate, "max_power"), ["D1"])
        self.assertIn("Wren does not fire below 9 %", plate.patch_warnings[0][0].sentence)

    def test_frequency_floor_depends_on_the_pulse_width(self):
        """At 20 ns the source goes from 60 kHz, at 200 ns from 20 to 600 kHz."""
        axes = [axis("frequency_khz", "x", 20, 60, 700), axis("pulse_width_ns", "y", 20, 200)]
        plate = planned(token_document(axes=axes))
        self.assertEqual(warned(plate, "frequency"), ["A1", "B3"])
        limits = {w.limit for found in plate.patch_warnings for w in found if w.kind == "frequency"}
        self.assertEqual(limits, {60.0, 600.0})

    def test_pulse_width_that_is_not_offered(self):
        axes = [axis("frequency_khz", "x", 100), axis("pulse_width_ns", "y", 20, 150)]
        plate = planned(token_document(axes=axes))
        self.assertEqual(warned(plate, "pulse_width"), ["B1"])
        self.assertEqual(plate.patch_warnings[1][0].limit, 200.0)

    def test_less_than_full_power_is_noted(self):
        kinds = {warning.kind for warning in planned(token_document()).warnings}
        self.assertIn("power_falls", kinds)

    def test_field_with_run_up(self):
        """A 590 mm row fits a 600 mm field slowly, but not with two run-ups of 20 mm at 400 mm/s."""
        patch = {"width_mm": 586, "height_mm": 6}
        for speed, refused in ((100, False), (400, True)):
            document = area_document(axes=[axis("speed_mm_s", "x", speed)], patch=patch)
            plate = planned(document)
            with self.subTest(speed=speed):
                self.assertEqual(bool(warned(plate, "field")), refused)
                self.assertEqual(bool(plate.refusals()), refused)

    def test_lettering_counts_for_the_field_too(self):
        """Patches of 20 mm fit a 26 mm field, the plate with its labels does not."""
        machine = {**WREN, "field_width_mm": 26.0}
        document = {"axes": [axis("speed_mm_s", "x", 20), axis("power_pct", "y", 50)], "patch": {"width_mm": 20}}
        labels = {"on": True, "settings": {"speed_mm_s": 100, "power_pct": 20}}
        bare = planned(trial_document(machine=machine, **document))
        lettered = planned(trial_document(machine=machine, labels=labels, **document))
        self.assertEqual(bare.refusals(), [])
        self.assertIn("beyond the field of Wren", lettered.refusals()[0].sentence)

    def test_run_up_before_the_corner_is_told(self):
        """At 200 mm/s the run-up is 5 mm and the patch begins 2 mm from the corner: 3 mm of room."""
        fast = [axis("speed_mm_s", "x", 200)]
        notes = [w for w in planned(area_document(axes=fast)).warnings if w.kind == "room"]
        self.assertEqual([(w.level, round(w.value, 6)) for w in notes], [("note", 3.0)])
        self.assertEqual(
            [w for w in planned(area_document(axes=fast, place={"x_mm": 3})).warnings if w.kind == "room"], []
        )
        self.assertEqual([w for w in planned(trial_document()).warnings if w.kind == "room"], [])

    def test_galvo_field_is_centred(self):
        inside = planned(token_document(piece={"width_mm": 110, "height_mm": 110}, place={"at": "centre"}))
        self.assertEqual(warned(inside, "field"), [])
        shifted = {"at": "centre", "x_mm": 50}
        outside = planned(token_document(piece={"width_mm": 110, "height_mm": 110}, place=shifted))
        self.assertEqual(set(warned(outside, "field")), {"A3", "B3"})

    def test_head_may_have_a_smaller_field(self):
        machine = {**HERON, "head": {"name": "70", "field_width_mm": 20.0}}
        self.assertTrue(warned(planned(token_document(machine=machine, place={"at": "centre"})), "field"))

    def test_off_the_piece(self):
        plate = planned(trial_document(piece={"width_mm": 40, "height_mm": 40}))
        self.assertEqual([w.kind for w in plate.warnings], ["piece"])
        disc = planned(trial_document(piece={"shape": "disc", "width_mm": 56}, place={"at": "centre"}))
        self.assertEqual([w.kind for w in disc.warnings], ["piece"])

    def test_labels_are_checked_too(self):
        labels = {"on": True, "settings": {"speed_mm_s": 900, "power_pct": 5}}
        found = {(w.level, w.path) for w in planned(trial_document(labels=labels)).warnings}
        expected = {("refusal", "labels.settings.speed_mm_s"), ("refusal", "labels.settings.power_pct")}
        self.assertEqual(found, expected)


class DangerTest(unittest.TestCase):
    def test_above_2_2_times_the_starting_dose(self):
        """Doses 60 W x power / speed; start 1.0 J/mm: hot above 2.2 J/mm, which is patch A1 of 18/8 and up."""
        plate = planned(trial_document(starting_dose_j_mm=1.0))
        hot = [patch for patch, dose in zip(plate.elements.ids, plate.judged.dose, strict=True) if dose > 2.2]
        self.assertEqual(warned(plate, "hot_end"), hot)
        self.assertIn("A1: Poplar plywood 4 mm may catch fire", plate.patch_warnings[0][0].sentence)

    def test_exactly_2_2_times_is_not_above(self):
        plate = planned(trial_document(axes=[axis("speed_mm_s", "x", 60), axis("power_pct", "y", 50)],
                                       starting_dose_j_mm=0.5 / 2.2))  # fmt: skip
        self.assertEqual(warned(plate, "hot_end"), [])

    def test_top_tenth_where_nothing_is_known(self):
        """30 patches over 10 : 1: the three strongest."""
        axes = [axis("speed_mm_s", "x", *range(10, 110, 10)), axis("power_pct", "y", 30, 31, 32)]
        plate = planned(trial_document(axes=axes))
        self.assertEqual(sorted(warned(plate, "hot_end")), ["A1", "B1", "C1"])

    def test_no_hot_end_where_doses_span_little(self):
        axes = [axis("speed_mm_s", "x", 10, 20, 40), axis("power_pct", "y", 50)]
        self.assertEqual(warned(planned(trial_document(axes=axes)), "hot_end"), [])
        axes[0]["values"].append(41)
        self.assertEqual(warned(planned(trial_document(axes=axes)), "hot_end"), ["A1"])

    def test_only_materials_that_can_burn(self):
        for material, burns in [(POPLAR, True), (BLANK, False), ({**BLANK, "hazards": ["fire"]}, True),
                                ({"name": "Something", "family": "unheard of"}, True)]:  # fmt: skip
            with self.subTest(material["name"]):
                plate = planned(trial_document(material=material, starting_dose_j_mm=0.1))
                self.assertEqual(bool(warned(plate, "hot_end")), burns)

    def test_switched_off_patches_are_no_danger(self):
        hot = warned(planned(trial_document(starting_dose_j_mm=1.0)), "hot_end")
        self.assertEqual(warned(planned(trial_document(starting_dose_j_mm=1.0, off=hot)), "hot_end"), [])

    def test_chlorine_is_a_refusal(self):
        plate = planned(trial_document(material={**POPLAR, "hazards": ["chlorine"]}))
        self.assertIn("chlorine", plate.refusals()[0].sentence)

    def test_unset_frequency_is_noted(self):
        plate = planned(trial_document(machine={**WREN, "frequency_khz": [1, 50]}))
        self.assertEqual([(w.kind, w.level) for w in plate.warnings], [("unset", "note")])


if __name__ == "__main__":
    unittest.main()
