"""A plate that was burned several times, burns noted wrong, and what is learned from what was really burned."""

import io
import unittest
from unittest import mock

from PIL import Image

from rezept.actions.commands import burning, keeping, people, photos, planning, reading
from rezept.actions.members import NotAllowed
from rezept.actions.queries import deciding, views
from rezept.actions.running.again import Again, again_by_hand
from rezept.core.errors import InvalidInput, NotFound, Refused, WhichOne
from tests.made import ShopCase


class BurnsCase(ShopCase):
    """A cut trial of 4 x 2 patches on Wren: 10 to 40 mm/s, 40 and 60 %."""

    def setUp(self):
        super().setUp()
        self.trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        page = self.page()
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "values": [10, 20, 30, 40]},
            {"parameter": "power_pct", "along": "y", "values": [40, 60]},
        ]
        design = {**page["design"], "axes": axes, "order": "rows", "hold": {"air_level": 1}}
        planning.change_draft(self.shop, self.member, self.trial, page["edit"], design, {})

    def page(self, burn=None):
        return views.trial_page(self.shop, self.trial, burn)

    def burned(self, by=None, **conditions):
        return burning.mark_burned(self.shop, by or self.member, self.trial, self.page()["edit"], conditions)

    def score(self, burn, **through):
        for patch, value in through.items():
            reading.score(self.shop, self.member, burn, patch, 0, {"values": {"through": value}})


class SeveralTest(BurnsCase):
    def test_a_later_burn_hides_nothing_of_the_earlier_one(self):
        first = self.burned(lot="autumn")
        self.score(first, A1=3, A2=1)
        recipe = keeping.keep_recipe(self.shop, self.member, first, "A1", {"standing": "tried"})
        second = self.burned(self.technician, lot="winter")
        self.score(second, B1=2)
        latest, earlier = self.page(), self.page(first)
        self.assertEqual((latest["burn"]["id"], earlier["burn"]["id"]), (second, first))
        self.assertEqual([one["patch"] for one in latest["readings"]], ["B1"])
        self.assertEqual(sorted(one["patch"] for one in earlier["readings"]), ["A1", "A2"])
        self.assertEqual([(one["id"], one["lot"], one["scored"]) for one in latest["burns"]],
                         [(second, "winter", 1), (first, "autumn", 2)])  # fmt: skip
        self.assertEqual([(one["id"], one["burn_id"]) for one in latest["recipes"]], [(recipe, first)])
        with self.assertRaises(NotFound):
            self.page(999)

    def test_a_photo_of_a_plate_that_was_burned_twice_asks_which(self):
        first, second = self.burned(lot="autumn"), self.burned(lot="winter")
        code = mock.Mock(text="REZEPT:T3ST-T001.1")
        data = io.BytesIO()
        Image.new("RGB", (640, 480), (180, 140, 90)).save(data, "JPEG")
        with (
            mock.patch("rezept.actions.queries.photo_reading.plate_codes", return_value=[code]),
            mock.patch.object(photos, "read_photo_of"),
        ):
            with self.assertRaisesRegex(WhichOne, "burned 2 times") as asked:
                photos.bring_in(self.shop, self.member, data.getvalue())
            self.assertEqual([choice["id"] for choice in asked.exception.choices], [second, first])
            self.assertEqual(asked.exception.choices[1]["lot"], "autumn")
            brought = photos.bring_in(self.shop, self.member, data.getvalue(), first)
        self.assertEqual((brought["burn_id"], brought["face"]), (first, "front"))
        self.assertEqual([one["photos"] for one in self.page()["burns"]], [0, 1])


class PutRightTest(BurnsCase):
    def test_conditions_put_right_say_so(self):
        burn = self.burned(lot="autumn", measured_mm=3.7)
        with self.assertRaisesRegex(NotAllowed, "put right what others noted"):
            burning.correct_burn(self.shop, self.other(), burn, {"lot": "winter"})
        burning.correct_burn(self.shop, self.member, burn, {"lot": "winter", "measured_mm": 4.1, "focus": "gauge"})
        shown = self.page()["burn"]
        self.assertEqual((shown["lot"], shown["measured_mm"], shown["focus"]), ("winter", 4.1, "gauge"))
        self.assertEqual(shown["corrected_by"], "Moss")
        self.assertEqual(self.page()["last_conditions"]["lot"], "winter")

    def other(self):

        return people.add_member(self.shop, self.keeper, "Fern", "member")

    def test_taken_back_by_who_noted_it_or_a_technician(self):
        first = self.burned(lot="autumn")
        self.score(first, A1=3)
        second = self.burned(lot="winter")
        with self.assertRaises(NotAllowed):
            burning.take_back_burn(self.shop, self.other(), second)
        burning.take_back_burn(self.shop, self.technician, second)
        self.assertEqual([one["id"] for one in self.page()["burns"]], [first])
        burning.take_back_burn(self.shop, self.member, first)
        page = self.page()
        self.assertEqual((page["burns"], page["burn"], page["readings"], page["stage"]), ([], None, [], "burn"))
        with self.assertRaises(NotFound):
            burning.take_back_burn(self.shop, self.member, first)

    def test_what_something_was_kept_from_stays(self):
        burn = self.burned()
        self.score(burn, A1=3)
        keeping.keep_recipe(self.shop, self.member, burn, "A1", {"standing": "tried"})
        for act in (burning.take_back_burn, lambda *w: burning.correct_burn(*w, {"lot": "x"})):
            with self.assertRaisesRegex(Refused, "A recipe was kept from this burn"):
                act(self.shop, self.member, burn)


