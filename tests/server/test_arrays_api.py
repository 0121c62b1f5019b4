"""Kept arrays over HTTP: keeping, using elsewhere, files in and out."""

import json
import unittest
from pathlib import Path

import numpy as np
from jsonschema import Draft202012Validator
from referencing import Registry, Resource

from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.plan.kept_array import array_of, laid_on, laid_round, read_array
from tests.made import HERON, WREN, planned, trial_document
from tests.server.api_case import ApiCase

FORMATS = Path(__file__).parents[2] / "docs/formats"
CUT = {
    "format": "rezept-array",
    "version": 1,
    "name": "Coupons",
    "process": "cut",
    "hold": {"air_level": 1},
    "axes": [
        {"parameter": "speed_mm_s", "along": "x", "from": 5, "to": 20, "count": 4, "spacing": "geometric"},
        {"parameter": "power_pct", "along": "y", "values": [20, 80]},
    ],
    "patch": {"shape": "coupon", "width_mm": 12, "height_mm": 10},
    "order": "scattered",
}


class LaidRoundTest(unittest.TestCase):
    def laid(self, centre, machine=WREN, **changes):
        array = read_array({**CUT, **changes})
        return laid_round(array, read_machine(Fields(machine)), centre)

    def test_the_middle_of_the_range_is_the_starting_point(self):
        """5 to 20 mm/s has its middle at 10: round 30 it goes from 15 to 60. 20 and 80 % round 20 are 10 and 40."""
        axes, hold, notes = self.laid({"speed_mm_s": 30, "power_pct": 20, "air_level": 1})
        self.assertEqual((axes[0]["from"], axes[0]["to"], axes[0]["count"]), (15, 60, 4))
        self.assertEqual(axes[1]["values"], [10, 40])
        self.assertEqual((hold, notes), ({"air_level": 1}, []))

    def test_ends_go_no_farther_than_the_machine(self):
        axes, _, notes = self.laid({"speed_mm_s": 400, "power_pct": 60})
        self.assertEqual((axes[0]["from"], axes[0]["to"]), (200, 500))
        self.assertEqual(axes[1]["values"], [30, 85])
        self.assertEqual(len(notes), 2)
        self.assertIn("speed goes only as far as Wren does", notes[0])

    def test_steps_are_those_one_would_choose(self):
        """Six steps from 30 to 60 % have their middle at 42.4; round 50 % the ratio would ask for 35.4 to 70.7."""
        power = {"parameter": "power_pct", "along": "y", "from": 30, "to": 60, "count": 6, "spacing": "linear"}
        axes, _, _ = self.laid({"power_pct": 50}, axes=[power])
        steps = np.linspace(axes[0]["from"], axes[0]["to"], 6)
        np.testing.assert_array_equal(steps, steps.round())
        self.assertAlmostEqual(float(np.sqrt(steps[0] * steps[-1])), 50, delta=4)
        downward, _, _ = self.laid({"power_pct": 50}, axes=[{**power, "from": 60, "to": 30}])
        self.assertEqual((downward[0]["from"], downward[0]["to"]), (steps[-1], steps[0]))

    def test_without_a_starting_point_it_stays_as_it_was_kept(self):
        axes, _, notes = self.laid(None)
        self.assertEqual((axes[0]["from"], axes[0]["to"], axes[1]["values"]), (5, 20, [20, 80]))
        self.assertEqual(notes, [])

    def test_what_the_machine_does_not_have(self):
        _, hold, notes = self.laid(None, machine=HERON)
        self.assertEqual((hold, notes), ({}, ["air is left out: Heron has none to set"]))
        pulses = [{"parameter": "frequency_khz", "along": "x", "values": [20, 40]}]
        with self.assertRaisesRegex(ValueError, "varies frequency. Wren has no frequency"):
            self.laid(None, axes=pulses)

    def test_there_and_back(self):
        again = read_array(read_array(CUT).document())
        self.assertEqual(again, read_array(CUT))

    def test_what_is_lettered_comes_along_and_how_does_not(self):
        """Kept from a plate lettered at 120 mm/s, laid on one that letters at 300."""
        look = {"labels": {"on": True, "heading": False, "text": "lids", "marks": True, "height_mm": 1.5}}
        cuts = {"speed_mm_s": 12, "power_pct": 80}
        from_ = trial_document(
            labels={**look["labels"], "settings": {"speed_mm_s": 120, "power_pct": 15}},
            cut_out=True,
            hang_hole_mm=4,
            cut_settings=cuts,
        )
        array = array_of(planned(from_).trial, "kept")
        self.assertNotIn("settings", array.document()["labels"])
        self.assertEqual(read_array(array.document()), array)
        own = {"on": False, "settings": {"speed_mm_s": 300, "power_pct": 9}}
        onto = planned(trial_document(labels=own, cut_settings={"speed_mm_s": 6, "power_pct": 70})).trial
        document, notes = laid_on(onto, array)
        labels = planned(document).trial.labels
        self.assertEqual((labels.settings["speed_mm_s"], labels.settings["power_pct"]), (300, 9))
        self.assertEqual((labels.numbers, labels.heading, labels.marks, labels.text), (True, False, True, "lids"))
        self.assertEqual((document["cut_out"], document["hang_hole_mm"], notes), (True, 4, []))
        self.assertEqual(document["cut_settings"]["speed_mm_s"], 6)
        # Where nothing is known of how, it is left out and said.
        bare, said = laid_on(planned(trial_document()).trial, array)
        self.assertEqual((bare["labels"]["on"], bare["cut_out"], len(said)), (False, False, 2))

    def test_what_it_refuses(self):
        for changes, path in (
            ({"name": " "}, "name"),
            ({"axes": []}, "axes"),
            ({"hold": {"spped": 1}}, "hold.spped"),
            ({"machine": {}}, "machine"),
            ({"format": "rezept-trial"}, "format"),
            ({"patch": {"width_mm": 0}}, "patch.width_mm"),
            ({"labels": {"settings": {}}}, "labels.settings"),
            ({"labels": {"on": "yes"}}, "labels.on"),
            ({"hang_hole_mm": -1}, "hang_hole_mm"),
        ):
            with self.subTest(path), self.assertRaises(ValueError) as caught:
                read_array({**CUT, **changes})
            self.assertEqual(caught.exception.path, path)

    def test_the_schema_says_the_same(self):
        read = {name: json.loads((FORMATS / name).read_text()) for name in ("trial.schema.json", "array.schema.json")}
        registry = Registry().with_resources(
            [(f"rezept-{name}", Resource.from_contents(schema)) for name, schema in read.items()]
        )
        validator = Draft202012Validator(read["array.schema.json"], registry=registry)
        validator.validate(CUT)
        validator.validate(json.loads(json.dumps(read_array(CUT).document())))
        example = json.loads((FORMATS / "examples/cut-coupons.array.json").read_text())
        validator.validate(example)
        read_array(example)
        self.assertFalse(validator.is_valid({**CUT, "machine": {}}))
        self.assertFalse(validator.is_valid({**CUT, "axes": []}))


