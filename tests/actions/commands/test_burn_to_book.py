"""Burning, reading, deciding, keeping, asking."""

import unittest

from rezept.actions.commands import burning, equipment, keeping, people, planning, reading
from rezept.actions.members import NotAllowed
from rezept.actions.queries import asking, deciding, shop_facts, views
from rezept.core.errors import InvalidInput, NotFound, Refused
from rezept.store.errors import Stale
from tests.made import WREN, ShopCase


class BurnedCase(ShopCase):
    """A trial of 2 x 3 patches, burned."""

    process = "cut"

    def setUp(self):
        super().setUp()
        self.trial = planning.new_trial(self.shop, self.member, self.process, self.poplar, self.wren)
        page = views.trial_page(self.shop, self.trial)
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "values": [10, 20, 30]},
            {"parameter": "power_pct", "along": "y", "values": [40, 60]},
        ]
        design = {**page["design"], "axes": axes, "off": ["A3"]}
        planning.change_draft(self.shop, self.member, self.trial, page["edit"], design, {})
        self.burn = self.mark_burned({"lot": "Autumn", "measured_mm": "3,7 mm", "focus": "gauge", "air": "60 kPa"})

    def mark_burned(self, conditions):
        page = views.trial_page(self.shop, self.trial)
        return burning.mark_burned(self.shop, self.member, self.trial, page["edit"], conditions)

    def page(self):
        return views.trial_page(self.shop, self.trial)

    def score(self, patch, edit=0, note="", cannot_tell=False, **values):
        said = {"values": values, "note": note, "cannot_tell": cannot_tell}
        return reading.score(self.shop, self.member, self.burn, patch, edit, said)


class BurnTest(BurnedCase):
    def test_who_when_and_how(self):
        burn = self.page()["burns"][0]
        self.assertEqual((burn["by_name"], burn["lot"], burn["measured_mm"]), ("Moss", "Autumn", 3.7))
        self.assertEqual((burn["focus"], burn["air"]), ("gauge", "60 kPa"))
        self.assertRegex(burn["at"], r"^2026-11-23T09:\d\d:\d\dZ$")
        self.assertEqual(self.page()["stage"], "read")

    def test_conditions_default_to_last_time(self):
        self.mark_burned({"lot": "Autumn", "measured_mm": 3.7, "focus": "gauge", "air": "60 kPa", "cleaning": "wiped"})
        page = self.page()
        self.assertEqual(
            page["last_conditions"],
            {
                "lot": "Autumn", "measured_mm": 3.7, "focus": "gauge", "air": "60 kPa", "cleaning": "wiped",
                "hold_down": "", "lay": "flat", "roller_mm": None, "stack_of": None, "below": "", "tabs": "",
                "at": page["burns"][0]["at"],
            },
        )  # fmt: skip

    def test_what_was_done_to_another_sheet_says_nothing_of_this_one(self):
        for process, material, head in [
            ("cut", self.thick, self.wren), ("line", self.poplar, self.wren), ("cut", self.poplar, self.heron)
        ]:  # fmt: skip
            with self.subTest(process=process, material=material, head=head):
                other = planning.new_trial(self.shop, self.member, process, material, head)
                self.assertIsNone(views.trial_page(self.shop, other)["last_conditions"])

    def test_a_known_lot_is_not_added_twice(self):
        self.mark_burned({"lot": " Autumn "})
        self.assertEqual(len(shop_facts.inventory(self.shop)["lots"]), 1)

    def test_nonsense_conditions(self):
        for conditions, path in [
            ({"measured_mm": "thick"}, "measured_mm"),
            ({"measured_mm": -3}, "measured_mm"),
            ({"measured_mm": 0}, "measured_mm"),
            ({"lot": "x" * 81}, "lot"),
            ({"weather": "wet"}, "weather"),
            ({"note": 3}, "note"),
        ]:
            with self.subTest(path), self.assertRaises(InvalidInput) as caught:
                self.mark_burned(conditions)
            self.assertEqual(caught.exception.path, path)
        self.assertEqual(len(self.page()["burns"]), 1)

    def test_burned_history_is_never_rewritten(self):
        page = self.page()
        before = page["burned"]
        design = {**page["design"], "off": [], "title": "other"}
        planning.change_draft(self.shop, self.member, self.trial, page["edit"], design, {})
        after = self.page()
        self.assertEqual(after["burned"], before)
        self.assertEqual(after["revision"], 2)
        self.assertEqual(after["burns"][0]["revision"], 1)

    def test_patches_that_stayed_bare(self):
        burning.mark_not_burned(self.shop, self.member, self.burn, "B2", True)
        burning.mark_not_burned(self.shop, self.member, self.burn, "B2", True)
        self.assertEqual((self.page()["not_burned"], self.page()["patches"]), (["B2"], 4))
        burning.mark_not_burned(self.shop, self.member, self.burn, "B2", False)
        self.assertEqual(self.page()["patches"], 5)

    def test_only_patches_that_were_to_burn(self):
        for patch, words in [("A3", "switched off"), ("Z1", "no patch Z1")]:
            with self.assertRaisesRegex(InvalidInput, words):
                burning.mark_not_burned(self.shop, self.member, self.burn, patch, True)
        with self.assertRaises(NotFound):
            burning.mark_not_burned(self.shop, self.member, 999, "A1", True)


