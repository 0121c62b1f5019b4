"""Trials, revisions and recipes as rows."""

import unittest

from rezept.core.errors import NotFound
from rezept.store import book, burns, photos, trials
from rezept.store.errors import Stale
from tests.made import ShopCase

AT = "2026-11-23T09:00:00Z"


class RowsCase(ShopCase):
    def add(self, **design):
        with self.shop.database.writing() as db:
            return trials.add_trial(db, "cut", self.wren, self.poplar, "", design, self.member.id, AT)

    def freeze(self, trial):
        with self.shop.database.writing() as db:
            latest = trials.latest_revision(db, trial)
            trials.freeze(db, latest["id"], {"patches": []}, {"drawn": []}, [], self.member.id, AT)
            return latest["id"]


class TrialRowsTest(RowsCase):
    def test_numbers_go_on_after_the_highest(self):
        first, second = self.add(), self.add()
        with self.shop.database.reading() as db:
            self.assertEqual([t["number"] for t in trials.trials(db)], [2, 1])
            self.assertEqual(trials.trial(db, second)["number"], 2)
            self.assertEqual(trials.trial(db, first)["edit"], 1)

    def test_filters(self):
        self.add()
        with self.shop.database.reading() as db:
            self.assertEqual(len(trials.trials(db, head_id=self.wren, material_id=self.poplar)), 1)
            self.assertEqual(trials.trials(db, head_id=self.heron), [])
            self.assertEqual(trials.trials(db, material_id=self.thick), [])

    def test_an_edit_of_a_frozen_revision_begins_the_next(self):
        trial = self.add(title="one")
        self.freeze(trial)
        with self.shop.database.writing() as db:
            trials.change_draft(db, trial, 1, {"title": "two"}, self.member.id, AT)
            trials.change_draft(db, trial, 2, {"title": "three"}, self.member.id, AT)
        with self.shop.database.reading() as db:
            self.assertEqual(trials.revision(db, trial, 1)["design"], {"title": "one"})
            self.assertEqual(trials.latest_revision(db, trial)["design"], {"title": "three"})
            self.assertEqual(trials.latest_number(db, trial), {"number": 2, "frozen_at": None})
            self.assertEqual(trials.trial(db, trial)["edit"], 3)

    def test_a_stale_edit_changes_nothing_at_all(self):
        trial = self.add(title="one")
        with self.assertRaises(Stale), self.shop.database.writing() as db:
            trials.change_draft(db, trial, 7, {"title": "late"}, self.member.id, AT)
        with self.shop.database.reading() as db:
            self.assertEqual(trials.latest_revision(db, trial)["design"], {"title": "one"})
            self.assertEqual(trials.trial(db, trial)["edit"], 1)

    def test_what_is_not_there(self):
        trial = self.add()
        with self.shop.database.reading() as db:
            for ask in (
                lambda: trials.trial(db, 99),
                lambda: trials.latest_revision(db, 99),
                lambda: trials.latest_number(db, 99),
                lambda: trials.revision(db, trial, 2),
                lambda: trials.plate_of_revision(db, 99),
                lambda: trials.plate_of_revision(db, trials.latest_revision(db, trial)["id"]),
                lambda: burns.burn(db, 99),
                lambda: photos.file(db, "0" * 64),
                lambda: photos.photo(db, 99),
                lambda: book.recipe(db, 99),
            ):
                with self.assertRaises(NotFound):
                    ask()


class RecipeRowsTest(RowsCase):
    def setUp(self):
        super().setUp()
        trial = self.add()
        revision = self.freeze(trial)
        conditions = {
            "lot_id": None,
            "measured_mm": None,
            "focus": "",
            "air": "",
            "note": "",
            "cleaning": "",
            "hold_down": "",
            "lay": "flat",
            "roller_mm": None,
            "stack_of": None,
            "below": "",
            "tabs": "",
        }
        with self.shop.database.writing() as db:
            self.burn = burns.add_burn(db, revision, conditions, self.member.id, AT)

    def keep(self, steps, evidence=None, **changes):
        evidence = [book.Evidence(self.burn, "A1")] if evidence is None else evidence
        recipe = {"head_id": self.wren, "material_id": self.poplar, "process": "cut", "purpose": "", "note": ""}
        recipe |= {"standing": "tried", **changes}
        with self.shop.database.writing() as db:
            return book.add_recipe(db, recipe, steps, evidence, self.member.id, AT)

    def test_evidence_may_be_a_patch_a_whole_plate_or_nothing(self):
        """Only a patch that got the very settings is what a recipe was kept from."""
        rests = {"patch": [book.Evidence(self.burn, "A1")], "plate": [book.Evidence(self.burn, None)], "nothing": []}
        kept = {what: self.keep([], evidence) for what, evidence in rests.items()}
        with self.shop.database.reading() as db:
            own = {what: book.recipe(db, one)["patch"] for what, one in kept.items()}
            resting = {one["id"] for one in book.recipes_of_burn(db, self.burn)}
            from_patch = [one["id"] for one in book.kept_from(db, self.burn, "A1")]
        self.assertEqual(own, {"patch": "A1", "plate": None, "nothing": None})
        self.assertEqual(resting, {kept["patch"], kept["plate"]})
        self.assertEqual(from_patch, [kept["patch"]])

    def test_steps_keep_their_order(self):
        steps = [
            {"name": name, "process": "deep", "settings": {"passes": n}} for n, name in enumerate(["bulk", "clean"], 1)
        ]
        recipe = self.keep(steps)
        with self.shop.database.reading() as db:
            stored = book.recipe(db, recipe)["steps"]
        self.assertEqual([(s["position"], s["name"], s["settings"]["passes"]) for s in stored],
                         [(1, "bulk", 1), (2, "clean", 2)])  # fmt: skip

    def test_every_edit_is_in_the_history(self):
        recipe = self.keep([])
        with self.shop.database.writing() as db:
            book.change_recipe(db, recipe, 1, {"note": "second"}, self.technician.id, AT)
            book.change_recipe(db, recipe, 2, {"standing": "doubtful"}, self.technician.id, AT)
        with self.shop.database.reading() as db:
            versions = book.history(db, recipe)
        self.assertEqual([(v["edit"], v["recipe"]["note"], v["recipe"]["standing"]) for v in versions],
                         [(3, "second", "doubtful"), (2, "second", "tried"), (1, "", "tried")])  # fmt: skip

    def test_best_standing_comes_first_whatever_came_last(self):
        ids = {s: self.keep([], standing=s) for s in ("retired", "proven", "doubtful", "heard", "tried", "estimate")}
        with self.shop.database.reading() as db:
            order = [recipe["id"] for recipe in book.search_recipes(db)[1]]
        self.assertEqual(order, [ids[s] for s in ("proven", "tried", "heard", "estimate", "doubtful", "retired")])


if __name__ == "__main__":
    unittest.main()
