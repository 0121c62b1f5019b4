"""What was only heard of or estimated, once a patch was burned with it; and what it took to get there."""

from typing import Any

from rezept.actions.commands import burning, keeping, planning, reading
from rezept.actions.commands.joining import join_evidence
from rezept.actions.queries import asking, views
from rezept.store import readings as reading_table
from tests.actions.commands.test_book import BookCase


class JoiningTest(BookCase):
    def setUp(self) -> None:
        super().setUp()
        self.trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        self.plate = views.trial_page(self.shop, self.trial)["plate"]
        self.settings = {one["id"]: one["settings"] for one in self.plate["patches"]}
        self.burn = burning.mark_burned(self.shop, self.member, self.trial, 1, {})

    def heard_as(self, patch: str, **other: float) -> int:
        got = self.settings[patch]
        kept = {key: got[key] for key in ("speed_mm_s", "power_pct", "passes")} | other
        return self.heard(settings=kept, standing="estimate")

    def score(self, patch: str, through: int, edit: int = 0) -> None:
        reading.score(self.shop, self.technician, self.burn, patch, edit, {"values": {"through": through}})

    def standing(self, recipe: int) -> Any:
        return self.page(recipe)["standing"]

    def test_a_patch_that_came_out_makes_it_tried_and_stands_behind_it(self):
        recipe = self.heard_as("B3")
        self.score("A1", 3)
        self.assertEqual(self.standing(recipe), "estimate")
        self.score("B3", 3)
        page = self.page(recipe)
        self.assertEqual((page["standing"], page["burn_id"], page["patch"]), ("tried", self.burn, "B3"))
        self.assertEqual(page["history"][0]["by_name"], "Tess")
        self.assertIn(recipe, [row["id"] for row in asking.ask(self.shop, "cut", self.poplar, self.wren)["recipes"]])

    def test_one_that_did_not_come_out_leaves_it_as_it_is(self):
        recipe = self.heard_as("B3")
        self.score("B3", 1)
        self.assertEqual((self.standing(recipe), self.page(recipe)["patch"]), ("estimate", None))

    def test_put_right_to_have_failed_it_answers_nothing(self):
        recipe = self.heard_as("B3")
        self.score("B3", 3)
        self.score("B3", 0, edit=1)
        answer = asking.ask(self.shop, "cut", self.poplar, self.wren)
        self.assertNotIn(recipe, [row["id"] for row in answer["recipes"]])

    def test_settings_that_differ_are_others(self):
        other = self.heard_as("B3", power_pct=self.settings["B3"]["power_pct"] + 1)
        more = self.heard_as("B3", focus_offset_mm=1.0)
        self.score("B3", 3)
        self.assertEqual((self.standing(other), self.standing(more)), ("estimate", "estimate"))

    def test_another_head_is_another_place(self):
        recipe = self.heard(
            settings={key: self.settings["B3"][key] for key in ("speed_mm_s", "power_pct")},
            standing="estimate",
            head=self.heron,
        )
        self.score("B3", 3)
        self.assertEqual(self.standing(recipe), "estimate")

    def test_a_photo_joins_it_where_it_is_sure(self):
        recipe = self.heard_as("B3")
        for sure, standing in ((0.7, "estimate"), (0.97, "tried")):
            with self.subTest(sure), self.shop.database.writing() as db:
                rows = [{"patch": "B3", "values": {"through": 3.0}, "confidence": sure}]
                reading_table.put_photo_values(db, self.burn, 1, "back", rows, self.shop.now())
                join_evidence(db, self.shop, self.burn)
            self.assertEqual(self.standing(recipe), standing)
        self.assertEqual(self.page(recipe)["history"][0]["by_name"], "Moss")

    def test_a_kept_one_is_not_kept_twice(self):
        recipe = self.heard_as("B3")
        self.score("B3", 3)
        with self.assertRaisesRegex(Exception, "in the book already"):
            keeping.keep_recipe(self.shop, self.member, self.burn, "B3", {})
        self.assertEqual(self.standing(recipe), "tried")


class SpentTest(BookCase):
    def test_plates_patches_sheet_and_minutes_until_it_was_proven(self):
        """Two plates before it, the second with patches that stayed bare; a third one afterwards does not count."""
        sizes = []
        for number in range(3):
            trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
            page = views.trial_page(self.shop, trial)
            burn = burning.mark_burned(self.shop, self.member, trial, 1, {})
            plate = page["planned"]
            if number == 0:
                recipe_from = burn
                sizes.append((25, plate.width_mm * plate.height_mm, plate.total_seconds))
            elif number == 1:
                for patch in ("A1", "A2"):
                    burning.mark_not_burned(self.shop, self.member, burn, patch, True)
                bare = [plate.elements.ids.index(one) for one in ("A1", "A2")]
                spent = plate.total_seconds - plate.seconds[bare].sum()
                sizes.append((23, plate.width_mm * plate.height_mm, spent))
                reading.score(self.shop, self.member, recipe_from, "A1", 0, {"values": {"through": 3}})
                recipe = keeping.keep_recipe(self.shop, self.technician, recipe_from, "A1", {"standing": "proven"})
        spent = self.page(recipe)["spent"]
        self.assertEqual((spent["plates"], spent["patches"]), (2, 48))
        self.assertAlmostEqual(spent["area_mm2"], sum(size for _, size, _ in sizes))
        self.assertAlmostEqual(spent["seconds"], sum(seconds for _, _, seconds in sizes), places=3)
        self.assertEqual(spent["proven"], self.page(recipe)["at"])

    def test_what_was_only_heard_of_took_nothing(self):
        self.assertIsNone(self.page(self.heard())["spent"])
