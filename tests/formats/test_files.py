"""SVG, CSV and JSON files, each read back by something that is not our writer."""

import io
import json
import re
import shutil
import subprocess
import unittest
import xml.etree.ElementTree as ET
from pathlib import Path

from jsonschema import Draft202012Validator
from jsonschema.exceptions import ValidationError
from referencing import Registry, Resource

from rezept.core.errors import InvalidInput
from rezept.core.parameters import PARAMETERS
from rezept.core.plan import plan
from rezept.formats.colours import distinct_colours
from rezept.formats.plate_file import write_plate_file
from rezept.formats.strict_json import read_json, write_json
from rezept.formats.svg import write_svg
from rezept.formats.trial_file import read_trial_file, write_trial_file
from tests.made import POWER, SPEED, WREN, area_document, planned, token_document, trial_document

FORMATS = Path(__file__).parents[2] / "docs" / "formats"
NAMESPACE = {"svg": "http://www.w3.org/2000/svg"}
LABELS = {"on": True, "height_mm": 2.0, "settings": {"speed_mm_s": 100, "power_pct": 20}}


def validator(name):
    schemas = {path.name: json.loads(path.read_text()) for path in FORMATS.glob("*.schema.json")}
    registry = Registry().with_resources((schema["$id"], Resource.from_contents(schema)) for schema in schemas.values())
    schema = schemas[f"{name}.schema.json"]
    Draft202012Validator.check_schema(schema)
    return Draft202012Validator(schema, registry=registry)


def everything():
    """A trial that uses every part of the format at once."""
    return trial_document(
        machine={**WREN, "shows": {"power_pct": 1}, "distinct_settings": 200, "head": {"spot_mm": 0.1}},
        axes=[SPEED, POWER, {"parameter": "passes", "along": "block_x", "values": [1, 2, 3], "wrap": 2}],
        patch={"shape": "coupon", "width_mm": 12, "height_mm": 10},
        labels={**LABELS, "qr": True, "marks": True},
        code="7K3Q-T014.2",
        order="scattered",
        off=["2-A1"],
        overrides={"3-B2": {"speed_mm_s": 12.5}},
        dose_ceiling_j_mm=8,
        cuts_through_j_mm=1.2,
        cut_out=True,
        hang_hole_mm=5,
        cut_settings={"speed_mm_s": 10, "power_pct": 80, "air_level": 1},
        piece={"width_mm": 300, "height_mm": 200},
        burned_ground=[[[0, 0], [10, 0], [10, 10]]],
    )


class SchemaTest(unittest.TestCase):
    """The published schemas say the same as the reader."""

    def test_examples_fit_and_can_be_planned(self):
        examples = sorted((FORMATS / "examples").glob("*.trial.json"))
        self.assertGreaterEqual(len(examples), 3)
        for path in examples:
            with self.subTest(path.name):
                validator("trial").validate(json.loads(path.read_text()))
                plate = plan(read_trial_file(path.read_bytes()))
                validator("plate").validate(json.loads(write_plate_file(plate)))

    def test_completed_trials_fit(self):
        for document in (trial_document(labels=LABELS), area_document(off=["A2"]), token_document(), everything()):
            completed = planned(document).trial
            validator("trial").validate(json.loads(write_trial_file(completed)))

    def test_both_refuse_the_same(self):
        """Each broken document is refused by the schema and by the reader."""
        for changes in (
            {"tilte": "x"},
            {"version": 2},
            {"process": "melt"},
            {"axes": []},
            {"hold": {"speeed_mm_s": 3}},
            {"patch": {"width_mm": 0}},
            {"patch": {"shape": "outline"}},
            {"overrides": {"b2": {"power_pct": 5}}},
            {"overrides": {"B2": {"power_pct": 101}}},
            {"dose_ceiling_j_mm": 0},
            {"burned_ground": [[[0, 0], [1, 1]]]},
            {"fit": "somehow"},
            {"labels": {"marks": True}},
            {"labels": {"qr": True}},
            {"order": "spiral"},
            {"off": ["b2"]},
            {"date": "23.11.2026"},
            {"code": "A,B"},
            {"machine": {"name": "X"}},
            {"material": {"name": "X", "hazards": ["noise"]}},
            {"piece": {"width_mm": -1}},
            {"place": {"at": "middle"}},
            {"starting_dose_j_mm": 0},
            {"cut_out": True},
            {"steps": [{"process": "cut"}]},
            {"rounds": 2},
            {"process": None},
        ):
            with self.subTest(changes=changes):
                document = trial_document(**changes)
                with self.assertRaises(ValidationError):
                    validator("trial").validate(document)
                with self.assertRaises(InvalidInput):
                    read_trial_file(json.dumps(document).encode())

    def test_both_refuse_the_same_of_steps(self):
        whole = json.loads((FORMATS / "examples" / "medal-bulk-and-clean.trial.json").read_text())
        validator("trial").validate(whole)
        first, second = whole["steps"]
        for changes in (
            {"steps": []},
            {"steps": [first] * 9},
            {"steps": [{**first, "process": "melt"}, second]},
            {"steps": [{**first, "part": "rim"}, second]},
            {"steps": [{**first, "name": " "}, second]},
            {"steps": [{**first, "hatch": []}, second]},
            {"steps": [{**first, "hatch": [{"line_spacing_mm": 0}]}, second]},
            {"steps": [{**first, "inset_mm": -1}, second]},
            {"steps": [{**first, "one_way": 1}, second]},
            {"steps": [{**first, "speed_mm_s": 9}, second]},
            {"rounds": 21},
            {"steps_order": "spiral"},
            {"axes": [], "listed": {"settings": [{"speed_mm_s": 400}]}},
            {"axes": [{**whole["axes"][0], "step": 1}]},
        ):
            with self.subTest(changes=changes):
                with self.assertRaises(ValidationError):
                    validator("trial").validate({**whole, **changes})
                with self.assertRaises(InvalidInput):
                    read_trial_file(json.dumps({**whole, **changes}).encode())

    def test_schema_knows_every_setting(self):
        schema = json.loads((FORMATS / "trial.schema.json").read_text())
        self.assertEqual(list(schema["properties"]["hold"]["properties"]), list(PARAMETERS))
        page = (FORMATS / "trial.md").read_text()
        for key in PARAMETERS:
            self.assertIn(key, page)


