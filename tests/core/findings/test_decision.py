"""Decisions from plates: what is chosen, what is missing, what contradicts the rest, and where to burn next."""

import unittest
from dataclasses import replace

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.findings.choices import Wanted, Wish
from rezept.core.findings.decision import ORDERED_AIMS, can_be_bounded, decide
from rezept.core.findings.observations import Burned, Outcome, burns_of, joined, observations_of
from rezept.core.findings.report import next_trial
from rezept.core.plan import plan, read_trial
from tests.made import area_document, planned, trial_document

SPEEDS, POWERS = [8, 12, 16, 24, 32], [35, 45, 55, 65, 80]
AXES = [
    {"parameter": "speed_mm_s", "along": "x", "values": SPEEDS},
    {"parameter": "power_pct", "along": "y", "values": POWERS},
]


def margin(settings, at=16.0):
    """Log dose beyond what half of all patches need: at 55 % they drop out up to `at` mm/s."""
    return np.log(settings["power_pct"] / 55) - np.log(settings["speed_mm_s"] / at)


def burned(seed=1, axes=None, lot="a", burn=1, luck=0.0, at=16.0, others=None, **states):
    """A plate and what was read of it, by a law of equal dose."""
    plate = planned(trial_document(axes=axes or AXES))
    chance = np.random.default_rng(seed)
    got = margin(plate.judged.settings, at) + luck + 0.04 * chance.standard_normal(len(plate.elements.ids))
    through = (got > -0.25).astype(int) + (got > -0.1) + (got > 0)
    outcomes = {name: Outcome(float(value)) for name, value in zip(plate.elements.ids, through, strict=True)}
    seen = observations_of(plate, outcomes, burned=Burned(burn, "", lot), others=others, **states)
    return plate, seen


def chosen(decision, aim):
    return next(one for one in decision.candidates if one.aim == aim)


