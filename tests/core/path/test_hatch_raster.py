"""Hatching of random figures of up to 10 000 corners, against what another program paints (librsvg)."""

import shutil
import unittest
from random import Random

import numpy as np
from PIL import Image, ImageDraw
from scipy.ndimage import distance_transform_edt

from rezept.core.path.hatch import hatch_figure
from rezept.core.path.outline_letters import letter_outlines
from rezept.core.path.svg import read_svg
from tests.painted_svg import svg_painted
from tests.random_figures import blob, comb, letter, ring, star, svg

PIXEL_MM = 0.04
SPACING_MM = 0.2


def painted(loops, width_mm, height_mm):
    """``(h, w)`` how much of each pixel librsvg paints by the even-odd rule, lowest row first."""
    drawn = "".join("M" + "L".join(f"{x:.5f},{y:.5f}" for x, y in loop[:-1].tolist()) + "z" for loop in loops)
    picture = svg_painted(svg(f'<path fill-rule="evenodd" d="{drawn}"/>', width_mm, height_mm), 1 / PIXEL_MM)
    # What is drawn downward in the drawing runs upward in the figure.
    return 1 - picture / 255.0


def lined(lines, shape):
    """``(h, w)`` bool: the pixels the lines go through."""
    picture = Image.new("1", shape[::-1])
    draw = ImageDraw.Draw(picture)
    for one in lines / PIXEL_MM - 0.5:
        draw.line([tuple(point) for point in one], fill=1)
    return np.array(picture)


def figures():
    """Figures by name, some of few corners and some of very many."""
    random = Random(20261129)
    for corners in (3, 30, 300, 3000, 10_000):
        yield f"star of {corners}", read_svg(svg(f'<path d="{star(random, corners // 2 + 1)}"/>')).figure
    for build in (comb, ring, blob, letter):
        for number in range(6):
            drawn = build(random)
            yield f"{build.__name__} {number}", read_svg(svg(f'<path fill-rule="evenodd" d="{drawn}"/>')).figure
    for text in ("Ag5", "B8", "Löwe"):
        yield text, letter_outlines(30.0, 15.0, text)


@unittest.skipUnless(shutil.which("rsvg-convert"), "librsvg is not here")
class RasterTest(unittest.TestCase):
    def test_lines_cover_what_is_painted_and_nothing_else(self):
        random = Random(7)
        for name, figure in figures():
            for angle in (0.0, random.uniform(0, 180), random.uniform(-180, 0)):
                with self.subTest(figure=name, angle=angle):
                    low, high = figure.box
                    ink = painted([loop - low for loop in figure.loops], *(high - low))
                    lines = hatch_figure(figure, SPACING_MM, angle)
                    # Rows lie evenly over the height across them: near, not at, the spacing.
                    across = np.array([-np.sin(np.radians(angle)), np.cos(np.radians(angle))])
                    extent = float(np.ptp(np.concatenate(figure.loops) @ across))
                    spacing = extent / max(1, round(extent / SPACING_MM))
                    length = float(np.linalg.norm(lines[:, 1] - lines[:, 0], axis=1).sum())
                    area = ink.sum() * PIXEL_MM**2
                    self.assertAlmostEqual(length * spacing, area, delta=0.01 * area)
                    # No line where nothing is painted, and nothing painted farther from a line than half a spacing.
                    drawn = lined(lines - low, ink.shape)
                    outside = distance_transform_edt(ink == 0)[drawn]
                    # The tip of a needle is too thin for any shade.
                    self.assertLessEqual(outside.max(), 4 if len(figure.loops[0]) > 1000 else 1.5)
                    bare = distance_transform_edt(~drawn)[distance_transform_edt(ink > 0.99) > 2]
                    self.assertLessEqual(bare.max(initial=0) * PIXEL_MM, spacing + 2 * PIXEL_MM)


if __name__ == "__main__":
    unittest.main()
