"""Programs, read back by a reader that is not our writer."""

import unittest

from numpy.testing import assert_allclose

from rezept.core.errors import Refused
from rezept.formats.gcode import write_gcode
from tests.formats.gcode_reader import read_gcode
from tests.made import HERON, WREN, area_document, leaving, planned, token_document, trial_document

LABELS = {"on": True, "height_mm": 2.0, "settings": {"speed_mm_s": 100, "power_pct": 20, "passes": 2}}


def program_of(document):
    plate = planned(document)
    return plate, read_gcode(write_gcode(plate))


class OutlineTest(unittest.TestCase):
    def test_every_patch_is_a_closed_outline_at_its_settings(self):
        plate, program = program_of(trial_document(hold={"passes": 2}))
        for i, patch in enumerate(plate.elements.ids):
            with self.subTest(patch):
                moves = program.burning(f"patch {patch}")
                self.assertEqual(len(moves), 8)
                self.assertAlmostEqual(sum(move.length for move in moves), 2 * 40.0, places=2)
                self.assertEqual({move.feed for move in moves}, {plate.judged.settings["speed_mm_s"][i] * 60})
                self.assertEqual({move.beam for move in moves}, {plate.judged.settings["power_pct"][i] * 10})
                corner = (plate.elements.x_mm[i], plate.elements.y_mm[i])
                assert_allclose(moves[0].start, corner, atol=6e-4)
                assert_allclose(moves[0].end, (corner[0] + 10, corner[1]), atol=6e-4)
                assert_allclose(moves[-1].end, corner, atol=6e-4)

    def test_patches_come_in_their_order(self):
        plate, program = program_of(trial_document(order="weakest_first"))
        seen = list(dict.fromkeys(move.section for move in program.burning("patch")))
        self.assertEqual(seen, [f"patch {plate.elements.ids[i]}" for i in plate.order[:, 0]])

    def test_beam_is_on_inside_patches_and_labels_only(self):
        plate, program = program_of(trial_document(labels=LABELS))
        for move in program.burning("patch"):
            i = plate.elements.ids.index(move.section.removeprefix("patch "))
            for x, y in (move.start, move.end):
                self.assertTrue(plate.elements.x_mm[i] - 1e-3 <= x <= plate.elements.x_mm[i] + 10 + 1e-3)
                self.assertTrue(plate.elements.y_mm[i] - 1e-3 <= y <= plate.elements.y_mm[i] + 10 + 1e-3)
        self.assertEqual(len(program.burning()), len(program.burning("patch")) + len(program.burning("label")))
        self.assertTrue(all(move.beam == 0 for move in program.moves if move.rapid))
        self.assertEqual([m for m in program.moves if m.section == "" and m.beam > 0], [])

    def test_labels_are_burned_whole_with_all_their_passes(self):
        plate, program = program_of(trial_document(labels=LABELS))
        lines = 0.0
        for text in plate.texts:
            for stroke in text.strokes():
                lines += float(((stroke[1:] - stroke[:-1]) ** 2).sum(axis=1).__pow__(0.5).sum())
        self.assertAlmostEqual(program.burned_length("label") / (2 * lines), 1.0, places=3)
        self.assertEqual({(m.feed, m.beam) for m in program.burning("label")}, {(6000.0, 200.0)})

    def test_pierce_dwells_with_the_beam_on(self):
        _, program = program_of(trial_document(hold={"pierce_dwell_ms": 250, "passes": 2}))
        self.assertEqual(len(program.dwells), 12)
        self.assertEqual(program.dwells[0], ("patch A1", 0.25, 300.0))

    def test_switched_off_patches_are_not_burned(self):
        _, program = program_of(trial_document(off=["B2"]))
        self.assertEqual(program.burning("patch B2"), [])
        self.assertEqual(len({move.section for move in program.burning()}), 11)


