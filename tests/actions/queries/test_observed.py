"""What burns say with what photographs measured of them, in the demo shop."""

import unittest

import numpy as np

from rezept.actions.commands import people, reading
from rezept.actions.queries.observed import measured, observed
from rezept.core.scales import lightness_unsure_by_eye
from rezept.store import photos as photo_table
from tests.demo_copy import open_demo

CUT, MARK = 2, 3


class MeasuredTest(unittest.TestCase):
    def setUp(self):
        self.shop = open_demo(self.addCleanup)
        self.keeper = people.first_keeper(self.shop)

    def of(self, burn, what=measured):
        with self.shop.database.reading() as db:
            return what(db, burn).seen

    def figures(self, burn):
        with self.shop.database.reading() as db:
            front = photo_table.read_by(photo_table.photos_of(db, burn))["front"]
            return photo_table.figures(db, front["id"], 1)

    def test_the_kerf_of_a_cut_is_the_photos_where_no_callipers_were(self):
        figures = self.figures(CUT)
        patch = next(name for name, row in figures.items() if row["kerf_mm"] is not None and not row["flags"])
        seen = self.of(CUT)
        at = seen.element.index(patch)
        self.assertEqual(seen.others["kerf_mm"][at], figures[patch]["kerf_mm"])
        before = next(row for row in self.readings() if row["patch"] == patch and row["face"] == "back")
        values = {"through": int(before["values"]["through"]), "kerf_mm": 0.44}
        reading.score(self.shop, self.keeper, CUT, patch, before["edit"], {"values": values})
        self.assertEqual(self.of(CUT).others["kerf_mm"][at], 0.44)

    def readings(self):
        with self.shop.database.reading() as db:
            return observed(db, CUT).readings

    def test_a_mark_is_as_light_as_measured_and_as_sure(self):
        figures, seen = self.figures(MARK), self.of(MARK)
        told = [i for i, name in enumerate(seen.element) if name in figures and not figures[name]["flags"]]
        self.assertGreater(len(told), 10)
        for key in ("lightness", "a", "b"):
            np.testing.assert_allclose(
                seen.others[key][told], [figures[seen.element[i]][key] for i in told], err_msg=key
            )
        np.testing.assert_allclose(
            seen.unsure["lightness"][told], [figures[seen.element[i]]["lightness_unsure"] for i in told]
        )

    def test_without_a_photo_an_eye_tells_by_steps(self):
        with self.shop.database.writing() as db:
            db.execute("UPDATE plate_photo SET removed = 1")
        seen = self.of(MARK)
        read = ~np.isnan(seen.others["lightness"])
        self.assertTrue(read.any())
        self.assertTrue(np.isnan(seen.others["a"]).all())
        ground = float(self.ground())
        np.testing.assert_allclose(seen.unsure["lightness"][read], lightness_unsure_by_eye(ground, "darker"))

    def ground(self):
        with self.shop.database.reading() as db:
            return measured(db, MARK).plate.trial.material.ground_lab[0]


if __name__ == "__main__":
    unittest.main()
