"""From a trial to a plate: patches, doses, places, order, times, lettering."""

import unittest
from itertools import pairwise

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from rezept.core.errors import InvalidInput
from rezept.core.parameters import PARAMETERS
from rezept.core.path.lettering import lacking, text_points, text_width, wrapped, writable
from rezept.core.plan.grid import row_letters
from rezept.core.plan.place import to_program
from rezept.core.plan.program import burns
from rezept.formats.gcode import write_gcode
from tests.core.stepping import SteppedGalvo, stepped_way
from tests.made import BLANK, HERON, POWER, SPEED, area_document, planned, token_document, trial_document

LABELS = {"on": True, "height_mm": 2.0, "settings": {"speed_mm_s": 100, "power_pct": 20}}


class NamesTest(unittest.TestCase):
    def test_rows_after_z(self):
        self.assertEqual([row_letters(row) for row in (1, 26, 27, 52, 53, 703)], ["A", "Z", "AA", "AZ", "BA", "AAA"])

    def test_ids_row_by_row_from_the_bottom(self):
        self.assertEqual(planned(trial_document()).elements.ids[:5], ("A1", "A2", "A3", "A4", "B1"))


class PlanTest(unittest.TestCase):
    def test_settings_and_doses(self):
        """B3: 24 mm/s, 55 % of 60 W = 33 W: 1.375 J/mm."""
        plate = planned(trial_document())
        i = plate.elements.ids.index("B3")
        self.assertEqual((plate.judged.settings["speed_mm_s"][i], plate.judged.settings["power_pct"][i]), (24.0, 55.0))
        self.assertAlmostEqual(plate.judged.dose[i], 1.375)
        self.assertEqual((plate.elements.row[i], plate.elements.column[i]), (2, 3))

    def test_area_dose_and_time(self):
        """12 W at 100 mm/s with 0.1 mm lines: 1.2 J/mm2. 60 lines of 8 mm, two run-ups of 1/40 s each, 59 turns."""
        plate = planned(area_document())
        self.assertAlmostEqual(plate.judged.dose[0], 1.2)
        self.assertAlmostEqual(plate.seconds[0], 60 * (0.08 + 0.05) + 59 * 2 * np.sqrt(0.1 / 4000), places=6)

    def test_passes_count_for_dose_and_time(self):
        once, twice = (planned(trial_document(hold={"passes": n})) for n in (1, 2))
        assert_allclose(twice.judged.dose, 2 * once.judged.dose)
        # Between two rounds the head need not stop at the corner it began from.
        self.assertTrue((twice.seconds < 2 * once.seconds).all())
        assert_allclose(twice.seconds, 2 * once.seconds, rtol=0.01)

    def test_any_two_parameters_of_the_table(self):
        """Every setting of the table can be an axis where machine and process have it."""
        for key, values, document in [
            ("passes", [1, 2, 3], trial_document),
            ("focus_offset_mm", [-1, 0, 1], trial_document),
            ("pierce_dwell_ms", [0, 100], trial_document),
            ("corner_power_pct", [10, 20], trial_document),
            ("step_down_mm", [0, 0.5], trial_document),
            ("air_level", [0, 1], trial_document),
            ("line_spacing_mm", [0.05, 0.1], area_document),
            ("hatch_angle_deg", [0, 45, 90], area_document),
            ("hatch_turn_deg", [0, 90], area_document),
            ("on_delay_us", [-50, 50], token_document),
            ("off_delay_us", [-50, 50], token_document),
            ("frequency_khz", [60, 100], token_document),
        ]:
            with self.subTest(key):
                axes = [
                    {"parameter": key, "along": "x", "values": values},
                    {"parameter": "power_pct", "along": "y", "values": [20, 40]},
                ]
                hold = {"speed_mm_s": 50}
                plate = planned(document(axes=axes, hold=hold))
                self.assertEqual(len(plate.elements.ids), 2 * len(values))
                self.assertEqual(sorted(set(plate.judged.settings[key].tolist())), sorted(map(float, values)))
                self.assertTrue(np.isfinite(plate.seconds).all() and (plate.seconds > 0).all())
                self.assertEqual(list(plate.judged.settings), [k for k in PARAMETERS if k in plate.judged.settings])

    @settings(max_examples=40, deadline=None)
    @given(st.integers(1, 7), st.integers(1, 7), st.booleans(), st.floats(1, 20), st.floats(1, 20), st.floats(0.5, 8))
    def test_nothing_overlaps_or_leaves_the_plate(self, columns, rows, labelled, width, height, gap):
        document = trial_document(
            axes=[
                {"parameter": "speed_mm_s", "along": "x", "values": [10 + i for i in range(columns)]},
                {"parameter": "power_pct", "along": "y", "values": [20 + i for i in range(rows)]},
            ],
            patch={"width_mm": width, "height_mm": height, "gap_mm": gap},
            labels=LABELS if labelled else {},
        )
        plate = planned(document)
        right, top = plate.elements.x_mm + width, plate.elements.y_mm + height
        self.assertTrue((plate.elements.x_mm >= 0).all() and (right <= plate.width_mm + 1e-9).all())
        self.assertTrue((plate.elements.y_mm >= 0).all() and (top <= plate.height_mm + 1e-9).all())
        xs, ys = sorted(set(plate.elements.x_mm.round(9))), sorted(set(plate.elements.y_mm.round(9)))
        self.assertEqual((len(xs), len(ys)), (columns, rows))
        for values, size in ((xs, width), (ys, height)):
            for a, b in pairwise(values):
                self.assertAlmostEqual(b - a, size + gap, places=6)
        for text in plate.texts:
            points, _ = text.points()
            self.assertTrue((points.min(axis=0) >= -0.01).all(), text)
            self.assertLessEqual(points[:, 0].max(), plate.width_mm + 0.01, text)
            inside = [
                ((points > [x, y]) & (points < [x + width, y + height])).all(axis=1).any()
                for x, y in zip(plate.elements.x_mm, plate.elements.y_mm, strict=True)
            ]
            self.assertFalse(any(inside) and height > 3.5, f"{text.text} runs over a patch")

    def test_order_weakest_first(self):
        plate = planned(trial_document(order="weakest_first"))
        burned = plate.judged.dose[plate.order[:, 0]].tolist()
        self.assertEqual(sorted(burned), burned)
        self.assertEqual(plate.elements.ids[plate.order[:, 0][0]], "A4")

    def test_order_rows(self):
        plate = planned(trial_document())
        self.assertEqual([plate.elements.ids[i] for i in plate.order[:, 0][:5]], ["A1", "A2", "A3", "A4", "B1"])

    def test_switched_off_stays_but_does_not_burn(self):
        plate = planned(trial_document(off=["A2", "C4"]))
        document = plate.document()
        self.assertEqual(len(document["patches"]), 12)
        self.assertEqual([p["id"] for p in document["patches"] if not p["burn"]], ["A2", "C4"])
        self.assertEqual(len(document["order"]), 10)
        self.assertNotIn("A2", document["order"])
        self.assertLess(plate.total_seconds, planned(trial_document()).total_seconds)

    def test_off_names_must_exist(self):
        with self.assertRaisesRegex(InvalidInput, "no patch Z9"):
            planned(trial_document(off=["Z9"]))
        with self.assertRaisesRegex(InvalidInput, "nothing would burn"):
            planned(trial_document(off=[f"{r}{c}" for r in "ABC" for c in range(1, 5)]))

    def test_seconds_is_all_of_it(self):
        plate = planned(trial_document(labels=LABELS))
        self.assertGreater(plate.label_seconds, 0)
        parts = sum(p["seconds"] for p in plate.document()["patches"])
        self.assertAlmostEqual(
            plate.document()["seconds"], parts + plate.label_seconds + plate.travel_seconds, places=9
        )

    def test_time_against_the_moves_of_the_program(self):
        """The plan's total is what its own moves take, gone through in small steps; hatch lines at speed."""
        for document in (trial_document(labels=LABELS), area_document(hold={"power_pct": 20, "passes": 2})):
            with self.subTest(document["process"]):
                plate = planned(document)
                self.assertLess(abs(moved_seconds(plate) / plate.total_seconds - 1), 0.03)

    def test_time_of_a_galvo_against_its_mirrors(self):
        """Lines, filled discs in two passes, lettering with corners: the whole program with all delays waited out."""
        machine = {**HERON, "polygon_delay_us": 400.0}
        pulses = {"frequency_khz": 100, "pulse_width_ns": 200, "passes": 2}
        line = {"process": "line", "axes": [{**SPEED, "from": 300, "to": 900}, POWER], "hold": pulses}
        disc = {"shape": "disc", "width_mm": 4, "height_mm": 4}
        for more in (
            {},
            {"patch": disc, "hold": {**token_document()["hold"], "passes": 2, "hatch_turn_deg": 30}},
            {**line, "patch": {"shape": "lettering", "width_mm": 9, "height_mm": 4, "text": "Ag5"}},
            {**line, "patch": {"shape": "coupon", "width_mm": 6, "height_mm": 5}, "labels": LABELS},
        ):
            document = token_document(machine=machine, material=BLANK, **more)
            with self.subTest(document["patch"]):
                plate = planned(document)
                galvo = SteppedGalvo(plate.trial.machine)
                for burn in burns(plate):
                    for way in [*(lines[1:3] for lines in burn.hatch), *burn.outlines]:
                        galvo.draw(way, burn.settings["speed_mm_s"])
                galvo.jump(np.zeros(2))
                self.assertLess(abs(galvo.seconds / plate.total_seconds - 1), 0.03)


