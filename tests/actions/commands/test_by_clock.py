"""A file that a machine burns: what burns just now, what is said of it, and what stands in the records."""

import dataclasses
from datetime import UTC, datetime, timedelta

from rezept.actions.commands import burning, by_clock, equipment, planning
from rezept.actions.members import NotAllowed
from rezept.actions.queries import clock, views
from rezept.actions.running.live_burns import LiveBurns
from rezept.core.errors import InvalidInput, Refused
from rezept.store import equipment as equipment_table
from tests.made import ShopCase

PATCHES = ["A1", "A2", "A3", "B1", "B2", "B3"]


class ClockCase(ShopCase):
    """Three speeds by two powers on Wren, no lettering; the clock stands where the test puts it."""

    facts = {}

    def setUp(self):
        super().setUp()
        self.begin = datetime(2026, 11, 29, 10, 0, tzinfo=UTC)
        self.now = self.begin
        self.shop = dataclasses.replace(self.shop, clock=lambda: self.now)
        if self.facts:
            with self.shop.database.reading() as db:
                machine = equipment_table.one(db, "machine", equipment_table.head(db, self.wren)["machine_id"])
            facts = {**machine["facts"], **self.facts}
            equipment.change(self.shop, self.keeper, "machine", machine["id"], machine["edit"], facts, {}, False)
        self.trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        page = self.page()
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "values": [10, 20, 30]},
            {"parameter": "power_pct", "along": "y", "values": [40, 60]},
        ]
        design = {**page["design"], "axes": axes, "order": "rows", "hold": {"air_level": 1}}
        planning.change_draft(self.shop, self.member, self.trial, page["edit"], design, {})
        self.run_ = by_clock.it_starts(self.shop, self.member, self.trial, self.page()["edit"], {"lot": "Autumn"})
        self.burn = self.run_["burn_id"]
        self.seconds = {patch["id"]: patch["seconds"] for patch in self.page()["burned"]["patches"]}
        between = self.page()["burned"]["travel_seconds"] / 6
        self.begins = dict(
            zip(
                PATCHES,
                [sum(self.seconds[one] + between for one in PATCHES[:i]) for i in range(6)],
                strict=True,
            )
        )

    def page(self):
        return views.trial_page(self.shop, self.trial)

    def after(self, seconds):
        self.now = self.begin + timedelta(seconds=seconds)
        runs = clock.clock_runs(self.shop, self.trial)
        return runs[0] if runs else None

    def within(self, patch, more=0.1):
        return self.after(self.begins[patch] + more)

    def patch(self, name):
        return next(one for one in self.page()["burned"]["patches"] if one["id"] == name)


