"""Figures of patches, taken from flat pictures that are drawn here with what has to come out."""

import unittest

import numpy as np
from scipy import ndimage

from rezept.core.colour import linear_to_srgb
from rezept.core.path.shapes import shaped
from rezept.core.photo.card import PLAIN_CURVE
from rezept.core.photo.course import course, course_of
from rezept.core.photo.figures import COLUMNS, figures_of, figures_of_rows
from rezept.core.photo.flat import Flat, ground_of
from rezept.core.photo.measure import measure
from rezept.core.photo.score import holding_mm, scored
from rezept.core.plan import Plate
from rezept.core.reading import SURE
from rezept.store.photos import FIGURES
from tests.made import planned, trial_document
from tests.photographed import marked_plate

STEP = 0.05
GROUND = np.array([0.6, 0.5, 0.35])


class Drawn:
    """A plate seen from straight above, bare at first, in linear light; places in mm, y up."""

    def __init__(self, plate: Plate, light=GROUND) -> None:
        self.plate = plate
        rows, columns = int(np.ceil(plate.height_mm / STEP)), int(np.ceil(plate.width_mm / STEP))
        self.light = np.broadcast_to(np.asarray(light, float), (rows, columns, 3)).copy()

    def box(self, name):
        i = self.plate.elements.ids.index(name)
        patch = self.plate.trial.patch
        return float(self.plate.elements.x_mm[i]), float(self.plate.elements.y_mm[i]), patch.width_mm, patch.height_mm

    def fill(self, x, y, width, height, share):
        rows = slice(round(y / STEP), round((y + height) / STEP))
        columns = slice(round(x / STEP), round((x + width) / STEP))
        self.light[rows, columns] *= share

    def slit(self, name, width_mm, share=0.02, sides=4):
        """A slit centred on so many sides of a patch's outline: bottom, top, left, right."""
        x, y, w, h = self.box(name)
        half = width_mm / 2
        for box in ((x, y - half, w, width_mm), (x, y + h - half, w, width_mm), (x - half, y, width_mm, h),
                    (x + w - half, y, width_mm, h))[:sides]:  # fmt: skip
            self.fill(*box, share)

    def flat(self):
        pixels = np.round(255 * linear_to_srgb(np.clip(self.light, 0, 1))).astype(np.uint8)
        return Flat(pixels, STEP, PLAIN_CURVE)

    def measured(self):
        return measure(self.plate, self.flat())[0]


def at(plate, values, name):
    return values[plate.elements.ids.index(name)]


class MarkTest(unittest.TestCase):
    plate = marked_plate(
        process="area",
        axes=[{"parameter": "power_pct", "along": "x", "values": [10, 20, 40, 70]}],
        hold={"speed_mm_s": 200, "line_spacing_mm": 0.15, "air_level": 1},
    )

    def filled(self, light=GROUND):
        drawn = Drawn(self.plate, light)
        for name, share in zip(self.plate.elements.ids, (1.0, 0.6, 0.3, 0.1), strict=True):
            drawn.fill(*drawn.box(name), share)
        return drawn

    def test_the_ratio_to_the_ground_whatever_the_light(self):
        rows, columns = Drawn(self.plate).light.shape[:2]
        y, x = np.mgrid[-1 : 1 : rows * 1j, -1 : 1 : columns * 1j]
        uneven = GROUND * np.exp(0.2 * x - 0.15 * y - 0.1 * x * y)[..., None]
        for light in (GROUND, uneven):
            measured = self.filled(light).measured()
            np.testing.assert_allclose(measured.luminance, (1.0, 0.6, 0.3, 0.1), rtol=0.03)
            self.assertFalse(measured.glare.any() or measured.shadow.any() or measured.blur.any())

    def test_an_even_patch_is_even_and_stripes_are_banding(self):
        drawn = self.filled()
        x, y, w, h = drawn.box("A3")
        for k in range(8):
            drawn.fill(x, y + k * h / 8, w, h / 16, 0.6)
        measured = drawn.measured()
        self.assertLess(at(self.plate, measured.banding, "A2"), 0.02)
        self.assertGreater(at(self.plate, measured.banding, "A3"), 0.15)
        scores = scored(self.plate, figures_of(self.plate, measured), None)
        self.assertEqual(at(self.plate, scores.evenness, "A2"), 3)
        self.assertLess(at(self.plate, scores.evenness, "A3"), 2)

    def test_glare_and_a_shadow_to_one_side_are_flagged_where_they_are(self):
        drawn = self.filled()
        x, y, w, h = drawn.box("A2")
        drawn.light[round((y + 3) / STEP) : round((y + 6) / STEP), round((x + 3) / STEP) : round((x + 6) / STEP)] = 1.0
        x, y, w, h = drawn.box("A4")
        drawn.fill(x + w, y - 2, 4, h + 4, 0.4)
        measured = drawn.measured()
        self.assertEqual([self.plate.elements.ids[i] for i in np.flatnonzero(measured.glare)], ["A2"])
        self.assertIn("A4", [self.plate.elements.ids[i] for i in np.flatnonzero(measured.shadow)])
        sure = scored(self.plate, figures_of(self.plate, measured), None).confidence
        self.assertLess(at(self.plate, sure, "A2"), 0.61)

    def test_lightness_on_the_grounds_known_colour(self):
        """L* = 116 Y^(1/3) - 16 of the ratio times the ground's Y (CIE 15)."""
        figures = figures_of(self.plate, self.filled().measured())
        ground_y = ((self.plate.trial.material.ground_lab[0] + 16) / 116) ** 3
        expected = 116 * np.cbrt(np.array([1.0, 0.6, 0.3, 0.1]) * ground_y) - 16
        np.testing.assert_allclose(figures.lightness, expected, atol=0.8)
        np.testing.assert_allclose(figures.contrast, expected - self.plate.trial.material.ground_lab[0], atol=0.8)

    def test_figures_come_back_from_their_rows(self):
        figures = figures_of(self.plate, self.filled().measured())
        rows = {patch: figures.row(i) for i, patch in enumerate(self.plate.elements.ids)}
        again = figures_of_rows(self.plate, rows)
        for key in COLUMNS:
            np.testing.assert_allclose(getattr(again, key), getattr(figures, key), atol=0.006, err_msg=key)
        self.assertEqual(again.flags, figures.flags)

    def test_the_store_keeps_every_column_there_is(self):
        self.assertEqual(FIGURES, COLUMNS)


