"""Marks that turn darker on one patch, lighter on the next and coloured on a third, and layers that come off: read from
photographs by a camera that shares no code with Rezept."""

import unittest

import numpy as np

from rezept.actions.queries.photo_reading import read_face, read_plate
from rezept.core.colour import lab_to_linear, linear_to_lab, write_hex
from rezept.core.findings.from_readings import read_readings
from rezept.core.reading import SURE
from tests.photographed import MARKED, marked_plate
from tests.rendered import Scene, render

STEEL, FINE = (72.0, 0.0, 2.0), (1200, 900)
SHEET = tuple(lab_to_linear(STEEL).tolist())
# What each patch became, CIELAB: nothing, grey, black, frosted twice, blue, purple, gold.
BECAME = {
    "A1": STEEL, "A2": (55, 0, 2), "A3": (24, 0, 1), "A4": (82, 0, 2), "A5": (91, 0, 1),
    "B1": (45, 5, -45), "B2": (50, 35, -25), "B3": (70, 8, 45), "B4": STEEL, "B5": (64, 0, 2),
}  # fmt: skip


def plate_on(ground=STEEL, mark="darker", process="area", **material):
    """Ten fills of one kind on a plate with code and marks."""
    axes = [
        {"parameter": "power_pct", "along": "x", "values": [14, 18, 24, 32, 42]},
        {"parameter": "speed_mm_s", "along": "y", "values": [100, 200]},
    ]
    sheet = {"name": "Plate", "family": "metal", "mark": mark, "ground_lab": list(ground), **material}
    hold = {"line_spacing_mm": 0.1, "air_level": 0}
    return marked_plate(
        process=process, axes=axes, hold=hold if process != "line" else {"air_level": 0}, labels=MARKED, material=sheet
    )


def photo_of(plate, became, sheet=SHEET, **scene):
    """What is not said of stayed bare."""
    colour = dict.fromkeys(plate.elements.ids, sheet)
    colour |= {patch: tuple(lab_to_linear(lab).tolist()) for patch, lab in became.items()}
    shot = Scene(sheet=sheet, below="table", size=FINE, warm=0.0, **scene)
    return render(plate.document(), "front", shot, colour=colour)


def read(plate, seen):
    document, _ = read_plate(plate, {"front": seen.jpeg})
    return {row["id"]: row for row in document["patches"]}, document


class TurnedTest(unittest.TestCase):
    def test_each_patch_turns_its_own_way_and_is_measured_where_it_is(self):
        for seed, scene in enumerate(({}, {"tilt_deg": 20.0, "noise": 0.008}, {"fall_off": 0.2, "quality": 70})):
            with self.subTest(**scene):
                plate = plate_on()
                rows, _ = read(plate, photo_of(plate, BECAME, seed=seed + 1, **scene))
                turned = {patch: row.get("turned") for patch, row in rows.items()}
                self.assertEqual(turned, {
                    **dict.fromkeys(("A1", "A2", "A3", "B4", "B5")), "A4": 2, "A5": 2, "B1": 3, "B2": 3, "B3": 3,
                })  # fmt: skip
                darkness = {patch: rows[patch]["darkness"] for patch in rows}
                # Even steps to 12, or to 93 where it turned lighter: (72 - 55) / 60 of five is one and a half.
                self.assertEqual((darkness["A1"], darkness["B4"], darkness["A3"]), (0, 0, 4))
                self.assertEqual((darkness["A4"], darkness["A5"]), (2, 5))
                self.assertIn(darkness["A2"], (1, 2))
                for patch, lab in BECAME.items():
                    self.assertAlmostEqual(rows[patch]["lightness"], lab[0], delta=4.0, msg=patch)

    def test_where_marks_are_lighter_one_may_turn_darker(self):
        black = (34.0, 0.0, -2.0)
        became = {"A1": (70, 0, 0), "A2": (85, 0, 0), "A3": (20, 0, 0), "B1": (34, 0, -2), "B2": (50, 0, 0)}
        plate = plate_on(black, "lighter")
        rows, _ = read(plate, photo_of(plate, became, tuple(lab_to_linear(black).tolist())))
        self.assertEqual({patch: rows[patch].get("turned") for patch in became},
                         {"A1": None, "A2": None, "A3": 1, "B1": None, "B2": None})  # fmt: skip
        self.assertEqual([rows[patch]["darkness"] for patch in ("A1", "A2", "B1")], [3, 4, 0])

    def test_of_lines_it_is_the_line_that_is_looked_at(self):
        plate = plate_on(process="line")
        became = {"A1": (24, 0, 1), "A2": (93, 0, 1), "A3": (50, 0, 1), "A4": STEEL}
        rows, _ = read(plate, photo_of(plate, became))
        self.assertEqual({patch: rows[patch].get("turned") for patch in became},
                         {"A1": None, "A2": 2, "A3": None, "A4": None})  # fmt: skip
        light = {patch: rows[patch]["lightness"] for patch in became}
        self.assertLess(light["A1"], 45)
        self.assertGreater(light["A2"], 82)
        self.assertEqual(rows["A4"]["darkness"], 0)

    def test_scorched_wood_has_not_taken_on_a_colour(self):
        wood = (82.0, 5.0, 24.0)
        became = {"A1": (70, 10, 30), "A2": (55, 13, 30), "A3": (40, 12, 22), "A4": (25, 6, 10), "A5": (14, 2, 3)}
        plate = plate_on(wood)
        rows, _ = read(plate, photo_of(plate, became, tuple(lab_to_linear(wood).tolist())))
        self.assertEqual([rows[patch].get("turned") for patch in became], [None] * 5)

    def test_a_decision_goes_by_how_light_each_became(self):
        """Read by eye: five of five are black where it turned darker and white where it turned lighter; a colour's
        strength says nothing of that."""
        plate = plate_on()
        rows = [
            {"id": patch, "burned": True, "darkness": 5, **({} if turned is None else {"turned": turned})}
            for patch, turned in zip(plate.elements.ids, (None, 1, 2, 3) + (None,) * 6, strict=True)
        ]
        document = {"format": "rezept-readings", "version": 1, "plate": plate.document(), "faces": [], "patches": rows}
        seen = read_readings(document, 1).seen
        np.testing.assert_allclose(seen.others["lightness"][:3], [12, 12, 93])
        self.assertTrue(np.isnan(seen.others["lightness"][3]))