class KeptArraysTest(ApiCase):
    def trial(self):
        body = {"process": "cut", "material": self.poplar, "head": self.wren}
        return self.call("POST", "/api/trials", 201, json=body)["id"]

    def test_kept_and_used_on_another_trial(self):
        trial = self.trial()
        design = self.call("GET", f"/api/trials/{trial}")["design"]
        design["axes"][0] = {**design["axes"][0], "from": "600 mm/min", "to": "1200 mm/min", "count": 3}
        body = {"trial": trial, "name": "Three speeds", "design": design, "units": {}}
        first = self.call("POST", "/api/arrays", 201, json=body)["id"]
        self.assertEqual([one["id"] for one in self.call("GET", "/api/arrays")["arrays"]], [first])
        used = self.call("POST", f"/api/arrays/{first}/design", json={"trial": self.trial()})
        # It lies round the first guess for this work, not at the speeds it was kept from, and in the same ratio.
        axis = used["axes"][0]
        first = self.call("GET", f"/api/ask?process=cut&material={self.poplar}&head={self.wren}")["start"]["speed_mm_s"]
        self.assertAlmostEqual(axis["to"] / axis["from"], 2, delta=0.1)
        self.assertEqual(axis["count"], 3)
        self.assertAlmostEqual(axis["from"] * axis["to"] / (first[0] * first[1]), 1.0, delta=0.25)
        # Kept again under the same name, it takes the place of the first.
        second = self.call("POST", "/api/arrays", 201, json=body)["id"]
        self.assertEqual([one["id"] for one in self.call("GET", "/api/arrays")["arrays"]], [second])
        self.call("DELETE", f"/api/arrays/{second}", 204)
        self.assertEqual(self.call("GET", "/api/arrays")["arrays"], [])

    def test_out_as_a_file_and_in_again(self):
        made = self.call("POST", "/api/arrays/file", 201, json={"document": CUT})["id"]
        answer = self.client.get(f"/api/arrays/{made}/file")
        self.assertIn("attachment", answer.headers["Content-Disposition"])
        document = json.loads(answer.data)
        self.assertEqual(read_array(document), read_array(CUT))
        self.call("POST", "/api/arrays/file", 400, json={"document": {**document, "axes": []}})
        self.call("POST", "/api/arrays/file", 400, json={"document": "nonsense"})

    def test_an_array_of_another_process_is_not_used(self):
        made = self.call("POST", "/api/arrays/file", 201, json={"document": {**CUT, "process": "line"}})["id"]
        said = self.call("POST", f"/api/arrays/{made}/design", 400, json={"trial": self.trial()})
        self.assertIn("another process", said["detail"])
        self.call("POST", "/api/arrays/999/design", 404, json={"trial": 1})


if __name__ == "__main__":
    unittest.main()
