"""Every kind of file read back by another's reader: GDAL, poppler, zbar, librsvg, and the tests' own for G-code."""

import csv
import io
import json
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path

import numpy as np
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from rezept.core.errors import Refused
from rezept.core.path.hatch import line_count
from rezept.core.path.inside import inside
from rezept.core.plan.distinct import distinct_settings, split
from rezept.core.plan.place import to_program
from rezept.core.plan.traced import round_of
from rezept.formats.dxf import write_dxf
from rezept.formats.gcode import write_gcode
from rezept.formats.sheet import write_printed_sheet, write_sheet
from rezept.formats.svg import write_svg
from rezept.formats.targets import TARGETS, numbered_suffix, parts_of
from rezept.formats.trace import write_trace
from tests.formats.gcode_reader import read_gcode
from tests.made import HERON, POWER, WREN, area_document, leaving, planned, token_document, trial_document

LABELS = {"on": True, "height_mm": 2.0, "settings": {"speed_mm_s": 100, "power_pct": 20}}
CUT_OUT = {"cut_out": True, "hang_hole_mm": 4, "cut_settings": {"speed_mm_s": 10, "power_pct": 80}}


def needs(program):
    return unittest.skipUnless(shutil.which(program), f"{program} is not installed")


class DxfTest(unittest.TestCase):
    @needs("ogrinfo")
    def test_gdal_finds_a_layer_for_each_setting_and_the_patches_where_they_are(self):
        plate = planned(trial_document(labels=LABELS, **CUT_OUT))
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "plate.dxf"
            file.write_bytes(write_dxf(plate))
            done = subprocess.run(
                ["ogr2ogr", "-f", "GeoJSON", "/vsistdout/", str(file)], capture_output=True, check=True
            )
        features = json.loads(done.stdout)["features"]
        patches: dict[str, list] = {}
        for feature in features:
            patches.setdefault(feature["properties"]["Layer"], []).append(feature["geometry"])
        self.assertLessEqual({"labels", "cut out"}, set(patches))
        kinds = {layer: shapes for layer, shapes in patches.items() if layer[0].isdigit()}
        self.assertEqual(len(kinds), 12)
        self.assertTrue(any("speed 24 mm per s power 55 %" in layer for layer in kinds))
        [shape] = next(shapes for layer, shapes in kinds.items() if "speed 24 mm per s power 55 %" in layer)
        rings = shape["coordinates"]
        points = np.array(rings[0] if shape["type"] == "Polygon" else rings)[:, :2]
        i = plate.elements.ids.index("B3")
        np.testing.assert_allclose(points.min(axis=0), [plate.elements.x_mm[i], plate.elements.y_mm[i]], atol=1e-6)
        np.testing.assert_allclose(np.ptp(points, axis=0), [10, 10], atol=1e-6)
        frame = np.concatenate([np.array(shape["coordinates"])[:, :2] for shape in patches["cut out"]])
        np.testing.assert_allclose(frame.max(axis=0), [plate.width_mm, plate.height_mm], atol=1e-6)

    def test_patches_carry_their_names(self):
        text = write_dxf(planned(trial_document(patch={"shape": "coupon"}))).decode()
        for patch in ("A1", "C4"):
            # The hole and the outline of a coupon are both of the patch: 1001 names the application, 1000 the patch.
            self.assertEqual(text.count(f"1001\nREZEPT\n1000\n{patch}\n"), 2)


