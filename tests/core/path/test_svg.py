"""SVG drawings as figures, held against what another reader (librsvg) paints of them."""

import math
import shutil
import unittest
from random import Random

import numpy as np
import shapely

from rezept.core.errors import InvalidInput
from rezept.core.path.hatch import hatch_figure
from rezept.core.path.inset import inset
from rezept.core.path.svg import read_svg
from tests.hatch_referee import length, polygon
from tests.painted_svg import svg_painted
from tests.random_figures import drawing, path_data, star, svg

PER_MM = 10


def one(text):
    """Loops and open lines of a drawing."""
    document = read_svg(text).document()
    return document["loops"], document["open"]


@unittest.skipUnless(shutil.which("rsvg-convert"), "librsvg is not here")
class PaintedTest(unittest.TestCase):
    """What is inside of a figure is what is painted of its drawing."""

    def check(self, text, most_pixels=0):
        brought = read_svg(text)
        picture = svg_painted(text, PER_MM)
        figure = brought.figure
        inside = 1 - picture / 255.0
        area = polygon([loop.tolist() for loop in figure.loops])
        around = sum(np.linalg.norm(np.diff(loop, axis=0), axis=1).sum() for loop in figure.loops)
        self.assertAlmostEqual(inside.sum() / PER_MM**2, area.area, delta=0.002 * area.area + 0.004 * around)
        rows, columns = np.indices(picture.shape)
        places = np.stack([(columns + 0.5) / PER_MM, (picture.shape[0] - rows - 0.5) / PER_MM], axis=-1)
        # The figure begins at its own lower left, the picture is that of the whole drawing: their middles are one.
        middle = (places * inside[..., None]).sum(axis=(0, 1)) / inside.sum()
        places += np.array(area.centroid.coords[0]) - middle
        certain = (picture < 8) | (picture > 247)
        # Every third row and column of them says enough.
        certain &= (rows % 3 == 0) & (columns % 3 == 0)
        # What lies near an outline is neither.
        lines = shapely.MultiLineString([loop.tolist() for loop in figure.loops])
        flat = places[certain]
        shapely.prepare(lines)
        far = ~shapely.dwithin(lines, shapely.points(flat), 0.05)
        self.assertGreater(far.sum(), 200)
        wrong = figure.encloses(flat[far]) != (picture[certain] < 8)[far]
        self.assertLessEqual(int(wrong.sum()), most_pixels)

    def test_random_figures(self):
        for seed in range(40):
            with self.subTest(seed):
                self.check(svg(f'<path fill-rule="evenodd" d="{path_data(Random(seed))}"/>'))

    def test_commands_shapes_and_transforms(self):
        for name, body in {
            "every command": '<path fill-rule="evenodd" d="M4 13c2-9 8-9 10-2s5 8 6 0q3-9 6 0t6 0l3 1h2v9'
            'a6 9 30 1 1-12 3L9 29Zm6 5h4v3h-4z"/>',
            "arcs both ways": '<path d="M6 20a8 12 20 0 1 16-6a8 5 -35 1 0 12 9L20 36z"/>',
            "a rounded rectangle": '<rect x="4" y="6" width="30" height="20" rx="6" ry="3"/>',
            "a leaning ellipse": '<ellipse cx="20" cy="20" rx="5" ry="12" transform="skewX(20) rotate(30 20 20)"/>',
            "groups in groups": '<g transform="translate(20 20)"><g transform="rotate(40) scale(1.5 .7)">'
            '<path d="M-8-8H8V8L0 3L-8 8z"/></g></g>',
            "a polygon": '<polygon points="4,4 36,8 20,36"/>',
            "the same twice": '<defs><path id="a" d="M0 0h6v6l-3-2z"/></defs><use href="#a" x="4" y="5"/>'
            '<use href="#a" transform="matrix(2 .5 -.5 2 15 15)"/>',
            "a symbol with a box": '<symbol id="s" viewBox="0 0 10 10"><circle cx="5" cy="5" r="5"/></symbol>'
            '<use href="#s" x="3" y="6" width="30" height="20"/>',
            "a drawing in it": '<svg x="5" y="5" width="20" height="30" viewBox="0 0 10 10" preserveAspectRatio="none">'
            '<path d="M0 0h10v10z"/></svg>',
            "shares of the whole": '<rect x="10%" y="25%" width="50%" height="50%"/>',
            "what goes round twice": '<path d="M5 5h30v30h-30zM10 10h20v20h-20z"/>',
            "a hole against it": '<path d="M5 5h30v30h-30zM10 10v20h20v-20z"/>',
            "a star in one stroke": '<path d="M20 3L31 36L3 15H37L9 36z"/>',
            "the same by even and odd": '<path fill-rule="evenodd" d="M20 3L31 36L3 15H37L9 36z"/>',
        }.items():
            with self.subTest(name):
                self.check(svg(body))

    def test_units_and_boxes(self):
        box = 'viewBox="0 0 50 20"'
        for head in (
            f'width="5cm" height="20mm" {box}',
            f'width="2in" {box}',
            f'height="90pt" {box}',
            f'width="40mm" height="40mm" {box} preserveAspectRatio="xMaxYMin"',
            f'width="40mm" height="40mm" {box} preserveAspectRatio="none"',
            'width="160" height="80"',
            'viewBox="-5 -5 160 90"',
        ):
            with self.subTest(head):
                self.check(f'<svg xmlns="http://www.w3.org/2000/svg" {head}><path d="M2 2H48V18L30 8z"/></svg>')


