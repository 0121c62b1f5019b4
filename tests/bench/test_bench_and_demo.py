"""The made-up bench, and the demo shop that is built from it."""

import tempfile
import time
import unittest
from pathlib import Path
from random import Random

from rezept.actions.commands import safekeeping
from rezept.actions.members import ROLES
from rezept.actions.open_shop import open_shop
from rezept.actions.queries import asking, views, wall
from rezept.bench.response import SUBSTANCES, Beam, cut, mark
from rezept.core.recipe import STANDINGS
from rezept.demo import build_demo
from rezept.store import people

BEAM = Beam(60.0, 10_600.0, 9.0)


def calm(name):
    """A substance without grain, so that outcomes depend on the settings alone."""
    from dataclasses import replace

    return replace(SUBSTANCES[name], grain=1e-9)


class ResponseTest(unittest.TestCase):
    def test_slower_never_cuts_worse(self):
        for name in (name for name, one in SUBSTANCES.items() if one.cut_j_mm2 is not None):
            through = [
                cut(calm(name), BEAM, 4.0, {"speed_mm_s": v, "power_pct": 60.0, "air_level": 1.0}, Random(1))["through"]
                for v in range(2, 120, 2)
            ]
            with self.subTest(name):
                self.assertEqual(through, sorted(through, reverse=True))
                self.assertEqual((through[0], through[-1]), (3, 0))

    def test_nothing_happens_below_the_firing_floor(self):
        weak = {"speed_mm_s": 1.0, "power_pct": 8.0, "line_spacing_mm": 0.1}
        self.assertEqual(cut(calm("poplar"), BEAM, 4.0, weak, Random(1))["through"], 0)
        self.assertEqual(mark(calm("poplar"), BEAM, weak, Random(1))["darkness"], 0)

    def test_thicker_needs_more(self):
        settings = {"speed_mm_s": 20.0, "power_pct": 70.0, "air_level": 1.0}
        thin, thick = (cut(calm("poplar"), BEAM, t, settings, Random(1))["through"] for t in (3.0, 9.0))
        self.assertGreater(thin, thick)

    def test_equal_dose_is_nearly_equal_but_not_quite(self):
        """Twice the speed at twice the power: the same dose, and a little less effect."""
        need = [
            next(
                p
                for p in range(10, 100)
                if cut(
                    calm("poplar"), BEAM, 4.0, {"speed_mm_s": v, "power_pct": float(p), "air_level": 1.0}, Random(1)
                )["through"]
                == 3
            )
            for v in (10.0, 20.0)
        ]
        self.assertGreater(need[1], 2 * need[0] - 2)
        self.assertLess(need[1], 2.4 * need[0])

    def test_a_blue_diode_does_not_mark_clear_plastic(self):
        diode = Beam(12.0, 450.0, 2.0)
        settings = {"speed_mm_s": 60.0, "power_pct": 80.0, "line_spacing_mm": 0.1}
        self.assertEqual(mark(calm("acrylic"), diode, settings, Random(1))["darkness"], 0)

    def test_the_same_seed_gives_the_same_grain(self):
        settings = {"speed_mm_s": 25.0, "power_pct": 60.0, "air_level": 1.0}
        runs = [[cut(SUBSTANCES["felt"], BEAM, 3.0, settings, Random(5)) for _ in range(5)] for _ in range(2)]
        self.assertEqual(runs[0], runs[1])


class DemoTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def built(self, name):
        build_demo(self.folder / name)
        shop = open_shop(self.folder / name)
        self.addCleanup(shop.close)
        return shop

    def dump(self, shop):
        with shop.database.reading() as db:
            return "\n".join(db.iterdump())

    def test_always_the_same_shop(self):
        self.assertEqual(self.dump(self.built("a")), self.dump(self.built("b")))

    def test_what_stands_in_it(self):
        shop = self.built("demo")
        trials = wall.trial_list(shop, None, None)
        self.assertGreaterEqual(len(trials), 12)
        self.assertEqual({t["stage"] for t in trials}, {"plan", "burn", "read", "decide", "kept"})
        recipes = asking.book(shop)["recipes"]
        self.assertGreaterEqual(len(recipes), 12)
        self.assertEqual({r["standing"] for r in recipes}, set(STANDINGS))
        for recipe in recipes:
            if recipe["evidence"]:
                came = recipe["evidence"]["reading"]["values"]
                self.assertTrue(came.get("through") == 3 or came.get("darkness", 0) >= 2, recipe["id"])
        self.assertEqual({head["title"] for head in self.heads(shop)}, {"Wren", "Finch", "Heron 110", "Heron 175"})
        with shop.database.reading() as db:
            roles = [row["role"] for row in people.members(db)]
        self.assertTrue(all(roles.count(role) >= 2 for role in ROLES))

    def test_what_it_burned_could_be_burned(self):
        """No plate of the demo carries a refusal; every burned plate but the half-read one has its photo."""
        shop = self.built("demo")
        for trial in wall.trial_list(shop, None, None):
            page = views.trial_page(shop, trial["id"])
            warnings = [*page["plate"]["warnings"], *(w for p in page["plate"]["patches"] for w in p["warnings"])]
            self.assertEqual([w["sentence"] for w in warnings if w["level"] == "refusal"], [], trial["number"])
            if page["burns"] and trial["stage"] != "read":
                self.assertTrue(page["photos"], trial["number"])
        self.assertEqual(safekeeping.check(self.folder / "demo"), [])

    def heads(self, shop):
        from rezept.actions.queries.shop_facts import inventory

        return inventory(shop)["heads"]

    def test_times_of_the_demo_lie_in_its_own_past(self):
        shop = self.built("demo")
        stamps = [t["changed_at"] for t in wall.trial_list(shop, None, None)]
        self.assertEqual(stamps, sorted(stamps, reverse=True))
        self.assertLess(max(stamps), time.strftime("%Y-%m-%dT%H:%M:%SZ", time.gmtime(4102444800)))


if __name__ == "__main__":
    unittest.main()
