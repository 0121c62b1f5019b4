"""Fitting the law of cuts: against finite differences, known laws, and plates that say little."""

import unittest

import numpy as np
from scipy.special import expit

from rezept.core.findings.coding import Coding
from rezept.core.findings.ordered_fit import Scores, _Law, fit_ordered, stray_share
from rezept.core.findings.ordered_law import STEPS

CODING = Coding(("power_pct", "speed_mm_s"), np.array([np.log(60.0), np.log(20.0)]), np.ones(2))
POWERS, SPEEDS = (40.0, 50.0, 60.0, 70.0, 80.0), (10.0, 14.0, 20.0, 28.0, 40.0)


def grid(powers=POWERS, speeds=SPEEDS):
    power, speed = (one.ravel() for one in np.meshgrid(powers, speeds))
    return {"power_pct": power, "speed_mm_s": speed}


def scored(settings, chance, luck=0.0, alpha=1.0, beta=1.0, scale=0.03, gaps=(0.15, 0.08)):
    """Levels by the law itself: at 60 % and 20 mm/s half of all patches drop out."""
    dose = alpha * np.log(settings["power_pct"] / 60) - beta * np.log(settings["speed_mm_s"] / 20) + luck
    got = dose + scale * chance.logistic(size=len(dose))
    return ((got > -sum(gaps)).astype(float) + (got > -gaps[1]) + (got > 0)).astype(float)


def fitted(settings, outcome, lot=None, lots=("a",), burn=None):
    lot = np.zeros(len(outcome), np.int64) if lot is None else lot
    stray = stray_share(np.zeros(len(outcome)))
    burn = np.full(len(outcome), -1) if burn is None else burn
    scores = Scores(CODING.matrix(settings), outcome, outcome, lot, burn, stray)
    return fit_ordered(scores, CODING, lots, STEPS["through"])


def at(speed, power):
    return {"speed_mm_s": np.array([speed], float), "power_pct": np.array([power], float)}


class SlopeTest(unittest.TestCase):
    def test_the_gradient_is_that_of_the_density(self):
        chance = np.random.default_rng(3)
        settings = grid()
        others = Coding((*CODING.keys, "passes"), np.append(CODING.middle, 0.3), np.ones(3))
        coded = others.matrix({**settings, "passes": chance.integers(1, 4, 25).astype(float)})
        outcome = scored(settings, chance)
        least = np.where(outcome == 2, 1.0, outcome)
        law = _Law(
            Scores(
                coded,
                least,
                outcome,
                chance.integers(0, 3, 25),
                chance.integers(-1, 2, 25),
                stray_share(np.full(25, 0.1)),
            ),
            others,
            STEPS["through"],
        )
        for _ in range(5):
            place = law.mean + 0.4 * law.sd * chance.standard_normal(len(law.mean))
            value, slope = law.slope(place)
            self.assertAlmostEqual(value, float(law.density(place[None, :])[0]), places=9)
            steps = np.eye(len(place)) * 1e-6
            by_steps = (law.density(place + steps) - law.density(place - steps)) / 2e-6
            np.testing.assert_allclose(slope, by_steps, rtol=2e-4, atol=2e-4)