class HatchTest(unittest.TestCase):
    def test_every_line_of_every_pass(self):
        """60 lines of 8 mm in two passes, the second turned by 90 degrees: 80 lines of 6 mm."""
        document = area_document(hold={"power_pct": 20, "line_spacing_mm": 0.1, "passes": 2, "hatch_turn_deg": 90})
        _, program = program_of(document)
        moves = program.burning("patch A1")
        self.assertEqual(len(moves), 60 + 80)
        self.assertAlmostEqual(sum(move.length for move in moves), 60 * 8 + 80 * 6, places=2)
        for k, move in enumerate(moves[:60]):
            self.assertAlmostEqual(move.start[1], 2.0 + (k + 0.5) * 0.1, places=3)
            self.assertEqual(move.end[0] > move.start[0], k % 2 == 0)

    def test_lines_have_their_run_up_with_the_beam_off(self):
        """At 200 mm/s and 4000 mm/s2 the run-up is 5 mm: dark moves of 5 mm before and after each line."""
        _, program = program_of(area_document())
        moves = [move for move in program.moves if move.section == "patch A2"]
        for i, move in enumerate(moves):
            if move.beam > 0:
                for beside in (moves[i - 1], moves[i + 1]):
                    self.assertEqual((beside.beam, beside.rapid, beside.feed), (0.0, False, 12000.0))
                    self.assertAlmostEqual(beside.length, 5.0, places=2)

    def test_turned_plate_burns_as_much(self):
        straight = program_of(area_document())[1]
        turned = program_of(area_document(place={"x_mm": 50, "y_mm": 60, "turn_deg": 30}, piece={"width_mm": 300}) | {
            "piece": {"width_mm": 300, "height_mm": 300}})[1]  # fmt: skip
        self.assertAlmostEqual(straight.burned_length() / turned.burned_length(), 1.0, places=4)


class AirTest(unittest.TestCase):
    """Lettering and the plate's own cuts have the air of the patches; a cut has air where nobody has said it."""

    CUT = {"cut_out": True, "hang_hole_mm": 4, "cut_settings": {"speed_mm_s": 10, "power_pct": 80}}

    def air(self, **changes):
        """Whether the air is on while labels, patches and cuts burn."""
        _, program = program_of(trial_document(labels=LABELS, **{**self.CUT, **changes}))
        kinds = {"label": "label", "patch": "patch"}
        found = {"label": set(), "patch": set(), "outline": set()}
        for move in program.burning():
            found[kinds.get(move.section.split()[0], "outline")].add(move.air)
        return found

    def test_as_the_patches_have_it(self):
        self.assertEqual(set().union(*self.air(hold={"air_level": 1}).values()), {True})
        self.assertEqual(set().union(*self.air(hold={"air_level": 0}).values()), {False})

    def test_a_cut_has_air_where_it_varies_or_nobody_says(self):
        axes = [{"parameter": "air_level", "along": "x", "values": [0, 1]}]
        varied = self.air(axes=axes, hold={"speed_mm_s": 20, "power_pct": 60})
        self.assertEqual((varied["patch"], varied["outline"]), ({False, True}, {True}))
        self.assertEqual(self.air()["outline"], {True})

    def test_what_is_said_counts(self):
        cut = {**self.CUT["cut_settings"], "air_level": 0}
        self.assertEqual(self.air(hold={"air_level": 1}, cut_settings=cut)["outline"], {False})

    def test_a_cut_takes_every_setting_a_cut_has(self):
        machine = {**WREN, "focus_by_z": True, "dwells_with_beam": True}
        cut = {**self.CUT["cut_settings"], "focus_offset_mm": -1, "pierce_dwell_ms": 150, "passes": 2}
        plate = planned(trial_document(machine=machine, **{**self.CUT, "cut_settings": cut}))
        dwells = read_gcode(leaving(plate)[0].replace(b"G0Z-1S0\n", b"").replace(b"G0Z0S0\n", b"")).dwells
        self.assertEqual({seconds for _, seconds, _ in dwells}, {0.15})


