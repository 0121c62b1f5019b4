"""Sheets, rings and patches in pictures that are drawn here with where they are."""

import unittest

import numpy as np
from PIL import Image, ImageDraw, ImageFilter
from scipy import ndimage

from rezept.core.path.shapes import shaped
from rezept.core.photo.course import course
from rezept.core.photo.find import by_outline
from rezept.core.photo.lattice import find_lattice
from rezept.core.photo.likeness import edges_seen, explains, hole_seen, shades_alike
from rezept.core.photo.marks import find_rings
from rezept.core.photo.outline import poses_by_outline, sheet_corners, sheet_outlines
from rezept.core.photo.pose import Pose, homography
from tests.made import planned, trial_document
from tests.photographed import marked_plate

SIZE = (1200, 900)
# Drawn so many times larger, so that edges fall between pixels.
FINER = 4
TABLE, SHEET = (70, 66, 62), (215, 190, 150)
CORNERS = np.array([(210.3, 160.6), (955.2, 140.4), (1010.8, 760.9), (180.1, 740.2)])


def drawn(polygons, table=TABLE, speckle=4.0, seed=3):
    """Polygons ``(corners, colour)`` on a table, a little blurred and noisy."""
    image = Image.new("RGB", (SIZE[0] * FINER, SIZE[1] * FINER), table)
    pen = ImageDraw.Draw(image)
    for corners, colour in polygons:
        # Pixel (0, 0) is the middle of the first one.
        pen.polygon([tuple((corner + 0.5) * FINER - 0.5) for corner in np.asarray(corners)], fill=colour)
    image = image.resize(SIZE, Image.Resampling.BOX).filter(ImageFilter.GaussianBlur(0.7))
    noise = np.random.default_rng(seed).normal(0, speckle, (SIZE[1], SIZE[0], 3))
    return np.clip(np.asarray(image) + noise, 0, 255).astype(np.uint8)


def off_px(found, corners=CORNERS):
    """How far each corner is from the nearest that was found."""
    return np.linalg.norm(found[:, None] - corners[None], axis=-1).min(axis=0)


class SheetTest(unittest.TestCase):
    def test_corners_to_a_pixel_or_two(self):
        found = sheet_corners(drawn([(CORNERS, SHEET)]))
        self.assertEqual(found.shape, (4, 2))
        self.assertLess(float(off_px(found).max()), 2.0)

    def test_holes_and_dark_patches_belong_to_it(self):
        patches = [(CORNERS.mean(axis=0) + np.array([(-90, -90), (90, -90), (90, 90), (-90, 90)]), (25, 25, 25))]
        self.assertLess(float(off_px(sheet_corners(drawn([(CORNERS, SHEET), *patches]))).max()), 2.0)

    def test_as_light_as_its_table_but_of_another_hue(self):
        grey, bluish = (80, 80, 80), (66, 80, 118)
        found = sheet_corners(drawn([(CORNERS, bluish)], table=grey))
        self.assertLess(float(off_px(found).max()), 3.0)

    def test_what_lies_against_it_is_no_part_of_it(self):
        """A card half as long as the side it lies against, and a seam of the table that runs into it."""
        card = np.array([(950.0, 250.0), (1180.0, 220.0), (1190.0, 560.0), (980.0, 580.0)])
        seam = np.array([(0.0, 450.0), (230.0, 446.0), (230.0, 450.0), (0.0, 454.0)])
        for colour in ((230, 230, 235), (40, 90, 160)):
            found = sheet_corners(drawn([(card, colour), (seam, (30, 28, 26)), (CORNERS, SHEET)]))
            self.assertLess(float(off_px(found).max()), 2.5)

    def test_nothing_there_and_what_reaches_the_edge_is_no_sheet(self):
        self.assertIsNone(sheet_corners(drawn([])))
        self.assertIsNone(sheet_corners(drawn([(CORNERS - (300.0, 0.0), SHEET)])))

    def test_a_corner_beyond_the_picture_is_where_its_sides_meet(self):
        cos, sin = np.cos(0.35), np.sin(0.35)
        middle = CORNERS.mean(axis=0)
        moved = (CORNERS - middle) * 0.9 @ np.array([[cos, sin], [-sin, cos]]) + middle
        moved[:, 1] -= moved[:, 1].min() + 9.0
        found = sheet_corners(drawn([(moved, SHEET)]))
        self.assertLess(float(off_px(found, moved).max()), 2.5)

    def test_an_odd_shape_is_no_sheet(self):
        inward = np.array([(200, 150), (1000, 150), (1000, 750), (600, 300), (200, 750)], float)
        self.assertIsNone(sheet_corners(drawn([(inward, SHEET)])))

    def test_no_side_of_no_length_is_laid_through_a_triangle(self):
        """A hull of three corners has no four sides to lay lines through."""
        picture = np.full((300, 400, 3), 200, np.uint8)
        picture[50:200, 60:210][np.tri(150, dtype=bool)] = 40
        with np.errstate(invalid="raise", divide="raise"):
            outlines = sheet_outlines(picture)
        for one in outlines:
            self.assertEqual(one.corners.shape, (4, 2))
            self.assertGreater(np.linalg.norm(np.roll(one.corners, -1, axis=0) - one.corners, axis=1).min(), 1.0)

    def test_the_ways_a_sheet_may_lie(self):
        square = np.array([(0.0, 0.0), (60.0, 0.0), (60.0, 60.0), (0.0, 60.0)])
        oblong = square * (1.0, 0.6)
        seen = np.array([(200.0, 700.0), (800.0, 700.0), (800.0, 100.0), (200.0, 100.0)])
        self.assertEqual(len(poses_by_outline(seen, square, SIZE, mirrored=False)), 4)
        low = seen * (1.0, 0.6)
        for mirrored in (False, True):
            ways = poses_by_outline(low, oblong, SIZE, mirrored)
            self.assertEqual(len(ways), 2)
            for way in ways:
                turned_over = np.linalg.det(way.matrix[:2, :2]) > 0
                self.assertEqual(turned_over, mirrored)
                self.assertLess(float(off_px(way.to_pixels(oblong), low).max()), 1e-6)


