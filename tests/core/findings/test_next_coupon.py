"""Coupon by coupon: from the first guess to what holds, by walking the speed, halving, and the models."""

import unittest

import numpy as np

from rezept.core.findings.decision import decide
from rezept.core.findings.next_coupon import next_coupon
from rezept.core.findings.observations import Burned, Outcome, observations_of
from tests.core.plan.test_listed import listed_document
from tests.made import planned

MOST = 14


def level(settings, at, chance, sheet=0.0):
    """A cut by equal dose: half of all patches drop out at 60 % and `at` mm/s."""
    got = np.log(settings["power_pct"] / 60 * settings.get("passes", 1)) - np.log(settings["speed_mm_s"] / at) + sheet
    got += 0.04 * chance.standard_normal()
    return int(got > -0.3) + int(got > -0.12) + int(got > 0)


def burned(rows, outcomes):
    """The plate so far and what was read of it; None of what nobody read."""
    plate = planned(listed_document(rows, wrap=6))
    said = {
        name: Outcome(float(one)) for name, one in zip(plate.elements.ids, outcomes, strict=True) if one is not None
    }
    return plate, observations_of(plate, said, burned=Burned(1, "", "a"))


def after(rows, outcomes, models=True):
    plate, seen = burned(rows, outcomes)
    machine = plate.trial.machine
    decided = decide(seen, machine, aims=("fastest",)) if models else None
    chosen = decided.candidates[0] if decided is not None and decided.candidates else None
    return next_coupon(seen, len(rows) - 1, machine, chosen)


def walked(first, at, seed):
    """Coupons until it is settled."""
    chance = np.random.default_rng(seed)
    sheet = 0.05 * chance.standard_normal()
    rows, outcomes = [{"speed_mm_s": first}], []
    for _ in range(MOST):
        full = {"power_pct": 60, **rows[-1]}
        outcomes.append(level(full, at, chance, sheet))
        coupon = after(rows, outcomes)
        if coupon.settled:
            return rows, outcomes, coupon
        rows.append({key: coupon.settings[key] for key in ("speed_mm_s", "power_pct", "passes")})
    raise AssertionError(f"not settled after {MOST} coupons: {rows} {outcomes}")


class WalkTest(unittest.TestCase):
    def test_few_coupons_lead_to_what_holds(self):
        """From a guess up to twice off either way, on sheets that differ: what is settled on drops out on nearly every
        fresh sheet, and was burned twice."""
        counts, holds = [], []
        for seed, first in enumerate([8, 12, 16, 20, 27, 34] * 2):
            rows, _, coupon = walked(first, 17.0, seed)
            counts.append(len(rows))
            margin = np.log(17.0 * coupon.settings["power_pct"] / 60 / coupon.settings["speed_mm_s"])
            holds.append(float(np.mean(margin + 0.07 * np.random.default_rng(99).standard_normal(4000) > 0)))
        self.assertLessEqual(np.median(counts), 6, counts)
        self.assertGreater(float(np.mean(holds)), 0.97, holds)

    def test_what_lacks_most_goes_slowest(self):
        for came, slower in ((0, 1.5), (1, 1.25), (2, 1.12)):
            coupon = after([{"speed_mm_s": 20}], [came])
            self.assertAlmostEqual(coupon.settings["speed_mm_s"], 20 / slower, delta=0.11)
            self.assertIn("% slower", coupon.why)

    def test_all_that_came_out_goes_faster(self):
        coupon = after([{"speed_mm_s": 8}, {"speed_mm_s": 10}], [3, 3])
        self.assertEqual(coupon.settings["speed_mm_s"], 12.5)
        self.assertIn("A2 came out “drops out” at 10 mm/s", coupon.why)

    def test_between_what_came_out_and_what_did_not(self):
        coupon = after([{"speed_mm_s": 10}, {"speed_mm_s": 16}], [3, 1])
        self.assertAlmostEqual(coupon.settings["speed_mm_s"], np.sqrt(160), delta=0.11)
        self.assertIn("Between 10 mm/s, where it came out, and 16", coupon.why)

    def test_one_that_failed_below_others_that_came_out_ends_the_walk(self):
        """10 failed, 11 came out: closer than patches scatter, so the models choose, and the answer is slower."""
        coupon = after([{"speed_mm_s": 11}, {"speed_mm_s": 10}, {"speed_mm_s": 9}], [3, 2, 3])
        self.assertLess(coupon.settings["speed_mm_s"], 10)
        self.assertIn("should hold", coupon.why)

    def test_other_power_is_another_walk(self):
        """At 60 % it turned at 16; at 40 % nothing is known but the last."""
        rows = [{"speed_mm_s": 14}, {"speed_mm_s": 18}, {"speed_mm_s": 14, "power_pct": 40}]
        coupon = after(rows, [3, 0, 1])
        self.assertEqual(coupon.settings["power_pct"], 40)
        self.assertAlmostEqual(coupon.settings["speed_mm_s"], 14 / 1.25, delta=0.11)

    def test_what_was_not_read_is_asked_for_first(self):
        coupon = after([{"speed_mm_s": 14}, {"speed_mm_s": 18}], [3, None])
        self.assertIn("A2 has not been read yet", coupon.why)
        self.assertEqual(coupon.settings["speed_mm_s"], 18)

    def test_where_it_goes_no_slower_one_pass_more(self):
        coupon = after([{"speed_mm_s": 0.1}], [0])
        self.assertEqual(coupon.settings["passes"], 2)

    def test_without_models_a_tenth_below_where_it_turns(self):
        coupon = after([{"speed_mm_s": 10}, {"speed_mm_s": 11}], [3, 1], models=False)
        self.assertAlmostEqual(coupon.settings["speed_mm_s"], 9.0, delta=0.06)


if __name__ == "__main__":
    unittest.main()