class ReallyBurnedTest(BurnsCase):
    def test_margins_do_not_compare_two_passes_with_one(self):
        """A2 got another pass in place: from A1 nobody sees past it, and A3 is no neighbour of it."""
        burn = self.burned()
        again_by_hand(self.shop, self.member, burn, Again(["A2"], 1))
        self.score(burn, A1=3, A2=3, A3=1, A4=0, B1=3, B2=3)
        margins = deciding.decision(self.shop, burn)["margins"]
        self.assertEqual([one["patch"] for one in margins["A1"]], ["B1"])
        self.assertEqual(margins["A2"], [])
        self.assertEqual([one["patch"] for one in margins["A3"] if one["parameter"] == "speed_mm_s"], ["A4"])
        self.assertEqual([one["patch"] for one in margins["B2"] if one["parameter"] == "power_pct"], [])

    def test_finer_steps_are_between_what_was_burned(self):
        burn = self.burned()
        again_by_hand(self.shop, self.member, burn, Again(["A2"], 1))
        self.score(burn, A2=3, A3=1)
        trial = planning.finer_trial(self.shop, self.member, burn, "A3", "A2")
        design = views.trial_page(self.shop, trial)["design"]
        varied = {axis["parameter"]: axis for axis in design["axes"]}
        self.assertEqual(set(varied), {"speed_mm_s", "passes"})
        self.assertEqual((varied["passes"]["from"], varied["passes"]["to"]), (1, 2))

    def test_what_dropped_out_is_not_offered_as_failed(self):
        burn = self.burned()
        self.score(burn, A1=3, A2=3, A3=1, A4=0)
        self.assertEqual(deciding.decision(self.shop, burn)["failed"]["A2"], ["A3", "A4"])
        with self.assertRaisesRegex(InvalidInput, "A1 came out as well as A2"):
            planning.finer_trial(self.shop, self.member, burn, "A1", "A2")

    def test_a_mixed_patch_says_nothing(self):
        burn = self.burned()
        with self.shop.database.writing() as db:
            db.execute("INSERT INTO burn_run (burn_id, kind, via, state, by_member, at) VALUES (?, 'again', 'link',"
                       " 'done', 1, '')", (burn,))  # fmt: skip
            db.execute("INSERT INTO run_part (run_id, position, name, kind, state, passes, mixed) VALUES"
                       " (1, 0, 'A2', 'patch', 'done', 1, 1)")  # fmt: skip
        self.score(burn, A1=3, A2=1, A3=1)
        decision = deciding.decision(self.shop, burn)
        self.assertNotIn("A2", decision["margins"])
        self.assertEqual(decision["failed"]["A1"], ["A3"])
        with self.assertRaisesRegex(Refused, "Something was changed while A2"):
            planning.finer_trial(self.shop, self.member, burn, "A2", "A1")


class KeepTest(BurnsCase):
    def corrected(self, burn, passes=1, power=1.0):
        with self.shop.database.writing() as db:
            db.execute("INSERT INTO burn_run (burn_id, kind, via, state, by_member, at) VALUES (?, 'whole', 'link',"
                       " 'done', 1, '')", (burn,))  # fmt: skip
            db.execute("INSERT INTO run_part (run_id, position, name, kind, state, passes, power) VALUES"
                       " (1, 0, 'B1', 'patch', 'done', ?, ?)", (passes, power))  # fmt: skip
        self.score(burn, B1=3)

    def test_what_no_plan_could_ask_for_is_not_kept(self):
        """60 % turned up to 111 %, 301 passes, and 90 % on a source that should give 85."""
        for passes, power, words in ((1, 1.85, "at most 100"), (301, 1.0, "at most 100"), (1, 1.5, "85 % at most")):
            with self.subTest(words):
                burn = self.burned()
                with self.shop.database.writing() as db:
                    db.execute("DELETE FROM run_part")
                    db.execute("DELETE FROM burn_run")
                self.corrected(burn, passes, power)
                with self.assertRaisesRegex(Refused, f"{words}.*not kept"):
                    keeping.keep_recipe(self.shop, self.member, burn, "B1", {"standing": "tried"})

    def test_a_recipe_of_before_breaks_no_trial(self):
        burn = self.burned()
        self.score(burn, B1=3)
        recipe = keeping.keep_recipe(self.shop, self.member, burn, "B1", {"standing": "tried"})
        with self.shop.database.writing() as db:
            db.execute("UPDATE recipe_step SET settings = json_set(settings, '$.power_pct', 110.5, '$.passes', 301)"
                       " WHERE recipe_id = ?", (recipe,))  # fmt: skip
        trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        self.assertIsNone(views.trial_page(self.shop, trial)["problem"])


if __name__ == "__main__":
    unittest.main()