class StrictJsonTest(unittest.TestCase):
    def test_refusals(self):
        for text, words in [
            (b'{"a": NaN}', "NaN"),
            (b'{"a": -Infinity}', "Infinity"),
            (b'{"a": 1e999}', "too large"),
            (b'{"a": 1, "a": 2}', "twice"),
            (b'{"a": }', "line 1, column 7"),
            (b"\xff\xfe", "UTF-8"),
            (b"[" * 5000 + b"]" * 5000, "deep"),
            (b'{"a": ' + b"9" * 400 + b"}", "too large"),
            (b"", "not JSON"),
        ]:
            with self.subTest(text[:20]), self.assertRaisesRegex(InvalidInput, words):
                read_json(text)

    def test_nothing_infinite_is_written(self):
        with self.assertRaises(ValueError):
            write_json({"a": float("nan")})

    def test_there_and_back(self):
        document = {"ä": [1, 2.5, None, True, "x\n"]}
        self.assertEqual(read_json(write_json(document)), document)


class PlateFileTest(unittest.TestCase):
    def test_frozen_trial_plans_the_same_plate_again(self):
        for document in (trial_document(labels=LABELS, order="weakest_first"), token_document(off=["A1"])):
            plate = planned(document)
            again = plan(read_trial_file(write_trial_file(plate.trial)))
            self.assertEqual(again.document(), plate.document())


class SvgTest(unittest.TestCase):
    def drawing(self, document):
        plate = planned(document)
        return plate, ET.fromstring(write_svg(plate))

    def test_page_is_the_plate(self):
        plate, root = self.drawing(trial_document(labels=LABELS))
        self.assertEqual(root.get("width"), f"{plate.width_mm:.4f}mm")
        self.assertEqual(root.get("viewBox"), f"0 0 {plate.width_mm:.4f} {plate.height_mm:.4f}")

    def test_every_patch_lies_where_the_plan_says(self):
        """y is turned down: the patch's upper edge stands at height - y - patch height."""
        plate, root = self.drawing(trial_document())
        for i, patch in enumerate(plate.elements.ids):
            group = root.find(f"svg:g[@id='patch-{patch}']", NAMESPACE)
            children = group.findall("svg:g", NAMESPACE)
            self.assertEqual(len(children), 1)
            numbers = [float(n) for n in re.findall(r"[\d.]+", children[0].find("svg:path", NAMESPACE).get("d"))]
            xs, ys = numbers[::2], numbers[1::2]
            self.assertAlmostEqual(min(xs), plate.elements.x_mm[i], places=3)
            self.assertAlmostEqual(max(xs) - min(xs), 10, places=3)
            self.assertAlmostEqual(min(ys), plate.height_mm - plate.elements.y_mm[i] - 10, places=3)
            for key, values in plate.judged.settings.items():
                self.assertAlmostEqual(float(children[0].get(f"data-{key}")), values[i])

    def test_distinct_settings_have_distinct_colours_and_names(self):
        _, root = self.drawing(trial_document())
        groups = root.findall("svg:g/svg:g", NAMESPACE)
        self.assertEqual(len({group.get("stroke") for group in groups}), 12)
        self.assertEqual(len({group.get("data-name") for group in groups}), 12)
        self.assertIn("speed 8 mm/s, power 30 %", groups[0].get("data-name"))

    def test_colours_stay_different_up_to_the_largest_plate(self):
        self.assertEqual(len(set(distinct_colours(5001))), 5001)

    def test_left_out_patches_are_left_out(self):
        _, root = self.drawing(trial_document(off=["B2"]))
        self.assertIsNone(root.find("svg:g[@id='patch-B2']", NAMESPACE))

    def test_names_cannot_break_the_markup(self):
        material = {"name": 'Ply <script>"&', "family": "wood"}
        _, root = self.drawing(trial_document(material=material, labels=LABELS, title="a<b"))
        self.assertIn('Ply <script>"&', root.find("svg:title", NAMESPACE).text)

    @unittest.skipUnless(shutil.which("rsvg-convert"), "librsvg2-bin is not installed")
    def test_another_program_draws_it(self):
        """librsvg draws a filled engraving: the middle of every patch is coloured, the gaps are bare."""
        from PIL import Image

        plate = planned(area_document())
        scale = 10
        done = subprocess.run(
            ["rsvg-convert", "--width", str(round(plate.width_mm * scale)), "--background-color", "white"],
            input=write_svg(plate),
            capture_output=True,
            check=True,
        )
        picture = Image.open(io.BytesIO(done.stdout)).convert("RGB")
        for x, y in zip(plate.elements.x_mm, plate.elements.y_mm, strict=True):
            middle = (round((x + 4) * scale), round((plate.height_mm - y - 3) * scale))
            beside = (round((x + 8 + 1.0) * scale), middle[1])
            self.assertNotEqual(picture.getpixel(middle), (255, 255, 255))
            self.assertEqual(picture.getpixel(beside), (255, 255, 255))


if __name__ == "__main__":
    unittest.main()
