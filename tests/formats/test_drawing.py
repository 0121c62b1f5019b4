"""Drawings people bring, by what is in them: DXF entity by entity, as text made here."""

import io
import math
import unittest
from random import Random

import ezdxf

from rezept.core.errors import InvalidInput
from rezept.formats.drawing import read_figure
from tests.random_figures import svg


def dxf(draw, unit=4, version="R2000"):
    drawing = ezdxf.new(version)
    drawing.units = unit
    draw(drawing, drawing.modelspace())
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()


def pairs(*entities):
    """The barest DXF there is, written by hand: groups of code and value."""
    lines = ["0", "SECTION", "2", "ENTITIES"]
    for entity in entities:
        lines += [str(word) for pair in entity for word in pair]
    return "\n".join([*lines, "0", "ENDSEC", "0", "EOF", ""]).encode()


class DxfTest(unittest.TestCase):
    def test_a_file_written_by_hand(self):
        def line(x1, y1, x2, y2):
            return [(0, "LINE"), (8, "0"), (10, x1), (20, y1), (11, x2), (21, y2)]

        sides = line(0, 0, 30, 0), line(30, 20, 30, 0), line(30, 20, 0, 20), line(0, 20, 0, 0.0002)
        circle = [(0, "CIRCLE"), (8, "0"), (10, 15), (20, 10), (40, 4)]
        document = read_figure(pairs(*sides, circle)).document()
        self.assertEqual((document["width_mm"], document["height_mm"], document["open"]), (30.0, 20.0, []))
        self.assertEqual([loop["hole"] for loop in document["loops"]], [True, False])
        self.assertAlmostEqual(document["loops"][0]["area_mm2"], 16 * math.pi, delta=8 * math.pi * 0.004)
        self.assertAlmostEqual(document["loops"][1]["area_mm2"], 600, delta=0.01)
        self.assertIn("taken for mm", document["left_out"][0]["why"])

    def test_each_kind_of_outline(self):
        quarter = math.pi / 4
        for name, draw, area in (
            ("polyline", lambda _, m: m.add_lwpolyline([(0, 0), (9, 0), (9, 9)], close=True), 40.5),
            # A bulge of 1 is half a circle.
            ("bulge", lambda _, m: m.add_lwpolyline([(0, 0, 0, 0, 1), (10, 0, 0, 0, 1)], close=True), 100 * quarter),
            ("old polyline", lambda _, m: m.add_polyline2d([(0, 0), (9, 0), (9, 9)], close=True), 40.5),
            ("ellipse", lambda _, m: m.add_ellipse((5, 5), (8, 0), 0.5), 32 * math.pi),
            ("spline", lambda _, m: m.add_spline([(0, 0), (10, 0), (10, 10), (0, 10), (0, 0)]), None),
            (
                "arc and chord",
                lambda _, m: (m.add_arc((0, 0), 10, 0, 180), m.add_line((-10, 0), (10, 0))),
                50 * math.pi,
            ),
        ):
            with self.subTest(name):
                document = read_figure(dxf(draw)).document()
                self.assertEqual((len(document["loops"]), document["open"], document["left_out"]), (1, [], []))
                if area is not None:
                    found = document["loops"][0]
                    self.assertAlmostEqual(found["area_mm2"], area, delta=0.004 * found["length_mm"])

    def test_units_blocks_and_layers(self):
        def draw(drawing, space):
            block = drawing.blocks.new("part")
            block.add_circle((0, 0), 0.5)
            space.add_blockref("part", (1, 1))
            space.add_blockref("part", (3, 1), dxfattribs={"xscale": 2, "yscale": 2})
            drawing.layers.add("off").off()
            space.add_circle((50, 50), 9, dxfattribs={"layer": "off"})
            space.add_text("words")

        document = read_figure(dxf(draw, unit=1)).document()
        areas = [loop["area_mm2"] / 25.4**2 for loop in document["loops"]]
        self.assertAlmostEqual(areas[0], math.pi / 4, delta=0.001)
        self.assertAlmostEqual(areas[1], math.pi, delta=0.001)
        self.assertAlmostEqual(document["width_mm"], 3.5 * 25.4, delta=0.01)
        self.assertEqual({one["what"] for one in document["left_out"]}, {"what is hidden", "TEXT"})

    def test_what_is_none_is_refused_in_words(self):
        whole = dxf(lambda _, m: m.add_circle((0, 0), 5))
        for words, data in {
            "neither": b"\x89PNG\r\n",
            "no outline": dxf(lambda _, m: m.add_text("words")),
            "no DXF": b"0\nSECTION\n2\nENTITIES\n0\nCIRCLE\nwhat",
            "UTF-8": "<svg>ä</svg>".encode("latin-1"),
            "text DXF": b"A program's Binary DXF\r\n\x1a\x00" + whole,
        }.items():
            with self.subTest(words), self.assertRaisesRegex(InvalidInput, words):
                read_figure(data)

    def test_what_lies_nowhere_is_refused_at_once(self):
        for height in ("inf", "nan", "1e300"):
            arc = [(0, "ARC"), (8, "0"), (10, 0), (20, 0), (30, height), (40, 10), (50, 0), (51, 180)]
            with self.subTest(height), self.assertRaisesRegex(InvalidInput, "out of this world|no outline"):
                read_figure(pairs(arc))

    def test_whatever_is_written_wrong_it_is_read_or_refused(self):
        whole = dxf(
            lambda _, m: (
                *(m.add_circle((0, 0), 5), m.add_arc((0, 0), 10, 0, 180), m.add_ellipse((5, 5), (8, 0), 0.5)),
                *(m.add_spline([(0, 0), (10, 0), (10, 10)]), m.add_lwpolyline([(0, 0, 0, 0, 1), (9, 0, 0, 0, 1)])),
            )
        )
        lines = whole.decode().split("\n")
        entities = next(i for i, line in enumerate(lines) if line.strip() == "ENTITIES")
        for seed in range(100):
            random, spoiled = Random(seed), list(lines)
            for _ in range(random.randint(1, 3)):
                word = random.choice(["0", "-1", "nan", "inf", "1e308", "", "x", "SPLINE", "99999999", "70", "1e-320"])
                spoiled[random.randrange(entities, len(lines))] = word
            try:
                read_figure("\n".join(spoiled).encode()).document()
            except InvalidInput as error:
                self.assertTrue(error.sentence)

    def test_cut_off_anywhere_it_is_read_or_refused(self):
        whole = dxf(lambda _, m: (m.add_circle((0, 0), 5), m.add_spline([(0, 0), (10, 0), (10, 10)])))
        for share in range(1, 40):
            try:
                read_figure(whole[: len(whole) * share // 40])
            except InvalidInput as error:
                self.assertTrue(error.sentence.endswith("."))

    def test_an_svg_with_a_mark_of_its_encoding(self):
        text = svg('<rect width="10" height="5"/>')
        self.assertEqual(read_figure(b"\xef\xbb\xbf" + text.encode()).document(), read_figure(text.encode()).document())


if __name__ == "__main__":
    unittest.main()
