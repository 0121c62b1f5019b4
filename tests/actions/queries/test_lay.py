"""How a piece lay: what was found on a roller answers for no sheet, starts none, and is decided by its own kind."""

from rezept.actions.commands import burning, keeping, planning, reading
from rezept.actions.queries import asking, views
from rezept.actions.queries.chance import chances_of
from rezept.actions.queries.finding import find
from rezept.actions.queries.starting import start_from_book
from rezept.core.errors import InvalidInput
from rezept.core.findings.choices import Wanted, Wish
from rezept.core.lay import lay_words
from rezept.store import equipment as equipment_table
from rezept.store.book import known_recipes
from tests.made import ShopCase

ROLLER = {"lay": "roller", "roller_mm": "60 mm", "below": "a mat"}


class LayTest(ShopCase):
    def burned(self, conditions, speeds=(10, 20, 30)):
        """A ladder of cuts, the slower ones through, and the recipe of its first patch."""
        trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        page = views.trial_page(self.shop, trial)
        axes = [{"parameter": "speed_mm_s", "along": "x", "values": list(speeds)}]
        design = {**page["design"], "axes": axes, "hold": {"power_pct": 50}}
        planning.change_draft(self.shop, self.member, trial, page["edit"], design, {})
        edit = views.trial_page(self.shop, trial)["edit"]
        burn = burning.mark_burned(self.shop, self.member, trial, edit, conditions)
        for patch, through in zip(("A1", "A2", "A3"), (3, 3, 0), strict=True):
            reading.score(self.shop, self.member, burn, patch, 0, {"values": {"through": through}})
        recipe = keeping.keep_recipe(self.shop, self.member, burn, "A1", {"standing": "tried"})
        return burn, recipe

    def ids(self, cards):
        return [card["id"] for card in cards]

    def test_what_was_found_on_a_roller_answers_for_no_sheet_and_says_so(self):
        _, rolled = self.burned(ROLLER)
        answer = asking.ask(self.shop, "cut", self.poplar, self.wren)
        self.assertEqual((self.ids(answer["recipes"]), self.ids(answer["lay_otherwise"])), ([], [rolled]))
        self.assertEqual(answer["lay_otherwise"][0]["lay_words"], "on a roller, Ø 60 mm")
        self.assertNotIn(rolled, self.ids(answer["related"]))
        # Nor does anything begin from it.
        self.assertIsNone(answer["start"]["trial"])
        self.assertNotIn("Around", answer["start"]["reason"])
        asked = asking.ask(self.shop, "cut", self.poplar, self.wren, "roller")
        self.assertEqual((self.ids(asked["recipes"]), asked["lay_otherwise"]), ([rolled], []))
        _, flat = self.burned({}, (12, 24, 36))
        answer = asking.ask(self.shop, "cut", self.poplar, self.wren)
        self.assertEqual((self.ids(answer["recipes"]), self.ids(answer["lay_otherwise"])), ([flat], [rolled]))
        with self.shop.database.reading() as db:
            material, head = equipment_table.material(db, self.poplar), equipment_table.head(db, self.wren)
            begin = start_from_book(db, "cut", material, head)
        self.assertEqual(begin.start.centre["speed_mm_s"], 12)

    def test_plates_are_decided_with_those_that_lay_alike(self):
        rolled, _ = self.burned(ROLLER)
        flat, _ = self.burned({"lay": "flat"}, (12, 24, 36))
        unsaid, _ = self.burned({}, (14, 28, 42))
        with self.shop.database.reading() as db:
            found = {burn: find(db, burn, Wish(), Wanted()) for burn in (rolled, flat, unsaid)}
        self.assertEqual(set(found[rolled].plates), {rolled})
        # Where nobody said it, it lay flat.
        self.assertEqual(set(found[flat].plates), {flat, unsaid})
        self.assertEqual(set(found[unsaid].plates), {flat, unsaid})

    def test_it_stands_with_the_burn_and_comes_again_the_next_time(self):
        burn, _ = self.burned(ROLLER)
        trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        last = views.trial_page(self.shop, trial)["last_conditions"]
        self.assertEqual((last["lay"], last["roller_mm"], last["below"]), ("roller", 60, "a mat"))
        for wrong, path in (
            ({"lay": "upside down"}, "lay"),
            ({"lay": "flat", "roller_mm": 60}, "roller_mm"),
            ({"lay": "roller", "roller_mm": -1}, "roller_mm"),
            ({"lay": "stacked"}, "stack_of"),
            ({"lay": "stacked", "stack_of": 1}, "stack_of"),
            ({"lay": "stacked", "stack_of": "2.5"}, "stack_of"),
            ({"lay": "flat", "stack_of": 2}, "stack_of"),
        ):
            with self.subTest(wrong), self.assertRaises(InvalidInput) as caught:
                burning.mark_burned(self.shop, self.member, trial, 1, wrong)
            self.assertEqual(caught.exception.path, path)
        self.assertEqual(views.burn_page(self.shop, burn)["burn"]["lay"], "roller")

    def test_a_stack_is_no_single_sheet(self):
        burn, stacked = self.burned({"lay": "stacked", "stack_of": "3", "tabs": "two of 0.5 mm"})
        answer = asking.ask(self.shop, "cut", self.poplar, self.wren)
        self.assertEqual((self.ids(answer["recipes"]), self.ids(answer["lay_otherwise"])), ([], [stacked]))
        self.assertEqual(answer["lay_otherwise"][0]["lay_words"], "in a stack of 3")
        noted = views.burn_page(self.shop, burn)["burn"]
        self.assertEqual((noted["lay"], noted["stack_of"], noted["tabs"]), ("stacked", 3, "two of 0.5 mm"))

    def test_a_stack_of_two_is_none_of_three(self):
        stacks = {count: self.burned({"lay": "stacked", "stack_of": count}) for count in (2, 3)}
        with self.shop.database.reading() as db:
            for burn, _ in stacks.values():
                self.assertEqual(set(find(db, burn, Wish(), Wanted()).plates), {burn})
            known = known_recipes(db, lay="stacked")
            chances = chances_of(db, known)
            self.assertEqual({number: one["plates"] for number, one in chances.items()},
                             {recipe: 1 for _, recipe in stacks.values()})  # fmt: skip

    def test_words(self):
        self.assertEqual(lay_words("flat", None), "")
        self.assertEqual(lay_words("through", None), "passed through")