class ReadTest(BurnedCase):
    def test_scores_and_progress(self):
        stored = self.score("A1", note="halo", through=3, char=2, back_burn=1, flame=1)
        self.assertEqual(
            (stored["values"]["through"], stored["values"]["char"], stored["edit"], stored["face"]), (3, 2, 1, "back")
        )
        self.score("A2", cannot_tell=True)
        page = self.page()
        self.assertEqual((page["scored"], page["patches"], page["stage"]), (2, 5, "read"))

    def test_all_read_means_decide(self):
        for patch in ("A1", "A2", "B1", "B2"):
            self.score(patch, through=1)
        burning.mark_not_burned(self.shop, self.member, self.burn, "B3", True)
        self.assertEqual(self.page()["stage"], "decide")

    def test_only_scores_that_mean_something(self):
        for scores, path in [
            ({"through": 4}, "values.through"),
            ({"through": -1}, "values.through"),
            ({"through": 1.5}, "values.through"),
            ({"darkness": 2}, "values.darkness"),
            ({"evenness": 1}, "values.evenness"),
            ({"blurred": 1}, "values.blurred"),
            ({"flame": "yes"}, "values.flame"),
            ({"through": 1, "cannot_tell": True}, "cannot_tell"),
            ({"colour": 1}, "values.colour"),
        ]:
            with self.subTest(scores=scores), self.assertRaises(InvalidInput) as caught:
                self.score("A1", **scores)
            self.assertEqual(caught.exception.path, path)

    def test_stale_scores_show_both(self):
        self.score("A1", through=3)
        with self.assertRaises(Stale) as caught:
            self.score("A1", edit=0, through=1)
        self.assertEqual(
            (caught.exception.current["values"]["through"], caught.exception.yours["values"]["through"]), (3, 1)
        )
        self.assertEqual(self.score("A1", edit=1, through=1)["edit"], 2)

    def test_undo_is_one_more_edit(self):
        self.score("A1", through=3)
        cleared = self.score("A1", edit=1)
        self.assertEqual(cleared["values"], {})
        self.assertEqual(self.page()["scored"], 0)


class MarkTest(BurnedCase):
    """The same for an engraving: darkness and evenness on the front."""

    process = "area"

    def test_darkness_and_evenness(self):
        stored = self.score("A1", darkness=5, evenness=2, blurred=1)
        self.assertEqual((stored["values"]["darkness"], stored["values"]["evenness"], stored["face"]), (5, 2, "front"))
        with self.assertRaisesRegex(InvalidInput, "not read of this process"):
            self.score("A2", through=1)


class DecideTest(BurnedCase):
    def test_margins_of_what_was_read(self):
        for patch, through in [("A1", 2), ("B1", 3), ("B2", 3), ("B3", 1)]:
            self.score(patch, through=through)
        found = deciding.decision(self.shop, self.burn)["margins"]
        self.assertEqual(set(found), {"A1", "B1", "B2", "B3"})
        faster = next(n for n in found["B1"] if n["direction"] == "faster")
        self.assertEqual((faster["holds_to"], faster["margin_pct"], faster["open_end"]), (20.0, 100.0, False))
        weaker = next(n for n in found["B1"] if n["direction"] == "less power")
        self.assertEqual((weaker["holds"], weaker["outcome"]), (False, 2.0))

    def test_patches_that_were_not_burned_say_nothing(self):
        self.score("B1", through=3)
        self.score("B2", through=3)
        burning.mark_not_burned(self.shop, self.member, self.burn, "B2", True)
        found = deciding.decision(self.shop, self.burn)["margins"]
        self.assertEqual(set(found), {"B1"})