class SheetTest(unittest.TestCase):
    def test_one_line_a_setting_in_the_machines_units(self):
        """Two blocks of one pass count each; equal patches share a line. 24 mm/s is 1440 mm/min."""
        machine = {**WREN, "units": {"speed": "mm/min"}}
        axes = [{"parameter": "speed_mm_s", "along": "x", "values": [24, 8, 24]}, POWER]
        plate = planned(trial_document(machine=machine, axes=axes, code="7K3Q-T014.1"))
        rows = list(csv.DictReader(io.StringIO(write_sheet(plate).decode())))
        self.assertEqual(len(rows), 6)
        first = rows[0]
        self.assertEqual((first["patches"], first["turns"], first["speed mm/min"]), ("A1 A3", "1 3", "1440"))
        self.assertEqual(first["plate"], "7K3Q-T014.1")
        self.assertEqual(sorted(int(turn) for row in rows for turn in row["turns"].split()), list(range(1, 10)))
        self.assertAlmostEqual(float(first["dose J/mm"]), plate.judged.dose[0], places=4)

    def test_what_is_to_be_said_stands_in_the_line(self):
        plate = planned(trial_document(starting_dose_j_mm=1.0, off=["A1"]))
        rows = {row["patches"]: row for row in csv.DictReader(io.StringIO(write_sheet(plate).decode()))}
        self.assertNotIn("A1", rows)
        self.assertIn("may catch fire", rows["B1"]["warnings"])
        self.assertEqual(rows["A4"]["warnings"], "")

    @needs("pdftotext")
    def test_the_printed_sheet_says_the_same(self):
        plate = planned(trial_document(labels=LABELS, code="7K3Q-T014.1", **CUT_OUT))
        done = subprocess.run(["pdftotext", "-layout", "-", "-"], input=write_printed_sheet(plate), capture_output=True)
        text = done.stdout.decode()
        for words in ("7K3Q-T014.1", "Poplar plywood 4 mm", "C4", "Labels: speed mm/s: 100", "Cut out: speed mm/s: 10"):
            self.assertIn(words, text)
        self.assertEqual(sum(line.strip()[:2].strip().isdigit() for line in text.splitlines()), 12)


class CodeTest(unittest.TestCase):
    """The code is read from the drawing as it would be engraved: at its own size, 300 dots to the inch."""

    def seen(self, plate, ground, ink, spot):
        drawing = write_svg(plate).decode().replace('stroke-width="0.1"', f'stroke-width="{spot}"')
        colours = {part.split('"')[0] for part in drawing.split('stroke="#')[1:]}
        for colour in colours:
            drawing = drawing.replace(f'stroke="#{colour}"', f'stroke="{ink}"')
        done = subprocess.run(
            ["rsvg-convert", "--dpi-x", "300", "--dpi-y", "300", "--background-color", ground],
            input=drawing.encode(),
            capture_output=True,
            check=True,
        )
        with tempfile.NamedTemporaryFile(suffix=".png") as file:
            file.write(done.stdout)
            file.flush()
            return subprocess.run(["zbarimg", "--quiet", "--raw", file.name], capture_output=True).stdout.decode()

    @needs("zbarimg")
    @needs("rsvg-convert")
    def test_a_camera_reads_it(self):
        labels = {**LABELS, "qr": True, "marks": True}
        for material, ground, ink in (
            ({"name": "Ply", "family": "wood"}, "#E9D8B0", "#3A2414"),
            ({"name": "Anodised tag", "family": "coated metal", "mark": "lighter"}, "#30343A", "#E8E8E8"),
        ):
            with self.subTest(material["name"]):
                machine = {**WREN, "head": {"spot_mm": 0.1}}
                plate = planned(trial_document(code="7K3Q-T014.2", labels=labels, material=material, machine=machine))
                self.assertEqual(self.seen(plate, ground, ink, 0.1).strip(), "REZEPT:7K3Q-T014.2")