class HatchedTest(unittest.TestCase):
    """The lines that fill a figure, against a polygon library: none outside, none missing."""

    def test_ends_lie_where_they_should(self):
        for seed in range(60):
            random = Random(seed)
            figure = read_svg(drawing(seed)).figure
            spacing, angle = random.uniform(0.3, 1.5), random.choice([0, 90, 45, random.uniform(-180, 180)])
            lines = hatch_figure(figure, spacing, angle)
            area = polygon([loop.tolist() for loop in figure.loops])
            with self.subTest(seed):
                self.assertAlmostEqual(
                    float(np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum()),
                    length(area, spacing, angle),
                    delta=1e-3,
                )
                ends = shapely.points(lines.reshape(-1, 2))
                self.assertLess(float(shapely.distance(area.boundary, ends).max()), 1e-3)
                middles = shapely.points(lines.mean(axis=1))
                self.assertLess(float(shapely.distance(area, middles).max()), 1e-3)

    def test_many_corners(self):
        random = Random(3)
        figure = read_svg(svg(f'<path d="{star(random, 5000)}"/>')).figure
        self.assertEqual(len(figure.loops[0]), 10_001)
        lines = hatch_figure(figure, 0.05, 30.0)
        area = polygon([figure.loops[0].tolist()])
        covered = 0.05 * np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum()
        self.assertAlmostEqual(covered / area.area, 1.0, delta=0.01)


