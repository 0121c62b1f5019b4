"""Letters as areas, against what another renderer of fonts paints (FreeType, by Pillow)."""

import unittest
from concurrent.futures import ThreadPoolExecutor
from importlib import resources

import numpy as np
from PIL import Image, ImageDraw, ImageFont
from scipy.ndimage import distance_transform_edt

from rezept.core.errors import InvalidInput
from rezept.core.path import outline_letters
from rezept.core.path.outline_letters import lacking, letter_outlines
from rezept.core.path.shapes import shaped
from tests.hatch_referee import length, polygon
from tests.made import planned, trial_document

FONT = str(resources.files("rezept.core.path") / "fonts" / "Barlow-Medium.ttf")
TEXTS = ("Ag5", "B8%", "Rezept", "Löwe & Žižka", "Įąţ Ą", "i.:;", "@µ°²")


def inked(figure, wide, high):
    """The figure in a box of so many mm as pixels of a mm, by the even-odd rule; painted four times as fine."""
    ink = np.zeros((high * 4, wide * 4), bool)
    for loop in figure.loops:
        one = Image.new("1", (wide * 4, high * 4))
        ImageDraw.Draw(one).polygon([tuple(point) for point in (loop * (1, -1) + (0, high)) * 4], fill=1)
        ink ^= np.array(one)
    return ink.reshape(high, 4, wide, 4).mean(axis=(1, 3)) > 0.5


def painted(text, size=600):
    """What FreeType paints of a text, cropped to its ink: ``(h, w)`` bool."""
    font = ImageFont.truetype(FONT, size, layout_engine=ImageFont.Layout.BASIC)
    left, top, right, bottom = font.getbbox(text)
    picture = Image.new("L", (right - left + 40, bottom - top + 40))
    ImageDraw.Draw(picture).text((20 - left, 20 - top), text, font=font, fill=255)
    ink = np.array(picture) > 127
    rows, columns = np.flatnonzero(ink.any(axis=1)), np.flatnonzero(ink.any(axis=0))
    return ink[rows[0] : rows[-1] + 1, columns[0] : columns[-1] + 1]


class OutlinesTest(unittest.TestCase):
    def test_they_are_what_another_renderer_paints(self):
        for text in TEXTS:
            with self.subTest(text=text):
                ink = painted(text)
                high, wide = ink.shape
                figure = letter_outlines(float(wide), float(high), text)
                ours = inked(figure, wide, high)
                self.assertLess(abs(ours.sum() - ink.sum()), 0.01 * ink.sum())
                # What differs lies at the rims: the other one rounds the way to the next letter to whole pixels.
                ours, ink = np.pad(ours, 2), np.pad(ink, 2)
                rim = np.maximum(distance_transform_edt(ink), distance_transform_edt(~ink))
                self.assertLess(rim[ours != ink].max(), 2 + 0.5 * len(text))

    def test_they_fill_their_box_and_do_not_reach_out_of_it(self):
        for text in (*TEXTS, "g", "_", "Q"):
            for width, height in ((10.0, 10.0), (30.0, 2.0)):
                with self.subTest(text=text, width=width):
                    low, high = letter_outlines(width, height, text).box
                    self.assertTrue((low >= -1e-9).all() and (high <= (width + 1e-9, height + 1e-9)).all())
                    self.assertAlmostEqual(float(((high - low) / (width, height)).max()), 1.0, places=9)
                    np.testing.assert_allclose(low + high, (width, height), atol=1e-9)

    def test_holes_of_letters_are_no_inside(self):
        for text, faces, holes in (("A", 1, 1), ("B8", 2, 4), ("i", 2, 0), ("%", 3, 2), ("@", 1, 1), ("HELLO", 5, 1)):
            with self.subTest(text=text):
                figure = letter_outlines(20.0, 10.0, text)
                self.assertEqual((len(figure.faces), len(figure.holes)), (faces, holes))

    def test_what_has_no_outline_is_refused(self):
        self.assertEqual(lacking("A木\x00B木"), "木\x00")
        for text, words in (("木", "no outlines for"), ("  ", "a letter or more")):
            with self.assertRaisesRegex(InvalidInput, words):
                letter_outlines(10.0, 10.0, text)


