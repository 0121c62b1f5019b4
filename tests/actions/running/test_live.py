"""Burning live through the actions: the job, its faults, the rest, again in place, corrections and what is kept."""

import os
import signal
import unittest

from rezept.actions.commands import burning, equipment, growing, keeping, planning, reading
from rezept.actions.queries import asking, deciding, views
from rezept.actions.running import live, placing
from rezept.actions.running.again import Again, again_by_hand, again_in_place
from rezept.actions.running.live_burns import LiveBurns
from rezept.core.errors import InvalidInput, NotFound, Refused, RezeptError
from rezept.core.process import PROCESSES
from rezept.core.put_back import meets_badly
from rezept.store import equipment as equipment_table
from tests.bench_port import link, start_bench
from tests.made import WREN, ShopCase
from tests.until import listens, until

PATCHES = ["A1", "A2", "A3", "B1", "B2", "B3"]


class LiveCase(ShopCase):
    """A cut trial of 3 x 2 patches, 10 to 30 mm/s, 40 and 60 %, on a machine that listens."""

    def setUp(self):
        super().setUp()
        facts = {**WREN, "name": "Linnet", "beam_drops_at_rest": True, "trace_power_pct": 1.0}
        self.linnet = equipment.add_machine(self.shop, self.keeper, facts, [{"name": "lens", "spot_mm": 0.2}])[0]
        self.trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.linnet)
        page = self.page()
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "values": [10, 20, 30]},
            {"parameter": "power_pct", "along": "y", "values": [40, 60]},
        ]
        design = {**page["design"], "axes": axes, "order": "rows", "hold": {"air_level": 1}}
        planning.change_draft(self.shop, self.member, self.trial, page["edit"], design, {})
        self.burns = LiveBurns(self.shop)
        self.addCleanup(self.burns.close)

    def page(self):
        return views.trial_page(self.shop, self.trial)

    def link(self, *faults, **how):
        """Wire the machine to a bench that goes wrong in these ways."""
        self.bench = start_bench(self, *faults, **how)
        link(self.shop, "Linnet", self.bench.url)

    def start(self, by=None, at_machine=True, mounted=None):
        edit = self.page()["edit"]
        return live.start(self.burns, by or self.member, self.trial, edit, {"lot": "Autumn"}, at_machine, mounted)

    def wait(self, run, *states, seconds=30.0):
        until(lambda: run.state in states, seconds)
        return run

    def ended(self, run):
        """Wait until the run is over and its process gone, so that everything is in the records."""
        self.wait(run, "done", "stopped", "interrupted")
        self.burns.job_of(run.key).join(20)
        self.assertTrue(self.burns.wait_until_over(run.key, 20))
        return run

    def states(self, run=-1):
        return {part["name"]: part["state"] for part in self.page()["runs"][run]["parts"]}