class FailedTest(BurnedCase):
    """What came to nothing is kept as that, and is nowhere taken for an answer."""

    def setUp(self):
        super().setUp()
        for patch, through in [("A1", 0), ("A2", 1), ("B1", 3), ("B2", 2)]:
            self.score(patch, through=through)

    def ask(self, process="cut"):
        return asking.ask(self.shop, process, self.poplar, self.wren)

    def keep_failed(self, patch="A1", note="", by=None):
        return keeping.keep_failed(self.shop, by or self.member, self.burn, patch, note)

    def square(self):
        rows = asking.book_map(self.shop, "cut")["rows"]
        row = next(row for row in rows if row["material_id"] == self.poplar)
        return next(cell for cell in row["cells"] if cell["head_id"] == self.wren)

    def test_it_is_no_recipe(self):
        for patch, word in [("A1", "came out not"), ("A2", "came out partly")]:
            with self.assertRaisesRegex(Refused, word):
                keeping.keep_recipe(self.shop, self.technician, self.burn, patch, {"standing": "proven"})

    def test_it_is_seen_under_its_material_and_answers_nothing(self):
        kept = self.keep_failed(note="not even marked on the back")
        answer = self.ask()
        self.assertEqual((answer["recipes"], answer["unproven"], answer["related"]), ([], [], []))
        (failed,) = answer["failed"]
        burned = next(one for one in self.page()["burned"]["patches"] if one["id"] == "A1")
        self.assertEqual((failed["id"], failed["patch"], failed["came_out"]), (kept, "A1", "not"))
        self.assertEqual((failed["settings"], failed["note"]), (burned["settings"], "not even marked on the back"))
        self.assertEqual(self.square()["state"], "gap")
        self.assertEqual([one["id"] for one in asking.failed_settings(self.shop, material_id=self.poplar)], [kept])
        self.assertEqual(asking.failed_settings(self.shop, material_id=self.thick), [])
        self.assertEqual([one["id"] for one in self.page()["failed"]], [kept])
        self.assertEqual(self.ask("line")["failed"], [])

    def test_what_came_out_can_have_failed_all_the_same(self):
        self.keep_failed("B1", "a flame as high as a hand")
        with self.assertRaisesRegex(Refused, "take that back first"):
            keeping.keep_recipe(self.shop, self.member, self.burn, "B1", {})

    def test_once_and_not_what_is_a_recipe(self):
        self.keep_failed()
        with self.assertRaisesRegex(Refused, "already"):
            self.keep_failed()
        keeping.keep_recipe(self.shop, self.member, self.burn, "B1", {})
        with self.assertRaisesRegex(Refused, "retire that first"):
            self.keep_failed("B1")
        with self.assertRaises(NotAllowed):
            self.keep_failed("A2", by=self.guest)

    def test_taken_back(self):
        kept = self.keep_failed()
        keeper = people.add_member(self.shop, self.keeper, "Fern", "member")
        with self.assertRaises(NotAllowed):
            keeping.take_back_failed(self.shop, keeper, kept)
        keeping.take_back_failed(self.shop, self.member, kept)
        self.assertEqual(self.ask()["failed"], [])
        with self.assertRaises(Stale):
            keeping.take_back_failed(self.shop, self.member, kept)
        self.keep_failed()

    def test_its_burn_stays(self):
        self.keep_failed()
        with self.assertRaisesRegex(Refused, "was kept"):
            burning.take_back_burn(self.shop, self.member, self.burn)

    def test_a_recipe_whose_patch_is_read_as_failed_later_answers_nothing(self):
        recipe = keeping.keep_recipe(self.shop, self.technician, self.burn, "B1", {"standing": "proven"})
        self.assertEqual([one["id"] for one in self.ask()["recipes"]], [recipe])
        self.assertEqual(self.square()["recipe"], recipe)
        self.score("B1", edit=1, through=1)
        self.assertEqual(self.ask()["recipes"], [])
        self.assertEqual(self.square()["state"], "gap")
        page = asking.recipe_page(self.shop, self.member, recipe)
        self.assertTrue(page["evidence"]["failed"])
        # Who cannot tell does not say that it failed.
        self.score("B1", edit=2, cannot_tell=True)
        self.assertEqual([one["id"] for one in self.ask()["recipes"]], [recipe])

    def test_it_has_no_margins_but_others_that_came_out(self):
        found = deciding.decision(self.shop, self.burn)
        self.assertEqual(found["nothing_to_work_by"], ["A1", "A2"])
        self.assertEqual({one["holds"] for one in found["margins"]["A1"]}, {None})
        self.assertEqual({one["margin_pct"] for one in found["margins"]["A1"]}, {0.0})
        self.assertEqual(found["worked"], {"A1": ["B1", "B2"], "A2": ["B1", "B2"]})


