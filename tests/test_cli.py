"""The command line, run as a person runs it."""

import json
import os
import sqlite3
import subprocess
import sys
import tempfile
import unittest
from contextlib import closing
from pathlib import Path

from tests.demo_copy import copy_demo
from tests.formats.gcode_reader import read_gcode
from tests.made import BLANK, WREN, token_document, trial_document
from tests.random_figures import svg
from tests.server.real_server import Server
from tests.until import until


class CliCase(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def run_rezept(self, *words, data=b""):
        return subprocess.run(
            [sys.executable, "-m", "rezept.cli", *map(str, words)],
            input=data,
            capture_output=True,
            cwd=self.folder,
            check=False,
        )

    def listing(self):
        return sorted(path.name for path in self.folder.iterdir())


class FigureTest(CliCase):
    BODY = '<rect width="40" height="20"/><circle cx="10" cy="10" r="5"/><path fill="none" stroke="red" d="M20 5v3h3"/>'
    SVG = svg(f"{BODY}<text>A</text>", 40, 20)

    def test_what_is_understood_of_a_drawing(self):
        (self.folder / "sign.svg").write_text(self.SVG)
        done = self.run_rezept("figure", "sign.svg", "--json", "-")
        self.assertEqual((done.returncode, done.stderr), (0, b""))
        said = json.loads(done.stdout)
        self.assertEqual((said["width_mm"], said["height_mm"]), (40, 20))
        self.assertEqual([loop["hole"] for loop in said["loops"]], [True, False])
        self.assertEqual(said["loops"][1], {"hole": False, "area_mm2": 800, "length_mm": 120})
        self.assertEqual(said["open"], [{"length_mm": 6, "ends": [[20, 15], [23, 12]], "gap_mm": round(18**0.5, 6)}])
        self.assertEqual([one["what"] for one in said["left_out"]], ["lettering"])
        words = self.run_rezept("figure", "-", data=self.SVG.encode()).stdout.decode()
        self.assertIn("40 x 20 mm\n2 closed outlines, 1 of them a hole\ndoes not close: 6 mm", words)

    def test_what_is_none_is_one_sentence_and_exit_2(self):
        for data in (b"", b"<svg", b"\x00\x01", b"<!DOCTYPE s [<!ENTITY a 'b'>]><svg>&a;</svg>"):
            done = self.run_rezept("figure", "-", data=data)
            self.assertEqual((done.returncode, done.stdout, done.stderr.count(b"\n")), (2, b"", 1))
        self.assertIn(b"cannot be read", self.run_rezept("figure", "nowhere.svg").stderr)

    def test_a_trial_carries_its_figure(self):
        patch = {"shape": "figure", "figure": {"svg": self.SVG}, "width_mm": 10}
        done = self.run_rezept("plan", "-", "--json", "-", data=json.dumps(trial_document(patch=patch)).encode())
        plate = json.loads(done.stdout)
        self.assertEqual(plate["trial"]["patch"]["height_mm"], 5)
        self.assertEqual(len(plate["figures"][0]["ways"]), 3)


class PlanTest(CliCase):
    def trial(self, document=None):
        path = self.folder / "trial.json"
        path.write_text(json.dumps(document or trial_document()))
        return path

    def test_drawings_in_parts_and_sheets_to_print(self):
        from tests.made import WREN

        few = trial_document(machine={**WREN, "distinct_settings": 5, "trace_power_pct": 1})
        args = ["--svg", "p.svg", "--dxf", "p.dxf", "--pdf", "p.pdf", "--trace", "t.gcode"]
        self.assertEqual(self.run_rezept("plan", self.trial(few), *args).returncode, 0)
        parts = [f"p.{n}of3.{kind}" for n in (1, 2, 3) for kind in ("dxf", "svg")]
        self.assertEqual(self.listing(), sorted([*parts, "p.pdf", "t.gcode", "trial.json"]))
        self.assertIn("3 parts", self.run_rezept("plan", self.trial(few), "--svg", "-").stderr.decode())

    def test_files_from_a_plate_alone(self):
        """The same bytes as when it was planned; of an older plate file only the patches, exactly where they were."""
        labels = {"on": True, "height_mm": 2.0, "settings": {"speed_mm_s": 100, "power_pct": 20}}
        trial = self.trial(trial_document(labels=labels))
        done = self.run_rezept("plan", trial, "--json", "plate.json", "--gcode", "a.gcode", "--svg", "a.svg")
        self.assertIn("judged by: machine Wren as the plan says", done.stderr.decode())
        self.assertEqual(self.run_rezept("files", "plate.json", "--gcode", "b.gcode", "--svg", "b.svg").returncode, 0)
        for kind in ("gcode", "svg"):
            written = [(self.folder / f"{name}.{kind}").read_bytes() for name in "ab"]
            self.assertEqual(*written)
        plate = json.loads((self.folder / "plate.json").read_text())
        older = {key: value for key, value in plate.items() if key not in ("planned_by", "figures", "drawn")}
        older["patches"] = [
            {key: value for key, value in patch.items() if key not in ("figure", "steps")} for patch in plate["patches"]
        ]
        (self.folder / "older.json").write_text(json.dumps(older))
        refused = self.run_rezept("files", "older.json", "--gcode", "c.gcode")
        self.assertEqual((refused.returncode, "--without-lettering" in refused.stderr.decode()), (2, True))
        self.assertNotIn("c.gcode", self.listing())
        self.run_rezept("files", "older.json", "--gcode", "c.gcode", "--without-lettering")
        whole, bare = (read_gcode((self.folder / f"{name}.gcode").read_bytes()) for name in "ac")
        self.assertEqual(
            [(move.start, move.end) for move in bare.burning()],
            [(move.start, move.end) for move in whole.burning("patch")],
        )

    def test_by_the_facts_of_another_day(self):
        self.run_rezept("plan", self.trial(), "--json", "plate.json")
        weaker = {**trial_document()["machine"], "max_power_pct": 50}
        (self.folder / "wren.json").write_text(json.dumps(weaker))
        refused = self.run_rezept("files", "plate.json", "--machine", "wren.json", "--svg", "p.svg")
        self.assertEqual(refused.returncode, 2)
        self.assertIn("55 % is more than Wren should give (50 %)", refused.stderr.decode())
        vinyl = {"name": "Poplar plywood", "family": "plastic", "hazards": ["chlorine"]}
        (self.folder / "vinyl.json").write_text(json.dumps(vinyl))
        refused = self.run_rezept("plan", self.trial(), "--material", "vinyl.json", "--gcode", "p.gcode")
        self.assertIn("chlorine", refused.stderr.decode())
        self.assertEqual(self.listing(), ["plate.json", "trial.json", "vinyl.json", "wren.json"])
        done = self.run_rezept("files", "plate.json", "--gcode", "p.gcode")
        self.assertIn("judged by: machine Wren as the plan says and material", done.stderr.decode())

    def test_a_kept_array_travels_to_another_machine(self):
        """Kept from a trial round 16 mm/s and 55 %, laid on one whose own middle is 40 mm/s and 30 %."""
        self.assertEqual(self.run_rezept("plan", self.trial(), "--array", "kept.json").returncode, 0)
        kept = json.loads((self.folder / "kept.json").read_text())
        self.assertEqual((kept["format"], "machine" in kept, "material" in kept), ("rezept-array", False, False))
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "values": [20, 80]},
            {"parameter": "power_pct", "along": "y", "values": [20, 45]},
        ]
        other = self.trial(trial_document(machine={**WREN, "name": "Other"}, axes=axes))
        done = self.run_rezept("plan", other, "--lay", "kept.json", "--json", "-")
        self.assertEqual(done.returncode, 0, done.stderr)
        trial = json.loads(done.stdout)["trial"]
        self.assertEqual(trial["machine"]["name"], "Other")
        for axis, was, middle in zip(trial["axes"], kept["axes"], (40, 30), strict=True):
            self.assertEqual(axis["count"], was["count"])
            # Its steps are chosen: 15, 30 and 45 % round 30.
            self.assertAlmostEqual((axis["from"] * axis["to"]) ** 0.5 / middle, 1, delta=0.15)
            self.assertAlmostEqual(axis["to"] / axis["from"] / (was["to"] / was["from"]), 1, delta=0.15)
        marks = self.trial(trial_document(process="line"))
        refused = self.run_rezept("plan", marks, "--lay", "kept.json")
        self.assertEqual((refused.returncode, b"another process" in refused.stderr), (2, True))

    def test_finer_steps_between_two_patches(self):
        coarse = json.loads(self.run_rezept("plan", self.trial(), "--json", "-").stdout)
        settings = {patch["id"]: patch["settings"] for patch in coarse["patches"]}
        finer = json.loads(self.run_rezept("plan", self.trial(), "--between", "A3", "A2", "--json", "-").stdout)
        speeds = [patch["settings"]["speed_mm_s"] for patch in finer["patches"]]
        self.assertEqual((len(speeds), speeds[0], speeds[-1]), (7, *(settings[p]["speed_mm_s"] for p in ("A3", "A2"))))
        self.assertEqual({patch["settings"]["power_pct"] for patch in finer["patches"]}, {settings["A3"]["power_pct"]})
        self.assertIn(b"no patch Z9", self.run_rezept("plan", self.trial(), "--between", "A1", "Z9").stderr)

    def test_all_four_files(self):
        done = self.run_rezept(
            "plan", self.trial(), "--svg", "p.svg", "--gcode", "p.gcode", "--csv", "p.csv", "--json", "p.json"
        )
        self.assertEqual((done.returncode, done.stderr), (0, b"".join(done.stderr.splitlines(keepends=True))))
        self.assertEqual(self.listing(), ["p.csv", "p.gcode", "p.json", "p.svg", "trial.json"])
        plate = json.loads((self.folder / "p.json").read_text())
        program = read_gcode((self.folder / "p.gcode").read_bytes())
        self.assertEqual(plate["format"], "rezept-plate")
        self.assertAlmostEqual(program.burned_length(), 40.0 * len(plate["order"]), places=1)
        self.assertIn(b"12 patches", done.stdout)

    def test_standard_input_and_output(self):
        done = self.run_rezept("plan", "-", "--json", "-", data=json.dumps(trial_document()).encode())
        self.assertEqual(done.returncode, 0)
        self.assertEqual(len(json.loads(done.stdout)["patches"]), 12)

    def test_warnings_are_told_on_stderr(self):
        done = self.run_rezept("plan", self.trial(trial_document(starting_dose_j_mm=0.5)))
        self.assertEqual(done.returncode, 0)
        self.assertIn(b"warning: A1: Poplar plywood 4 mm may catch fire", done.stderr)

    def test_nonsense_is_one_sentence_and_exit_2(self):
        axis = {"parameter": "speed_mm_s", "along": "x", "from": 8, "to": 32, "count": 4}
        power = {"parameter": "power_pct", "along": "y", "values": [40]}
        for text, words in [
            ("{", "not JSON"),
            ("[]", "must be an object"),
            (json.dumps(trial_document()).replace("8", "NaN", 1), "NaN"),
            (json.dumps(trial_document(extra=1)), "extra"),
            (json.dumps(trial_document(axes=[axis, axis])), "two axes"),
            (json.dumps(trial_document(axes=[{**axis, "from": -1}, power])), "more than 0"),
            (json.dumps(trial_document(axes=[{**axis, "count": 0}, power])), "at least 1"),
            (json.dumps(trial_document(axes=[{**axis, "count": 5001}, power])), "5000"),
            (json.dumps(trial_document(axes=[{**axis, "to": 8}, power])), "nothing would vary"),
            (json.dumps(trial_document(axes=[{**axis, "parameter": "frequency_khz"}, power])), "no frequency"),
            (json.dumps(trial_document(axes=[{**axis, "parameter": "glow"}, power])), "glow"),
        ]:
            with self.subTest(words):
                done = self.run_rezept("plan", "-", "--svg", "p.svg", "--json", "p.json", data=text.encode())
                self.assertEqual(done.returncode, 2)
                self.assertIn(words, done.stderr.decode())
                self.assertEqual(len(done.stderr.decode().strip().splitlines()), 1)
                self.assertEqual(done.stdout, b"")
                self.assertEqual(self.listing(), [])

    def test_both_or_none(self):
        document = token_document()
        done = self.run_rezept("plan", self.trial(document), "--svg", "p.svg", "--gcode", "p.gcode")
        self.assertEqual(done.returncode, 2)
        self.assertIn(b"frequency", done.stderr)
        self.assertEqual(self.listing(), ["trial.json"])
        done = self.run_rezept("plan", self.trial(), "--svg", "p.svg", "--gcode", "nowhere/p.gcode")
        self.assertEqual(done.returncode, 2)
        self.assertEqual(self.listing(), ["trial.json"])

    def test_a_refusal_keeps_burnable_files_back_but_not_the_plate(self):
        fast = trial_document(axes=[{"parameter": "speed_mm_s", "along": "x", "values": [900]}], hold={"power_pct": 40})
        self.assertEqual(self.run_rezept("plan", self.trial(fast), "--svg", "p.svg").returncode, 2)
        done = self.run_rezept("plan", self.trial(fast), "--json", "-")
        self.assertEqual(done.returncode, 0)
        self.assertEqual(json.loads(done.stdout)["patches"][0]["warnings"][0]["level"], "refusal")

    def test_files_it_cannot_use(self):
        for words, expected in [
            (["plan", "missing.json"], "cannot be read"),
            (["plan", self.trial(), "--svg", "-", "--csv", "-"], "standard output"),
            (["plan", self.trial(), "--svg", "same", "--csv", "./same"], "same name"),
            (["plan", self.trial(), "--svg", self.folder], "folder"),
        ]:
            with self.subTest(expected):
                done = self.run_rezept(*words)
                self.assertEqual(done.returncode, 2)
                self.assertIn(expected, done.stderr.decode())
                self.assertEqual(self.listing(), ["trial.json"] if "missing.json" not in words else self.listing())