class SplitTest(unittest.TestCase):
    def test_numbered_files_that_register_to_each_other(self):
        machine = {**WREN, "distinct_settings": 5}
        plate = planned(trial_document(machine=machine, labels=LABELS, **CUT_OUT))
        parts = parts_of(TARGETS["svg"], plate)
        self.assertEqual(len(parts), 3)
        burned = [plate.elements.ids[i] for part in parts for i in part.order[:, 0]]
        self.assertEqual(sorted(burned), sorted(plate.elements.ids))
        for number, part in enumerate(parts, start=1):
            count = len(distinct_settings(part)) + len({id(one.settings) for one in part.drawn})
            self.assertLessEqual(count, 5)
            drawing = write_svg(part).decode()
            self.assertIn(f'viewBox="0 0 {plate.width_mm:.4f} {plate.height_mm:.4f}"', drawing)
            self.assertEqual("label-" in drawing, number == 1)
            self.assertEqual("outline-cut-out" in drawing, number == 3)
        self.assertEqual(numbered_suffix(TARGETS["svg"], 2, 3), ".2of3.svg")
        self.assertEqual(len(parts_of(TARGETS["gcode"], plate)), 1)

    @given(st.integers(1, 14), st.booleans(), st.booleans())
    def test_never_more_than_a_file_holds(self, most, labelled, cut):
        plate = planned(trial_document(labels=LABELS if labelled else {}, **(CUT_OUT if cut else {})))
        parts = split(plate, most)
        self.assertEqual(sorted(i for part in parts for i in part.order[:, 0]), sorted(plate.order[:, 0]))
        for part in parts:
            kinds = (len(distinct_settings(part)) if len(part.order[:, 0]) else 0) + len({o.last for o in part.drawn})
            self.assertLessEqual(kinds, most)
        self.assertEqual(sum(len(part.drawn) for part in parts), len(plate.drawn))


class ProgramWordsTest(unittest.TestCase):
    def test_what_no_word_says_travels_as_a_comment_or_not_at_all(self):
        with self.assertRaisesRegex(Refused, "frequency"):
            leaving(planned(token_document()))
        plate = planned(token_document(machine={**HERON, "hears_settings": True}))
        lines = write_gcode(plate).decode().splitlines()
        told: dict[str, str] = {}
        section = ""
        for line in lines:
            if line.startswith("; patch"):
                section = line.split()[2].rstrip(":")
            elif line.startswith(";REZEPT "):
                told[section] = line
        self.assertEqual(sorted(told), sorted(plate.elements.ids))
        for i, patch in enumerate(plate.elements.ids):
            said = dict(pair.split("=") for pair in told[patch].split()[1:])
            for key in ("frequency_khz", "focus_offset_mm"):
                self.assertEqual(float(said[key]), plate.judged.settings[key][i])
            self.assertNotIn("speed_mm_s", said)

    def test_focus_by_the_third_axis(self):
        axes = [{"parameter": "focus_offset_mm", "along": "x", "values": [-1, 0, 1.5]}, POWER]
        document = trial_document(machine={**WREN, "focus_by_z": True}, axes=axes, hold={"speed_mm_s": 20})
        text = write_gcode(planned(document)).decode()
        heights, section = {}, ""
        for line in text.splitlines():
            if line.startswith("; patch"):
                section = line.split()[2].rstrip(":")
            elif line.startswith("G0Z"):
                heights[section] = float(line[3:].split("S")[0])
        self.assertEqual({heights["A1"], heights["B1"]}, {-1.0})
        self.assertEqual(heights["A3"], 1.5)
        self.assertIn("Z up is away", text)
        self.assertTrue(text.rstrip().endswith("G0Z0S0\nG0X0Y0S0\nM5S0\nM2"))
        with self.assertRaisesRegex(Refused, "focus"):
            leaving(planned({**document, "machine": WREN}))

    def test_power_that_follows_the_speed(self):
        text = write_gcode(planned(trial_document(machine={**WREN, "power_mode": "follows_speed"}))).decode()
        self.assertIn("M4S0", text)
        self.assertNotIn("M3", text)
        self.assertIn("power falls with the speed", text)
        pierced = trial_document(machine={**WREN, "power_mode": "follows_speed"}, hold={"pierce_dwell_ms": 200})
        lines = write_gcode(planned(pierced)).decode().splitlines()
        dwell = lines.index("G4P0.2")
        self.assertEqual((lines[dwell - 1][:2], lines[dwell + 1]), ("M3", "M4S0"))