class AnswerTest(BurnedCase):
    """What stands first on Ask, and where it would begin."""

    def ask(self):
        return asking.ask(self.shop, "cut", self.poplar, self.wren)

    def heard(self, material=None, speed="6", **more):
        document = {"process": "cut", "material": material or self.poplar, "head": self.wren, **more}
        return keeping.write_down(self.shop, self.member, document, {"speed_mm_s": speed, "power_pct": "70"}, {})

    def test_by_standing_and_then_by_what_dropped_out_by_itself(self):
        self.score("B2", through=3)
        self.score("B1", through=2)
        first = keeping.keep_recipe(self.shop, self.member, self.burn, "B2", {})
        later = keeping.keep_recipe(self.shop, self.member, self.burn, "B1", {})
        heard = self.heard()
        answer = self.ask()
        self.assertEqual([one["id"] for one in answer["recipes"]], [first, later])
        self.assertEqual([one["id"] for one in answer["unproven"]], [heard])
        keeping.change_recipe(self.shop, self.technician, later, 1, {"standing": "proven"})
        self.assertEqual([one["id"] for one in self.ask()["recipes"]], [later, first])

    def test_a_plate_of_this_very_material_that_waits(self):
        self.heard(material=self.thick)
        self.score("A1", through=0)
        self.score("B1", through=3)
        self.score("B2", through=3)
        start = self.ask()["start"]
        self.assertEqual((start["trial"], start["burn"], start["patch"]), (self.trial, self.burn, "B2"))
        self.assertEqual((start["centre"]["speed_mm_s"], start["centre"]["power_pct"]), (20.0, 60.0))
        self.assertIn("T-001 is burned and waits to be decided: B2 (drops out) at 20 mm/s", start["reason"])
        self.assertLess(start["speed_mm_s"][0], 20.0)
        self.assertGreater(start["speed_mm_s"][1], 20.0)

    def test_a_plate_on_which_nothing_came_out_leads_on_from_its_hottest(self):
        for patch in ("A1", "A2", "B1", "B2"):
            self.score(patch, through=0)
        start = self.ask()["start"]
        self.assertEqual(start["patch"], "B1")
        self.assertIn("nothing came out", start["reason"])
        self.assertLessEqual(start["speed_mm_s"][1], 10.0)
        self.assertGreaterEqual(start["power_pct"][1], 60.0)

    def test_what_was_only_heard_of_is_used_as_that(self):
        self.heard(material=self.thick, speed="8")
        start = self.ask()["start"]
        self.assertTrue(start["reason"].startswith("Nobody has tried it. Reckoned from Poplar plywood 6 mm"))
        self.assertIn("(8 mm/s and 70 %, heard)", start["reason"])
        # 8 mm/s through 6 mm is 12 through 4, and usual would be more.
        self.assertTrue(11.0 <= start["centre"]["speed_mm_s"] <= 16.0)
        self.assertNotIn("Nothing is known", start["reason"])

    def test_the_same_sheet_goes_before_another(self):
        """7 mm/s for this one and 6 for a thicker one, neither tried: this one counts more, and lies in the range."""
        self.heard(material=self.thick)
        self.heard(speed="7")
        start = self.ask()["start"]
        self.assertIn("Reckoned from Poplar plywood 4 mm on Wren", start["reason"])
        self.assertTrue(start["speed_mm_s"][0] < 7.0 < start["centre"]["speed_mm_s"] < 10.0)


