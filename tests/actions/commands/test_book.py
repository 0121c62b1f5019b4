"""The book: confirmations and standing rules, words, history, what supersedes what, the map, finding."""

import unittest
from typing import Any

from rezept.actions.commands import burning, equipment, keeping, planning, reading
from rezept.actions.members import NotAllowed
from rezept.actions.queries import asking, views
from rezept.core.errors import InvalidInput, NotFound, Refused
from rezept.core.recipe import STANDINGS, may_say, offered, standing_after, worth_proving
from rezept.store import book as book_table
from rezept.store.errors import Stale
from tests.made import POPLAR, ShopCase

SETTINGS = {"speed_mm_s": "1080 mm/min", "power_pct": "60"}


class RulesTest(unittest.TestCase):
    def test_worked_cases(self):
        for standing, held, after in [
            ("heard", [True], "tried"), ("estimate", [True], "tried"), ("heard", [False], "heard"),
            ("proven", [False], "proven"), ("proven", [False, False], "doubtful"),
            ("proven", [False, True, False], "proven"), ("tried", [True, False, False], "doubtful"),
            ("doubtful", [True, True], "doubtful"), ("tried", [True] * 5, "tried"), ("proven", [], "proven"),
        ]:  # fmt: skip
            self.assertEqual(standing_after(standing, held), after, (standing, held))

    def test_nothing_proves_itself(self):
        for standing in STANDINGS:
            if standing != "proven":
                self.assertNotEqual(standing_after(standing, [True] * 20), "proven")

    def test_who_may_say_what(self):
        """Members decide between tried and doubtful; what a technician has said only technicians take back."""
        for before in STANDINGS:
            self.assertTrue(all(may_say(before, after, technician=True) for after in STANDINGS))
            for after in ("proven", "retired"):
                self.assertFalse(may_say(before, after, technician=False))
        for before, after, may in [
            ("tried", "doubtful", True), ("doubtful", "tried", True), ("heard", "estimate", True),
            ("heard", "tried", True), ("proven", "doubtful", False), ("retired", "tried", False),
        ]:  # fmt: skip
            self.assertEqual(may_say(before, after, technician=False), may, (before, after))

    def test_what_is_offered(self):
        for standing, technician, buttons in [
            ("tried", False, ["doubtful"]), ("doubtful", False, ["tried"]), ("heard", False, []),
            ("proven", False, []), ("retired", False, []),
            ("tried", True, ["proven", "doubtful", "retired"]),
            ("heard", True, ["proven", "tried", "doubtful", "retired"]),
            ("retired", True, ["proven", "tried", "doubtful"]),
        ]:  # fmt: skip
            self.assertEqual(offered(standing, technician), buttons, (standing, technician))

    def test_worth_proving(self):
        self.assertTrue(worth_proving("tried", [False, True, True, True]))
        self.assertFalse(worth_proving("tried", [True, True, False, True]))
        self.assertFalse(worth_proving("proven", [True] * 9))


class BookCase(ShopCase):
    def heard(self, by: Any = None, **more: Any) -> int:
        document = {"process": "cut", "material": self.poplar, "head": self.wren, **more}
        settings = document.pop("settings", SETTINGS)
        return keeping.write_down(self.shop, by or self.member, document, settings, {})

    def kept(self, standing: str = "tried", **words: Any) -> int:
        trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        burn = burning.mark_burned(self.shop, self.member, trial, 1, {})
        reading.score(self.shop, self.member, burn, "A1", 0, {"values": {"through": 3}})
        return keeping.keep_recipe(self.shop, self.technician, burn, "A1", {"standing": standing, **words})

    def page(self, recipe: int) -> dict[str, Any]:
        return asking.recipe_page(self.shop, self.member, recipe)

    def found(self, text: str, **more: Any) -> list[int]:
        return [row["id"] for row in asking.book(self.shop, text, **more)["recipes"]]