class LayerTest(unittest.TestCase):
    CAP, CORE = (62.0, 12.0, 50.0), (24.0, 0.0, 2.0)

    def between(self, share):
        """The colour of so much of the layer gone, as a camera sees both side by side."""
        cap, core = lab_to_linear(self.CAP), lab_to_linear(self.CORE)
        return tuple(linear_to_lab(cap + share * (core - cap)).tolist())

    def plate(self, core=True):
        said = {"below_colour": write_hex(self.CORE)} if core else {}
        return plate_on(self.CAP, process="layer", **said)

    def test_what_is_left_of_a_layer_is_seen(self):
        became = {
            "A1": self.CAP, "A2": self.between(0.05), "A3": self.between(0.4), "A4": self.between(0.7),
            "A5": self.between(0.98), "B1": self.CORE, "B2": (42, 4, 2), "B3": (46, 42, 40),
        }  # fmt: skip
        plate = self.plate()
        for seed in range(2):
            rows, document = read(
                plate, photo_of(plate, became, tuple(lab_to_linear(self.CAP).tolist()), seed=seed + 1)
            )
            found = {patch: rows[patch].get("layer") for patch in became}
            self.assertEqual(found, {"A1": 0, "A2": 0, "A3": 1, "A4": 1, "A5": 2, "B1": 2, "B2": 3, "B3": 3})
            sure = [rows[patch]["confidence"] for patch in ("A1", "A3", "B1", "B2")]
            self.assertGreater(min(sure), SURE)
        self.assertEqual(read_readings(document, 1).seen.came_out[:6].tolist(), [0, 0, 1, 1, 2, 2])

    def test_without_the_colour_below_it_says_nothing(self):
        plate = self.plate(core=False)
        rows, _ = read(plate, photo_of(plate, {"A1": self.CORE}, tuple(lab_to_linear(self.CAP).tolist())))
        self.assertTrue(all("layer" not in row for row in rows.values()))

    def test_it_is_laid_by_its_code_whatever_the_patches_turned(self):
        plate = self.plate()
        seen = photo_of(plate, {"A1": self.CORE, "B5": self.CORE}, tuple(lab_to_linear(self.CAP).tolist()))
        laid = read_face(plate, seen.jpeg, "front").laid
        middles = plate.elements.corners + plate.elements.boxes[:, 2:] / 2
        off = np.linalg.norm(laid.pose.to_mm(seen.pixels(middles)) - middles, axis=1).max()
        self.assertLess(off, 0.3)


if __name__ == "__main__":
    unittest.main()
