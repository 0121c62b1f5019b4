"""What the bench's sheets and camera do: cuts, order, lots, marks, oxide, photographs that agree with their truth."""

import dataclasses
import io
import math
import unittest

import numpy as np
from PIL import Image

from rezept.bench.camera import Shot, bowed, photograph
from rezept.bench.controller import Setup
from rezept.bench.energy import Grid, Source, sampled
from rezept.bench.film import film_colours, reflectance
from rezept.bench.material import Sheet, burn, warmth
from rezept.bench.motion import Mechanics
from rezept.bench.response import SUBSTANCES
from rezept.formats.gcode import write_gcode
from tests.bench.test_controller import ran
from tests.made import HERON, area_document, planned, token_document, trial_document

SOURCE = Source(60, 10_600, firing_floor_pct=9, spot_mm=0.18)
POPLAR = Sheet("poplar", 3.7, (0.76, 0.62, 0.38), (0.02, 0.01, 0.01))
SMALL = {"shape": "rectangle", "width_mm": 6, "height_mm": 6, "gap_mm": 3}


def burned(plate, sheet=POPLAR, source=SOURCE, cell=0.05):
    controller = ran(write_gcode(plate))
    grid = Grid.over((0, 0), (plate.width_mm, plate.height_mm), cell)
    return burn(sheet, sampled(controller.stretches, source, cell / 2), source, grid)


def patch_of(result, plate, name, inset=0.0):
    """The cells of a patch."""
    i, cell = plate.elements.ids.index(name), result.grid.cell_mm
    low = np.array([plate.elements.y_mm[i], plate.elements.x_mm[i]]) + inset
    high = low + (plate.trial.patch.height_mm, plate.trial.patch.width_mm) - 2 * np.array(inset)
    (r0, c0), (r1, c1) = np.round(low / cell).astype(int), np.round(high / cell).astype(int)
    return slice(r0, r1), slice(c0, c1)


class EnergyTest(unittest.TestCase):
    def test_all_of_it_lies_on_the_raster(self):
        plate = planned(trial_document(patch=SMALL))
        controller = ran(write_gcode(plate))
        samples = sampled(controller.stretches, SOURCE, 0.02)
        seconds = sum(stretch.seconds for stretch in controller.stretches if stretch.beam > 0)
        lengths = sum(stretch.length_mm for stretch in controller.stretches if stretch.beam > 0)
        self.assertAlmostEqual(lengths, 12 * 24, places=3)
        self.assertGreater(seconds, 0)
        grid = Grid.over((-2, -2), (plate.width_mm + 2, plate.height_mm + 2), 0.05)
        index, inside = grid.index(samples.points)
        self.assertTrue(inside.all())
        self.assertAlmostEqual(np.bincount(index, samples.energy_j).sum(), samples.energy_j.sum())
        for i, pct in ((0, 30), (4, 55), (8, 80)):
            mine = [s for s in controller.stretches if s.beam == pct * 10 and s.asked_mm_s == 8]
            power_s = 60 * pct / 100 * sum(s.seconds for s in mine)
            self.assertAlmostEqual(sampled(mine, SOURCE, 0.02).energy_j.sum() / power_s, 1.0, places=2)
            self.assertEqual(plate.judged.settings["power_pct"][i], pct)

    def test_the_spot_grows_out_of_focus_as_rayleigh_says(self):
        z = SOURCE.rayleigh_mm
        self.assertAlmostEqual(z, math.pi * 0.18**2 / (4 * 1.3 * 10_600e-6))
        np.testing.assert_allclose(SOURCE.spot_at(np.array([0.0, z])), [0.18, 0.18 * math.sqrt(2)])