class WholeTest(LiveCase):
    def test_the_plate_fills_and_the_log_says_who(self):
        self.link()
        run = self.ended(self.start())
        snapshot = run.snapshot()
        self.assertEqual((snapshot["state"], snapshot["done"]), ("done", PATCHES))
        self.assertEqual((snapshot["share"], snapshot["seconds_left"]), (1.0, 0.0))
        self.assertEqual(snapshot["holder"]["name"], "Moss")
        self.assertIn("Moss stands at the machine", snapshot["log"][0]["sentence"])
        page = self.page()
        self.assertEqual(page["stage"], "read")
        self.assertEqual(set(self.states().values()), {"done"})
        self.assertEqual((page["not_burned"], page["burns"][0]["lot"]), ([], "Autumn"))
        self.assertEqual(page["burned"]["patches"][0]["settings"]["passes"], 1)

    def test_who_watches_hears_when_the_end_stands_in_the_records(self):
        """A page fetched between the end and its being written would otherwise say "running" for ever."""
        self.link(speed_up=20)
        run = self.start()
        self.wait(run, "running")
        with self.shop.database.writing():
            live.stop(self.burns, self.member, run.key)
            self.wait(run, "stopped")
            self.burns.job_of(run.key).join(20)
            early, heard = self.page(), run.version
            self.assertEqual(early["runs"][0]["state"], "running")
            self.assertFalse(run.snapshot()["settled"])
        self.ended(run)
        self.assertGreater(run.version, heard)
        self.assertTrue(run.snapshot()["settled"])
        self.assertEqual(self.page()["runs"][0]["state"], "stopped")

    def test_a_system_that_shuts_down_stops_the_machine(self):
        """It ends the job at the same moment as the server, and not after it."""
        self.link(speed_up=10)
        run = self.start()
        self.wait(run, "running")
        until(lambda: run.done)
        os.kill(self.burns.job_of(run.key).pid, signal.SIGTERM)
        self.ended(run)
        self.assertIn(run.state, ("stopped", "interrupted"))
        self.assertEqual(run.reason, "Rezept was ended while it burned.")
        until(lambda: self.bench.controller.state in ("idle", "alarm"))
        states = list(self.states().values())
        self.assertGreaterEqual(states.count("done"), 1)
        self.assertGreaterEqual(states.count("waiting"), 1)

    def test_nobody_starts_from_elsewhere(self):
        self.link()
        with self.assertRaisesRegex(InvalidInput, "stand at the machine"):
            self.start(at_machine=False)
        self.assertEqual(self.page()["burns"], [])

    def test_a_machine_with_several_lenses_burns_with_the_one_that_is_on_it(self):
        self.link()
        with self.shop.database.reading() as db:
            [machine] = [one for one in equipment_table.heads(db) if one["id"] == self.linnet]
        facts = {"machine_id": machine["machine_id"], "name": "fine lens", "spot_mm": 0.1}
        fine = equipment.add(self.shop, self.keeper, "head", facts, {})
        for mounted, sentence in (
            (None, "lens or fine lens"),
            (fine, "fine lens is on Linnet"),
            (self.wren, "another"),
        ):
            with self.subTest(mounted), self.assertRaisesRegex(InvalidInput, sentence) as refused:
                self.start(mounted=mounted)
            self.assertEqual(refused.exception.path, "mounted")
        self.assertEqual(self.page()["burns"], [])
        run = self.ended(self.start(mounted=self.linnet))
        burn = self.page()["burns"][0]["id"]
        with self.assertRaisesRegex(InvalidInput, "Which"):
            again_in_place(self.burns, self.member, burn, Again(["A1"], 1), True)
        again = again_in_place(self.burns, self.member, burn, Again(["A1"], 1), True, self.linnet)
        self.assertEqual((run.state, self.ended(again).state), ("done", "done"))
        # One that was put away is not asked about.
        with self.shop.database.reading() as db:
            edit = equipment_table.one(db, "head", fine)["edit"]
        equipment.change(self.shop, self.keeper, "head", fine, edit, facts, {}, retired=True)
        self.assertEqual(
            self.ended(again_in_place(self.burns, self.member, burn, Again(["A1"], 1), True)).state, "done"
        )

    def test_without_a_link_and_without_a_beam_that_drops_there_is_no_live_burn(self):
        with self.assertRaisesRegex(Refused, "no live link"):
            self.start()
        self.link()
        link(self.shop, "Linnet", self.bench.url, beam_drops_at_rest=False)
        page = self.page()
        planning.change_draft(self.shop, self.member, self.trial, page["edit"], {**page["design"], "title": "x"}, {})
        with self.assertRaisesRegex(Refused, "could stay on"):
            self.start()
        self.assertEqual(self.page()["burns"], [])

    def test_one_run_at_a_time_on_a_machine(self):
        self.link(speed_up=20)
        run = self.start()
        self.wait(run, "running")
        with self.assertRaisesRegex(Refused, "at work: T-001"):
            self.start()
        live.stop(self.burns, self.technician, run.key)
        self.assertEqual(self.ended(run).reason, "by Tess")
        self.assertEqual(self.page()["runs"][0]["state"], "stopped")

    def test_a_dry_run_and_the_outline_burn_nothing_and_are_not_recorded(self):
        self.link()
        edit = self.page()["edit"]
        run = self.ended(live.dry_run(self.burns, self.member, self.trial, edit, True))
        self.assertEqual(run.state, "done")
        self.assertEqual(max(stretch.beam for stretch in self.bench.controller.stretches), 0.0)
        self.bench.controller.stretches.clear()
        run = placing.show_outline(self.burns, self.member, self.trial, edit, "frame", True)
        # It goes round until somebody stops it: more often than the three times a file does.
        plate = self.page()["plate"]["plate"]
        round_mm = 2 * (plate["width_mm"] + plate["height_mm"])
        until(lambda: self.lit_mm() > 4 * round_mm)
        live.stop(self.burns, self.member, run.key)
        self.assertEqual(self.ended(run).state, "stopped")
        self.assertEqual(max(stretch.beam for stretch in self.bench.controller.stretches), 10.0)
        self.assertEqual((self.page()["burns"], self.page()["runs"]), ([], []))

    def lit_mm(self):
        return sum(stretch.length_mm for stretch in list(self.bench.controller.stretches) if stretch.beam)

    def test_two_may_watch_and_one_holds_the_control(self):
        self.link(speed_up=10)
        run = self.wait(self.start(), "running")
        with self.assertRaisesRegex(Refused, "Moss holds the control"):
            live.correct(self.burns, self.technician, run.key, "power", 1)
        live.hold(self.burns, self.technician, run.key)
        self.wait(run, "held")
        with self.assertRaisesRegex(Refused, "Moss holds"):
            live.go_on(self.burns, self.technician, run.key, True)
        live.take_control(self.burns, self.technician, run.key)
        self.assertEqual(run.snapshot()["holder"]["name"], "Tess")
        with self.assertRaisesRegex(InvalidInput, "stand at the machine"):
            live.go_on(self.burns, self.technician, run.key, False)
        live.go_on(self.burns, self.technician, run.key, True)
        self.assertEqual(self.ended(run).state, "done")
        with self.assertRaisesRegex(Refused, "over"):
            live.hold(self.burns, self.member, run.key)
        with self.assertRaises(NotFound):
            live.hold(self.burns, self.member, "no such run")