class TraceTest(unittest.TestCase):
    def test_round_the_plate_at_trace_power_and_dark_before_and_after(self):
        machine = {**WREN, "trace_power_pct": 2}
        plate = planned(trial_document(machine=machine))
        moves = read_gcode(write_trace(plate)).moves
        lit = [move for move in moves if move.beam > 0]
        self.assertEqual({move.beam for move in lit}, {20.0})
        points = np.array([move.end for move in lit])
        np.testing.assert_allclose(points.max(axis=0), [plate.width_mm, plate.height_mm], atol=0.02)
        np.testing.assert_allclose(points.min(axis=0), [0, 0], atol=0.02)
        self.assertEqual((moves[-1].end, moves[-1].beam), ((0.0, 0.0), 0))
        dark = [move for move in moves if move.beam == 0 and not move.rapid]
        speed = round_of(plate, "frame").speed_mm_s
        for move in dark:
            self.assertGreaterEqual(move.length, speed**2 / (2 * 4000) - 0.01)

    def test_drawn_tight_it_goes_round_all_that_burns_and_no_farther(self):
        """Three discs in a row and one above the first: a triangle with round corners, by moves that were written."""
        listed = [{"speed_mm_s": 10, "power_pct": 60}] * 4
        document = trial_document(
            machine={**WREN, "trace_power_pct": 2},
            axes=[],
            listed={"settings": listed, "wrap": 3},
            patch={"shape": "disc", "width_mm": 10, "height_mm": 10, "gap_mm": 2},
        )
        plate = planned(document)
        burned = np.array([move.end for move in read_gcode(write_gcode(plate)).moves if move.beam > 0])
        round_it = [move for move in read_gcode(leaving(plate, "tight")[0]).moves if move.beam > 0]
        way = np.array([move.end for move in round_it])
        # 2.4 mm2 of ground is what a hull with half a millimetre round it takes more, for each millimetre round.
        self.assertTrue(inside(burned, way).all())
        self.assertLess(np.ptp(way, axis=0)[0], np.ptp(burned, axis=0)[0] + 1.001)
        # Above the third disc nothing burns, and the line does not go there.
        corner = burned.max(axis=0)
        self.assertFalse(inside(corner[None] - 4.0, way).any())
        self.assertTrue(inside(burned.min(axis=0)[None] + 4.0, way).all())
        self.assertIn(
            "tight round all that burns, three times round", "\n".join(read_gcode(leaving(plate, "tight")[0]).comments)
        )

    def test_only_the_next_one_of_a_plate_that_grows_is_gone_round(self):
        settings = [{"speed_mm_s": 10, "power_pct": 60}] * 3
        document = trial_document(
            machine={**WREN, "trace_power_pct": 2}, axes=[], listed={"settings": settings, "wrap": 2, "burned": 2}
        )
        plate = planned(document)
        program = read_gcode(leaving(plate, "gcode")[0]).moves
        burned = np.array([move.end for move in program if move.beam > 0])
        way = np.array([move.end for move in read_gcode(leaving(plate, "tight")[0]).moves if move.beam > 0])
        np.testing.assert_allclose(way.min(axis=0), burned.min(axis=0) - 0.5, atol=0.02)
        np.testing.assert_allclose(way.max(axis=0), burned.max(axis=0) + 0.5, atol=0.02)

    def test_where_it_would_mark_it_is_refused(self):
        plate = planned(trial_document(machine={**WREN, "trace_power_pct": 20}, labels=LABELS))
        with self.assertRaisesRegex(Refused, "would leave a line"):
            leaving(plate, "trace")
        with self.assertRaisesRegex(Refused, "no trace power"):
            leaving(planned(trial_document()), "trace")


