"""Decisions and starting points on the command line: files in, files out, and what cannot be."""

import contextlib
import json
import subprocess
import unittest
from pathlib import Path

import numpy as np
from click.testing import CliRunner

from rezept.cli import main
from rezept.core.findings.from_readings import read_readings
from rezept.formats.plate_file import write_plate_file
from tests.core.findings.test_decision import AXES, margin
from tests.formats.test_files import validator
from tests.made import WREN, area_document, planned, trial_document
from tests.test_cli import CliCase

SHEET = {"name": "Board", "family": "wood", "thickness_mm": 4, "density_kg_m3": 600, "hardness": 2}


def readings(plate, values, **more):
    """A readings file by hand: `values` of each patch beside what every patch has."""
    patches = [
        {
            "id": name,
            "face": plate.trial.process.deciding_face,
            "burned": True,
            **dict.fromkeys(("through", "char", "soot", "darkness", "evenness", "confidence")),
            "tags": [],
            "by": "person",
            "note": "",
            **said,
        }
        for name, said in zip(plate.elements.ids, values, strict=True)
    ]
    document = {"format": "rezept-readings", "version": 1, "plate": json.loads(write_plate_file(plate)), "faces": []}
    return {**document, "patches": patches, **more}


def cut_readings(seed=1, luck=0.0, **more):
    plate = planned(trial_document(axes=AXES))
    got = margin(plate.judged.settings) + luck + 0.04 * np.random.default_rng(seed).standard_normal(25)
    through = (got > -0.25).astype(int) + (got > -0.1) + (got > 0)
    return readings(plate, [{"through": int(value), "char": 1} for value in through], **more)


class DecideCase(CliCase):
    def run_rezept(self, *words, data=b""):
        """In this process: models load much of SciPy, and a process of its own would load it for every line."""
        with contextlib.chdir(self.folder):
            done = CliRunner().invoke(main, [str(word) for word in words], input=data)
        return subprocess.CompletedProcess(words, done.exit_code, done.stdout_bytes, done.stderr_bytes)

    def file(self, name, document):
        path = self.folder / name
        path.write_text(json.dumps(document))
        return name

    def decided(self, *words):
        done = self.run_rezept("decide", *words, "--json", "-")
        self.assertEqual(done.returncode, 0, done.stderr.decode())
        document = json.loads(done.stdout)
        validator("decision").validate(document)
        return document

    def refused(self, *words):
        done = self.run_rezept(*words)
        self.assertEqual((done.returncode, done.stdout), (2, b""))
        self.assertNotIn("Traceback", done.stderr.decode())
        return done.stderr.decode()