class InterruptedTest(LiveCase):
    def test_every_fault_is_kept_as_interrupted_patch_by_patch(self):
        """The stream's own tests inject the same ones; here it is the record that counts."""
        for fault, sentence in (
            ("error@45", "refused a line"),
            ("alarm@45", "stopped itself"),
            ("reset@45", "was reset"),
            ("silent@45", "has not answered"),
            ("garbage@45", "makes no sense"),
        ):
            with self.subTest(fault):
                self.setUp()
                self.interrupted(fault)
                [run] = self.page()["runs"]
                self.assertEqual(run["state"], "interrupted")
                self.assertIn(sentence, run["reason"])

    def test_a_server_that_is_ended_in_order_interrupts_what_goes_on(self):
        self.link(speed_up=10)
        run = self.wait(self.start(), "running")
        self.burns.close()
        self.ended(run)
        self.assertEqual((run.state, run.reason), ("interrupted", "Rezept was ended while it burned."))

    def interrupted(self, fault="drop@45", **how):
        self.link(fault, **how)
        run = self.ended(self.start())
        self.assertEqual(run.state, "interrupted")
        states = self.states()
        done = [name for name, state in states.items() if state == "done"]
        uncertain = [name for name, state in states.items() if state == "uncertain"]
        self.assertEqual(len(uncertain), 1)
        self.assertGreater(len(done), 0)
        self.assertEqual([*done, *uncertain], PATCHES[: len(done) + 1])
        self.assertEqual(self.page()["not_burned"], PATCHES[len(done) + 1 :])
        return done, uncertain[0]

    def test_carrying_on_burns_the_rest_and_asks_of_the_uncertain_one(self):
        for answer, of_uncertain in (("burned", "done"), ("bare", "done"), ("unknown", "uncertain")):
            with self.subTest(answer):
                self.setUp()
                done, uncertain = self.interrupted()
                rest = self.ended(live.carry_on(self.burns, self.member, self.page()["burns"][0]["id"], answer, True))
                self.assertEqual(rest.state, "done")
                left = PATCHES[len(done) + (answer != "bare") :]
                self.assertEqual(rest.snapshot()["done"], left)
                page = self.page()
                self.assertEqual((page["not_burned"], len(page["runs"])), ([], 2))
                final = {**self.states(0), **self.states(1)}
                self.assertEqual(final[uncertain], of_uncertain)
                patch = next(one for one in page["burned"]["patches"] if one["id"] == uncertain)
                self.assertEqual(patch.get("mixed", False), answer == "unknown")
                with self.assertRaisesRegex(Refused, "Nothing of this plate is left"):
                    live.carry_on(self.burns, self.member, page["burns"][0]["id"], answer, True)

    def test_a_job_that_is_killed(self):
        self.link(speed_up=10)
        run = self.wait(self.start(), "running")
        until(lambda: len(run.done) >= 2)
        os.kill(self.burns.job_of(run.key).pid, signal.SIGKILL)
        self.ended(run)
        self.assertEqual(run.state, "interrupted")
        self.assertIn("ended by itself", run.reason)
        self.assertEqual(self.page()["runs"][0]["state"], "interrupted")
        # None is uncertain where the end came just between two patches.
        states = list(self.states().values())
        done, unsure = states.count("done"), states.count("uncertain")
        self.assertGreaterEqual(done, 2)
        self.assertLessEqual(unsure, 1)
        self.assertEqual(states, ["done"] * done + ["uncertain"] * unsure + ["waiting"] * (6 - done - unsure))

    def test_a_machine_that_cannot_be_reached(self):
        self.link()
        self.bench.close()
        until(lambda: not listens(self.bench.port))
        run = self.ended(self.start())
        self.assertIn("cannot be reached", run.reason)
        self.assertEqual(set(self.states().values()), {"waiting"})
        self.assertEqual(self.page()["not_burned"], PATCHES)

    def test_what_was_going_on_when_the_server_died_is_interrupted_when_it_comes_back(self):
        self.interrupted()
        with self.shop.database.writing() as db:
            db.execute("UPDATE burn_run SET state = 'running', ended_at = NULL")
            db.execute("UPDATE run_part SET state = 'burning' WHERE state = 'uncertain'")
        LiveBurns(self.shop)
        self.assertEqual(self.page()["runs"][0]["state"], "interrupted")
        self.assertEqual(list(self.states().values()).count("uncertain"), 1)