@st.composite
def trials(draw):
    """Trials with blocks, ladders, shapes, hand-set patches, turned and placed, on either kind of machine."""
    galvo = draw(st.booleans())
    hatched = draw(st.booleans())
    shape = draw(st.sampled_from(["rectangle", "disc", "coupon"]))
    size = draw(st.floats(2, 6))
    keys = draw(st.permutations(["speed_mm_s", "power_pct", "passes"]))
    values = {
        "speed_mm_s": st.floats(20, 300).map(lambda v: round(v, 2)),
        "power_pct": st.floats(10, 80).map(lambda v: round(v, 2)),
        "passes": st.integers(1, 3),
    }
    used = keys[: draw(st.integers(1, 3))]
    axes = [
        {"parameter": key, "along": along, "values": draw(st.lists(values[key], min_size=1, max_size=3, unique=True))}
        for key, along in zip(used, ("x", "y", "block_x"), strict=False)
    ]
    hold = {key: draw(values[key]) for key in keys if key not in used}
    if hatched:
        hold |= {"line_spacing_mm": 0.5, "hatch_angle_deg": draw(st.sampled_from([0, 30, 90]))}
    place = {"at": "centre", "x_mm": draw(st.floats(-5, 5)), "y_mm": 0, "turn_deg": draw(st.sampled_from([0, 90, 17]))}
    document = trial_document(
        machine=HERON if galvo else WREN,
        process="area" if hatched else "cut",
        axes=axes,
        hold=hold,
        patch={"shape": shape, "width_mm": size, "height_mm": size, "gap_mm": 1},
        place=place,
        order=draw(st.sampled_from(["rows", "weakest_first", "scattered"])),
        piece={"width_mm": 100, "height_mm": 100},
    )
    if "power_pct" in used and draw(st.booleans()):
        document["overrides"] = {planned(document).elements.ids[-1]: {"power_pct": 33}}
    return document


class InterpretedProgramTest(unittest.TestCase):
    @settings(max_examples=200, deadline=None, suppress_health_check=list(HealthCheck))
    @given(trials())
    def test_the_program_burns_what_the_plan_says(self, document):
        """Speed, power, passes, line count and place of every patch, from the program's own words."""
        plate = planned(document)
        if plate.refusals():
            return
        program = read_gcode(write_gcode(plate))
        width, height = plate.trial.patch.width_mm, plate.trial.patch.height_mm
        hatched = plate.trial.process.fills
        for i in plate.order[:, 0].tolist():
            lit = program.burning(f"patch {plate.elements.ids[i]}")
            lit = [move for move in lit if move.section == f"patch {plate.elements.ids[i]}"]
            self.assertEqual(
                {round(move.feed / 60, 3) for move in lit}, {round(plate.judged.settings["speed_mm_s"][i], 3)}
            )
            self.assertEqual(
                {round(move.beam / 10, 2) for move in lit}, {round(plate.judged.settings["power_pct"][i], 2)}
            )
            corners = np.array([(0, 0), (width, 0), (width, height), (0, height)]) + (
                plate.elements.x_mm[i],
                plate.elements.y_mm[i],
            )
            box = to_program(corners, plate.trial, plate.width_mm, plate.height_mm)
            points = np.array([point for move in lit for point in (move.start, move.end)])
            self.assertTrue((points.min(axis=0) >= box.min(axis=0) - 0.01).all())
            self.assertTrue((points.max(axis=0) <= box.max(axis=0) + 0.01).all())
            passes = int(plate.judged.settings["passes"][i])
            if hatched and plate.trial.patch.shape == "rectangle" and plate.judged.settings["hatch_angle_deg"][i] == 0:
                self.assertEqual(len(lit), passes * line_count(height, 0.5))
            elif not hatched and plate.trial.patch.shape == "rectangle":
                self.assertAlmostEqual(sum(move.length for move in lit), passes * 2 * (width + height), delta=0.05)


class AreaOfShapesTest(unittest.TestCase):
    def test_a_row_over_a_hole_stays_at_speed(self):
        """One run-up before and one after each row of an engraved coupon, dark over its hole."""
        document = area_document(patch={"shape": "coupon", "width_mm": 10, "height_mm": 10}, hold={
            "power_pct": 20, "line_spacing_mm": 1.0})  # fmt: skip
        plate = planned(document)
        program = read_gcode(write_gcode(plate))
        moves = [move for move in program.moves if move.section == "patch A1"]
        rapid = [move for move in moves if move.rapid and move.length > 0.001]
        self.assertEqual(len(rapid), 10)
        crossing = [move for move in moves if not move.rapid and move.beam == 0 and 0.5 < move.length < 2.5]
        self.assertGreaterEqual(len(crossing), 2)


if __name__ == "__main__":
    unittest.main()