class KeepTest(BurnedCase):
    def setUp(self):
        super().setUp()
        self.score("B2", through=3)

    def keep(self, by=None, patch="B2", **document):
        return keeping.keep_recipe(self.shop, by or self.member, self.burn, patch, document)

    def test_the_kept_numbers_are_the_burned_numbers(self):
        recipe = asking.recipe_page(self.shop, self.member, self.keep(note="clean edge"))
        burned = next(p for p in self.page()["burned"]["patches"] if p["id"] == "B2")
        self.assertEqual([step["settings"] for step in recipe["steps"]], [burned["settings"]])
        self.assertEqual((recipe["steps"][0]["position"], recipe["standing"]), (1, "tried"))
        self.assertEqual((recipe["trial_id"], recipe["revision"], recipe["patch"]), (self.trial, 1, "B2"))
        self.assertEqual(recipe["evidence"]["reading"]["values"]["through"], 3)
        self.assertEqual(recipe["evidence"]["burn"]["lot"], "Autumn")
        self.assertEqual(self.page()["stage"], "read")

    def test_later_edits_of_the_trial_do_not_touch_it(self):
        recipe = self.keep()
        page = self.page()
        axes = [{"parameter": "speed_mm_s", "along": "x", "values": [1, 2, 3]}, page["design"]["axes"][1]]
        planning.change_draft(self.shop, self.member, self.trial, page["edit"], {**page["design"], "axes": axes}, {})
        self.assertEqual(asking.recipe_page(self.shop, self.member, recipe)["steps"][0]["settings"]["speed_mm_s"], 20.0)

    def test_only_technicians_mark_as_proven(self):
        with self.assertRaises(NotAllowed):
            self.keep(standing="proven")
        self.assertEqual(asking.book(self.shop)["recipes"], [])
        recipe = self.keep(self.technician, standing="proven")
        with self.assertRaises(NotAllowed):
            keeping.change_recipe(self.shop, self.member, recipe, 1, {"standing": "tried"})
        with self.assertRaises(NotAllowed):
            self.keep(self.guest)

    def test_members_may_doubt_what_is_tried(self):
        recipe = self.keep()
        after = keeping.change_recipe(self.shop, self.member, recipe, 1, {"standing": "doubtful"})
        self.assertEqual((after["standing"], after["edit"]), ("doubtful", 2))
        with self.assertRaises(NotAllowed):
            keeping.change_recipe(self.shop, self.member, recipe, 2, {"standing": "proven"})

    def test_only_what_was_burned_and_read(self):
        with self.assertRaisesRegex(Refused, "has not been read"):
            self.keep(patch="B1")
        burning.mark_not_burned(self.shop, self.member, self.burn, "B2", True)
        with self.assertRaisesRegex(Refused, "was not burned"):
            self.keep()

    def test_the_same_patch_once_for_each_purpose(self):
        self.keep()
        with self.assertRaisesRegex(Refused, "in the book already"):
            self.keep()
        self.keep(purpose="fast draft")
        self.assertEqual(len(asking.book(self.shop)["recipes"]), 2)

    def test_history_and_stale_edits(self):
        recipe = self.keep()
        keeping.change_recipe(self.shop, self.technician, recipe, 1, {"standing": "proven"})
        with self.assertRaises(Stale) as caught:
            keeping.change_recipe(self.shop, self.member, recipe, 1, {"note": "mine"})
        self.assertEqual(caught.exception.current["standing"], "proven")
        history = asking.recipe_page(self.shop, self.member, recipe)["history"]
        self.assertEqual([(v["edit"], v["recipe"]["standing"], v["by_name"]) for v in history],
                         [(2, "proven", "Tess"), (1, "tried", "Moss")])  # fmt: skip