class CutTest(unittest.TestCase):
    plate = marked_plate()

    def test_slits_of_known_width(self):
        drawn = Drawn(self.plate)
        for name, width in (("A1", 0.1), ("A2", 0.2), ("A3", 0.3)):
            drawn.slit(name, width)
        measured = drawn.measured()
        for name, width in (("A1", 0.1), ("A2", 0.2), ("A3", 0.3)):
            self.assertAlmostEqual(at(self.plate, measured.kerf_mm, name), width, delta=0.04)
            self.assertGreater(at(self.plate, measured.open_outline, name), 0.95)
        self.assertEqual(at(self.plate, measured.open_outline, "B1"), 0.0)
        self.assertTrue(np.isnan(at(self.plate, measured.kerf_mm, "B1")))

    def test_a_blurred_slit_takes_as_much_light(self):
        drawn = Drawn(self.plate)
        drawn.slit("A1", 0.1)
        soft = Drawn(self.plate)
        # A tenth of a millimetre of black spread over three.
        soft.slit("A1", 0.3, share=1 - 0.98 / 3)
        sharp, blurred = (at(self.plate, one.measured().kerf_mm, "A1") for one in (drawn, soft))
        self.assertAlmostEqual(sharp, blurred, delta=0.02)

    def test_broad_grain_along_an_outline_is_no_slit_that_one_is_sure_of(self):
        drawn = Drawn(self.plate)
        rng = np.random.default_rng(5)
        across = ndimage.gaussian_filter1d(rng.standard_normal(len(drawn.light)), 0.5 / STEP)
        drawn.light *= (1 + 0.05 * across / across.std())[:, None, None]
        drawn.slit("A1", 0.3)
        figures = figures_of(self.plate, drawn.measured())
        scores = scored(self.plate, None, figures)
        bare = np.array([name != "A1" for name in self.plate.elements.ids])
        sure = scores.confidence >= SURE
        self.assertFalse((bare & sure & (scores.through > 0)).any())
        self.assertEqual(at(self.plate, scores.through, "A1"), 2)

    def test_light_that_falls_off_steeply_is_no_slit(self):
        drawn = Drawn(self.plate)
        drawn.light *= np.linspace(1, 0.4, drawn.light.shape[1])[None, :, None]
        measured = drawn.measured()
        self.assertEqual(float(np.nanmax(measured.open_outline)), 0.0)
        self.assertEqual(float(np.nanmax(measured.outline_unsure)), 0.0)

    def test_half_of_the_outline_and_the_bridge_that_holds(self):
        drawn = Drawn(self.plate)
        drawn.slit("A1", 0.15, sides=2)
        measured = drawn.measured()
        self.assertAlmostEqual(at(self.plate, measured.open_outline, "A1"), 0.5, delta=0.07)
        self.assertAlmostEqual(at(self.plate, measured.bridge_mm, "A1"), 8.0, delta=0.8)
        scores = scored(self.plate, None, figures_of(self.plate, measured))
        self.assertEqual([at(self.plate, scores.through, name) for name in ("A1", "B1")], [1, 0])

    def test_fallen_out_the_hole_reaches_beyond_the_outline_by_half_the_kerf(self):
        drawn = Drawn(self.plate)
        x, y, w, h = drawn.box("A1")
        drawn.fill(x - 0.1, y - 0.1, w + 0.2, h + 0.2, 0.02)
        measured = drawn.measured()
        self.assertEqual(at(self.plate, measured.open_inside, "A1"), 1.0)
        self.assertAlmostEqual(at(self.plate, measured.kerf_mm, "A1"), 0.2, delta=0.06)
        self.assertEqual(at(self.plate, measured.bridge_mm, "A1"), 0.0)
        scores = scored(self.plate, None, figures_of(self.plate, measured))
        self.assertEqual(at(self.plate, scores.through, "A1"), 3)
        self.assertGreater(at(self.plate, scores.confidence, "A1"), 0.9)
        # After parts had been pushed out an opening says nothing; what is still in was not through.
        after = scored(self.plate, None, figures_of(self.plate, measured), {"back"})
        self.assertTrue(np.isnan([at(self.plate, after.through, "A1"), at(self.plate, after.confidence, "A1")]).all())
        self.assertEqual(at(self.plate, after.through, "B1"), at(self.plate, scores.through, "B1"))

    def test_a_halo_of_known_width(self):
        drawn = Drawn(self.plate)
        x, y, w, h = drawn.box("B2")
        drawn.fill(x - 0.8, y - 0.8, w + 1.6, h + 1.6, 0.78)
        drawn.slit("B2", 0.2)
        measured = drawn.measured()
        self.assertAlmostEqual(at(self.plate, measured.halo_mm, "B2"), 0.7, delta=0.15)
        self.assertEqual(at(self.plate, measured.halo_mm, "A1"), 0.0)