class CutTest(unittest.TestCase):
    def test_strong_ones_fall_out_weak_ones_hold_and_in_between_are_bridges(self):
        plate = planned(trial_document(patch=SMALL, hold={"air_level": 1}))
        result = burned(plate)
        shares = {name: result.open[patch_of(result, plate, name, 0.6)].mean() for name in plate.elements.ids}
        for name, dose in zip(plate.elements.ids, plate.judged.dose.tolist(), strict=True):
            if dose > 2.4:
                self.assertEqual(shares[name], 1.0, f"{name} at {dose:.2f} J/mm falls out")
            if dose < 1.1:
                self.assertEqual(shares[name], 0.0, f"{name} at {dose:.2f} J/mm holds")
        self.assertLessEqual(set(shares.values()), {0.0, 1.0})

    def test_depth_grows_with_passes_and_falls_out_of_focus(self):
        one = {"axes": [{"parameter": "speed_mm_s", "along": "x", "values": [30]}], "patch": SMALL}
        hold = {"power_pct": 40, "air_level": 1}
        deepest = []
        for passes in (1, 2):
            plate = planned(trial_document(**one, hold={**hold, "passes": passes}))
            depth = burned(plate).depth_mm
            # Along the straights: corners get more, since the head slows there.
            rows, _ = patch_of(burned(plate), plate, "A1", 1.5)
            deepest.append(float(np.median(depth[rows].max(axis=1))))
        self.assertGreater(deepest[1], 1.5 * deepest[0])
        wide = dataclasses.replace(SOURCE, spot_mm=0.4)
        plate = planned(trial_document(**one, hold=hold))
        self.assertLess(burned(plate, source=wide).depth_mm.max(), 0.7 * burned(plate).depth_mm.max())

    def test_lots_need_more_or_less(self):
        plate = planned(trial_document(patch=SMALL))
        usual, hard = (burned(plate, dataclasses.replace(POPLAR, lot=lot)) for lot in (1.0, 1.12))
        self.assertLess(hard.depth_mm.sum(), usual.depth_mm.sum())

    def test_the_same_seed_gives_the_same_sheet(self):
        plate = planned(trial_document(patch=SMALL))
        one, two = burned(plate), burned(plate)
        np.testing.assert_array_equal(one.front, two.front)
        other = burned(plate, dataclasses.replace(POPLAR, seed=2))
        self.assertGreater(float(np.abs(one.front - other.front).mean()), 1e-4)

    def test_order_matters_neighbours_in_a_row_are_warmer_than_scattered_ones(self):
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "values": [10, 10.5, 11, 11.5]},
            {"parameter": "power_pct", "along": "y", "values": [60, 62, 64, 66]},
        ]
        heat = {}
        for order in ("rows", "scattered"):
            plate = planned(trial_document(axes=axes, patch={**SMALL, "gap_mm": 1}, order=order))
            heat[order] = warmth(sampled(ran(write_gcode(plate)).stretches, SOURCE, 0.05)).mean()
        self.assertGreater(heat["rows"], 1.1 * heat["scattered"])


class MarkTest(unittest.TestCase):
    def shade(self, power, sheet=POPLAR, **hold):
        document = area_document(
            axes=[{"parameter": "power_pct", "along": "x", "values": power}],
            hold={"speed_mm_s": 150, "line_spacing_mm": 0.15, "air_level": 1, **hold},
        )
        plate = planned(document)
        result = burned(plate, sheet)
        return [float(result.front[patch_of(result, plate, name, 1.0)][..., 1].mean()) for name in plate.elements.ids]

    def test_it_darkens_saturates_and_turns_to_ash(self):
        shades = self.shade([10, 20, 40, 80])
        self.assertEqual(shades, sorted(shades, reverse=True))
        self.assertGreater(shades[0] - shades[1], shades[2] - shades[3], "it saturates")
        [ash] = self.shade([80], speed_mm_s=50)
        self.assertGreater(ash, 2 * shades[3], "too much turns to ash, which is paler")

    def test_light_marking_materials_get_lighter(self):
        slate = Sheet("slate", 5, (0.05, 0.055, 0.06), (0.6, 0.6, 0.58), lighter=True)
        shades = self.shade([15, 30, 60], slate)
        self.assertEqual(shades, sorted(shades))
        self.assertGreater(shades[-1], 0.15)

    def test_a_dozen_materials_each_answer(self):
        self.assertGreaterEqual(len(SUBSTANCES), 12)
        for made in SUBSTANCES.values():
            with self.subTest(made.name):
                self.assertGreater(made.ash_j_mm2, made.dark_j_mm2)
                self.assertTrue(all(0 < share < 1 for share in made.absorbs.values()))


class FilmTest(unittest.TestCase):
    def test_a_bare_metal_reflects_as_fresnel_says(self):
        """|(1 - n) / (1 + n)|^2 with n the metal's own index."""
        metal = 2.6 + 3.6j
        want = abs((1 - metal) / (1 + metal)) ** 2
        np.testing.assert_allclose(reflectance(np.zeros(1), 2.3, metal), want, rtol=1e-12)

    def test_the_first_dark_fringe_lies_where_half_a_wave_says(self):
        """A film on a perfect mirror of the opposite phase is darkest where 2 n d is a whole wave apart: the minima of
        two thicknesses at one wavelength lie lambda / (2 n) apart."""
        thickness = np.arange(0.0, 400.0, 0.5)
        at_600 = reflectance(thickness, 2.3, 2.6 + 3.6j)[:, 20]
        low = thickness[1:-1][(at_600[1:-1] < at_600[:-2]) & (at_600[1:-1] < at_600[2:])]
        self.assertAlmostEqual(low[1] - low[0], 600 / (2 * 2.3), delta=1.0)

    def test_straw_before_blue(self):
        colours = film_colours()
        straw = next(i for i, (r, _, b) in enumerate(colours) if r > 1.5 * b)
        blue = next(i for i, (r, _, b) in enumerate(colours) if b > 1.5 * r)
        self.assertLess(straw, blue)