class AgainTest(LiveCase):
    """Passes in place add up, and what is kept is what was burned."""

    def score(self, patch, through):
        burn = self.page()["burns"][0]["id"]
        reading.score(self.shop, self.member, burn, patch, 0, {"values": {"through": through}})
        return burn

    def test_extra_passes_on_chosen_patches_are_kept_as_the_total(self):
        self.link()
        self.ended(self.start())
        burn = self.page()["burns"][0]["id"]
        before = {patch["id"]: patch["dose_j_mm"] for patch in self.page()["burned"]["patches"]}
        run = again_in_place(self.burns, self.member, burn, Again(["A3", "B3"], 2), True)
        self.assertEqual(self.ended(run).snapshot()["done"], ["A3", "B3"])
        after = {patch["id"]: patch for patch in self.page()["burned"]["patches"]}
        self.assertEqual((after["A3"]["settings"]["passes"], after["A2"]["settings"]["passes"]), (3, 1))
        self.assertAlmostEqual(after["A3"]["dose_j_mm"], 3 * before["A3"])
        self.score("A3", 3)
        recipe = keeping.keep_recipe(self.shop, self.member, burn, "A3", {"standing": "tried"})
        with self.shop.database.reading() as db:
            (settings,) = db.execute("SELECT settings FROM recipe_step WHERE recipe_id = ?", (recipe,)).fetchone()
        self.assertIn('"passes":3', settings)

    def test_by_hand_the_same(self):
        burn = burning.mark_burned(self.shop, self.member, self.trial, self.page()["edit"], {})
        again_by_hand(self.shop, self.member, burn, Again(["B1"], 1))
        again_by_hand(self.shop, self.member, burn, Again(["B1"], 2))
        patches = {patch["id"]: patch["settings"]["passes"] for patch in self.page()["burned"]["patches"]}
        self.assertEqual((patches["B1"], patches["A1"]), (4, 1))
        self.assertEqual(self.page()["not_burned"], [])
        # The picture beside a recipe is of the plate as it was burned, too.
        self.score("A1", 3)
        recipe = keeping.keep_recipe(self.shop, self.member, burn, "A1", {"standing": "tried"})
        picture = asking.recipe_page(self.shop, self.member, recipe)["evidence"]["picture"]
        drawn = {patch["id"]: (patch["dose"], patch["outcome"]) for patch in picture["patches"]}
        doses = {patch["id"]: patch["dose_j_mm"] for patch in self.page()["burned"]["patches"]}
        self.assertEqual({name: dose for name, (dose, _) in drawn.items()}, doses)
        self.assertEqual((drawn["A1"][1], drawn["B1"][1]), (3, None))
        for patches_, passes in (([], 1), (["B1"], 0), (["Z9"], 1)):
            with self.assertRaises(InvalidInput):
                again_by_hand(self.shop, self.member, burn, Again(patches_, passes))

    def test_at_other_settings_the_dose_adds_up_and_no_setting_says_it(self):
        self.link()
        self.ended(self.start())
        burn = self.page()["burns"][0]["id"]
        before = {patch["id"]: patch for patch in self.page()["burned"]["patches"]}
        asked = Again(["A3"], 2, {"speed_mm_s": "600", "power_pct": "40 %"}, {"speed": "mm/min"})
        self.assertEqual(self.ended(again_in_place(self.burns, self.member, burn, asked, True)).state, "done")
        after = {patch["id"]: patch for patch in self.page()["burned"]["patches"]}
        planned = before["A3"]["settings"]
        # 24 W at 10 mm/s, twice, beside what was planned.
        self.assertAlmostEqual(after["A3"]["dose_j_mm"], before["A3"]["dose_j_mm"] + 2 * 24 / 10)
        self.assertEqual((after["A3"]["settings"]["speed_mm_s"], after["A3"]["settings"]["power_pct"]), (10, 40))
        self.assertNotEqual(planned["speed_mm_s"], 10)
        self.assertEqual((after["A3"]["mixed"], after["A2"]), (True, before["A2"]))
        self.score("A3", 3)
        with self.assertRaisesRegex(Refused, "no single setting"):
            keeping.keep_recipe(self.shop, self.member, burn, "A3", {"standing": "tried"})

    def test_put_back_lines_that_may_not_meet_are_in_doubt(self):
        burn = burning.mark_burned(self.shop, self.member, self.trial, self.page()["edit"], {})
        again_by_hand(self.shop, self.member, burn, Again(["B1"], 1, put_back="stop"))
        again_by_hand(self.shop, self.member, burn, Again(["B2"], 1))
        patches = {patch["id"]: patch.get("mixed", False) for patch in self.page()["burned"]["patches"]}
        self.assertEqual((patches["B1"], patches["B2"], patches["A1"]), (True, False, False))
        runs = [(run["put_back"], run["doubtful"]) for run in self.page()["runs"]]
        self.assertEqual(runs, [("stop", True), ("still", False)])

    def test_where_an_area_is_filled_only_its_rim_is_in_doubt(self):
        self.assertFalse(meets_badly("marks", PROCESSES["deep"]))
        self.assertTrue(meets_badly("marks", PROCESSES["line"]))
        self.assertFalse(meets_badly("still", PROCESSES["cut"]))

    def test_what_cannot_be_asked_for_again_is_said(self):
        burn = burning.mark_burned(self.shop, self.member, self.trial, self.page()["edit"], {})
        for settings, path in (
            ({"speed_mm_s": "much"}, "settings.speed_mm_s"),
            ({"speed_mm_s": -1}, "settings.speed_mm_s"),
            ({"frequency_khz": 30}, "settings.frequency_khz"),
            ({"passes": 3}, "settings.passes"),
        ):
            with self.subTest(path), self.assertRaises(RezeptError) as caught:
                again_by_hand(self.shop, self.member, burn, Again(["B1"], 1, settings))
            errors = getattr(caught.exception, "errors", [caught.exception])
            self.assertEqual([error.path for error in errors], [path])
        self.assertEqual(self.page()["runs"], [])

    def test_a_correction_is_in_what_is_kept_and_a_mixed_patch_is_not(self):
        self.link(speed_up=15)
        run = self.wait(self.start(), "running")
        until(lambda: run.done)
        live.correct(self.burns, self.member, run.key, "power", 5)
        self.assertEqual(self.ended(run).state, "done")
        parts = {part["name"]: part for part in self.page()["runs"][0]["parts"]}
        mixed = [name for name, part in parts.items() if part["mixed"]]
        self.assertTrue(mixed)
        self.assertEqual((parts["A1"]["power"], parts["B3"]["power"]), (1.0, 1.1))
        patches = {patch["id"]: patch for patch in self.page()["burned"]["patches"]}
        self.assertAlmostEqual(patches["B3"]["settings"]["power_pct"], 66.0)
        self.assertAlmostEqual(patches["B3"]["dose_j_mm"], 60 * 0.66 / 30)
        burn = self.score(mixed[0], 3)
        with self.assertRaisesRegex(Refused, "Something was changed while"):
            keeping.keep_recipe(self.shop, self.member, burn, mixed[0], {"standing": "tried"})
        self.score("B3", 3)
        self.score("B2", 1)
        margins = deciding.decision(self.shop, burn)["margins"]["B3"]
        self.assertTrue(margins)