class FollowedTest(ClockCase):
    def test_the_screen_shows_what_burns_and_the_record_says_by_the_clock(self):
        self.assertEqual((self.run_["state"], self.run_["current"], self.run_["by_clock"]), ("running", "A1", True))
        for patch in PATCHES:
            self.assertEqual(self.within(patch)["current"], patch)
        self.assertEqual(self.within("B2")["done"], PATCHES[:4])
        [run] = self.page()["runs"]
        self.assertEqual((run["by_clock"], run["via"], run["state"]), (True, "hand", "running"))
        self.assertIn("by the clock", run["lines"][0]["sentence"])
        self.assertEqual((self.page()["stage"], self.page()["burns"][0]["lot"]), ("read", "Autumn"))
        # Nobody says that it is done: it burned whole all the same.
        self.assertEqual(self.page()["not_burned"], [])
        over = self.after(10_000)
        self.assertEqual((over["current"], over["share"], over["seconds_left"]), (None, 1.0, 0.0))

    def test_a_server_that_starts_anew_leaves_it_as_it_is(self):
        LiveBurns(self.shop).close()
        self.assertEqual(self.within("A2")["current"], "A2")

    def test_remarks_find_their_patch(self):
        self.within("A3")
        self.assertEqual(burning.remark(self.shop, self.member, self.burn, {"kind": "flame"})["patch"], "A3")
        self.within("B1")
        named = burning.remark(self.shop, self.member, self.burn, {"kind": "flame", "patch": "A1"})
        remarks = self.page()["remarks"]
        self.assertEqual([(one["patch"], one["by_clock"]) for one in remarks], [("A3", True), ("A1", False)])
        self.assertFalse(named["by_clock"])
        by_clock.ended(self.shop, self.member, self.burn, True)
        self.assertIsNone(burning.remark(self.shop, self.member, self.burn, {"kind": "flame"})["patch"])

    def test_it_rests_goes_on_and_is_put_right_by_a_tap(self):
        self.within("A2")
        by_clock.say(self.shop, self.member, self.burn, {"what": "pause"})
        self.assertEqual(self.after(3600)["state"], "held")
        self.assertEqual(self.after(3600)["current"], "A2")
        by_clock.say(self.shop, self.member, self.burn, {"what": "at", "part": "B2"})
        self.assertEqual(self.after(3600.1)["current"], "B2")
        by_clock.say(self.shop, self.member, self.burn, {"what": "shift", "by_s": -3600})
        self.assertEqual(self.after(3600.2)["current"], "A1")
        for wrong, words in (
            ({"what": "at"}, "which patch"),
            ({"what": "at", "part": "Z9"}, "Z9"),
            ({"what": "explode"}, "what must be one of"),
            ({"what": "shift", "by_s": 1e9}, "at most"),
        ):
            with self.subTest(wrong), self.assertRaisesRegex(InvalidInput, words):
                by_clock.say(self.shop, self.member, self.burn, wrong)
        # Nothing of what was refused was kept.
        self.assertEqual(self.after(3600.3)["current"], "A1")
        with self.assertRaises(NotAllowed):
            by_clock.say(self.shop, self.guest, self.burn, {"what": "pause"})

    def test_stopped_early_it_says_how_far_it_came(self):
        self.within("A3")
        over = by_clock.ended(self.shop, self.member, self.burn, False)
        self.assertEqual((over["state"], over["settled"]), ("stopped", True))
        page = self.page()
        states = {part["name"]: part["state"] for part in page["runs"][0]["parts"]}
        self.assertEqual([states[one] for one in PATCHES], ["done"] * 2 + ["uncertain"] + ["waiting"] * 3)
        self.assertEqual(page["not_burned"], PATCHES[3:])
        self.assertTrue(self.patch("A3")["mixed"])
        self.assertEqual(clock.clock_runs(self.shop), [])
        with self.assertRaisesRegex(Refused, "over"):
            by_clock.say(self.shop, self.member, self.burn, {"what": "pause"})

    def test_what_is_turned_at_the_machine_counts_from_there_on(self):
        self.within("A2")
        by_clock.corrected(self.shop, self.member, self.burn, {"key": "speed_mm_s", "shown": "15"})
        self.within("B1")
        by_clock.corrected(self.shop, self.member, self.burn, {"key": "speed_mm_s", "shown": "+ 10 %"})
        self.within("B2")
        by_clock.corrected(self.shop, self.member, self.burn, {"key": "power_pct", "way": "lower"})
        by_clock.ended(self.shop, self.member, self.burn, True)
        self.assertEqual((self.patch("A1")["settings"]["speed_mm_s"], self.patch("A1").get("mixed")), (10, None))
        # Turned while it burned: no single setting says what A2 got.
        self.assertTrue(self.patch("A2")["mixed"])
        third = self.patch("A3")
        self.assertEqual((third["settings"]["speed_mm_s"], third["mixed"]), (15, False))
        # 60 W x 40 % over 15 mm/s.
        self.assertAlmostEqual(third["dose_j_mm"], 24 / 15)
        # Ten in a hundred more than the file says.
        speeds = [self.patch(name)["settings"]["speed_mm_s"] for name in PATCHES[3:]]
        self.assertEqual([round(speed, 6) for speed in speeds], [11, 22, 33])
        self.assertIn("speed + 10 % from B1 on", " ".join(line["sentence"] for line in self.page()["runs"][0]["lines"]))
        # Lower, nobody knows how far.
        self.assertTrue(all(self.patch(name)["mixed"] for name in PATCHES[3:]))
        for wrong in ({"key": "power_pct"}, {"key": "nothing", "way": "lower"}, {"key": "power_pct", "shown": "abc"}):
            with self.subTest(wrong), self.assertRaises((InvalidInput, Refused)):
                by_clock.corrected(self.shop, self.member, self.burn, wrong)


class TurnedTest(ClockCase):
    """The same on a machine with a dial that shows tenths of the power."""

    facts = {"by_hand": ["power_pct"], "curves": {"power_pct": {"unit": "mA", "pairs": [[1, 10], [8, 80]]}}}

    def test_it_waits_for_each_turn_and_keeps_what_was_read_off(self):
        waits = self.after(600)
        self.assertEqual((waits["state"], waits["stop"]["sentence"]), ("waiting", "Set 4 mA, then go on."))
        self.assertEqual((waits["done"], waits["current"]), ([], None))
        by_clock.turned(self.shop, self.member, self.burn, "A1", {})
        waits = self.after(1200)
        self.assertEqual((waits["done"], waits["stop"]["parts"]), (PATCHES[:3], PATCHES[3:]))
        with self.assertRaisesRegex(Refused, "any more"):
            by_clock.turned(self.shop, self.member, self.burn, "A1", {})
        by_clock.turned(self.shop, self.member, self.burn, "B1", {"power_pct": "6,5 mA"})
        self.assertEqual(self.after(1200.1)["current"], "B1")
        by_clock.ended(self.shop, self.member, self.burn, True)
        self.assertEqual([self.patch(one)["settings"]["power_pct"] for one in ("A1", "B1")], [40, 65])