class ShopTest(CliCase):
    def test_help_reads_well(self):
        done = self.run_rezept("--help")
        text = done.stdout.decode()
        for word in ("plan", "demo", "serve", "found", "add"):
            self.assertIn(f"  {word} ", text)
        self.assertLessEqual(max(map(len, text.splitlines())), 110)

    def test_a_real_shop_from_nothing(self):
        machine = {**WREN, "head": {"name": "lens"}}
        shop = ("found", "shop", "--name", "Our shop", "--keeper", "Kay", "--tag", "0RSH")
        self.assertEqual(self.run_rezept(*shop, "--passphrase", "1234").returncode, 2)
        self.assertEqual(self.run_rezept(*shop, "--passphrase", "oak barrel").returncode, 0)
        for words, document in [
            (["add", "machine", "-", "--data", "shop"], machine),
            (["add", "material", "-", "--data", "shop", "--process", "surface"], BLANK),
        ]:
            done = self.run_rezept(*words, data=json.dumps(document).encode())
            self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual(self.run_rezept("add", "member", "Moss", "--data", "shop").returncode, 0)
        words = ("passphrase", "Moss", "--data", "shop", "--passphrase", "birch")
        self.assertEqual(self.run_rezept(*words).returncode, 2)
        self.assertEqual(self.run_rezept(*words[:-1], "birch bark").returncode, 0)
        again = self.run_rezept("add", "machine", "-", "--data", "shop", data=json.dumps(machine).encode())
        self.assertEqual((again.returncode, b"already" in again.stderr), (2, True))

    def test_an_unfounded_shop_says_so(self):
        done = self.run_rezept("add", "member", "Moss", "--data", "empty")
        self.assertEqual(done.returncode, 2)
        self.assertIn(b"not been founded", done.stderr)

    def test_the_network_needs_a_founded_shop_with_sign_in(self):
        copy_demo(self.folder / "demo")
        for folder, words in (("empty", b"Found the shop first"), ("demo", b"no sign-in")):
            done = self.run_rezept("serve", "--data", folder, "--host", "0.0.0.0", "--port", "0")
            self.assertEqual((done.returncode, words in done.stderr), (2, True), done.stderr)

    def test_backup_restore_and_check(self):
        copy_demo(self.folder / "demo")
        done = self.run_rezept("backup", "demo.zip", "--data", "demo")
        self.assertEqual((done.returncode, b"holds the whole shop" in done.stdout), (0, True), done.stderr)
        self.assertEqual(self.run_rezept("restore", "demo.zip", "again").returncode, 0)
        self.assertIn(b"All is well", self.run_rezept("check", "--data", "again").stdout)
        self.assertEqual(self.run_rezept("restore", "demo.zip", "again").returncode, 2)
        photo = next((self.folder / "again" / "photos").glob("*/*"))
        photo.unlink()
        done = self.run_rezept("check", "--data", "again")
        self.assertEqual((done.returncode, photo.name.encode() in done.stdout), (1, True))
        (self.folder / "text.zip").write_text("no archive")
        for words in (("restore", "text.zip", "new"), ("backup", "x.zip", "--data", "nothing")):
            done = self.run_rezept(*words)
            self.assertEqual(done.returncode, 2)
            self.assertNotIn(b"Traceback", done.stderr)
        self.assertFalse((self.folder / "new").exists())

    def test_a_backup_that_lacks_something_says_so(self):
        copy_demo(self.folder / "demo")
        next((self.folder / "demo" / "photos").glob("*/*")).unlink()
        done = self.run_rezept("backup", "demo.zip", "--data", "demo")
        self.assertEqual(
            (done.returncode, b"is not whole. One photo is missing" in done.stderr), (1, True), done.stderr
        )
        done = self.run_rezept("restore", "demo.zip", "again")
        self.assertEqual((done.returncode, b"A photo is missing" in done.stderr), (1, True), done.stderr)

    def test_paths_no_system_has(self):
        long = "x" * 5000
        for words in (
            ("serve", "--data", long, "--port", "0"),
            ("backup", long, "--data", "nothing"),
            ("check", "--data", long),
            ("restore", long, "again"),
            ("restore", "text.zip", long),
            ("plan", long),
            ("found", long, "--name", "Ours", "--keeper", "Kay", "--passphrase", "oak barrel"),
        ):
            done = self.run_rezept(*words)
            with self.subTest(words[0]):
                self.assertIn(done.returncode, (1, 2), done.stderr)
                self.assertNotIn(b"Traceback", done.stderr)
                self.assertLess(len(done.stderr + done.stdout), 1000)

    def test_ended_by_the_system_it_ends_cleanly(self):
        copy_demo(self.folder / "demo")
        server = Server(self.folder / "demo")
        photo = next((self.folder / "demo" / "photos").glob("*/*"))
        server.ask("GET", "/api/trials")
        server.process.terminate()
        self.assertEqual(server.process.wait(20), 0)
        server.process.stdout.close()
        self.assertFalse((self.folder / "demo" / "rezept.sqlite3-wal").exists(), "the records were closed")
        # A backup that is ended half-way leaves nothing.
        for number in range(300):
            copy = photo.with_name(f"{number:064x}")
            copy.write_bytes(os.urandom(1_000_000))
        with closing(sqlite3.connect(self.folder / "demo" / "rezept.sqlite3")) as db, db:
            for number in range(300):
                db.execute(
                    "INSERT INTO photo SELECT ?, media_type, bytes, width, height, by_member, at FROM photo LIMIT 1",
                    (f"{number:064x}",),
                )
        folder = self.folder / "demo" / "photos" / "00"
        folder.mkdir(exist_ok=True)
        for number in range(300):
            photo.with_name(f"{number:064x}").rename(folder / f"{number:064x}")
        command = [sys.executable, "-m", "rezept.cli", "backup", str(self.folder / "big.zip"), "--data", "demo"]
        going = subprocess.Popen(command, cwd=self.folder, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
        until(lambda: list(self.folder.glob(".rezept-*.zip")) or going.poll() is not None)
        self.assertIsNone(going.poll())
        going.terminate()
        _, said = going.communicate(timeout=20)
        self.assertEqual((going.returncode, said), (143, b""))
        self.assertEqual(
            [path.name for path in self.folder.iterdir() if "rezept" in path.name or "big" in path.name], []
        )

    def test_a_damaged_shop_is_not_served(self):
        (self.folder / "bad").mkdir()
        (self.folder / "bad" / "rezept.sqlite3").write_bytes(b"this is no database" * 300)
        done = self.run_rezept("serve", "--data", "bad", "--port", "0")
        self.assertEqual((done.returncode, b"restore the latest backup" in done.stderr), (2, True), done.stderr)

    def test_demo_does_not_touch_other_folders(self):
        (self.folder / "mine").mkdir()
        (self.folder / "mine" / "thesis.txt").write_text("important")
        for words in (["--fresh"], []):
            done = self.run_rezept("demo", "--data", "mine", "--build-only", *words)
            self.assertEqual(done.returncode, 2)
            self.assertEqual((self.folder / "mine" / "thesis.txt").read_text(), "important")

    def test_a_port_that_is_taken(self):
        import socket

        with socket.socket() as taken:
            taken.bind(("127.0.0.1", 0))
            taken.listen()
            done = self.run_rezept("serve", "--data", "shop", "--port", taken.getsockname()[1])
        self.assertEqual(done.returncode, 2)
        self.assertIn(b"Choose another with --port", done.stderr)


if __name__ == "__main__":
    unittest.main()