class GrowingTest(LiveCase):
    """Coupon by coupon over the live link: one burn, a run for each coupon."""

    def setUp(self):
        super().setUp()
        self.trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.linnet, begun_as="coupons")

    def coupon(self, speed):
        edit = self.page()["edit"]
        return growing.set_coupon(self.shop, self.member, self.trial, edit, {"speed_mm_s": speed, "power_pct": 60}, {})[
            "patch"
        ]

    def test_each_run_burns_the_coupon_that_waits(self):
        self.link()
        for speed in (10, 14, 12):
            patch = self.coupon(speed)
            run = self.ended(self.start())
            self.assertEqual(run.snapshot()["done"], [patch])
        page = self.page()
        self.assertEqual(len(page["burns"]), 1)
        self.assertEqual([[part["name"] for part in run["parts"]] for run in page["runs"]], [["A1"], ["A2"], ["A3"]])
        self.assertEqual([patch["settings"]["speed_mm_s"] for patch in page["burned"]["patches"]], [10, 14, 12])
        self.assertEqual([row["state"] for row in page["observed"]], ["burned"] * 3)
        self.assertEqual(page["not_burned"], [])

    def test_a_run_that_broke_leaves_its_coupon_uncertain_and_the_next_beside_it(self):
        self.link()
        self.coupon(10)
        self.ended(self.start())
        self.coupon(14)
        self.link("alarm@1")
        self.ended(self.start())
        states = {row["patch"]: row["state"] for row in self.page()["observed"]}
        self.assertEqual(states, {"A1": "burned", "A2": "uncertain"})
        self.assertEqual(self.coupon(14), "A3")

    def test_by_hand_and_live_in_turns(self):
        """One pass by hand, one live, and one more in place of the first: passes add up for each alone."""
        self.link()
        self.coupon(10)
        burn = burning.mark_burned(self.shop, self.member, self.trial, self.page()["edit"], {})
        self.coupon(14)
        self.ended(self.start())
        again_by_hand(self.shop, self.member, burn, Again(["A1"], 1))
        page = self.page()
        self.assertEqual([patch["settings"]["passes"] for patch in page["burned"]["patches"]], [2, 1])
        self.assertEqual(page["not_burned"], [])