class CutTest(unittest.TestCase):
    def decided(self, *args, aims=ORDERED_AIMS, wish=Wish(), **kwargs):  # noqa: B008
        plate, seen = burned(*args, **kwargs)
        return decide(seen, plate.trial.machine, aims=aims, wish=wish), plate, seen

    def test_candidates_hold_every_setting_and_can_be_shown(self):
        decision, plate, _ = self.decided()
        for one in decision.candidates:
            self.assertEqual(set(one.settings), set(plate.judged.settings))
            self.assertLessEqual(one.settings["power_pct"], plate.trial.machine.max_power_pct)
            self.assertAlmostEqual(one.settings["speed_mm_s"] * 10 % 1, 0, places=6)

    def test_the_fastest_lies_safely_short_of_where_it_turns(self):
        """At 85 % half of all patches drop out at 16 x 85 / 55 = 24.7 mm/s; sheets differ by some 7 %."""
        decision, _, _ = self.decided()
        settings = chosen(decision, "fastest").settings
        turns = 16 * settings["power_pct"] / 55
        self.assertTrue(0.7 * turns < settings["speed_mm_s"] < 0.9 * turns, settings)

    def test_the_gentlest_goes_half_as_fast_with_half_the_power(self):
        decision, _, _ = self.decided()
        fastest, gentlest = (chosen(decision, aim).settings for aim in ("fastest", "gentlest"))
        self.assertGreaterEqual(gentlest["speed_mm_s"], 0.49 * fastest["speed_mm_s"])
        self.assertAlmostEqual(gentlest["power_pct"] / fastest["power_pct"], 0.5, delta=0.08)

    def test_the_forgiving_is_slower_than_the_fastest(self):
        decision, _, _ = self.decided()
        fastest, forgiving = (chosen(decision, aim) for aim in ("fastest", "forgiving"))
        self.assertLess(forgiving.settings["speed_mm_s"], fastest.settings["speed_mm_s"])
        self.assertGreater(forgiving.power_down_pct, fastest.power_down_pct)

    def test_the_cleanest_needs_to_know_what_is_dirty(self):
        decision, plate, _ = self.decided()
        self.assertNotIn("cleanest", [one.aim for one in decision.candidates])
        self.assertIn("char", " ".join(decision.questions))
        slow = dict(
            zip(plate.elements.ids, np.clip(24 / plate.judged.settings["speed_mm_s"], 0, 3).round(), strict=True)
        )
        clean, _, _ = self.decided(others={"char": slow})
        self.assertGreaterEqual(
            chosen(clean, "cleanest").settings["speed_mm_s"], 0.8 * chosen(clean, "fastest").settings["speed_mm_s"]
        )

    def test_bounds_are_kept(self):
        decision, _, _ = self.decided(wish=Wish(at_most={"power_pct": 60.0}))
        self.assertTrue(all(one.settings["power_pct"] <= 60 for one in decision.candidates))
        free, plate, _ = self.decided()
        char = {name: float(speed > 10) for name, speed in zip(
            plate.elements.ids, plate.judged.settings["speed_mm_s"], strict=True)}  # fmt: skip
        bound, _, _ = self.decided(others={"char": char}, wish=Wish(outcome_bounds={"char": 0.4}), aims=("fastest",))
        self.assertLess(chosen(bound, "fastest").settings["speed_mm_s"], chosen(free, "fastest").settings["speed_mm_s"])

    def test_a_bound_beside_all_that_was_burned(self):
        decision, _, _ = self.decided(wish=Wish(at_most={"power_pct": 2.0}))
        self.assertEqual((decision.candidates, decision.next), ((), None))
        self.assertIn("power at most 2", decision.questions[0])

    def test_seconds_are_said_for_my_piece(self):
        plain, _, _ = self.decided(aims=("fastest",))
        mine, _, _ = self.decided(aims=("fastest",), wish=Wish(piece_mm=2400))
        self.assertAlmostEqual(chosen(mine, "fastest").seconds, 24 * chosen(plain, "fastest").seconds)

    def test_what_says_nothing_is_left_out(self):
        """Mixed, uncertain and bare patches, and left-out ones, change nothing of what is decided."""
        plate, seen = burned()
        names = set(plate.elements.ids[:3])
        _, without = burned(uncertain=names)
        absurd = replace(without, outcome=np.where([name in names for name in seen.element], 3.0, seen.outcome))
        one, other = (decide(table, plate.trial.machine, aims=("fastest",)) for table in (without, absurd))
        self.assertEqual(one.candidates, other.candidates)

    def test_a_patch_against_all_others_is_named(self):
        plate, seen = burned()
        row = seen.element.index("E1")
        odd = replace(seen, outcome=np.where(np.arange(len(seen)) == row, 0.0, seen.outcome))
        decision = decide(odd, plate.trial.machine, aims=("fastest",))
        self.assertEqual([one.element for one in decision.look_again], ["E1"])
        self.assertIn("not; everything around it says drops out", decision.look_again[0].why)

    def test_nothing_dropped_out(self):
        decision, plate, _ = self.decided(at=3.0)
        self.assertEqual(decision.candidates, ())
        self.assertIn("No patch dropped out", " ".join(decision.questions))
        slowest = min(decision.next.axes[0]["values"])
        self.assertLess(slowest, min(SPEEDS))
        self.assertGreaterEqual(plan(read_trial(next_trial(plate.trial, decision.next))).width_mm, 1)

    def test_everything_dropped_out(self):
        decision, _, _ = self.decided(at=300.0)
        self.assertIn("Every patch dropped out", " ".join(decision.questions))
        self.assertGreater(max(decision.next.axes[0]["values"]), max(SPEEDS))

    def test_one_row_only(self):
        """Of one power nothing says what another does: all is chosen at that, as the control shows it."""
        for power, as_shown in ((55, 55.0), (55.3, 55.5)):
            decision, _, _ = self.decided(axes=[AXES[0], {**AXES[1], "values": [power]}])
            self.assertIn("Only one power", " ".join(decision.questions))
            self.assertEqual({one.settings["power_pct"] for one in decision.candidates}, {as_shown})
            self.assertLess(chosen(decision, "fastest").settings["speed_mm_s"], 16)
        beside, _, _ = self.decided(axes=[AXES[0], {**AXES[1], "values": [55]}], wish=Wish({"power_pct": 40}))
        self.assertEqual(beside.candidates, ())
        self.assertIn("keeps to that", beside.questions[0])

    def test_nothing_was_read(self):
        plate = planned(trial_document(axes=AXES))
        decision = decide(observations_of(plate, {}), plate.trial.machine, aims=ORDERED_AIMS)
        self.assertEqual((decision.candidates, decision.next), ((), None))
        self.assertIn("score the plate first", decision.questions[0])

    def test_scores_at_random_are_said_to_contradict_the_law(self):
        plate, seen = burned()
        chance = np.random.default_rng(8)
        noise = replace(seen, outcome=chance.permutation(seen.outcome))
        decision = decide(noise, plate.trial.machine, aims=ORDERED_AIMS)
        self.assertIn("contradict", " ".join(decision.questions))

    def test_an_aim_a_cut_does_not_have(self):
        with self.assertRaisesRegex(InvalidInput, "no aim"):
            self.decided(aims=("darkness",))