def moved_seconds(plate):
    """Independent timing: walk every burn of the plate move by move."""
    a, travel = 4000.0, 400.0
    here, total = np.zeros(2), 0.0
    stepped = {}

    def move(to, speed):
        nonlocal here, total
        length = float(np.hypot(*(to - here)))
        if length > 0:
            peak = min(speed, (length * a) ** 0.5)
            total += 2 * peak / a + (length - peak**2 / a) / peak
        here = np.asarray(to, float)

    for burn in burns(plate):
        speed = burn.settings["speed_mm_s"]
        for line in burn.hatch:
            move(line[0], travel)
            total += 2 * speed / a + np.hypot(*(line[2] - line[1])) / speed
            here = line[3]
        for path in burn.outlines:
            move(path[0], travel)
            shape = (speed, tuple(np.round(path - path[0], 6).ravel()))
            if shape not in stepped:
                stepped[shape] = stepped_way(plate.trial.machine, path, speed, dt=5e-5)
            total += stepped[shape]
            here = path[-1]
    move(np.zeros(2), travel)
    return total


class PlaceTest(unittest.TestCase):
    def program(self, **changes):
        plate = planned(trial_document(**changes))
        point = np.array([[0.0, 0.0]])
        return to_program(point, plate.trial, plate.width_mm, plate.height_mm)[0], plate

    def test_gantry_counts_from_the_pieces_corner(self):
        point, _ = self.program(piece={"width_mm": 300, "height_mm": 200}, place={"x_mm": 15, "y_mm": 20})
        assert_allclose(point, [15, 20])

    def test_centre_from_centre(self):
        point, plate = self.program(piece={"width_mm": 300, "height_mm": 200}, place={"at": "centre", "x_mm": 5})
        assert_allclose(point, [155 - plate.width_mm / 2, 100 - plate.height_mm / 2])

    def test_turned_about_the_corner(self):
        plate = planned(trial_document(piece={"width_mm": 300}, place={"x_mm": 100, "turn_deg": 90}) | {
            "piece": {"width_mm": 300, "height_mm": 300}})  # fmt: skip
        turned = to_program(np.array([[10.0, 0.0]]), plate.trial, plate.width_mm, plate.height_mm)[0]
        assert_allclose(turned, [100, 10], atol=1e-9)

    def test_galvo_counts_from_the_fields_centre(self):
        plate = planned(token_document(place={"at": "centre"}))
        middle = np.array([[plate.width_mm / 2, plate.height_mm / 2]])
        assert_allclose(to_program(middle, plate.trial, plate.width_mm, plate.height_mm)[0], [0, 0], atol=1e-9)