class CarryTest(unittest.TestCase):
    """What G-code has no word for is refused with the setting's name."""

    def refused(self, document, name):
        with self.assertRaises(Refused) as caught:
            leaving(planned(document))
        self.assertIn(name, caught.exception.sentence)

    def test_refusals(self):
        self.refused(token_document(), "frequency")
        self.refused(trial_document(hold={"focus_offset_mm": 1}), "focus offset")
        self.refused(trial_document(hold={"corner_power_pct": 20}), "corner power")
        self.refused(trial_document(hold={"step_down_mm": 0.5}), "step down")
        pressure = {**WREN, "air": "pressure"}
        self.refused(trial_document(machine=pressure, hold={"air_kpa": 60}), "air pressure")
        levels = {**WREN, "air": "low_high"}
        self.refused(trial_document(machine=levels, hold={"air_level": 1}), "air")
        focus = {"parameter": "focus_offset_mm", "along": "x", "values": [-1, 0, 1]}
        power = {"parameter": "power_pct", "along": "y", "values": [40]}
        self.refused(trial_document(axes=[focus, power], hold={"speed_mm_s": 20}), "focus offset, which varies")

    def test_what_is_fed_programs_only_has_nowhere_to_set_figures_of_a_control(self):
        """While planning: a warning where a drawing or a sheet goes to a control, a refusal where there is none."""
        for key, values in (("corner_power_pct", [10, 20]), ("step_down_mm", [0.2, 0.5])):
            axes = [{"parameter": key, "along": "x", "values": values}]
            for takes, level in ((None, "warning"), (["gcode", "svg"], "warning"), (["gcode"], "refusal")):
                document = trial_document(
                    machine={**WREN, "takes": takes}, axes=axes, hold={"speed_mm_s": 20, "power_pct": 50}
                )
                untold = [warning for warning in planned(document).warnings if warning.kind == "untold"]
                with self.subTest(key, takes=takes):
                    self.assertEqual([warning.level for warning in untold], [level])

    def test_what_does_not_matter_is_carried(self):
        for hold in ({"focus_offset_mm": 0}, {"step_down_mm": 0}, {"air_level": 0}):
            with self.subTest(hold=hold):
                self.assertTrue(program_of(trial_document(hold=hold))[1].burning())

    def test_air_is_switched(self):
        axes = [
            {"parameter": "air_level", "along": "x", "values": [0, 1]},
            {"parameter": "power_pct", "along": "y", "values": [40, 50]},
        ]
        _, program = program_of(trial_document(axes=axes, hold={"speed_mm_s": 20}))
        for move in program.burning("patch"):
            self.assertEqual(move.air, move.section.endswith("2"))


class HeaderTest(unittest.TestCase):
    def test_says_what_it_is(self):
        _, program = program_of(trial_document(code="7K3Q-T014.1", title="Küche; 4 mm"))
        text = "\n".join(program.comments)
        for words in ("7K3Q-T014.1", "Kueche, 4 mm", "Poplar plywood 4 mm", "Wren", "lower left corner of the piece"):
            self.assertIn(words, text)
        self.assertTrue({"G21", "G90", "M2", "M5"} <= program.words)

    def test_full_power_number_of_the_machine(self):
        _, program = program_of(trial_document(machine={**WREN, "s_at_full_power": 255}))
        self.assertEqual(program.burning("patch A1")[0].beam, 76.5)

    def test_galvo_zero_is_the_fields_centre(self):
        machine = {**HERON, "pulse_widths": None, "frequency_khz": None}
        axes = [{"parameter": "speed_mm_s", "along": "x", "values": [500, 800]}]
        _, program = program_of(
            token_document(machine=machine, axes=axes, hold={"power_pct": 30}, place={"at": "centre"})
        )
        xs = [x for move in program.burning() for x in (move.start[0], move.end[0])]
        self.assertAlmostEqual(min(xs), -max(xs), places=3)
        self.assertIn("centre of the field", "\n".join(program.comments))


if __name__ == "__main__":
    unittest.main()