class SharedSheetTest(unittest.TestCase):
    def test_only_burns_that_share_a_sheet_have_a_luck_of_their_own(self):
        tables = [burned(burn=number, lot=lot)[1] for number, lot in ((5, "a"), (6, None), (7, "a"))]
        seen = joined(tables)
        every = burns_of(seen, np.ones(len(seen), bool))
        self.assertEqual([int(every[seen.burn == number][0]) for number in (5, 6, 7)], [0, -1, 1])


class NextTest(unittest.TestCase):
    def test_it_lies_where_the_cut_turns_and_can_be_planned(self):
        plate, seen = burned()
        decision = decide(seen, plate.trial.machine, aims=("fastest",))
        following = plan(read_trial(next_trial(plate.trial, decision.next)))
        self.assertLessEqual(len(following.elements.ids), 16)
        got = margin(following.judged.settings)
        self.assertTrue((np.abs(got) < 0.75).all(), got)
        self.assertLess(float(got.min()), 0)
        self.assertGreater(float(got.max()), 0)

    def test_as_many_patches_as_one_allows(self):
        plate, seen = burned()
        for most in (1, 2, 6, 9, 16):
            decision = decide(seen, plate.trial.machine, aims=("fastest",), wish=Wish(most=most))
            count = len(plan(read_trial(next_trial(plate.trial, decision.next))).elements.ids)
            self.assertLessEqual(count, most)

    def passes(self, counts_as):
        """A plate in one pass and two, of which two count as so many."""
        plate = planned(trial_document(axes=[*AXES, {"parameter": "passes", "along": "block_x", "values": [1, 2]}]))
        settings = plate.judged.settings
        got = margin(settings) + np.log(np.where(settings["passes"] == 2, counts_as, 1.0))
        got = got + 0.04 * np.random.default_rng(3).standard_normal(len(got))
        through = (got > -0.25).astype(int) + (got > -0.1) + (got > 0)
        outcomes = {name: Outcome(float(one)) for name, one in zip(plate.elements.ids, through, strict=True)}
        return plate, observations_of(plate, outcomes, burned=Burned(1, "", "a"))

    def test_coupons_that_fit_no_grid(self):
        """Two passes at twice the speed are as good as one: which is faster is open, so one coupon of each."""
        plate, seen = self.passes(counts_as=2.0)
        decision = decide(seen, plate.trial.machine, aims=("fastest",), wish=Wish(most=2))
        following = plan(read_trial(next_trial(plate.trial, decision.next)))
        settings = following.judged.settings
        self.assertEqual(sorted(settings["passes"].tolist()), [1, 2])
        one, two = (float(settings["speed_mm_s"][settings["passes"] == count][0]) for count in (1, 2))
        self.assertAlmostEqual(two / one, 2.0, delta=0.3)
        self.assertRegex(
            decision.next.why, r"^It turns between .* and .* mm/s; and with [12] pass(es)? between .* mm/s:"
        )

    def test_passes_that_do_little_get_no_coupon(self):
        """Two passes that count as 1.2 take 1.7 times as long: both coupons go where one pass turns."""
        plate, seen = self.passes(counts_as=1.2)
        decision = decide(seen, plate.trial.machine, aims=("fastest",), wish=Wish(most=2))
        settings = plan(read_trial(next_trial(plate.trial, decision.next))).judged.settings
        self.assertEqual(set(settings["passes"].tolist()), {1})
        self.assertEqual(len(set(settings["speed_mm_s"].tolist())), 2)

    def test_after_a_good_plate_another_sheet_says_more(self):
        plate, seen = burned()
        decision = decide(seen, plate.trial.machine, aims=("fastest",))
        self.assertEqual(decision.next.on, "another lot")
        self.assertIn("how sheets differ", decision.next.why)

    def test_after_many_sheets_no_further_array_is_worth_its_wood(self):
        luck = (0.05, -0.06, 0.02, -0.03, 0.08, -0.07)
        tables = [burned(seed, lot=f"l{seed}", burn=seed, luck=one)[1] for seed, one in enumerate(luck, start=1)]
        machine = planned(trial_document()).trial.machine
        first = decide(tables[0], machine, aims=("fastest",))
        every = decide(joined(tables), machine, aims=("fastest",))
        self.assertGreater(first.model["sheets_scatter"][2] - first.model["sheets_scatter"][1],
                           every.model["sheets_scatter"][2] - every.model["sheets_scatter"][1])  # fmt: skip
        if chosen(every, "fastest").certain:
            self.assertIsNone(every.next.axes)
            self.assertIn("worth its wood", every.next.why)
        else:
            self.assertEqual(every.next.on, "another lot")