class LetteringTest(unittest.TestCase):
    def test_height_and_width(self):
        """An H stands as high as asked for, and a text is as wide as its letters together."""
        points, _ = text_points("H", 5.0, 1.0, 2.0)
        assert_allclose([points[:, 1].min(), points[:, 1].max()], [2, 7])
        self.assertAlmostEqual(text_width("HUT", 3), sum(text_width(c, 3) for c in "HUT"))

    def test_letters_without_strokes_are_written_out_or_said(self):
        self.assertEqual(writable("Küche 3 µm²"), "Kueche 3 um2")
        self.assertEqual((writable("Žofie ｗide"), lacking("Žofie ｗide")), ("Zofie wide", ""))
        self.assertEqual((writable("木 oak 木"), lacking("木 oak? 木の")), ("? oak ?", "木の"))
        with self.assertRaisesRegex(InvalidInput, "no strokes for '木'"):
            planned(trial_document(process="line", patch={"shape": "lettering", "text": "木"}))

    def test_any_name_can_be_burned_and_what_it_lacks_is_said_beforehand(self):
        """A name that has no strokes at all, one of half a world, one of signs nobody sees."""
        poplar, labels = trial_document()["material"], {"on": True, "settings": {"speed_mm_s": 80, "power_pct": 20}}
        for name, missing in (("ヒノキ合板", "ヒノキ合板"), ("Ель ↯ 🜲", "Ель↯🜲"), ("\u200f", "\u200f")):
            plate = planned(trial_document(material={**poplar, "name": name}, title="T", labels=labels))
            with self.subTest(name):
                [said] = [warning.sentence for warning in plate.warnings if warning.kind == "spelling"]
                self.assertIn(repr(missing), said)
                program = write_gcode(plate)
                self.assertTrue(program.isascii())
                comments = b"".join(line.partition(b";")[2] for line in program.splitlines())
                # Some controllers hold, go on or report at one of these, wherever it stands.
                self.assertEqual([sign for sign in b"!~?" if sign in comments], [])
        shouting = planned(trial_document(title="Stop! ~ Why?", labels=labels))
        self.assertIn(b"Stop. - Why_", write_gcode(shouting))
        self.assertEqual([w for w in planned(trial_document()).warnings if w.kind == "spelling"], [])

    def test_wraps_between_words(self):
        lines = wrapped(["poplar", "4 mm", "cut", "Wren"], 2.0, text_width("poplar  4 mm", 2.0) + 0.1)
        self.assertEqual(lines[0], "poplar  4 mm")
        self.assertEqual("  ".join(lines), "poplar  4 mm  cut  Wren")


if __name__ == "__main__":
    unittest.main()
