"""The demo's benches: what is burned on screen is burned there, and the photographs land in the trial; and the bench
as a command."""

import io
import json
import os
import signal
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from PIL import Image

from rezept.actions.commands import equipment, people, planning
from rezept.actions.open_shop import open_shop
from rezept.actions.queries import photos as photos_seen
from rezept.actions.queries import views
from rezept.actions.running import live
from rezept.actions.running.live_burns import LiveBurns
from rezept.actions.running.worker import HereAndNow
from rezept.bench.camera import Shot
from rezept.bench.room import Room
from rezept.demo.benches import Benches, lot_need
from rezept.demo.stock import HERON, MATERIALS
from rezept.formats.gcode import program_parts
from rezept.link.port import SerialPort
from rezept.link.stream import Part, Stream
from tests.demo_copy import copy_demo
from tests.made import planned, trial_document
from tests.until import until


class DemoBenchTest(unittest.TestCase):
    def demo(self):
        """A demo shop with its benches, the burns of its server, and its keeper."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        copy_demo(Path(folder.name) / "shop")
        shop = open_shop(Path(folder.name) / "shop")
        self.addCleanup(shop.close)
        burns = LiveBurns(shop)
        benches = Benches(shop, burns, HereAndNow(shop), speed_up=500)
        self.addCleanup(benches.close)
        self.addCleanup(burns.close)
        return shop, burns, people.first_keeper(shop)

    def test_a_material_one_adds_oneself_gets_its_own_sheet_and_photographs(self):
        """Beech of one's own, and board of a family no stock has, burned one after the other on one machine."""
        shop, burns, keeper = self.demo()
        sheet = {"name": "Beech", "family": "wood", "thickness_mm": 3.0, "ground_lab": [76.0, 8.0, 22.0]}
        beech = equipment.add_material(shop, keeper, sheet, ["area"])
        felt = {"name": "Grey board", "family": "paper", "thickness_mm": 1.0}
        board = equipment.add_material(shop, keeper, felt, ["area"])
        wren = views.trial_page(shop, 6)["head_id"]
        ends = []
        for material in (beech, board):
            trial = planning.new_trial(shop, keeper, "area", material, wren)
            page = views.trial_page(shop, trial)
            small = {**page["design"], "patch": {**page["design"]["patch"], "width_mm": 3.0, "height_mm": 3.0}}
            planning.change_draft(shop, keeper, trial, page["edit"], small, {})
            run = live.start(burns, keeper, trial, views.trial_page(shop, trial)["edit"], {}, True)
            until(lambda run=run: any("are in the trial" in line["sentence"] for line in run.log), 90)
            self.assertEqual(run.state, "done", run.reason)
            [photo] = views.trial_page(shop, trial)["photos"]
            ends.append(photo["sha256"])
        self.assertNotEqual(*ends)

    def test_a_burn_ends_with_photographs_of_both_faces(self):
        shop, burns, keeper = self.demo()
        page = views.trial_page(shop, 6)
        self.assertTrue(page["link"])
        run = live.start(burns, keeper, 6, page["edit"], {"lot": "autumn delivery", "measured_mm": 5.8}, True)
        until(lambda: any("are in the trial" in line["sentence"] for line in run.log), 90)
        self.assertEqual(run.state, "done")
        photos = {photo["face"]: photo for photo in views.trial_page(shop, 6)["photos"]}
        self.assertEqual(set(photos), {"front", "back"})
        _, data = photos_seen.handed_out(shop, keeper, photos["back"]["sha256"])
        with Image.open(io.BytesIO(data)) as image:
            self.assertEqual(image.width * image.height, 12_000_000)
            # Something fell out and shows what lies below: dark, but not all of it.
            dark = sum(image.convert("L").resize((200, 150)).histogram()[:45])
            self.assertGreater(dark, 200)

    def test_a_head_with_a_larger_field_burns_beyond_the_machines_own(self):
        """Heron's field is 110 mm, that of its lens 175 is 175 mm."""
        room = Room([{"name": "Heron", "facts": {**HERON, "wavelength_nm": 1064.0}, "spot_mm": 0.045, "m2": 1.4}], 500)
        self.addCleanup(lambda: [server.close() for server in room.servers.values()])
        sheet = {"substance": "anodised", "thickness_mm": 1.5, "ground": [0.1] * 3, "mark": [0.8] * 3, "lighter": True}
        lens = {"spot_mm": 0.07, "m2": 1.4, "field_mm": [175.0, 175.0]}
        room.lay({"machine": "Heron", "sheet": sheet, "piece_mm": [170, 40], "zero_mm": [85, 20], **lens})
        controller = room.controllers["Heron"]
        for line in (b"M4S0", b"G0X-80Y0S0", b"G1X80Y0F30000S500", b"M5S0"):
            controller.take(line + b"\n")
            controller.advance(controller.clock + 1e9, drain=True)
        self.assertFalse(controller.alarmed)
        with tempfile.TemporaryDirectory() as folder:
            bed = room.beds["Heron"].as_it_is()
            room.lay({"machine": "Heron", "sheet": sheet, "piece_mm": [170, 40], "zero_mm": [85, 20], **lens})
            self.assertEqual(len(controller.stretches), 0)
            self.assertEqual(sum(stretch.beam > 0 for stretch in bed.controller.stretches), 1)
            [photo] = bed.photographs(("front",), Shot(size=(400, 300)))
            (Path(folder) / "front.jpg").write_bytes(photo.jpeg)

    def test_lots_differ_by_three_to_twelve_per_cent(self):
        self.assertEqual(lot_need(None), 1.0)
        for stocked in MATERIALS:
            for name, _ in stocked.lots:
                self.assertEqual(lot_need(name), lot_need(name))
                self.assertGreaterEqual(abs(lot_need(name) - 1), 0.03)
                self.assertLessEqual(abs(lot_need(name) - 1), 0.12)