class ConfirmationTest(BookCase):
    def test_taps_are_counted_with_their_dates(self):
        recipe = self.kept()
        for held in (True, True, False):
            keeping.confirm(self.shop, self.member, recipe, held, " edge was brown ")
        page = self.page(recipe)
        self.assertEqual((page["held"], page["failed"]), (2, 1))
        self.assertLess(page["held_at"], page["failed_at"])
        self.assertEqual(page["confirmations"][2]["note"], "edge was brown")
        with self.assertRaises(NotAllowed):
            keeping.confirm(self.shop, self.guest, recipe, True)

    def test_two_failures_make_it_doubtful_and_undo_takes_that_back(self):
        recipe = self.kept("proven")
        keeping.confirm(self.shop, self.member, recipe, False)
        second = keeping.confirm(self.shop, self.member, recipe, False)
        self.assertEqual(self.page(recipe)["standing"], "doubtful")
        keeping.take_back_confirmation(self.shop, self.member, second)
        page = self.page(recipe)
        self.assertEqual((page["standing"], page["failed"]), ("proven", 1))
        with self.assertRaises(Stale):
            keeping.take_back_confirmation(self.shop, self.member, second)

    def test_only_ones_own_taps_are_taken_back(self):
        tap = keeping.confirm(self.shop, self.technician, self.kept(), True)
        with self.assertRaises(NotAllowed):
            keeping.take_back_confirmation(self.shop, self.member, tap)

    def test_what_was_heard_is_tried_once_it_held(self):
        recipe = self.heard()
        self.assertEqual(self.page(recipe)["standing"], "heard")
        keeping.confirm(self.shop, self.member, recipe, True)
        self.assertEqual(self.page(recipe)["standing"], "tried")

    def test_three_times_running_is_worth_proving(self):
        recipe = self.kept()
        for _ in range(3):
            keeping.confirm(self.shop, self.member, recipe, True)
        self.assertTrue(self.page(recipe)["worth_proving"])

    def test_what_technicians_said_only_they_take_back(self):
        for standing in ("proven", "retired"):
            recipe = self.kept(purpose=standing)
            edit = keeping.change_recipe(self.shop, self.technician, recipe, 1, {"standing": standing})["edit"]
            with self.assertRaisesRegex(NotAllowed, f"take back that it is {standing}"):
                keeping.change_recipe(self.shop, self.member, recipe, edit, {"standing": "tried"})
            self.assertEqual(self.page(recipe)["offered"], [])

    def test_a_retired_recipe_is_not_confirmed(self):
        recipe = self.kept()
        keeping.change_recipe(self.shop, self.technician, recipe, 1, {"standing": "retired"})
        with self.assertRaises(Refused):
            keeping.confirm(self.shop, self.member, recipe, True)


class WritingTest(BookCase):
    def test_heard_settings_are_read_and_checked(self):
        page = self.page(self.heard(purpose="fast draft", links=[{"title": "thread", "url": "https://example.org/1"}]))
        self.assertEqual(page["steps"][0]["settings"], {"speed_mm_s": 18.0, "power_pct": 60.0})
        self.assertEqual((page["evidence"], page["links"][0]["title"]), (None, "thread"))
        for settings, path in [
            ({"speed_mm_s": "18"}, "settings.power_pct"),
            ({**SETTINGS, "frequency_khz": "20"}, "settings.frequency_khz"),
            ({**SETTINGS, "colour": "1"}, "settings.colour"),
            ({**SETTINGS, "power_pct": "110"}, "settings.power_pct"),
        ]:
            with self.subTest(path), self.assertRaises(ValueError) as caught:
                self.heard(settings=settings)
            self.assertEqual(caught.exception.path, path)

    def test_links_lead_only_to_pages(self):
        for url in ("javascript:alert(1)", "ftp://example.org", "https://", "example.org", ""):
            with self.subTest(url), self.assertRaisesRegex(InvalidInput, "http"):
                self.heard(links=[{"url": url}])

    def test_an_earlier_version_is_put_back(self):
        recipe = self.kept(note="first", purpose="dark")
        keeping.change_recipe(self.shop, self.member, recipe, 1, {"note": "second", "purpose": ""})
        after = keeping.restore(self.shop, self.member, recipe, 2, 1)
        self.assertEqual((after["note"], after["purpose"], after["edit"]), ("first", "dark", 3))
        with self.assertRaises(NotFound):
            keeping.restore(self.shop, self.member, recipe, 3, 9)
        with self.assertRaises(Stale):
            keeping.restore(self.shop, self.member, recipe, 2, 1)

    def test_a_line_that_must_be_read_stands_first_before_a_burn(self):
        recipe = self.kept()
        words = {"pinned": "Film off first: it flames.", "good_enough": "simple shapes only"}
        keeping.change_recipe(self.shop, self.member, recipe, 1, words)
        page = self.page(recipe)
        self.assertEqual((page["pinned"], page["good_enough"]), tuple(words.values()))
        self.assertEqual(self.found("flames"), [recipe])
        trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        first = views.trial_page(self.shop, trial)["checklist"][0]
        self.assertEqual((first["sentence"], first["grave"]), ("Film off first: it flames.", True))
        other = planning.new_trial(self.shop, self.member, "line", self.poplar, self.wren)
        said = [check["sentence"] for check in views.trial_page(self.shop, other)["checklist"]]
        self.assertNotIn("Film off first: it flames.", said)
        # An earlier version knows of no such line.
        self.assertEqual(keeping.restore(self.shop, self.member, recipe, 2, 1)["pinned"], "")
        with self.assertRaisesRegex(InvalidInput, "160"):
            keeping.change_recipe(self.shop, self.member, recipe, 3, {"pinned": "x" * 161})

    def test_a_member_does_not_prove_by_putting_back(self):
        recipe = self.kept("proven")
        keeping.change_recipe(self.shop, self.technician, recipe, 1, {"standing": "doubtful"})
        with self.assertRaises(NotAllowed):
            keeping.restore(self.shop, self.member, recipe, 2, 1)

    def test_superseding(self):
        old, new, other = self.kept(), self.heard(), self.heard(process="line")
        keeping.change_recipe(self.shop, self.member, old, 1, {"superseded_by": new})
        self.assertEqual(self.found(""), [other, new, old])
        for recipe, by in [(new, old), (new, new), (old, other)]:
            with self.subTest(f"{recipe} by {by}"), self.assertRaises(InvalidInput):
                keeping.change_recipe(self.shop, self.member, recipe, 2 if recipe == old else 1, {"superseded_by": by})
        answer = asking.ask(self.shop, "cut", self.poplar, self.wren)
        self.assertEqual([row["id"] for row in answer["unproven"]], [new])
        keeping.change_recipe(self.shop, self.member, old, 2, {"superseded_by": None})
        self.assertEqual(self.found("")[0], old)

    def test_one_page_knows_what_else_there_is(self):
        cut, line = self.kept(), self.heard(process="line")
        self.assertEqual([row["id"] for row in self.page(cut)["siblings"]], [line])


