"""A trial burned coupon by coupon: one plate, one burn, nothing that is burned moves."""

import re
import unittest

import numpy as np

from rezept.actions.commands import burning, by_clock, equipment, exporting, growing, planning, reading
from rezept.actions.queries import views
from rezept.actions.queries.finding import finding
from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.next_coupon import coupon_after
from rezept.core.errors import InvalidInput, Refused
from rezept.core.plan import read_trial
from rezept.core.plan.place import to_program
from rezept.store import burns as burn_table
from rezept.store.errors import Stale
from tests.made import ShopCase, trial_document


class GrowingCase(ShopCase):
    def setUp(self):
        super().setUp()
        self.trial = planning.new_trial(self.shop, self.technician, "cut", self.poplar, self.wren, begun_as="coupons")

    @property
    def page(self):
        return views.trial_page(self.shop, self.trial)

    def planned(self, **settings):
        return growing.set_coupon(self.shop, self.technician, self.trial, self.page["edit"], settings, {})

    def burned(self, came=None, **settings):
        """One coupon planned, burned by hand, and read."""
        patch = self.planned(**{"power_pct": 60, **settings})["patch"]
        burn = burning.mark_burned(self.shop, self.technician, self.trial, self.page["edit"], {})
        if came is not None:
            reading.score(self.shop, self.technician, burn, patch, 0, {"values": {"through": came}})
        return burn, patch