class DecideTest(DecideCase):
    def test_from_scores_to_a_plan(self):
        document = cut_readings(lot="a")
        validator("readings").validate(document)
        probe = self.file("probe.json", [{"speed_mm_s": 8, "power_pct": 80}, {"speed_mm_s": 32, "power_pct": 35}])
        found = self.decided(self.file("r.json", document), "--probe", probe, "--most", "12")
        self.assertEqual([one["aim"] for one in found["candidates"]], ["fastest", "gentlest", "forgiving", "cleanest"])
        sure, never = (one["p_drops_out"] for one in found["probes"])
        self.assertGreater(sure, 0.99)
        self.assertLess(never, 0.01)
        self.file("next.json", found["next"])
        done = self.run_rezept("plan", "next.json", "--json", "plate.json")
        self.assertEqual(done.returncode, 0, done.stderr.decode())
        self.assertLessEqual(len(json.loads((self.folder / "plate.json").read_text())["patches"]), 12)

    def test_another_lot_tells_how_sheets_differ(self):
        """The same two plates, once of one sheet and once of two: what is chosen of two sheets is surer."""
        one = self.file("1.json", cut_readings(1, 0.02, lot="a"))
        two = self.file("2.json", cut_readings(2, -0.02, lot="b"))
        apart = self.decided(one, two, "--aim", "fastest")
        together = self.decided(one, self.file("2.json", cut_readings(2, -0.02, lot="a")), "--aim", "fastest")
        self.assertEqual((apart["model"]["sheets"], together["model"]["sheets"]), (2, 1))
        settings = [{**run["candidates"][0]["settings"]} for run in (apart, together)]
        self.assertGreaterEqual(settings[0]["speed_mm_s"], settings[1]["speed_mm_s"])

    def test_received_settings_count_and_what_was_mixed_does_not(self):
        """A whole plate at half the speed that was planned: everything is half as fast."""
        document = cut_readings(lot="a")
        plain = self.decided(self.file("r.json", document), "--aim", "fastest")["candidates"][0]
        for patch, speed in zip(document["patches"], planned(trial_document(axes=AXES)).judged.settings["speed_mm_s"],
                                strict=True):  # fmt: skip
            patch["received"] = {"speed_mm_s": speed / 2}
        slower = self.decided(self.file("r.json", document), "--aim", "fastest")["candidates"][0]
        self.assertAlmostEqual(slower["settings"]["speed_mm_s"] * 2, plain["settings"]["speed_mm_s"], delta=0.5)
        absurd = cut_readings(lot="a")
        for patch, flag in zip(absurd["patches"][:2], ("mixed", "uncertain"), strict=True):
            patch |= {"through": 3 - patch["through"], flag: True}
        found = self.decided(self.file("r.json", absurd), "--aim", "fastest")
        self.assertEqual(found["look_again"], [])

    def test_bounds_of_settings_outcomes_and_my_piece(self):
        file = self.file("r.json", cut_readings(lot="a"))
        bounds = ("--at-most", "power_pct=60", "--piece-mm", "1000", "--bound", "char=1")
        found = self.decided(file, "--aim", "fastest", *bounds)
        chosen = found["candidates"][0]
        self.assertLessEqual(chosen["settings"]["power_pct"], 60)
        self.assertAlmostEqual(chosen["seconds"], 1000 / chosen["settings"]["speed_mm_s"], delta=0.02)
        none = self.decided(file, "--aim", "fastest", "--bound", "char=0")
        self.assertEqual(none["candidates"], [])

    def test_a_contradiction_is_named_by_file_and_patch(self):
        document = cut_readings(lot="a")
        next(patch for patch in document["patches"] if patch["id"] == "E1")["through"] = 0
        found = self.decided(self.file("odd.json", document))
        self.assertEqual([(one["file"], one["id"]) for one in found["look_again"]], [("odd.json", "E1")])

    def test_nothing_read_and_everything_through(self):
        """It answers and says what is missing, whatever came."""
        plate = planned(trial_document(axes=AXES))
        for values, said in (
            ({}, "score the plate first"),
            ({"through": 3}, "Every patch dropped out"),
            ({"through": 0}, "No patch dropped out"),
        ):
            found = self.decided(self.file("r.json", readings(plate, [values] * 25)))
            self.assertIn(said, " ".join(found["questions"]))

    def test_a_mark_by_scores_of_the_eye(self):
        axes = [{"parameter": "speed_mm_s", "along": "x", "values": [100, 150, 200, 300, 400]}, AXES[1]]
        plate = planned(area_document(axes=axes, hold={"line_spacing_mm": 0.1}))
        dose = np.log(plate.judged.dose)
        darkness = np.clip(np.round(2.5 + 1.5 * (dose - dose.mean())), 0, 5)
        file = self.file("r.json", readings(plate, [{"darkness": int(value)} for value in darkness]))
        [found] = self.decided(file, "--aim", "darkness=50")["candidates"]
        self.assertAlmostEqual(found["predicted"]["lightness"], 50, delta=4)

    def test_a_photo_counts_for_more_than_an_eye(self):
        """Two thirds of an engraving measured, the rest scored in steps of 13.6 L*: nearer than by the scores alone."""
        axes = [{"parameter": "speed_mm_s", "along": "x", "values": [100, 150, 200, 300, 400]}, AXES[1]]
        plate = planned(area_document(axes=axes, hold={"line_spacing_mm": 0.1}))
        dose = np.log(plate.judged.dose)
        true = 80 - 13.6 * np.clip(2.5 + 1.5 * (dose - dose.mean()), 0, 5)
        rows = [{"darkness": round((80 - one) / 13.6)} for one in true.tolist()]
        for i, one in enumerate(true.tolist()):
            rows[i] |= {} if i % 3 == 0 else {"lightness": one, "lightness_unsure": 0.5}
        read = read_readings(readings(plate, rows), 1).seen
        unsure = read.unsure["lightness"]
        self.assertEqual(set(unsure[1::3].tolist() + unsure[2::3].tolist()), {0.5})
        self.assertTrue((unsure[::3] > 3).all())
        [found] = self.decided(self.file("r.json", readings(plate, rows)), "--aim", "darkness=45")["candidates"]
        at = found["settings"]
        got = np.log(60 * at["power_pct"] / 100 / at["speed_mm_s"] / 0.1) - dose.mean()
        self.assertAlmostEqual(80 - 13.6 * (2.5 + 1.5 * got), 45, delta=2.5)

    def test_a_mark_by_depth_and_by_colour(self):
        axes = [{"parameter": "speed_mm_s", "along": "x", "values": [100, 150, 200, 300, 400]}, AXES[1]]
        plate = planned(area_document(axes=axes, hold={"line_spacing_mm": 0.1}))
        dose = plate.judged.dose
        share = (dose - dose.min()) / np.ptp(dose)
        values = [
            {"darkness": 3, "lightness": 75 - 30 * one, "a": 5.0, "b": 10 + 30 * one, "depth_mm": round(0.25 * got, 3)}
            for one, got in zip(share.tolist(), dose.tolist(), strict=True)
        ]
        file = self.file("r.json", readings(plate, values))
        found = self.decided(file, "--aim", "depth=0.5+-0.1", "--aim", "colour=#a57b4f")["candidates"]
        deep, brown = found
        self.assertEqual([deep["aim"], brown["aim"]], ["depth", "colour"])
        self.assertRegex(deep["why"], r"0\.(4|5)\d mm deep on a fresh sheet .* on \d+ of 100")
        self.assertIn("Comes nearest to that colour", brown["why"])
        # #a57b4f is L* 55, a* 12, b* 30: two thirds of the way.
        at = brown["settings"]
        got = 60 * at["power_pct"] / 100 / at["speed_mm_s"] / 0.1
        self.assertAlmostEqual((got - dose.min()) / np.ptp(dose), 0.67, delta=0.12)

    def test_what_cannot_be(self):
        file = self.file("r.json", cut_readings())
        other = cut_readings()
        other["plate"]["trial"]["material"]["thickness_mm"] = 9
        self.file("other.json", other)
        unknown = cut_readings()
        unknown["patches"][0]["id"] = "Z9"
        self.file("unknown.json", unknown)
        self.file("odd.json", {**cut_readings(), "colour": "red"})
        for words, said in (
            ((file, "--aim", "darkness=40"), "no aim"),
            ((file, "--aim", "darkness"), "Say how dark"),
            ((file, "--aim", "nicest"), "no aim 'nicest'"),
            ((file, "--aim", "fastest=3"), "no aim 'fastest=3'"),
            ((file, "--aim", "depth=0.4"), "no aim"),
            ((file, "--at-most", "power_pct"), "a name and a value"),
            ((file, "--at-most", "power_pct=hot"), "is no number"),
            ((file, "--bound", "darkness=1"), "not read of this process"),
            ((file, "--piece-mm", "-1"), "0.1 mm long or more"),
            ((file, "--most", "0"), "1 to 400 patches"),
            ((file, "other.json"), "another material"),
            (("unknown.json",), "no patch Z9"),
            (("odd.json",), "colour"),
            (("nowhere.json",), "cannot be read"),
        ):
            self.assertIn(said, self.refused("decide", *words, "--json", "-"))