class FindTest(BookCase):
    def setUp(self) -> None:
        super().setUp()
        self.cut = self.heard(purpose="lantern sides", note="Mask the façade")
        self.line = self.heard(process="line", purpose="fold lines")

    def test_while_typing_and_with_slips(self):
        for text, expected in [
            ("popl", [self.line, self.cut]), ("poplar lan", [self.cut]), ("FACADE", [self.cut]),
            ("popalr", [self.line, self.cut]), ("latnern", [self.cut]), ("lanterm side", [self.cut]),
            ("4 mm cut", [self.cut]), ("4mm fold", [self.line]), ("6 mm", []), ("40", []), ("zzzzz", []),
            ("", [self.line, self.cut]), ('"*( OR', []),
        ]:  # fmt: skip
            with self.subTest(text):
                self.assertEqual(self.found(text), expected)

    def test_filters_and_pages(self):
        self.assertEqual(self.found("poplar", process="cut"), [self.cut])
        self.assertEqual(self.found("", standing="proven"), [])
        self.assertEqual(self.found("", head_id=self.heron), [])
        answer = asking.book(self.shop, "poplar", skip=1, most=1)
        self.assertEqual((answer["total"], [row["id"] for row in answer["recipes"]]), (2, [self.cut]))

    def test_changed_words_are_found_and_old_ones_not(self):
        keeping.change_recipe(self.shop, self.member, self.cut, 1, {"purpose": "stamps"})
        self.assertEqual((self.found("lantern"), self.found("stamps")), ([], [self.cut]))
        facts = {**POPLAR, "name": "Aspen plywood", "processes": ["cut"]}
        equipment.change(self.shop, self.technician, "material", self.poplar, 1, facts, {}, False)
        self.assertEqual((self.found("poplar"), self.found("aspen")), ([], [self.cut, self.line]))

    def test_recipes_without_words_are_caught_up_with(self):
        from rezept.actions.open_shop import open_shop

        with self.shop.database.writing() as db:
            db.execute("DELETE FROM recipe_text")
        self.assertEqual(self.found("lantern"), [])
        self.shop.close()
        self.shop = open_shop(self.folder)
        self.assertEqual(self.found("lantern"), [self.cut])


