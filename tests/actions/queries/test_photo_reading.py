"""Plates read from the bench's photographs, held against what the bench knows."""

import functools
import io
import json
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import jsonschema
import numpy as np
from PIL import Image

from rezept.actions.queries.photo_reading import read_face, read_plate
from rezept.core.colour_difference import ciede2000
from rezept.core.errors import InvalidInput
from rezept.core.plan import read_plate as read_plate_file
from rezept.core.plan.elements import box_corners
from rezept.formats.plate_file import write_plate_file
from tests.made import planned, trial_document
from tests.photographed import (
    BRUSHED,
    GROUND_LAB,
    MARKED,
    WORST,
    burned_plate,
    cropped,
    drawn,
    filling,
    marked_plate,
    mirrored,
    printed_card,
    ranked,
    shaded_plate,
    taken,
    true_lab,
    true_pixels,
    true_through,
)

SCHEMA = json.loads((Path(__file__).parents[3] / "docs/formats/readings.schema.json").read_text())


@functools.cache
def burned_once():
    """One plate for all of these tests, burned once."""
    plate = marked_plate()
    return plate, burned_plate(plate)


@functools.cache
def photo_of(side, seed, *how):
    """A photograph of it; several tests read the same ones. `how` are pairs."""
    return taken(burned_once()[1], side, seed, **dict(how))