class GroundTest(unittest.TestCase):
    def test_letters_on_the_ground_count_little(self):
        drawn = Drawn(marked_plate())
        rng = np.random.default_rng(3)
        for x, y in rng.uniform(2, 50, (60, 2)).tolist():
            drawn.fill(x, min(y, drawn.plate.height_mm - 1), 0.6, 0.3, 0.2)
        flat = drawn.flat()
        size = (drawn.plate.width_mm, drawn.plate.height_mm)
        boxes = np.array([drawn.box(name) for name in drawn.plate.elements.ids])
        ground = ground_of(flat, size, boxes, 0.9)
        places = np.array([(5.0, 5.0), (30.0, 20.0), (size[0] - 5, size[1] - 5)])
        np.testing.assert_allclose(ground.at(places), np.tile(GROUND[:, None], 3), rtol=0.02)


class CourseTest(unittest.TestCase):
    def test_points_lie_on_the_outline_and_normals_point_outward(self):
        way = course(shaped("disc", 8.0, 8.0), 8.0, 8.0, cut=False)
        np.testing.assert_allclose(np.linalg.norm(way.points - 4, axis=1), 4.0, atol=0.03)
        np.testing.assert_allclose(way.outward, (way.points - 4) / 4, atol=0.08)
        self.assertLess(np.linalg.norm(way.inside - 4, axis=1).max(), 3.0)

    def test_a_coupons_hole_is_not_its_inside(self):
        way = course(shaped("coupon", 10.0, 10.0), 10.0, 10.0, cut=True)
        hole = np.array([5.5, 4.6])
        self.assertGreater(np.linalg.norm(way.inside - hole, axis=1).min(), 1.5)
        self.assertFalse(course(shaped("lettering", 10.0, 10.0, "Ag5"), 10.0, 10.0, cut=True).closed)


class HoldingTest(unittest.TestCase):
    def test_a_part_that_is_partly_cut_holds_by_its_longest_bridge(self):
        for bridge, outline, inside, holds in (
            (2.4, 0.5, 0.0, 2.4), (2.4, 0.05, 0.0, None), (2.4, 0.9, 0.6, None), (0.6, 0.9, 0.0, None),
            (None, None, None, None), (32.0, None, None, None),
        ):  # fmt: skip
            self.assertEqual(holding_mm(bridge, outline, inside), holds, (bridge, outline, inside))


class NarrowTest(unittest.TestCase):
    def test_parts_that_are_narrow_all_along_are_known_as_that_and_corners_are_not(self):
        letters = {"shape": "lettering", "text": "Ida", "letters": "outlines", "width_mm": 30, "height_mm": 14}
        for patch, narrow in (
            ({"shape": "slots"}, True),
            (letters, True),
            ({"width_mm": 20, "height_mm": 2}, True),
            ({"shape": "proof", "width_mm": 40, "height_mm": 30}, False),
            ({"width_mm": 4, "height_mm": 4}, False),
            ({"shape": "disc", "width_mm": 6, "height_mm": 6}, False),
            ({"shape": "coupon", "width_mm": 10, "height_mm": 10}, False),
        ):
            with self.subTest(patch=patch):
                axes = [{"parameter": "speed_mm_s", "along": "x", "values": [10, 20]}]
                plate = planned(trial_document(hold={"power_pct": 70}, axes=axes, patch=patch))
                self.assertEqual(course_of(plate).narrow, narrow)


if __name__ == "__main__":
    unittest.main()