class FitTest(unittest.TestCase):
    def test_many_patches_tell_the_law(self):
        """Twelve plates of one sheet: weights of power and speed, scatter and gaps come back."""
        chance = np.random.default_rng(1)
        settings = {key: np.tile(column, 12) for key, column in grid().items()}
        model = fitted(settings, scored(settings, chance, alpha=1.2, beta=0.85))
        draws = model.draws
        self.assertAlmostEqual(float(draws.by_power.mean()), 1.2, delta=0.12)
        self.assertAlmostEqual(float(draws.by_speed.mean()), 0.85, delta=0.1)
        self.assertAlmostEqual(float(draws.scale.mean()), 0.03, delta=0.012)
        self.assertAlmostEqual(float(draws.gap_3.mean()), 0.08, delta=0.03)

    def test_more_dose_is_never_worse(self):
        """Signs are those of physics, whatever a plate says: here slow patches failed and fast ones dropped out."""
        settings = grid()
        backwards = np.where(settings["speed_mm_s"] > 20, 3.0, 0.0)
        model = fitted(settings, backwards)
        speeds = np.geomspace(10, 40, 30)
        shares = model.shares({"speed_mm_s": speeds, "power_pct": np.full(30, 60.0)}).mean(axis=0)
        self.assertTrue((np.diff(shares) <= 1e-9).all())

    def test_one_strange_patch_does_not_bend_it(self):
        chance = np.random.default_rng(4)
        settings = grid()
        outcome = scored(settings, chance)
        strange = outcome.copy()
        # The hottest patch of all is said not to have gone through.
        strange[np.argmax(settings["power_pct"] / settings["speed_mm_s"])] = 0.0
        for speed in (15.0, 20.0):
            as_it_is, bent = (float(fitted(settings, one).shares(at(speed, 60.0)).mean()) for one in (outcome, strange))
            self.assertAlmostEqual(as_it_is, bent, delta=0.08)

    def test_sheets_are_shifts_and_no_noise(self):
        """Two sheets a fifth apart: how patches scatter stays as it is, how sheets differ grows."""
        chance = np.random.default_rng(5)
        settings = {key: np.tile(column, 2) for key, column in grid(speeds=np.geomspace(12, 34, 9)).items()}
        half = len(settings["speed_mm_s"]) // 2
        lot = np.repeat([0, 1], half)
        luck = np.where(lot == 0, 0.1, -0.1)
        outcome = scored(settings, chance, luck=luck)
        apart = fitted(settings, outcome, lot, ("a", "b")).draws
        as_one = fitted(settings, outcome).draws
        self.assertLess(float(apart.scale.mean()), 0.045)
        self.assertGreater(float(as_one.scale.mean()), float(apart.scale.mean()) * 1.5)
        self.assertAlmostEqual(float((apart.lots[:, 0] - apart.lots[:, 1]).mean()), 0.2, delta=0.04)

    def test_days_of_one_sheet_are_shifts_too(self):
        """One sheet burned twice, 5 % of dose apart: that is the days', and patches scatter as they did."""
        chance = np.random.default_rng(8)
        settings = {key: np.tile(column, 2) for key, column in grid(speeds=np.geomspace(12, 34, 9)).items()}
        burn = np.repeat([0, 1], len(settings["speed_mm_s"]) // 2)
        outcome = scored(settings, chance, luck=np.where(burn == 0, 0.025, -0.025), scale=0.01)
        apart, as_one = (fitted(settings, outcome, burn=one).draws for one in (burn, None))
        self.assertGreater(float((apart.burns[:, 0] - apart.burns[:, 1]).mean()), 0.015)
        self.assertLess(float(apart.scale.mean()), float(as_one.scale.mean()))

    def test_a_fresh_sheet_is_less_sure_than_the_burned_one(self):
        chance = np.random.default_rng(6)
        settings = grid()
        model = fitted(settings, scored(settings, chance))
        here = float(model.shares_on(0, 3, at(17.5, 60.0)).mean())
        self.assertLess(float(model.shares(at(17.5, 60.0)).mean()), here)

    def test_with_everything_through_or_nothing_it_knows_little(self):
        settings = grid()
        for outcome, sure in ((np.full(25, 3.0), 1.0), (np.zeros(25), 0.0)):
            model = fitted(settings, outcome)
            hot, cold = (float(model.shares(at(*where)).mean()) for where in ((10.0, 80.0), (40.0, 40.0)))
            self.assertGreaterEqual(hot, cold)
            # At the end that would fail (hold) first nothing is certain.
            doubted = cold if sure else hot
            self.assertTrue(0.002 < doubted < 0.98, doubted)

    def test_the_stated_share_is_the_true_one(self):
        """Of laws drawn from the priors, half of all plates: stated shares and true ones agree on average."""
        chance = np.random.default_rng(7)
        settings = grid()
        stated, true = [], []
        for _ in range(30):
            tau = 0.07
            outcome = scored(settings, chance, luck=tau * chance.standard_normal())
            speed = float(np.exp(chance.uniform(np.log(12), np.log(30))))
            stated.append(float(fitted(settings, outcome).shares(at(speed, 60.0)).mean()))
            lots = tau * chance.standard_normal(4000)
            true.append(float(expit((-np.log(speed / 20) + lots) / 0.03).mean()))
        self.assertAlmostEqual(float(np.mean(stated)), float(np.mean(true)), delta=0.05)


if __name__ == "__main__":
    unittest.main()