class CommandTest(unittest.TestCase):
    def test_it_listens_burns_and_writes_photographs_with_their_truth(self):
        with tempfile.TemporaryDirectory() as folder:
            words = ["bench", "--port", "0", "--speed-up", "500", "--photos", folder, "--truth", "--piece", "70", "60"]
            bench = subprocess.Popen(
                [sys.executable, "-m", "rezept.cli", *words],
                stdout=subprocess.PIPE,
                text=True,
                env={**os.environ, "PYTHONUNBUFFERED": "1"},
            )
            self.addCleanup(bench.stdout.close)
            self.addCleanup(bench.wait, 20)
            self.addCleanup(bench.send_signal, signal.SIGTERM)
            url = bench.stdout.readline().split("at ")[1].split()[0]
            parts = program_parts(planned(trial_document(patch={"width_mm": 5, "height_mm": 5, "gap_mm": 2})))
            port = SerialPort(url)
            self.assertEqual(Stream(port, [Part(part.name, part.lines) for part in parts]).run().state, "done")
            port.close()
            for face in ("front", "back"):
                file = Path(bench.stdout.readline().strip())
                self.assertEqual(file.name, f"001-{face}.jpg")
                truth = json.loads(file.with_suffix(".truth.json").read_text())
                self.assertEqual((truth["face"], len(truth["homography_mm_to_px"])), (face, 3))

    def test_nonsense_is_a_sentence(self):
        for words, sentence in ((["--fault", "boom@3"], "not a fault"), (["--substance", "gold"], "no substance")):
            done = subprocess.run(
                [sys.executable, "-m", "rezept.cli", "bench", *words], capture_output=True, text=True, timeout=30
            )
            self.assertEqual(done.returncode, 2)
            self.assertIn(sentence, done.stderr)


if __name__ == "__main__":
    unittest.main()