class MapTest(BookCase):
    def cell(self, process: str, material: int, head: int) -> dict[str, Any]:
        rows = {row["material_id"]: row for row in asking.book_map(self.shop, process)["rows"]}
        return next(cell for cell in rows[material]["cells"] if cell["head_id"] == head)

    def test_known_gap_not_working_never(self):
        recipe = self.kept("proven")
        self.heard()
        known = self.cell("cut", self.poplar, self.wren)
        self.assertEqual((known["state"], known["recipe"], known["known"]), ("known", recipe, 2))
        self.assertEqual((known["standing"], known["outcome"]), ("proven", 3))
        self.assertEqual(self.cell("cut", self.thick, self.wren)["state"], "gap")
        keeping.say_not_working(self.shop, self.technician, "cut", self.thick, self.wren, "only chars")
        cell = self.cell("cut", self.thick, self.wren)
        self.assertEqual((cell["state"], cell["reason"]), ("does_not_work", "only chars"))
        self.assertEqual(asking.ask(self.shop, "cut", self.thick, self.wren)["does_not_work"], "only chars")
        keeping.say_not_working(self.shop, self.technician, "cut", self.thick, self.wren, None)
        self.assertEqual(self.cell("cut", self.thick, self.wren)["state"], "gap")
        with self.assertRaises(NotAllowed):
            keeping.say_not_working(self.shop, self.member, "cut", self.thick, self.wren, "no")
        facts = {**POPLAR, "thickness_mm": 6.0, "hazards": ["chlorine"], "processes": ["cut"]}
        equipment.change(self.shop, self.technician, "material", self.thick, 1, facts, {}, False)
        self.assertEqual(self.cell("cut", self.thick, self.wren)["state"], "never")
        self.assertIn("chlorine", asking.ask(self.shop, "cut", self.thick, self.wren)["never"][0])

    def test_only_materials_meant_for_it_and_counts(self):
        answer = asking.book_map(self.shop, "surface")
        self.assertEqual([row["title"] for row in answer["rows"]], ["Nickel-silver blank 1.2 mm"])
        self.assertEqual((answer["gaps"], answer["known"]), (3, 0))
        with self.assertRaises(InvalidInput):
            asking.book_map(self.shop, "melt")


class AskTest(BookCase):
    def test_the_nearest_come_with_reasons_and_are_never_proven_here(self):
        recipe = self.kept("proven")
        answer = asking.ask(self.shop, "cut", self.thick, self.wren)
        self.assertEqual(answer["recipes"], [])
        near = answer["near"][0]
        self.assertEqual((near["recipe"]["id"], near["weight"]), (recipe, 1.0))
        self.assertEqual(near["reasons"][:2], ("same material", "4 mm thick"))
        centre, there = answer["start"]["centre"], near["recipe"]["steps"][0]["settings"]
        self.assertLess(centre["speed_mm_s"], there["speed_mm_s"] * 4 / 6 * 1.01)
        self.assertEqual(centre["power_pct"], there["power_pct"])
        low, high = answer["start"]["speed_mm_s"]
        self.assertTrue(low < centre["speed_mm_s"] < high)
        # Its plate is shown as a picture, as one of the same material.
        self.assertEqual([plate["material"] for plate in answer["plates"]], ["Poplar plywood 4 mm"])

    def test_what_fits_needs_no_neighbours(self):
        recipe = self.kept()
        answer = asking.ask(self.shop, "cut", self.poplar, self.wren)
        self.assertEqual(([row["id"] for row in answer["recipes"]], answer["near"]), ([recipe], []))

    def test_doubtful_neighbours_are_shown_but_nothing_starts_from_them(self):
        recipe = self.kept()
        keeping.change_recipe(self.shop, self.technician, recipe, 1, {"standing": "doubtful"})
        answer = asking.ask(self.shop, "cut", self.thick, self.wren)
        self.assertEqual([(one["recipe"]["id"], one["weight"]) for one in answer["near"]], [(recipe, 0.0)])
        self.assertIsNone(answer["start"]["centre"])

    def test_where_nothing_of_its_kind_is_known_all_of_like_wavelength_counts_a_little(self):
        recipe = self.kept("proven")
        facts = {"name": "Felt", "family": "textile", "thickness_mm": 3.0, "processes": ["cut"]}
        felt = equipment.add(self.shop, self.technician, "material", facts, {})
        answer = asking.ask(self.shop, "cut", felt, self.wren)
        self.assertEqual([one["recipe"]["id"] for one in answer["near"]], [recipe])
        self.assertIn("is wood", answer["near"][0]["reasons"][0])
        self.assertIn(
            "Nothing of its kind is known here. Reckoned from what cutting textile", answer["start"]["reason"]
        )
        low, high = answer["start"]["speed_mm_s"]
        self.assertGreater(high / low, 4)


class StoreTest(BookCase):
    def test_the_order_of_standings(self):
        ids = {standing: self.kept() for standing in ("doubtful", "retired")}
        ids |= {"tried": self.kept(), "proven": self.kept("proven"), "heard": self.heard()}
        ids["estimate"] = self.heard(standing="estimate")
        for standing in ("doubtful", "retired"):
            keeping.change_recipe(self.shop, self.technician, ids[standing], 1, {"standing": standing})
        with self.shop.database.reading() as db:
            _, rows = book_table.search_recipes(db)
        self.assertEqual(
            [row["standing"] for row in rows], ["proven", "tried", "heard", "estimate", "doubtful", "retired"]
        )


if __name__ == "__main__":
    unittest.main()