class GrowingTest(GrowingCase):
    def test_it_begins_with_one_coupon_at_what_is_known(self):
        page = self.page
        self.assertEqual(page["design"]["listed"]["burned"], 0)
        self.assertEqual([patch["id"] for patch in page["plate"]["patches"]], ["A1"])
        self.assertFalse(page["design"]["labels"]["on"])
        with self.assertRaisesRegex(Refused, "Nothing of this plate"):
            coupon_after(self.shop, self.trial)

    def test_followed_by_the_clock_only_the_next_one_burns(self):
        burn, _ = self.burned(3, speed_mm_s=8)
        self.planned(speed_mm_s=4, power_pct=60)
        run = by_clock.it_starts(self.shop, self.technician, self.trial, self.page["edit"], {})
        self.assertEqual((run["burn_id"], run["parts"]), (burn, ["A2"]))
        by_clock.ended(self.shop, self.technician, burn, True)
        got = {patch["id"]: patch["settings"]["passes"] for patch in self.page["burned"]["patches"]}
        self.assertEqual(got, {"A1": 1, "A2": 1})

    def test_all_coupons_are_one_burn_of_one_plate(self):
        burns = {self.burned(came, speed_mm_s=speed)[0] for came, speed in ((3, 8), (3, 10), (1, 16))}
        self.assertEqual(len(burns), 1)
        page = self.page
        self.assertEqual(len(page["burns"]), 1)
        self.assertEqual([patch["settings"]["speed_mm_s"] for patch in page["burned"]["patches"]], [8, 10, 16])
        self.assertEqual([(row["patch"], row["values"]["through"]) for row in page["readings"]],
                         [("A1", 3), ("A2", 3), ("A3", 1)])  # fmt: skip
        self.assertEqual((page["stage"], page["scored"], page["patches"]), ("decide", 3, 3))
        self.assertTrue(all(row["state"] == "burned" for row in page["observed"]))
        found = finding(self.shop, burns.pop(), {})
        self.assertEqual(found["candidates"][0]["aim"], "fastest")

    def test_the_next_is_offered_with_its_reason(self):
        self.burned(3, speed_mm_s=10)
        self.burned(1, speed_mm_s=16)
        coupon = coupon_after(self.shop, self.trial)
        self.assertEqual((coupon["after"], coupon["settled"]), ("A2", False))
        self.assertAlmostEqual(coupon["settings"]["speed_mm_s"], 12.6, delta=0.1)
        self.assertIn("Between 10 mm/s", coupon["why"])
        self.assertEqual(set(coupon["predicted"]), {"p_drops_out", "low", "high"})

    def test_files_hold_only_what_is_still_to_burn(self):
        self.burned(3, speed_mm_s=10)
        self.planned(power_pct=60, speed_mm_s=13)
        revision = exporting.freeze_latest(self.shop, self.technician, self.trial, self.page["edit"])
        _, _, svg = exporting.file_of(self.shop, self.trial, revision, "csv")
        self.assertIn(b"13", svg)
        self.assertIn(b"A2", svg)
        self.assertNotIn(b"A1", svg)

    def test_what_is_typed_is_read_in_my_units_and_the_rest_is_held(self):
        self.burned(3, speed_mm_s=10)
        said = growing.set_coupon(
            self.shop, self.technician, self.trial, self.page["edit"],
            {"speed_mm_s": "720", "power_pct": "55 %", "passes": "2"}, {"speed": "mm/min"},
        )  # fmt: skip
        self.assertEqual((said["patch"], said["changed"]), ("A2", ["speed", "power", "passes"]))
        settings = self.page["plate"]["patches"][1]["settings"]
        self.assertEqual((settings["speed_mm_s"], settings["power_pct"], settings["passes"]), (12, 55, 2))
        self.assertEqual(self.page["plate"]["patches"][0]["settings"]["passes"], 1)

    def test_one_thing_changed_is_nothing_to_say(self):
        self.burned(3, speed_mm_s=10)
        self.assertEqual(self.planned(power_pct=60, speed_mm_s=12)["changed"], [])

    def test_what_waits_is_replaced_until_it_burns(self):
        self.planned(power_pct=60, speed_mm_s=12)
        self.planned(power_pct=60, speed_mm_s=14)
        self.assertEqual([patch["settings"]["speed_mm_s"] for patch in self.page["plate"]["patches"]], [14])

    def test_a_coupon_is_burned_once(self):
        self.burned(3, speed_mm_s=10)
        with self.assertRaisesRegex(Refused, "burned already"):
            burning.mark_burned(self.shop, self.technician, self.trial, self.page["edit"], {})

    def test_what_is_burned_neither_moves_nor_changes(self):
        self.burned(3, speed_mm_s=10)
        self.burned(3, speed_mm_s=12)
        design = self.page["design"]
        rows = design["listed"]["settings"]
        for change, said in (
            ({"patch": {**design["patch"], "width_mm": 5.0}}, "would move it"),
            ({"labels": {**design["labels"], "on": True, "settings": {"speed_mm_s": 100, "power_pct": 10}}}, "move it"),
            ({"listed": {**design["listed"], "settings": [{**rows[0], "speed_mm_s": 11}, rows[1]]}}, "other settings"),
            ({"listed": {**design["listed"], "settings": rows[:1]}}, "take patches off"),
        ):
            with self.subTest(said), self.assertRaisesRegex(Refused, said):
                planning.change_draft(
                    self.shop, self.technician, self.trial, self.page["edit"], {**design, **change}, {}
                )

    def test_two_at_once_do_not_lose_one(self):
        edit = self.page["edit"]
        self.planned(power_pct=60, speed_mm_s=10)
        with self.assertRaises(Stale):
            growing.set_coupon(self.shop, self.technician, self.trial, edit, {"power_pct": 60, "speed_mm_s": 12}, {})

    def test_taken_back_it_begins_anew(self):
        burn, _ = self.burned(3, speed_mm_s=10)
        burning.take_back_burn(self.shop, self.technician, burn)
        again, patch = self.burned(1, speed_mm_s=12)
        self.assertNotEqual(again, burn)
        self.assertEqual(patch, "A1")
        self.assertEqual(len(self.page["burned"]["patches"]), 1)

    def test_its_own_coupons_are_no_burned_ground_to_it(self):
        facts = {"material_id": self.poplar, "name": "scrap", "shape": "rectangle", "width_mm": 120.0,
                 "height_mm": 60.0, "margin_mm": 0.0}  # fmt: skip
        piece = equipment.add(self.shop, self.technician, "piece", facts, {})
        page = self.page
        planning.change_draft(
            self.shop, self.technician, self.trial, page["edit"], {**page["design"], "piece_id": piece}, {}
        )
        for speed in (10, 12, 14):
            self.burned(3, speed_mm_s=speed)
        self.assertEqual(self.page["plate"]["trial"]["burned_ground"], [])
        kinds = {warning["kind"] for patch in self.page["plate"]["patches"] for warning in patch["warnings"]}
        self.assertNotIn("burned_ground", kinds)