class OxideTest(unittest.TestCase):
    def test_colour_follows_dose_and_frequency(self):
        """Two blocks of frequency, three doses each: every patch another colour."""
        document = token_document(
            machine={**HERON, "hears_settings": True},
            hold={"power_pct": 40, "line_spacing_mm": 0.05},
            axes=[
                {"parameter": "speed_mm_s", "along": "x", "values": [200, 400, 800]},
                {"parameter": "frequency_khz", "along": "y", "values": [60, 400]},
            ],
            patch={"width_mm": 4, "height_mm": 4, "gap_mm": 2},
        )
        plate = planned(document)
        mechanics = Mechanics(galvo=True, travel_speed_mm_s=4000, max_speed_mm_s=4000, field_mm=(110, 110))
        controller = ran(write_gcode(plate), Setup(mechanics))
        half = np.array([plate.width_mm, plate.height_mm]) / 2
        grid = Grid.over(-half, half, 0.05)
        lid = Sheet("stainless", 0.4, (0.55, 0.55, 0.56), (0.1, 0.1, 0.1), bed_mm=0.0)
        source = Source(30, 1064, spot_mm=0.06)
        result = burn(lid, sampled(controller.stretches, source, 0.025), source, grid)
        colours = np.array(
            [
                np.median(result.front[patch_of(result, plate, name, 0.8)].reshape(-1, 3), axis=0)
                for name in plate.elements.ids
            ]
        )
        away = np.linalg.norm(colours[:, None] - colours[None, :], axis=-1) + np.eye(len(colours))
        self.assertGreater(float(away.min()), 0.01)


class CameraTest(unittest.TestCase):
    """The truth beside a photograph says where things are in it."""

    @classmethod
    def setUpClass(cls):
        cls.plate = planned(trial_document(patch=SMALL, hold={"air_level": 1}))
        cls.result = burned(cls.plate, cell=0.1)

    def taken(self, face="front", **how):
        shot = Shot(size=(1000, 750), noise=0.002, blur_px=0.0, **how)
        photo = photograph(self.result, face, shot)
        return photo, np.asarray(Image.open(io.BytesIO(photo.jpeg)).convert("L"), float), shot

    def pixel(self, photo, shot, x, y):
        at = photo.homography @ (x, y, 1.0)
        return bowed((at[:2] / at[2])[None], shot.size, photo.bow)[0]

    def test_openings_are_dark_where_the_homography_puts_them(self):
        for how in ({}, {"tilt_deg": 30.0, "towards_deg": 130.0, "turn_deg": 12.0, "bow": 0.03}):
            for face in ("front", "back"):
                photo, grey, shot = self.taken(face, **how)
                for name, dark in (("C1", True), ("A4", False)):
                    i = self.plate.elements.ids.index(name)
                    x, y = self.plate.elements.x_mm[i] + 3, self.plate.elements.y_mm[i] + 3
                    if face == "back":
                        x = self.result.grid.shape[1] * self.result.grid.cell_mm - x
                    column, row = np.round(self.pixel(photo, shot, x, y)).astype(int)
                    with self.subTest(f"{name} {face} {how}"):
                        around = grey[row - 2 : row + 3, column - 2 : column + 3].mean()
                        self.assertEqual(around < 70, dark, around)

    def test_it_is_a_jpeg_of_the_size_asked_for_and_always_the_same(self):
        photo, grey, _ = self.taken()
        self.assertEqual(grey.shape, (750, 1000))
        self.assertEqual(photo.jpeg, self.taken()[0].jpeg)
        self.assertEqual(set(photo.truth()), {"face", "homography_mm_to_px", "bow_k1"})

    def test_by_hand_differs_from_time_to_time(self):
        self.assertEqual(Shot.by_hand(4), Shot.by_hand(4))
        self.assertNotEqual(Shot.by_hand(4).turn_deg, Shot.by_hand(5).turn_deg)
        self.assertEqual(Shot.by_hand(4, tilt_deg=35.0).tilt_deg, 35.0)

    def test_light_falls_off_and_the_curve_bends(self):
        flat = self.taken(fall_off=0.0, vignette=0.0, s_curve=0.0)[1]
        self.assertLess(self.taken(fall_off=0.5, vignette=0.0, s_curve=0.0)[1].mean(), flat.mean())
        bent = self.taken(fall_off=0.0, vignette=0.0, s_curve=0.3)[1]
        self.assertGreater(bent.std(), flat.std())

    def test_a_card_lies_below_it(self):
        card = np.full((100, 300), 0.8, np.float32)
        with_card, without = self.taken(card=card, filling=0.6)[1], self.taken(filling=0.6)[1]
        changed = np.abs(with_card - without) > 60
        self.assertGreater(changed.mean(), 0.005)
        self.assertGreater(np.flatnonzero(changed.any(axis=1)).min(), 375, "below the middle of the picture")


if __name__ == "__main__":
    unittest.main()