class RemarkTest(LiveCase):
    def test_one_tap_a_remark_with_time_and_patch(self):
        burn = burning.mark_burned(self.shop, self.member, self.trial, self.page()["edit"], {"hold_down": "weights"})
        said = burning.remark(self.shop, self.member, burn, {"kind": "flame", "patch": "A2"})
        self.assertEqual((said["kind"], said["patch"], said["by_name"]), ("flame", "A2", "Moss"))
        burning.remark(self.shop, self.technician, burn, {"kind": "note", "note": "smells of glue"})
        self.assertEqual([one["kind"] for one in self.page()["remarks"]], ["flame", "note"])
        for wrong in ({"kind": "boom"}, {"kind": "flame", "patch": "Z1"}, {"kind": "note", "note": " "}):
            with self.assertRaises(InvalidInput):
                burning.remark(self.shop, self.member, burn, wrong)
        burning.take_back_remark(self.shop, self.technician, said["id"])
        self.assertEqual([one["kind"] for one in self.page()["remarks"]], ["note"])
        self.assertEqual(self.page()["last_conditions"]["hold_down"], "weights")

    def test_the_checklist_knows_machine_and_material(self):
        keys = [check["key"] for check in self.page()["checklist"]]
        self.assertLessEqual({"eyewear", "never_alone", "fire", "extraction", "air", "focus"}, set(keys))
        self.assertNotIn("stop", keys)
        self.link()
        checks = {check["key"]: check for check in self.page()["checklist"]}
        self.assertIn("10.6 µm", checks["eyewear"]["sentence"])
        self.assertIn("no emergency stop", checks["stop"]["sentence"])
        self.assertEqual(checks["air"]["sentence"], "Air on.")

    def test_what_is_only_assumed_of_its_power_is_said_before_it_burns(self):
        self.assertNotIn("assumed", [check["key"] for check in self.page()["checklist"]])
        with self.shop.database.writing() as db:
            db.execute("""UPDATE machine SET assumed = '["acceleration_mm_s2", "max_power_pct", "s_at_full_power"]'""")
        [said] = [check["sentence"] for check in self.page()["checklist"] if check["key"] == "assumed"]
        self.assertIn("power ceiling and S at full power", said)
        self.assertNotIn("acceleration", said)