class BookTest(BurnedCase):
    def setUp(self):
        super().setUp()
        for patch in ("B1", "B2"):
            self.score(patch, through=3)
        keep = keeping.keep_recipe
        self.tried = keep(self.shop, self.member, self.burn, "B1", {"purpose": "100% safe", "note": "slow_but sure"})
        self.proven = keep(self.shop, self.technician, self.burn, "B2", {"standing": "proven"})

    def found(self, **filters):
        return [recipe["id"] for recipe in asking.book(self.shop, **filters)["recipes"]]

    def test_best_standing_first(self):
        self.assertEqual(self.found(), [self.proven, self.tried])

    def test_found_by_every_word(self):
        for text, ids in [
            ("poplar", [self.proven, self.tried]),
            ("WREN poplar 4", [self.proven, self.tried]),
            ("sure", [self.tried]),
            ("moss", [self.tried]),
            ("100%", [self.tried]),
            ("slow_but", [self.tried]),
            ("slowXbut", []),
            ("heron", []),
            ("poplar heron", []),
            ("  ", [self.proven, self.tried]),
            ("'; DROP TABLE recipe; --", []),
        ]:
            with self.subTest(text):
                self.assertEqual(self.found(text=text), ids)

    def test_found_by_machine_material_process(self):
        self.assertEqual(
            self.found(head_id=self.wren, material_id=self.poplar, process="cut"), [self.proven, self.tried]
        )
        for other in ({"head_id": self.heron}, {"material_id": self.thick}, {"process": "line"}):
            self.assertEqual(self.found(**other), [])

    def test_ask_answers_with_the_proven_one_first(self):
        answer = asking.ask(self.shop, "cut", self.poplar, self.wren)
        self.assertEqual([recipe["id"] for recipe in answer["recipes"]], [self.proven, self.tried])
        self.assertEqual(answer["related"], [])

    def test_ask_without_a_recipe_shows_the_same_material(self):
        answer = asking.ask(self.shop, "cut", self.thick, self.wren)
        self.assertEqual(answer["recipes"], [])
        self.assertEqual({near["recipe"]["id"] for near in answer["near"]}, {self.proven, self.tried})
        self.assertIn("Reckoned from Poplar plywood 4 mm", answer["start"]["reason"])

    def test_retired_recipes_are_not_offered(self):
        keeping.change_recipe(self.shop, self.technician, self.proven, 1, {"standing": "retired"})
        answer = asking.ask(self.shop, "cut", self.poplar, self.wren)
        self.assertEqual([recipe["id"] for recipe in answer["recipes"]], [self.tried])

    def test_ask_for_what_is_not_there(self):
        with self.assertRaises(NotFound):
            asking.ask(self.shop, "cut", 99, self.wren)
        with self.assertRaises(InvalidInput):
            asking.ask(self.shop, "melt", self.poplar, self.wren)


class EquipmentTest(ShopCase):
    def test_founded_once(self):
        with self.assertRaisesRegex(InvalidInput, "founded already"):
            people.found_shop(self.shop, "Other", "0TH3", "Eve")

    def test_names_and_roles(self):
        for name, role, words in [("Tess", "member", "already"), ("", "member", "1 to 80"), ("Ann", "boss", "role")]:
            with self.assertRaisesRegex(InvalidInput, words):
                people.add_member(self.shop, self.keeper, name, role)
        with self.assertRaises(NotAllowed):
            people.add_member(self.shop, self.technician, "Ann", "member")

    def test_machines_are_checked_before_they_are_stored(self):
        with self.assertRaises(InvalidInput):
            equipment.add_machine(self.shop, self.keeper, {**WREN, "name": "New", "source": "sun"}, [{}])
        with self.assertRaisesRegex(InvalidInput, "already"):
            equipment.add_machine(self.shop, self.keeper, WREN, [{}])
        with self.assertRaisesRegex(InvalidInput, "at least one head"):
            equipment.add_machine(self.shop, self.keeper, {**WREN, "name": "New"}, [])
        with self.assertRaises(NotAllowed):
            equipment.add_machine(self.shop, self.member, {**WREN, "name": "New"}, [{}])

    def test_a_machine_with_two_heads_is_named_with_them(self):
        titles = {head["id"]: head["title"] for head in shop_facts.inventory(self.shop)["heads"]}
        self.assertEqual((titles[self.wren], titles[self.heron]), ("Wren", "Heron 110"))


if __name__ == "__main__":
    unittest.main()