def straight(px_per_mm=10.0):
    """A plate's mm from 60 px on, seen from straight above."""
    high = SIZE[1] - 60.0
    return Pose(np.array([[px_per_mm, 0, 60.0], [0, -px_per_mm, high], [0, 0, 1.0]]), 0.0, SIZE)


class RingTest(unittest.TestCase):
    def ring(self, x, y, radius, thick=1.6):
        image = Image.new("L", (SIZE[0] * FINER, SIZE[1] * FINER), 200)
        at, outer = (np.array([x, y]) + 0.5) * FINER - 0.5, (radius + thick / 2) * FINER
        box = (*(at - outer), *(at + outer))
        ImageDraw.Draw(image).ellipse(box, outline=40, width=round(thick * FINER))
        grey = np.asarray(image.resize(SIZE, Image.Resampling.BOX), np.float32) / 255
        return grey + np.random.default_rng(1).normal(0, 0.01, grey.shape).astype(np.float32)

    def test_its_middle_to_a_fraction_of_a_pixel(self):
        pose = straight()
        for x, y in ((412.3, 398.8), (409.0, 402.5)):
            found = find_rings(self.ring(x, y, 15.0), pose, (35.0, 44.0), (1.5,), 2.0, lighter=False)
            self.assertAlmostEqual(found[0].pixels[0], x, delta=0.3)
            self.assertAlmostEqual(found[0].pixels[1], y, delta=0.3)
            self.assertTrue(len(found) == 1 or found[0].snr > 2 * found[1].snr)

    def test_none_where_none_is_or_beyond_the_picture(self):
        grey = self.ring(900.0, 200.0, 15.0)
        self.assertEqual(find_rings(grey, straight(), (35.0, 44.0), (1.5,), 2.0, lighter=False), [])
        self.assertEqual(find_rings(grey, straight(), (500.0, 500.0), (1.5,), 2.0, lighter=False), [])