class ThreadsTest(unittest.TestCase):
    def test_many_who_ask_first_at_once_get_the_same(self):
        expected = letter_outlines(30.0, 10.0, "Ida Käte")
        for _ in range(2):
            outline_letters._glyphs.cache_clear()
            outline_letters._loops.cache_clear()
            with ThreadPoolExecutor(4) as pool:
                for figure in pool.map(lambda _: letter_outlines(30.0, 10.0, "Ida Käte"), range(8)):
                    for one, other in zip(figure.ways, expected.ways, strict=True):
                        np.testing.assert_array_equal(one, other)


class PlannedTest(unittest.TestCase):
    def lettered(self, process="area", **patch):
        hold = {"speed_mm_s": 100, "line_spacing_mm": 0.1} if process == "area" else {"speed_mm_s": 20}
        patch = {"shape": "lettering", "width_mm": 20, "height_mm": 8, "text": "Mög", **patch}
        axes = [{"parameter": "power_pct", "along": "x", "values": [20, 40]}]
        return trial_document(process=process, hold=hold, axes=axes, patch=patch)

    def test_letters_are_filled_from_edge_to_edge(self):
        plate = planned(self.lettered())
        area = polygon(plate.document()["figures"][0]["ways"])
        fill = plate.steps[0].work.path
        geometry = (("line_spacing_mm", 0.1), ("hatch_angle_deg", 0.0), ("hatch_turn_deg", 0.0), ("passes", 1.0))
        (lines,) = fill.passes(plate.elements.figures[0], geometry)
        drawn = float(np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum())
        self.assertAlmostEqual(drawn, length(area, 0.1, 0.0), places=2)
        self.assertAlmostEqual(drawn * 0.1, area.area, delta=0.01 * area.area)

    def test_lines_are_strokes_unless_it_is_said(self):
        line = planned(self.lettered("line"))
        strokes = shaped("lettering", 20.0, 8.0, "Mög")
        self.assertEqual(len(line.elements.figures[0].ways), len(strokes.ways))
        self.assertNotIn("letters", line.trial.document()["patch"])
        around = planned(self.lettered("cut", letters="outlines"))
        self.assertEqual(len(around.elements.figures[0].holes), 2)
        self.assertEqual(around.trial.document()["patch"]["letters"], "outlines")
        with self.assertRaisesRegex(InvalidInput, "patch.letters: Single strokes have nothing to fill"):
            planned(self.lettered(letters="strokes"))
        with self.assertRaisesRegex(InvalidInput, "patch.letters: Only lettering has letters"):
            planned(self.lettered(shape="disc", height_mm=20, text=None, letters="strokes"))
        with self.assertRaisesRegex(InvalidInput, "patch.text: There are no outlines for"):
            planned(self.lettered(text="木"))

    def test_a_step_fills_letters_in_a_coupon(self):
        fill = {"power_pct": 30, "speed_mm_s": 200, "line_spacing_mm": 0.1}
        steps = [
            {"name": "mark", "process": "area", "hold": fill, "text": "Käte", "inset_mm": 2},
            {"name": "cut", "process": "cut", "hold": {"speed_mm_s": 10}},
        ]
        axes = [{"parameter": "power_pct", "along": "x", "values": [50, 60], "step": "cut"}]
        document = trial_document(axes=axes, patch={"shape": "coupon", "width_mm": 24, "height_mm": 12}, steps=steps)
        del document["process"], document["hold"]
        plate = planned(document)
        letters = plate.elements.figures[int(plate.steps[0].work.figure[0])]
        low, high = letters.box
        self.assertTrue((low >= 2 - 1e-9).all() and (high <= (22 + 1e-9, 10 + 1e-9)).all())
        self.assertEqual(plate.trial.document()["steps"][0]["letters"], "outlines")


if __name__ == "__main__":
    unittest.main()