class BoundTest(unittest.TestCase):
    def test_a_clean_back(self):
        """The back burns up to 12 mm/s: without it one has to be faster, and so stronger."""
        plate, _ = burned()
        speed = plate.judged.settings["speed_mm_s"]
        burns = dict(zip(plate.elements.ids, (speed <= 12).astype(float).tolist(), strict=True))
        plate, seen = burned(others={"back_burn": burns})
        self.assertEqual(can_be_bounded(seen), ["back_burn"])
        free, clean = (
            chosen(decide(seen, plate.trial.machine, aims=("gentlest",), wish=wish), "gentlest").settings
            for wish in (Wish(), Wish(outcome_bounds={"back_burn": 0}))
        )
        self.assertLessEqual(free["speed_mm_s"], 12)
        self.assertGreater(clean["speed_mm_s"], 13)
        self.assertGreater(clean["power_pct"], free["power_pct"])


class MarkTest(unittest.TestCase):
    def marked(self, wanted=40.0, aims=("darkness",), values=None, asked=None):
        axes = [{**AXES[0], "values": [150, 200, 300, 400, 500]}, AXES[1]]
        plate = planned(area_document(axes=axes, hold={"line_spacing_mm": 0.1}))
        dose = np.log(plate.judged.dose) - np.log(plate.judged.dose).mean()
        chance = np.random.default_rng(2)
        lightness = 75 - 50 / (1 + np.exp(-2.5 * dose)) + 0.5 * chance.standard_normal(len(dose))
        read = dict(zip(plate.elements.ids, lightness.tolist(), strict=True)) if values is None else values
        seen = observations_of(plate, {}, others={"lightness": read})
        return decide(seen, plate.trial.machine, aims=aims, ground=75.0,
                      wanted=asked or Wanted(lightness=wanted)), plate  # fmt: skip

    def test_a_wanted_lightness(self):
        decision, _ = self.marked(45.0)
        predicted = decision.candidates[0].predicted
        self.assertAlmostEqual(predicted.value, 45, delta=2)
        self.assertTrue(predicted.low < 45 < predicted.high)

    def engraved(self, aim, wanted):
        """An engraving 0.25 mm deep for each J/mm2, and browner with the dose: L* 75 to 45, b* 10 to 40."""
        axes = [{**AXES[0], "values": [150, 200, 300, 400, 500]}, AXES[1]]
        plate = planned(area_document(axes=axes, hold={"line_spacing_mm": 0.1}))
        dose, chance = plate.judged.dose, np.random.default_rng(4)
        share = (dose - dose.min()) / np.ptp(dose)
        noise = [one * chance.standard_normal(len(dose)) for one in (0.5, 0.5, 0.5, 0.01)]
        every = (75 - 30 * share + noise[0], 5 + noise[1], 10 + 30 * share + noise[2], 0.25 * dose + noise[3])
        read = {
            key: dict(zip(plate.elements.ids, values.tolist(), strict=True))
            for key, values in zip(("lightness", "a", "b", "depth_mm"), every, strict=True)
        }
        seen = observations_of(plate, {}, others=read)
        return decide(seen, plate.trial.machine, aims=(aim,), ground=75.0, wanted=wanted), plate

    def dose_at(self, settings):
        return 60 * settings["power_pct"] / 100 / settings["speed_mm_s"] / settings["line_spacing_mm"]

    def test_a_wanted_depth(self):
        decision, _ = self.engraved("depth", Wanted(depth_mm=0.3))
        one = decision.candidates[0]
        self.assertAlmostEqual(0.25 * self.dose_at(one.settings), 0.3, delta=0.03)
        self.assertIn("Comes nearest to 0.3 mm", one.why)
        self.assertEqual(one.predicted.key, "lightness")

    def test_a_depth_within_what_it_may_be_off(self):
        decision, _ = self.engraved("depth", Wanted(depth_mm=0.3, depth_off_mm=0.05))
        one = decision.candidates[0]
        self.assertTrue(0.27 < 0.25 * self.dose_at(one.settings) < 0.33)
        self.assertRegex(one.why, r"Within 0\.3 mm, 0\.05 either way, on \d+ of 100")

    def test_a_depth_far_from_all_that_was_burned(self):
        decision, _ = self.engraved("depth", Wanted(depth_mm=30.0))
        self.assertEqual(decision.candidates, ())
        self.assertIn("comes near 30 mm of depth", " ".join(decision.questions))

    def test_a_wanted_colour(self):
        """Half-way: L* 60 and b* 25 lie where the share of the dose is a half."""
        decision, plate = self.engraved("colour", Wanted(lab=(60.0, 5.0, 25.0)))
        one = decision.candidates[0]
        dose = plate.judged.dose
        share = (self.dose_at(one.settings) - dose.min()) / np.ptp(dose)
        self.assertAlmostEqual(share, 0.5, delta=0.08)
        self.assertAlmostEqual(one.predicted.value, 60, delta=3)
        green, _ = self.engraved("colour", Wanted(lab=(60.0, -60.0, 40.0)))
        self.assertEqual(green.candidates, ())
        self.assertIn("near that colour", " ".join(green.questions))

    def test_evenness_is_bounded_from_below(self):
        """Even (3) up to 250 mm/s and blotchy (0) beyond: no less than fair keeps to the slow side."""
        axes = [{**AXES[0], "values": [150, 200, 300, 400, 500]}, AXES[1]]
        plate = planned(area_document(axes=axes, hold={"line_spacing_mm": 0.1}))
        dose, speed = np.log(plate.judged.dose), plate.judged.settings["speed_mm_s"]
        rows = {"lightness": 40 - (dose - dose.mean()), "evenness": np.where(speed < 250, 3.0, 0.0)}
        others = {key: dict(zip(plate.elements.ids, one.tolist(), strict=True)) for key, one in rows.items()}
        seen = observations_of(plate, {}, others=others)
        self.assertEqual(can_be_bounded(seen), ["evenness"])
        free, even = (
            chosen(decide(seen, plate.trial.machine, aims=("fastest",), ground=80.0, wish=wish), "fastest")
            for wish in (Wish(), Wish(outcome_bounds={"evenness": 2}))
        )
        self.assertGreater(free.settings["speed_mm_s"], 300)
        self.assertLess(even.settings["speed_mm_s"], 300)

    def test_what_was_not_read_cannot_be_wanted(self):
        for aim, wanted, says in (
            ("depth", Wanted(depth_mm=0.3), "No depth was read"),
            ("colour", Wanted(lab=(50.0, 0.0, 0.0)), "No colour was measured"),
        ):
            decision, _ = self.marked(aims=(aim,), asked=wanted)
            self.assertIn(says, " ".join(decision.questions))

    def test_one_that_cannot_be_had(self):
        decision, _ = self.marked(5.0)
        self.assertEqual(decision.candidates, ())
        self.assertIn("comes near L* 5", " ".join(decision.questions))

    def test_other_aims_give_plain_marks(self):
        decision, _ = self.marked(aims=("fastest", "gentlest", "forgiving"))
        self.assertEqual([one.aim for one in decision.candidates], ["fastest", "gentlest", "forgiving"])
        for one in decision.candidates:
            self.assertLess(one.predicted.value, 75 - 20)

    def test_two_readings_say_nothing(self):
        decision, _ = self.marked(values={"A1": 50.0, "A2": 60.0})
        self.assertEqual((decision.candidates, decision.next), ((), None))
        self.assertIn("Too few", decision.questions[0])


if __name__ == "__main__":
    unittest.main()