class WhereTest(GrowingCase):
    """What is burned stays where it is on the machine, not only on the plate."""

    def lower_left(self):
        with self.shop.database.reading() as db:
            plate = frozen_plate(db, burn_table.burns_of_trial(db, self.trial)[0]["revision_id"])
        return to_program(plate.elements.corners, plate.trial, plate.width_mm, plate.height_mm)

    def stays(self, count=8):
        """Burn coupon after coupon; returns where each lay, having seen that none before it moved."""
        places = None
        for i in range(count):
            self.burned(None, speed_mm_s=10 + i, **self.settings)
            now = self.lower_left()
            if places is not None:
                np.testing.assert_allclose(now[:-1], places, atol=1e-6)
            places = now
        return places

    settings = {}

    def laid(self, **change):
        page = self.page
        design = {**page["design"], **change}
        planning.change_draft(self.shop, self.technician, self.trial, page["edit"], design, {})

    def test_in_the_middle_of_a_piece(self):
        self.laid(piece={"shape": "rectangle", "width_mm": 200.0, "height_mm": 100.0, "margin_mm": 0.0},
                  place={"at": "centre", "x_mm": -30.0, "y_mm": -10.0, "turn_deg": 90.0})  # fmt: skip
        self.stays()

    def test_on_clear_ground(self):
        facts = {"material_id": self.poplar, "name": "scrap", "shape": "rectangle", "width_mm": 80.0,
                 "height_mm": 60.0, "margin_mm": 0.0}  # fmt: skip
        piece = equipment.add(self.shop, self.technician, "piece", facts, {})
        other = planning.new_trial(self.shop, self.technician, "cut", self.poplar, self.wren, begun_as="coupons")
        design = {**views.trial_page(self.shop, other)["design"], "piece_id": piece,
                  "place": {"at": "corner", "x_mm": 40.0, "y_mm": 0.0}}  # fmt: skip
        planning.change_draft(self.shop, self.technician, other, 1, design, {})
        burning.mark_burned(self.shop, self.technician, other, 2, {})
        self.laid(piece_id=piece, place={"at": "clear"})
        places = self.stays(4)
        self.assertLess(places[0, 0], 40)
        kinds = {warning["kind"] for patch in self.page["plate"]["patches"] for warning in patch["warnings"]}
        self.assertIn("burned_ground", kinds)

    def test_on_a_galvo_without_a_piece(self):
        self.trial = planning.new_trial(
            self.shop, self.technician, "surface", self.blank, self.heron, begun_as="coupons"
        )
        self.settings = {"frequency_khz": 60, "pulse_width_ns": 200}
        places = self.stays(24)
        # The head of Heron reaches 55 mm each way.
        self.assertLess(np.abs(places + 5).max(), 50)
        self.assertEqual([w["kind"] for w in self.page["plate"]["warnings"] if w["kind"] == "piece"], [])

    def test_on_a_galvo_where_somebody_said_there_is_no_piece(self):
        self.trial = planning.new_trial(
            self.shop, self.technician, "surface", self.blank, self.heron, begun_as="coupons"
        )
        self.settings = {"frequency_khz": 60, "pulse_width_ns": 200}
        self.laid(piece=None, place={"at": "corner"})
        places = self.stays(4)
        np.testing.assert_allclose(places[0], [-5, -5], atol=5)