class UnderstoodTest(unittest.TestCase):
    def test_figures_from_the_formula(self):
        loops, _ = one(svg('<circle cx="20" cy="20" r="12"/><rect x="16" y="16" width="8" height="6"/>'))
        self.assertEqual([loop["hole"] for loop in loops], [True, False])
        self.assertAlmostEqual(loops[0]["area_mm2"], 48)
        self.assertAlmostEqual(loops[0]["length_mm"], 28)
        self.assertAlmostEqual(loops[1]["area_mm2"], math.pi * 144, delta=2 * math.pi * 12 * 0.004)
        # 1 in = 25.4 mm = 96 px.
        document = read_svg('<svg width="192" height="96"><rect width="192" height="96"/></svg>').document()
        self.assertAlmostEqual(document["width_mm"], 50.8)
        self.assertAlmostEqual(document["height_mm"], 25.4)
        self.assertIn("1/96 inch", document["left_out"][0]["why"])

    def test_curves_are_within_a_hundredth_of_a_millimetre(self):
        loop = read_svg(svg('<path d="M0 20a20 20 0 1 0 40 0a20 20 0 1 0 -40 0z"/>')).figure.loops[0]
        middles = (loop[1:] + loop[:-1]) / 2
        for points in (loop, middles):
            self.assertLess(float(np.abs(np.linalg.norm(points - 20, axis=1) - 20).max()), 0.01)

    def test_an_island_in_a_hole_is_no_hole(self):
        loops, _ = one(
            svg('<path fill-rule="evenodd" d="M2 2h36v36h-36zM6 6h28v28h-28zM10 10h20v20h-20zM14 14h12v12h-12z"/>')
        )
        self.assertEqual([loop["hole"] for loop in loops], [True, False, True, False])

    def test_lines_that_meet_are_one_outline(self):
        lines = '<line x1="1" y1="1" x2="9" y2="1"/><line x1="9" y1="9" x2="9" y2="1"/>'
        loops, still_open = one(svg(f'{lines}<path fill="none" stroke="red" d="M1 1V9H9"/>'))
        self.assertEqual(([loop["area_mm2"] for loop in loops], still_open), ([64.0], []))

    def test_what_does_not_close_is_said_and_closed_when_asked(self):
        text = svg('<path d="M5 5H35V35H5V5.4"/>')
        loops, (gap,) = one(text)
        self.assertEqual(loops, [])
        self.assertAlmostEqual(gap["gap_mm"], 0.4)
        self.assertAlmostEqual(gap["length_mm"], 119.6)
        # From the lower left of the figure, y up.
        self.assertEqual(gap["ends"], [[0.0, 30.0], [0.0, 29.6]])
        self.assertEqual(read_svg(text, 0.3).figure.loops, ())
        closed = read_svg(text, 0.5)
        self.assertEqual((len(closed.figure.loops), closed.open), (1, ()))
        self.assertAlmostEqual(closed.document()["loops"][0]["area_mm2"], 900)

    def test_crossings_are_said(self):
        self.assertEqual(len(read_svg(svg('<path fill="none" stroke="red" d="M0 0L10 10H0L10 0z"/>')).crossings), 1)
        two = read_svg(svg('<rect width="10" height="10"/><rect x="5" y="5" width="10" height="10"/>'))
        self.assertEqual(sorted(two.crossings), [(5.0, 5.0), (10.0, 10.0)])
        self.assertEqual(read_svg(svg('<circle r="9"/><circle r="5"/>')).crossings, ())

    def test_drawn_twice_is_burned_once(self):
        brought = read_svg(svg('<path d="M1 1h8v8z"/><path fill="none" stroke="red" d="M9 1V9L1 1z"/>'))
        self.assertEqual(len(brought.figure.loops), 1)
        self.assertEqual(brought.left_out[0].what, "a line")

    def test_what_is_left_out_is_named(self):
        body = (
            '<rect width="9" height="9"/><text>Hi</text><image href="http://a.invalid/b.png"/><script>alert(1)</script>'
            '<use href="other.svg#a"/><use href="#nobody"/><path display="none" d="M0 0h9z"/><g visibility="hidden">'
            '<path d="M0 0h9v9z"/></g><path fill="none" d="M0 0h24v24z"/><blink/><style>.a{display:none}</style>'
        )
        brought = read_svg(svg(body))
        self.assertEqual(len(brought.figure.ways), 1)
        said = " | ".join(f"{one.what}: {one.why}" for one in brought.left_out)
        for words in (
            "lettering",
            "a picture",
            "a script",
            "nothing is fetched",
            "nobody",
            "hidden, 2 times",
            "not painted",
            "<blink>",
            "style sheet",
        ):
            with self.subTest(words):
                self.assertIn(words, said)

    def test_many_points_are_thinned_within_a_hundredth(self):
        points = [
            (20 + 18 * math.cos(a), 20 + 15 * math.sin(3 * a)) for a in np.linspace(0, math.tau, 60_000, endpoint=False)
        ]
        text = svg('<path fill="none" stroke="red" d="M' + " ".join(f"{x:.6f} {y:.6f}" for x, y in points) + 'z"/>')
        brought = read_svg(text)
        self.assertIn("within 0.01 mm", brought.left_out[0].why)
        drawn = shapely.LineString(brought.figure.loops[0])
        true = np.array(points)[::7] * [1, -1]
        true -= np.array(points).min(axis=0) * [1, 0] + [0, -max(y for _, y in points)]
        self.assertLess(float(shapely.distance(drawn, shapely.points(true)).max()), 0.01)

    def test_what_was_understood_is_understood_again(self):
        for seed in range(30):
            once = read_svg(drawing(seed))
            again = read_svg(once.svg())
            self.assertEqual(len(once.figure.ways), len(again.figure.ways))
            for one, other in zip(once.figure.ways, again.figure.ways, strict=True):
                self.assertLess(shapely.LineString(one).hausdorff_distance(shapely.LineString(other)), 2e-4)

    def test_whatever_is_written_wrong_it_is_read_or_refused(self):
        whole = svg(
            '<defs><path id="a" d="M0 0h6v6l-3-2z"/><symbol id="s" viewBox="0 0 9 9"><circle r="4"/></symbol></defs>'
            '<g transform="rotate(3 4 5) skewX(5) scale(1,2)" style="fill:none;stroke:red"><use href="#a" y="5%"/>'
            '</g><use href="#s" width="10" height="8"/><svg x="1" width="5" height="5" viewBox="0 0 1 1"><rect rx=".1"'
            ' width="100%" height="1"/></svg><ellipse cx="1" cy="2" rx="3" ry="4"/><polygon points="0,0 3,3 1,9"/>'
            '<path fill-rule="evenodd" d="M4 13c2-9 8-9 10-2s5 8 6 0q3-9 6 0t6 0a6 9 30 1 1-12 3L9 29Zm6 5h4v3h-4z"/>'
        )
        within = [i for i in range(len(whole)) if whole[:i].count('"') % 2 and "xmlns" not in whole[max(0, i - 30) : i]]
        wrong = ["=", "e", "-", "NaN", "inf", "1e309", "1e-320", "0", "#", "%", " ", "M", "A", "z", "z l", "scale(0)"]
        wrong += ["é", "in", "rotate(", "0 0 0 0", "none", "9999999", "."]
        for seed in range(300):
            random, text = Random(seed), whole
            for _ in range(random.randint(1, 4)):
                at = random.choice(within)
                text = text[:at] + random.choice(wrong) + text[at:]
            try:
                read_svg(text).document()
            except InvalidInput as error:
                self.assertTrue(error.sentence)

    def test_what_is_refused_is_refused_in_words(self):
        nested = "".join(f'<g id="a{i}">' + f'<use href="#a{i - 1}"/>' * 10 + "</g>" for i in range(1, 12))
        for words, text in {
            "no SVG": "<svg",
            "begins with 'html'": "<html/>",
            "entities": '<!DOCTYPE s [<!ENTITY a "b">]>' + svg("<path d='M0 0h5v5z'/>"),
            "made of itself": svg('<g id="a"><use href="#a"/><rect width="5" height="5"/></g>'),
            "elements": svg(f'<defs><g id="a0"><rect width="9" height="9"/></g>{nested}</defs><use href="#a11"/>'),
            "too deep": svg("<g>" * 300 + '<rect width="4" height="5"/>' + "</g>" * 300),
            "out of this world": svg('<path d="M0 0 L 1e400 5"/>'),
            "cannot be read": svg('<path d="M0 0 bogus"/>'),
            "transform": svg('<g transform="wobble(3)"><rect width="4" height="5"/></g>'),
            "in mm": '<svg width="5parsec"/>',
            "9000 x 3 mm": svg('<rect width="9000" height="3"/>'),
            "no outline": svg("<text>A</text>"),
            "points": svg('<path d="M' + "0 0 1 1 " * 150_000 + '"/>'),
        }.items():
            with self.subTest(words), self.assertRaises(InvalidInput) as raised:
                read_svg(text)
            self.assertIn(words, str(raised.exception))

    def test_a_star_in_one_stroke_is_drawn_in_where_it_is_filled(self):
        figure = read_svg(svg('<path fill-rule="evenodd" d="M20 3L31 36L3 15H37L9 36z"/>')).figure
        points = polygon([figure.loops[0].tolist()])
        self.assertEqual(len(shapely.get_parts(points)), 5)
        drawn = polygon([loop.tolist() for loop in inset(figure, 0.5).loops])
        self.assertEqual(len(shapely.get_parts(drawn)), 5)
        self.assertAlmostEqual(drawn.area, points.buffer(-0.5).area, delta=0.01)

    def test_drawn_in_it_stays_inside(self):
        figure = read_svg(svg('<path fill-rule="evenodd" d="M2 2h36v36h-36zM12 12h16v16h-16z"/>')).figure
        area = polygon([loop.tolist() for loop in inset(figure, 1.0).loops]).area
        # The outer corners stay sharp; those of the hole are rounded.
        self.assertAlmostEqual(area, 34**2 - (18**2 - (4 - math.pi)), delta=0.05)


if __name__ == "__main__":
    unittest.main()