class ReadingCase(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.plate, cls.burned = burned_once()
        cls.places = np.stack(
            np.meshgrid(np.linspace(3, cls.plate.width_mm - 3, 6), np.linspace(3, cls.plate.height_mm - 3, 6)), -1
        ).reshape(-1, 2)

    def off_mm(self, face, photo, shot):
        """How far places all over the plate are from where the reading has them."""
        seen = true_pixels(photo, shot, self.burned, self.places)
        return np.linalg.norm(face.laid.pose.to_mm(seen) - self.places, axis=1)


class FoundTest(ReadingCase):
    def test_both_faces_lie_where_the_camera_knows_they_do(self):
        for seed, how in ((31, {}), (33, WORST), (34, {"turn_deg": 90.0, "bow": 0.03})):
            for side in ("front", "back"):
                with self.subTest(f"{side} {seed} {how}"):
                    photo, shot = photo_of(side, seed, *how.items())
                    face = read_face(self.plate, photo.jpeg, side)
                    off = self.off_mm(face, photo, shot)
                    self.assertLess(np.median(off), 0.12)
                    self.assertLess(off.max(), 0.5)
                    self.assertEqual(face.laid.found_by, "marks" if side == "front" else "outline")
                    self.assertEqual(face.laid.doubts, ())
                    self.assertLess(face.laid.residual_mm, 0.15)

    def test_upside_down_is_seen_by_the_patches(self):
        """A back turned by half a turn has the same outline; only its pattern tells."""
        photo, shot = taken(self.burned, "back", 41, turn_deg=180.0)
        self.assertLess(np.median(self.off_mm(read_face(self.plate, photo.jpeg, "back"), photo, shot)), 0.12)

    def test_brushed_metal_on_a_table_it_hardly_differs_from(self):
        """A dark sheet shows no outline, and far marks are found by way of near ones; on the bright one only patches
        whose shades do not follow the dose tell which way up it lies."""
        for wood, found_by in zip(BRUSHED, ("marks", "outline"), strict=True):
            plate = shaded_plate(wood)
            burned = burned_plate(plate, seed=618, wood=wood)
            true = true_lab(plate, burned)
            photo, _ = taken(burned, "front", 618, filling=0.55, size=(2400, 1800), s_curve=0.0)
            with self.subTest(wood.substance):
                document, _ = read_plate(plate, {"front": photo.jpeg})
                off = [patch["lightness"] for patch in document["patches"]] - true[:, 0]
                self.assertEqual(document["faces"][0]["found_by"], found_by)
                self.assertLess(float(np.abs(off).max()), 4.0)
                self.assertFalse(any("shadow" in patch["flags"] for patch in document["patches"]))

    def test_the_hole_to_hang_it_by_tells_which_way_up_a_bare_back_lies(self):
        """Cuts that are far too weak leave nothing on the back."""
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "from": 60, "to": 120, "count": 5, "spacing": "linear"},
            {"parameter": "power_pct", "along": "y", "from": 15, "to": 22, "count": 5, "spacing": "linear"},
        ]
        out = {"cut_out": True, "cut_settings": {"speed_mm_s": 6, "power_pct": 90}}
        for hole_mm in (5, 0):
            plate = marked_plate(axes=axes, hang_hole_mm=hole_mm, **out)
            burned = burned_plate(plate, seed=5)
            for turn in (0.0, 180.0):
                with self.subTest(f"{hole_mm} {turn}"):
                    photo, shot = taken(burned, "back", 51, turn_deg=turn)
                    laid = read_face(plate, photo.jpeg, "back").laid
                    corner = np.array([(5.0, 5.0)])
                    off = np.linalg.norm(laid.pose.to_mm(true_pixels(photo, shot, burned, corner)) - corner)
                    guessed = "which way up the plate lies is a guess" in " ".join(laid.doubts)
                    self.assertEqual(guessed, hole_mm == 0)
                    # Without a patch to be seen it lies as well as its outline is seen, and says so.
                    self.assertIn("Hardly a patch has edges", laid.doubts[-1])
                    if hole_mm:
                        self.assertLess(off, 1.0)

    def test_what_the_picture_does_not_show_is_not_read(self):
        """One corner is cut off, with its mark; the code and three marks are there."""
        photo, shot = photo_of("front", 31, ("turn_deg", 25.0), ("filling", 0.7))
        corners = box_corners(self.plate.elements.boxes).reshape(-1, 2)
        lowest = true_pixels(photo, shot, self.burned, corners)[:, 1].reshape(-1, 4).max(axis=1)
        height = round(float(np.sort(lowest)[-2:].mean()))
        face = read_face(self.plate, cropped(photo.jpeg, (0, 0, shot.size[0], height)), "front")
        gone = np.array(["outside" in flags for flags in face.figures.flags])
        np.testing.assert_array_equal(gone, lowest > height)
        np.testing.assert_array_equal(np.isnan(face.figures.lightness), gone)
        self.assertEqual(int(gone.sum()), 1)

    def test_a_code_alone_is_carried_on_by_the_patches(self):
        """No marks in the corners; once with the sheet's outline, once so near that it is out of the picture."""
        plate = marked_plate(labels={**MARKED, "marks": False})
        burned = burned_plate(plate)
        photo, shot = taken(burned, "front", 57)
        near, rim, seen = filling(plate, burned, photo, shot, 1.0)
        for jpeg, pixels in ((photo.jpeg, true_pixels(photo, shot, burned, rim)), (near, seen)):
            laid = read_face(plate, jpeg, "front").laid
            off = np.linalg.norm(laid.pose.to_mm(pixels) - rim, axis=1)
            self.assertLess(float(off.max()), 0.3)
            self.assertEqual(laid.doubts, ())

    def test_a_mirror_and_the_wrong_face_are_noticed(self):
        front, back = (photo_of(side, 31)[0].jpeg for side in ("front", "back"))
        with self.assertRaisesRegex(InvalidInput, "mirrored"):
            read_face(self.plate, mirrored(front), "front")
        for jpeg, face in ((back, "front"), (mirrored(back), "back")):
            self.assertIn("It looks like the other face", read_face(self.plate, jpeg, face).laid.doubts[0])

    def test_a_dark_sheet_on_a_dark_table(self):
        """Its outline shows by its hue, and what fell out is hardly darker than what is left."""
        plate = marked_plate(code=None, labels={"on": False})
        states = ranked(plate, (0.4, 0.7)) * 3 // 2
        document, lost = read_plate(plate, drawn(plate, states, (0.2, 0.22, 0.3), 7))
        self.assertEqual(lost, [])
        fallen = {patch["id"] for patch in document["patches"] if patch["through"] == 3}
        self.assertEqual(fallen, {name for name, state in zip(plate.elements.ids, states, strict=True) if state == 3})

    def test_what_is_no_picture_of_this_plate_is_said(self):
        photo, _ = photo_of("front", 31)
        other = planned(trial_document(code="7K3Q-T099.1", labels={"qr": True, "marks": True, "settings": {
            "speed_mm_s": 80, "power_pct": 30}}))  # fmt: skip
        with self.assertRaisesRegex(InvalidInput, "shows 7K3Q-T014.2, and the plate is 7K3Q-T099.1"):
            read_face(other, photo.jpeg, "front")
        image = Image.open(io.BytesIO(photo.jpeg))
        two = Image.new("RGB", (image.width * 2, image.height))
        two.paste(image, (0, 0))
        two.paste(image, (image.width, 0))
        half = image.crop((0, 0, image.width // 2 + 60, image.height))
        table = Image.new("RGB", image.size, (76, 71, 69))
        for wrong, sentence in ((two, "two plates|whole"), (half, "whole|marks|shape"), (table, "No whole sheet")):
            data = io.BytesIO()
            wrong.save(data, "JPEG", quality=90)
            with self.subTest(sentence), self.assertRaisesRegex(InvalidInput, sentence):
                read_face(self.plate, data.getvalue(), "front")


class ScoredTest(ReadingCase):
    def test_cuts_are_decided_by_the_back_and_most_are_right(self):
        truth = true_through(self.plate, self.burned)
        right = sure_and_wrong = 0
        taken_as = ((31, {}), (33, WORST))
        for seed, how in taken_as:
            photos = {side: photo_of(side, seed, *how.items())[0].jpeg for side in ("front", "back")}
            document, missed = read_plate(self.plate, photos)
            self.assertEqual(missed, [])
            jsonschema.validate(document, SCHEMA)
            for patch in document["patches"]:
                good = patch["through"] == truth[patch["id"]]
                right += good
                sure_and_wrong += not good and patch["confidence"] >= 0.9
        self.assertGreaterEqual(right / (len(taken_as) * len(truth)), 0.95)
        self.assertEqual(sure_and_wrong, 0)

    def test_without_the_back_nothing_is_said_of_a_cut(self):
        document, _ = read_plate(self.plate, {"front": photo_of("front", 31)[0].jpeg})
        self.assertEqual({patch["through"] for patch in document["patches"]}, {None})
        self.assertIn("back_not_seen", document["patches"][0]["flags"])

    def test_a_part_that_cannot_be_read_is_named_and_the_rest_is_read(self):
        back = photo_of("back", 31)[0].jpeg
        document, missed = read_plate(self.plate, {"front": b"nothing", "back": back})
        self.assertEqual([face["face"] for face in document["faces"]], ["back"])
        self.assertIn("no photo I can read", missed[0])


class ShadeTest(unittest.TestCase):
    """Engravings from bare to dark, against the sheet's own colour."""

    @classmethod
    def setUpClass(cls):
        cls.plate = marked_plate(
            process="area",
            axes=[{"parameter": "power_pct", "along": "x", "values": [10, 14, 20, 30, 45, 70]}],
            hold={"speed_mm_s": 200, "line_spacing_mm": 0.15, "air_level": 1},
        )
        # Fine enough that the lines of the hatch do not beat with the raster.
        cls.burned = burned_plate(cls.plate, cell_mm=0.05)
        cls.true = true_lab(cls.plate, cls.burned)

    def read(self, seed=56, plate=None, **how):
        photo, _ = taken(self.burned, "front", seed, filling=0.55, **how)
        return read_plate(plate or self.plate, {"front": photo.jpeg})[0]

    def seen(self, document):
        return np.array([[patch[key] for key in ("lightness", "a", "b")] for patch in document["patches"]])

    def test_a_camera_that_bends_nothing(self):
        document = self.read(s_curve=0.0)
        seen = self.seen(document)
        self.assertLess(np.median(np.abs(seen - self.true)[:, 0]), 0.7)
        self.assertLess(np.abs(seen - self.true)[:, 0].max(), 2.0)
        self.assertEqual(seen[:, 0].tolist(), sorted(seen[:, 0], reverse=True))
        darkness = [patch["darkness"] for patch in document["patches"]]
        self.assertEqual(darkness, sorted(darkness))
        self.assertAlmostEqual(document["patches"][0]["contrast"], seen[0, 0] - GROUND_LAB[0], places=1)
        self.assertFalse(document["faces"][0]["card"])

    def test_the_reference_card_undoes_a_phones_tone_curve(self):
        """25 % of it spoil the dark shades by several L*; with the card in the picture nearly nothing is left."""
        how = {"s_curve": 0.25, "size": (2000, 1500)}
        without, with_card = (self.read(card=card, **how) for card in (None, printed_card()))
        self.assertTrue(with_card["faces"][0]["card"])
        off = [np.abs(self.seen(document) - self.true)[:, 0] for document in (without, with_card)]
        self.assertGreater(off[0].max(), 3.0)
        self.assertLess(off[1].max(), 1.5)
        self.assertLess(np.median(ciede2000(self.seen(with_card), self.true)), 1.5)

    def test_a_ground_nobody_knows_is_known_by_the_card(self):
        document = {**self.plate.trial.document()}
        document["material"] = {**document["material"], "ground_lab": None}
        unknown = planned({key: value for key, value in document.items() if key != "defaulted"})
        how = {"s_curve": 0.25, "size": (2000, 1500), "fall_off": 0.05}
        rough = self.read(plate=unknown, **how)
        self.assertIn("ground_assumed", rough["patches"][0]["flags"])
        known = self.read(plate=unknown, card=printed_card(), **how)
        self.assertEqual(known["patches"][0]["flags"], [])
        self.assertLess(np.abs(self.seen(known) - self.true)[:, 0].max(), 4.0)


class CommandTest(ReadingCase):
    def test_the_readings_on_standard_output(self):
        with tempfile.TemporaryDirectory() as folder:
            files = {side: Path(folder) / f"{side}.jpg" for side in ("front", "back")}
            for side, file in files.items():
                file.write_bytes(photo_of(side, 31)[0].jpeg)
            plate = Path(folder) / "plate.json"
            plate.write_bytes(write_plate_file(self.plate))
            self.assertEqual(read_plate_file(json.loads(plate.read_text())).elements.ids, self.plate.elements.ids)

            def run(*words):
                return subprocess.run(
                    [sys.executable, "-m", "rezept.cli", "read", *map(str, words)], capture_output=True
                )

            done = run(plate, "--front", files["front"], "--back", files["back"], "--json", "-")
            document = json.loads(done.stdout)
            jsonschema.validate(document, SCHEMA)
            self.assertEqual([face["face"] for face in document["faces"]], ["front", "back"])
            nothing = Path(folder) / "nothing.jpg"
            nothing.write_bytes(b"nothing")
            failed = run(plate, "--front", nothing, "--json", "-")
            self.assertEqual((failed.returncode, failed.stdout), (2, b""))
            self.assertIn(b"no photo I can read", failed.stderr)
            self.assertEqual(run(plate).returncode, 2)


if __name__ == "__main__":
    unittest.main()