class ByHandTest(LiveCase):
    """A dial in mA: 40 % lie at 8 mA, 60 % at 12."""

    def setUp(self):
        super().setUp()
        self.link(speed_up=20)
        with self.shop.database.reading() as db:
            head = equipment_table.head(db, self.linnet)
            machine = equipment_table.one(db, "machine", head["machine_id"])
        dial = {"unit": "mA", "pairs": [[2, 10], [16, 80]]}
        facts = {**machine["facts"], "link": machine["link"], "by_hand": ["power_pct"], "curves": {"power_pct": dial}}
        equipment.change(self.shop, self.keeper, "machine", machine["id"], machine["edit"], facts, {}, retired=False)
        page = self.page()
        planning.change_draft(self.shop, self.member, self.trial, page["edit"], {**page["design"], "title": "x"}, {})

    def turned(self, run, part, shown=None, by=None, there=True):
        live.turned(self.burns, by or self.member, run.key, part, shown or {}, there)

    def test_it_stops_says_what_to_turn_and_keeps_what_was_read_off(self):
        run = self.wait(self.start(), "waiting")
        stop = run.snapshot()["stop"]
        self.assertEqual((stop["sentence"], stop["parts"]), ("Set 8 mA, then go on.", PATCHES[:3]))
        self.assertEqual([(one["shown"], one["unit"]) for one in stop["settings"]], [("8", "mA")])
        for refused, words in (
            (lambda: self.turned(run, "A1", there=False), "stand at the machine"),
            (lambda: self.turned(run, "A1", by=self.technician), "Moss holds the control"),
            (lambda: self.turned(run, "B1"), "does not wait for that"),
            (lambda: self.turned(run, "A1", {"power_pct": 17}), "from 2 to 16 mA"),
            (lambda: self.turned(run, "A1", {"focus_offset_mm": 1}), "not turned here"),
            (lambda: live.correct(self.burns, self.member, run.key, "power", 1), "takes no correction of power"),
        ):
            with self.subTest(words), self.assertRaisesRegex((Refused, InvalidInput), words):
                refused()
        self.assertEqual(self.bench.controller.stretches, [])
        self.turned(run, "A1")
        until(lambda: run.snapshot()["stop"] is not None and run.snapshot()["stop"]["parts"] == PATCHES[3:])
        self.assertEqual(run.done, PATCHES[:3])
        self.turned(run, "B1", {"power_pct": 13})
        self.assertEqual(self.ended(run).state, "done")
        page = self.page()
        power = {patch["id"]: patch["settings"]["power_pct"] for patch in page["burned"]["patches"]}
        self.assertEqual([power[patch] for patch in PATCHES], [40, 40, 40, 65, 65, 65])
        # 60 W: 39 W over 10 mm/s.
        dose = {patch["id"]: patch["dose_j_mm"] for patch in page["burned"]["patches"]}
        self.assertAlmostEqual(dose["B1"], 3.9)
        self.assertFalse(any(patch.get("mixed") for patch in page["burned"]["patches"]))
        self.assertIn("has set 13 mA", " ".join(line["sentence"] for line in run.log))
        self.assertEqual({stretch.beam for stretch in self.bench.controller.stretches if stretch.beam}, {1000.0})

    def test_the_time_somebody_takes_is_no_time_of_the_burn(self):
        ticks = [0.0]
        self.burns.clock = lambda: ticks[0]
        run = self.wait(self.start(), "waiting")
        left = run.snapshot()["seconds_left"]
        ticks[0] = 600.0
        self.assertEqual((run.snapshot()["seconds_left"], run.snapshot()["seconds_gone"]), (left, 0.0))
        live.stop(self.burns, self.technician, run.key)
        self.assertEqual((self.ended(run).state, run.uncertain), ("stopped", None))
        self.assertEqual(set(self.states().values()), {"waiting"})

    def test_the_rest_and_again_in_place_stop_as_well(self):
        run = self.wait(self.start(), "waiting")
        self.turned(run, "A1")
        until(lambda: run.snapshot()["stop"] is not None and run.snapshot()["stop"]["parts"] == PATCHES[3:])
        live.stop(self.burns, self.member, run.key)
        self.ended(run)
        burn = self.page()["burns"][0]["id"]
        rest = self.wait(live.carry_on(self.burns, self.member, burn, "unknown", True), "waiting")
        self.turned(rest, "B1", {"power_pct": 12})
        self.assertEqual(self.ended(rest).snapshot()["done"], PATCHES[3:])
        again = self.wait(again_in_place(self.burns, self.member, burn, Again(["A1"], 1), True), "waiting")
        self.turned(again, "A1", {"power_pct": 9})
        self.ended(again)
        first = self.page()["burned"]["patches"][0]
        # One pass at 8 mA and one at 9: 4.25 J/mm more than nothing, and no single setting.
        self.assertTrue(first["mixed"])
        self.assertAlmostEqual(first["dose_j_mm"], 60 * (0.40 + 0.45) / 10)


if __name__ == "__main__":
    unittest.main()