class ArrayTest(ShopCase):
    """An array that was burned grows beside itself."""

    def setUp(self):
        super().setUp()
        self.trial = planning.new_trial(self.shop, self.technician, "cut", self.poplar, self.wren)

    @property
    def page(self):
        return views.trial_page(self.shop, self.trial)

    def laid(self, **change):
        page = self.page
        planning.change_draft(self.shop, self.technician, self.trial, page["edit"], {**page["design"], **change}, {})

    def burned(self):
        return burning.mark_burned(self.shop, self.technician, self.trial, self.page["edit"], {})

    def one_more(self, burn=True, **settings):
        settings = {"power_pct": 60, "speed_mm_s": 12, **settings}
        said = growing.set_coupon(self.shop, self.technician, self.trial, self.page["edit"], settings, {})
        if burn:
            self.burned()
        return said["patch"]

    def test_the_next_patches_stand_beside_it_column_by_column(self):
        self.laid(axes=trial_document()["axes"])
        first = self.burned()
        names = [self.one_more(speed_mm_s=12 + i) for i in range(4)]
        self.assertEqual(names, ["A5", "B5", "C5", "A6"])
        page = self.page
        self.assertEqual([burn["id"] for burn in page["burns"]], [first])
        self.assertEqual(page["code"], "T3ST-T001.1")
        patches = {patch["id"]: patch for patch in page["burned"]["patches"]}
        self.assertEqual(len(patches), 16)
        self.assertEqual(patches["A6"]["settings"]["speed_mm_s"], 15)
        self.assertEqual(patches["C4"]["settings"]["speed_mm_s"], 32)
        pitch = patches["A2"]["x_mm"] - patches["A1"]["x_mm"]
        self.assertAlmostEqual(patches["A5"]["x_mm"] - patches["A4"]["x_mm"], pitch)
        self.assertAlmostEqual(patches["B5"]["y_mm"], patches["B4"]["y_mm"])
        self.assertEqual(page["not_burned"], [])
        self.assertEqual(page["patches"], 16)

    def test_with_blocks_they_are_a_block_of_their_own(self):
        passes = {"parameter": "passes", "along": "block_x", "values": [1, 2]}
        hold = {key: value for key, value in self.page["design"]["hold"].items() if key != "passes"}
        self.laid(axes=[*trial_document()["axes"], passes], hold=hold)
        self.burned()
        self.assertEqual([self.one_more(passes=i) for i in (1, 2)], ["3-A1", "3-A2"])
        self.assertEqual(self.page["burned"]["patches"][-1]["settings"]["passes"], 2)

    def test_where_the_sheet_ends_on_the_right_it_grows_above(self):
        width = self.page["plate"]["plate"]["width_mm"]
        self.laid(piece={"shape": "rectangle", "width_mm": width + 3, "height_mm": 300.0, "margin_mm": 0.0})
        self.burned()
        before = self.page["burned"]
        rows = max(patch["row"] for patch in before["patches"])
        patch = self.one_more()
        self.assertEqual(patch, f"{'ABCDEFGHIJKLMN'[rows]}1")
        now = {one["id"]: one for one in self.page["burned"]["patches"]}
        self.assertGreater(now[patch]["y_mm"], before["plate"]["height_mm"] - 2.01)
        self.assertEqual(self.page["burned"]["plate"]["width_mm"], before["plate"]["width_mm"])

    def test_where_there_is_no_room_it_says_so(self):
        size = self.page["plate"]["plate"]
        self.laid(piece={"shape": "rectangle", "width_mm": size["width_mm"], "height_mm": size["height_mm"],
                         "margin_mm": 0.0})  # fmt: skip
        self.burned()
        with self.assertRaisesRegex(Refused, "no room on this piece"):
            self.one_more()

    def test_what_cannot_grow_is_refused(self):
        with self.assertRaisesRegex(Refused, "is an array; burn it"):
            self.one_more()
        self.burned()
        self.laid(title="Another")
        with self.assertRaisesRegex(Refused, "changed after it was burned"):
            self.one_more()

    def test_beside_what_is_not_burned_nothing_grows(self):
        added = {"settings": [{"speed_mm_s": 12.0, "power_pct": 60.0}], "side": "right", "wrap": 5, "burned": 0}
        with self.assertRaisesRegex(Refused, "once it is burned"):
            self.laid(added=added)

    def test_a_plate_that_was_cut_out_has_nothing_beside_it(self):
        self.laid(cut_out=True, cut_settings={"speed_mm_s": 10, "power_pct": 60})
        self.burned()
        with self.assertRaisesRegex(Refused, "cut out of its piece"):
            self.one_more()

    def test_what_is_offered_goes_on_from_the_fastest_that_came_out(self):
        self.laid(axes=trial_document()["axes"])
        burn = self.burned()
        for patch, came in (("C1", 3), ("C2", 3), ("C3", 1), ("B1", 3), ("B2", 1)):
            reading.score(self.shop, self.technician, burn, patch, 0, {"values": {"through": came}})
        coupon = coupon_after(self.shop, self.trial)
        self.assertEqual(coupon["after"], "C2")
        self.assertEqual(coupon["settings"]["power_pct"], 80)
        self.assertAlmostEqual(coupon["settings"]["speed_mm_s"], (16 * 24) ** 0.5, delta=0.1)

    def test_files_hold_only_what_is_still_to_burn_and_are_called_by_it(self):
        self.laid(axes=trial_document()["axes"])
        self.burned()
        self.one_more(burn=False)
        revision = exporting.freeze_latest(self.shop, self.technician, self.trial, self.page["edit"])
        name, _, code = exporting.file_of(self.shop, self.trial, revision, "gcode")
        self.assertIn("T3ST-T001.1-A5-", name)
        plate = self.page["plate"]
        placed = next(patch for patch in plate["patches"] if patch["id"] == "A5")
        xs = [float(found) for found in re.findall(rb"X(-?[\d.]+)", code)]
        self.assertGreaterEqual(max(xs), placed["x_mm"])
        self.assertGreaterEqual(min(x for x in xs if x > 0), placed["x_mm"] - 5)

    def test_a_limit_of_dose_leaves_out_none_that_somebody_asked_for(self):
        self.laid(axes=trial_document()["axes"], dose_floor_j_mm=1.5)
        self.burned()
        patch = self.one_more(speed_mm_s=60)
        self.assertTrue(next(one for one in self.page["burned"]["patches"] if one["id"] == patch)["burn"])

    def test_taken_back_the_array_is_whole_again(self):
        burn = self.burned()
        count = len(self.page["plate"]["patches"])
        self.one_more()
        burning.take_back_burn(self.shop, self.technician, burn)
        self.assertIsNone(self.page["design"].get("added"))
        self.assertEqual(len(self.page["plate"]["patches"]), count)
        self.burned()
        self.assertEqual(len(self.page["burned"]["patches"]), count)

    def test_on_its_own_sheet_it_is_no_burned_ground_to_itself(self):
        facts = {"material_id": self.poplar, "name": "scrap", "shape": "rectangle", "width_mm": 220.0,
                 "height_mm": 160.0, "margin_mm": 0.0}  # fmt: skip
        self.laid(piece_id=equipment.add(self.shop, self.technician, "piece", facts, {}), place={"at": "clear"})
        self.burned()
        self.one_more(burn=False)
        self.assertEqual(self.page["plate"]["trial"]["burned_ground"], [])

    def test_lettering_stays_as_it_was_burned(self):
        self.laid(labels={**self.page["design"]["labels"], "on": True, "qr": True,
                          "settings": {"speed_mm_s": 100, "power_pct": 20}})  # fmt: skip
        self.burned()
        before = self.frozen()
        for _ in range(10):
            self.one_more()
        after = self.frozen()
        self.assertEqual(len(after.elements), len(before.elements) + 10)
        self.assertEqual((after.texts, after.marks), (before.texts, before.marks))
        self.assertEqual(after.trial.code, "T3ST-T001.1")

    def frozen(self):
        with self.shop.database.reading() as db:
            return frozen_plate(db, burn_table.burns_of_trial(db, self.trial)[0]["revision_id"])

    def test_the_document_reads_back_and_says_what_is_wrong(self):
        self.laid(axes=trial_document()["axes"])
        self.burned()
        self.one_more()
        document = self.frozen().trial.document()
        self.assertEqual(read_trial(document).document(), document)
        added = document["added"]
        for change, said in (
            ({"side": "below"}, "right, above"),
            ({"settings": [{"speed_mm_s": 12.0}]}, "says no power"),
            ({"settings": [{"speed_mm_s": 12.0, "power_pct": 60.0, "frequency_khz": 20}]}, "frequency"),
            ({"burned": 2}, "at most 1"),
        ):
            with self.subTest(said), self.assertRaisesRegex(InvalidInput, said):
                read_trial({**document, "added": {**added, **change}})


class ManyTest(GrowingCase):
    def test_sixty_coupons_on_one_plate(self):
        for i in range(60):
            self.burned(speed_mm_s=6 + 0.3 * i)
        page = self.page
        self.assertEqual(len(page["burned"]["patches"]), 60)
        self.assertEqual([patch["id"] for patch in page["burned"]["patches"]][-1], "J6")
        speeds = [patch["settings"]["speed_mm_s"] for patch in page["burned"]["patches"]]
        self.assertEqual(speeds, [6 + 0.3 * i for i in range(60)])


if __name__ == "__main__":
    unittest.main()
