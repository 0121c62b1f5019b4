"""Slots and a tab: their sizes, the kerf that follows, and what a bench makes of them."""

import unittest

import numpy as np
import shapely

from rezept.bench.energy import Source
from rezept.core.errors import InvalidInput
from rezept.core.plan import read_plate
from tests.bench.test_material import POPLAR, burned
from tests.made import planned, trial_document

# A cut a good way from its limit, so that its width is the same all along.
SETTINGS = {"speed_mm_s": 20.0, "power_pct": 80.0}


def slots_trial(process="cut", **slots):
    return trial_document(
        process=process,
        axes=[],
        listed={"settings": [SETTINGS]},
        hold={"air_level": 1},
        patch={"shape": "slots", "slots": slots or None},
    )


class SlotsTest(unittest.TestCase):
    def test_every_slot_and_the_tab_are_as_wide_as_drawn(self):
        plate = planned(slots_trial(tab_mm=6, widths_mm=[5.2, 5.6, 5.9]))
        (patch,) = plate.document()["patches"]
        self.assertEqual((patch["width_mm"], patch["height_mm"]), (26.7, 21))
        comb, tab = sorted((shapely.Polygon(way) for way in plate.document()["figures"][0]["ways"]),
                           key=lambda one: -one.area)  # fmt: skip
        self.assertTrue(comb.is_valid)
        self.assertEqual(tab.bounds, (0, 0, 16, 6))
        ray = shapely.LineString([(-1, 20), (60, 20)]).difference(comb)
        inner = [part for part in shapely.get_parts(ray) if part.bounds[0] > 0 and part.bounds[2] < 26]
        np.testing.assert_allclose([part.length for part in inner], [5.2, 5.6, 5.9])
        # The corner beside the narrowest is cut off, the others are not.
        self.assertFalse(comb.intersects(shapely.Point(0, 9)))
        self.assertTrue(comb.intersects(shapely.Point(26.7, 9)))

    def test_the_kerf_follows_from_the_slot_that_fits(self):
        slots = planned(slots_trial(tab_mm=6, widths_mm=[5.2, 5.6, 5.9])).trial.patch.slots
        self.assertEqual([slots.kerf_mm(slot) for slot in (1, 2, 3)], [0.4, 0.2, 0.05])
        with self.assertRaisesRegex(InvalidInput, "slots 1 to 3"):
            slots.kerf_mm(4)

    def test_what_is_said_of_it_stays_and_what_is_not_follows_from_the_tab(self):
        plate = planned(slots_trial(tab_mm=8))
        self.assertEqual(plate.trial.patch.slots.widths_mm[0], 7.2)
        self.assertEqual(read_plate(plate.document()).trial.patch.slots, plate.trial.patch.slots)
        for slots, path in (
            ({"widths_mm": [4.2, 4.1]}, "patch.slots.widths_mm: Slots go from narrow to wide"),
            ({"widths_mm": []}, "1 to 20 widths"),
            ({"widths_mm": [1.0]}, r"patch.slots.widths_mm\[0\]"),
            ({"tab_mm": 0}, "patch.slots.tab_mm"),
        ):
            with self.subTest(slots=slots), self.assertRaisesRegex(InvalidInput, path):
                planned(slots_trial(**slots))
        with self.assertRaisesRegex(InvalidInput, "Only a patch of the shape slots"):
            planned(trial_document(patch={"slots": {"tab_mm": 5}}))

    def test_on_the_bench_the_slot_that_fits_tells_the_kerf(self):
        """Measured on what the bench burned: the opening nearest to the tab, and the width of the cut beside it."""
        plate = planned(slots_trial(tab_mm=5, widths_mm=[round(4.2 + 0.1 * i, 1) for i in range(8)]))
        result = burned(plate, source=Source(60, 10_600, spot_mm=0.18), cell=0.02)
        cell = result.grid.cell_mm
        element = plate.elements
        left, low = float(element.x_mm[0]), float(element.y_mm[0])
        # Where the beam went through; parts that fall open more than that.
        through = result.depth_mm >= POPLAR.thickness_mm

        def cuts(line):
            """Where each cut across a line of cells begins and ends, mm."""
            ends = np.flatnonzero(np.diff(np.concatenate([[0], line.astype(int), [0]])))
            return ends.reshape(-1, 2) * cell

        across = cuts(through[round((low + 19.0) / cell)])
        # The comb's own edges first and last, between them two cuts a slot: it opens from the outside of one to that of
        # the other.
        slots = across[2:-1:2, 1] - across[1:-1:2, 0]
        self.assertEqual(len(slots), 8)
        # The tab lies along; it is what stays between its two cuts.
        upward = cuts(through[:, round((left + 8.0) / cell)])
        tab = upward[1, 0] - upward[0, 1]
        kerf = float((upward[0, 1] - upward[0, 0] + upward[1, 1] - upward[1, 0]) / 2)
        fits = int(np.abs(slots - tab).argmin()) + 1
        self.assertGreater(kerf, 0.1)
        self.assertAlmostEqual(plate.trial.patch.slots.kerf_mm(fits), kerf, delta=0.05 / 2 + 2 * cell)


if __name__ == "__main__":
    unittest.main()
