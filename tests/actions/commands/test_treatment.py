"""As burned, wiped, sanded, rubbed: each has its own readings, and one is what a burn is judged by."""

import unittest

from rezept.actions.commands import burning, keeping, planning, reading
from rezept.actions.members import NotAllowed
from rezept.actions.queries import asking, views
from rezept.actions.queries.finding import find
from rezept.core.errors import InvalidInput
from rezept.core.findings.choices import NOTHING_WANTED, Wish
from rezept.store import photos as photo_table
from tests.made import ShopCase


class TreatmentTest(ShopCase):
    def setUp(self):
        super().setUp()
        self.trial = planning.new_trial(self.shop, self.technician, "area", self.poplar, self.wren)
        self.burn = burning.mark_burned(self.shop, self.technician, self.trial, 1, {})

    @property
    def page(self):
        return views.trial_page(self.shop, self.trial)

    def judge(self, treatment, by=None, burn=None):
        reading.judge_by(self.shop, by or self.member, burn or self.burn, treatment)

    def score(self, patch, darkness, edit=0):
        return reading.score(self.shop, self.member, self.burn, patch, edit, {"values": {"darkness": darkness}})

    def read(self):
        return {row["patch"]: row["values"]["darkness"] for row in self.page["readings"]}

    def test_each_treatment_has_readings_of_its_own_side_by_side(self):
        self.score("A1", 4)
        self.score("A2", 3)
        self.judge("sanded")
        self.assertEqual((self.read(), self.page["scored"], self.page["burn"]["treatment"]), ({}, 0, "sanded"))
        self.score("A1", 2)
        self.assertEqual(self.read(), {"A1": 2})
        [before] = self.page["otherwise_read"]
        self.assertEqual(before["treatment"], "burned")
        self.assertEqual({row["patch"]: row["values"]["darkness"] for row in before["readings"]}, {"A1": 4, "A2": 3})
        self.judge("burned")
        self.assertEqual(self.read(), {"A1": 4, "A2": 3})
        # Each counts its own edits.
        self.assertEqual(self.score("A1", 5, edit=1)["edit"], 2)
        self.judge("sanded")
        self.assertEqual(self.read(), {"A1": 2})

    def test_the_recipe_keeps_by_what_it_was_judged(self):
        self.score("A1", 4)
        self.judge("sanded")
        self.score("A1", 2)
        kept = keeping.keep_recipe(self.shop, self.member, self.burn, "A1", {"standing": "tried"})
        self.judge("burned")
        self.score("A1", 0, edit=1)
        page = asking.recipe_page(self.shop, self.member, kept)
        self.assertEqual((page["treatment"], page["treatment_words"]), ("sanded", "sanded"))
        # Bare as burned, it would be nothing to work by; sanded it is what it was kept for.
        self.assertEqual(page["evidence"]["reading"]["values"]["darkness"], 2)
        self.assertEqual(
            [one["id"] for one in asking.ask(self.shop, "area", self.poplar, self.wren)["recipes"]], [kept]
        )

    def test_burns_judged_otherwise_say_nothing_of_one_another(self):
        self.score("A1", 4)
        other = burning.mark_burned(self.shop, self.technician, self.trial, self.page["edit"], {})
        self.judge("sanded", burn=other)
        reading.score(self.shop, self.member, other, "A1", 0, {"values": {"darkness": 2}})
        for treatment, plates in (("sanded", 1), ("burned", 2)):
            self.judge(treatment, burn=other)
            reading_of_other = {"values": {"darkness": 2}}
            if treatment == "burned":
                reading.score(self.shop, self.member, other, "A1", 0, reading_of_other)
            with self.shop.database.reading() as db:
                self.assertEqual(len(find(db, self.burn, Wish(), NOTHING_WANTED).plates), plates)

    def test_what_is_none_and_who_may_not(self):
        with self.assertRaises(InvalidInput):
            self.judge("polished")
        with self.assertRaises(NotAllowed):
            self.judge("sanded", by=self.guest)

    def test_a_photo_reads_the_face_of_the_piece_treated_as_it_shows_it(self):
        def photo(number, face, treatment, found=True):
            return {"id": number, "face": face, "treatment": treatment, "matrix": [[1]] if found else None}

        def reads(treatment, *photos):
            return sorted(one["id"] for one in photo_table._reading(photos, treatment))

        both = photo(1, "front", "burned"), photo(2, "front", "sanded"), photo(3, "back", "sanded", found=False)
        self.assertEqual((reads("burned", *both), reads("sanded", *both), reads("wiped", *both)), ([1], [2], []))
        self.assertEqual(reads("burned", both[1]), [2])


if __name__ == "__main__":
    unittest.main()