class PatternTest(unittest.TestCase):
    """A plate of 5 x 4 whose patches are as dark as their dose, and a hole to hang it by."""

    @classmethod
    def setUpClass(cls):
        settings = {"speed_mm_s": 6, "power_pct": 90}
        cls.plate = marked_plate(labels={"on": False}, hang_hole_mm=5, cut_out=True, cut_settings=settings)
        cls.boxes = np.column_stack([cls.plate.elements.x_mm, cls.plate.elements.y_mm])
        share = np.argsort(np.argsort(cls.plate.judged.dose)) / len(cls.plate.judged.dose)
        cls.shades = [tuple(round(value * (1 - 0.8 * one)) for value in SHEET) for one in share]

    def picture(self, pose, hole=True, shift=(0.0, 0.0)):
        width, height = self.plate.width_mm, self.plate.height_mm
        box = np.array([(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)])
        polygons = [(pose.to_pixels(box * (width, height)), SHEET)]
        for corner, shade in zip(self.boxes, self.shades, strict=True):
            polygons.append((pose.to_pixels(corner + shift + box * 8.0), shade))
        if hole:
            turn = np.linspace(0, 2 * np.pi, 40)
            ring = np.array(self.plate.hang_hole) + 2.5 * np.column_stack([np.cos(turn), np.sin(turn)])
            polygons.append((pose.to_pixels(ring), TABLE))
        return drawn(polygons, speckle=2.0)

    def grey(self, rgb):
        return rgb.mean(axis=-1).astype(np.float32) / 255

    def turned(self, pose):
        """The same plate after half a turn."""
        half = np.array([[-1, 0, self.plate.width_mm], [0, -1, self.plate.height_mm], [0, 0, 1.0]])
        return Pose(pose.matrix @ half, 0.0, SIZE)

    def test_a_shift_of_all_patches_is_found_by_their_edges(self):
        pose, shift = straight(), np.array([0.32, -0.21])
        way = course(shaped("rectangle", 8.0, 8.0), 8.0, 8.0, cut=False)
        boxes = np.column_stack([self.boxes, np.full((len(self.boxes), 2), 8.0)])
        lattice = find_lattice(self.grey(self.picture(pose, shift=shift)), pose, boxes, way, 1.0, lighter=False)
        good = lattice.sharpness > 0
        # The palest are not to be seen.
        self.assertGreater(int(good.sum()), 12)
        moved = pose.to_mm(lattice.pixels[good]) - lattice.mm[good]
        np.testing.assert_allclose(np.median(moved, axis=0), shift, atol=0.04)

    def test_the_right_way_up_explains_more(self):
        pose = straight()
        grey = self.grey(self.picture(pose))
        right, wrong = pose, self.turned(pose)
        self.assertGreater(shades_alike(self.plate, grey, right), 2 * shades_alike(self.plate, grey, wrong))
        self.assertGreater(edges_seen(self.plate, grey, right), 0.6)
        self.assertGreater(hole_seen(self.plate, grey, right), 0.3)
        self.assertEqual(hole_seen(self.plate, grey, wrong), 0.0)
        self.assertGreater(explains(self.plate, grey, right), 2 * explains(self.plate, grey, wrong))

    def test_bare_ground_explains_nothing(self):
        bare = self.grey(drawn([(CORNERS, SHEET)], speckle=2.0))
        pose = Pose(homography(np.array([(0.0, 0), (60, 0), (60, 50), (0, 50)]), CORNERS[[3, 2, 1, 0]]), 0.0, SIZE)
        self.assertEqual(explains(self.plate, bare, pose), 0.0)

    def test_laid_by_its_outline_whichever_way_it_was_turned(self):
        places = self.boxes + 4.0
        for pose in (straight(), self.turned(straight())):
            rgb = self.picture(pose)
            laid = by_outline(self.plate, self.grey(rgb), rgb, mirrored=False)
            self.assertLess(float(np.linalg.norm(laid.pose.to_mm(pose.to_pixels(places)) - places, axis=1).max()), 0.1)
            self.assertEqual(laid.doubts, ())
            self.assertLess(laid.residual_mm, 0.3)


class LinePatternTest(unittest.TestCase):
    """A plate of 4 x 3 squares whose outlines alone are drawn, as dark as their dose: no code, no hole; their insides
    are bare, with grain as wood has."""

    @classmethod
    def setUpClass(cls):
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "values": [60, 120, 180, 240]},
            {"parameter": "power_pct", "along": "y", "values": [12, 18, 24]},
        ]
        patch = {"width_mm": 8, "height_mm": 8, "gap_mm": 3}
        cls.plate = planned(trial_document(process="line", axes=axes, patch=patch, labels={"on": False}))

    def picture(self, pose, seed):
        elements = self.plate.elements
        box = np.array([(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 1.0)])
        polygons = [(pose.to_pixels(box * (self.plate.width_mm, self.plate.height_mm)), SHEET)]
        share = np.argsort(np.argsort(self.plate.judged.dose)) / len(elements)
        for corner, one in zip(np.column_stack([elements.x_mm, elements.y_mm]), share, strict=True):
            shade = tuple(round(value * (0.75 - 0.6 * one)) for value in SHEET)
            polygons.append((pose.to_pixels(corner + box * 8.0), shade))
            polygons.append((pose.to_pixels(corner + 0.35 + box * 7.3), SHEET))
        rgb = drawn(polygons, speckle=2.0, seed=seed).astype(float)
        chance = np.random.default_rng(seed)
        grain = ndimage.gaussian_filter(chance.normal(size=SIZE[::-1]), (3, 40))
        return np.clip(rgb * (1 + 0.05 * grain / grain.std())[..., None], 0, 255).astype(np.uint8)

    def test_its_lines_tell_which_way_up_it_lies(self):
        width, height = self.plate.width_mm, self.plate.height_mm
        corners = np.array([(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
        upright = homography(corners, CORNERS[[3, 2, 1, 0]])
        half = np.array([[-1, 0, width], [0, -1, height], [0, 0, 1.0]])
        places = np.column_stack([self.plate.elements.x_mm, self.plate.elements.y_mm])
        for seed in range(3):
            for pose in (Pose(upright, 0.0, SIZE), Pose(upright @ half, 0.0, SIZE)):
                rgb = self.picture(pose, seed)
                with self.subTest(seed=seed):
                    laid = by_outline(self.plate, rgb.mean(axis=-1).astype(np.float32) / 255, rgb, mirrored=False)
                    off = np.linalg.norm(laid.pose.to_mm(pose.to_pixels(places)) - places, axis=1)
                    self.assertLess(float(off.max()), 0.3)
                    self.assertEqual(laid.doubts, ())


if __name__ == "__main__":
    unittest.main()