class StartTest(DecideCase):
    def recipe(self, thickness, speed, standing="proven", **sheet):
        material = {**SHEET, "thickness_mm": thickness, **sheet}
        settings = {"speed_mm_s": speed, "power_pct": 60, "passes": 1}
        return {"machine": WREN, "material": material, "process": "cut", "steps": [{"settings": settings}],
                "standing": standing}  # fmt: skip

    def started(self, recipes, **sheet):
        known = {"format": "rezept-recipes", "version": 1, "recipes": recipes}
        validator("recipes").validate(known)
        files = [
            "--machine", self.file("m.json", WREN), "--material", self.file("s.json", {**SHEET, **sheet}),
            "--process", "cut", "--known", self.file("known.json", known),
        ]  # fmt: skip
        done = self.run_rezept("start", *files, "--json", "-")
        self.assertEqual(done.returncode, 0, done.stderr.decode())
        return json.loads(done.stdout)

    def test_three_thicknesses_tell_a_fourth(self):
        """A law of its own, dose as the thickness to the power of 1.4: 36 mm/s at 3 mm is 13.6 at 6."""
        recipes = [self.recipe(t, 36 * (3 / t) ** 1.4) for t in (2, 3, 4)]
        found = self.started(recipes, thickness_mm=6)
        speed = found["settings"]["speed_mm_s"] * 60 / found["settings"]["power_pct"]
        self.assertAlmostEqual(np.log(speed / 13.64), 0, delta=np.log(1.15))
        self.assertTrue(found["low"] < 13.64 * found["settings"]["power_pct"] / 60 < found["high"])
        self.assertEqual(found["sources"][0]["index"], 2)
        self.assertIn("same material", found["sources"][0]["reason"])

    def test_the_more_is_known_the_narrower(self):
        wide, near, known = (
            self.started(recipes)
            for recipes in ([], [self.recipe(3, 30, name="Other board")], [self.recipe(3, 30), self.recipe(5, 16)])
        )
        widths = [one["high"] / one["low"] for one in (wide, near, known)]
        self.assertEqual(widths, sorted(widths, reverse=True))
        self.assertEqual(wide["sources"], [])

    def test_what_is_only_heard_of_counts_less(self):
        proven = self.started([self.recipe(4, 10), self.recipe(4, 40, "heard")])
        heard = self.started([self.recipe(4, 10, "heard"), self.recipe(4, 40)])
        self.assertLess(proven["settings"]["speed_mm_s"] * 2, heard["settings"]["speed_mm_s"])

    def test_another_wavelength_says_nothing(self):
        recipe = self.recipe(4, 20)
        recipe["machine"] = {**WREN, "source": "diode", "wavelength_nm": 450, "name": "Blue"}
        self.assertEqual(self.started([recipe])["sources"], [])

    def test_what_cannot_be(self):
        self.file("m.json", WREN)
        self.file("s.json", SHEET)
        nothing = {**self.recipe(3, 3), "steps": []}
        self.file("bad.json", {"format": "rezept-recipes", "version": 1, "recipes": [nothing]})
        files = ("start", "--machine", "m.json", "--material", "s.json", "--process")
        self.assertIn("A process is one of", self.refused(*files, "weld"))
        self.assertIn("A recipe has a step", self.refused(*files, "cut", "--known", "bad.json"))
        self.assertIn("must be at most 5", self.refused("start", "--machine", "m.json", "--material",
                      self.file("hard.json", {**SHEET, "hardness": 9}), "--process", "cut"))  # fmt: skip
        self.assertTrue(Path(self.folder / "hard.json").exists())


if __name__ == "__main__":
    unittest.main()
