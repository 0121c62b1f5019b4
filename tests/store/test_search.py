"""The index of words, the log, sessions and confirmations, table by table."""

import string
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from rezept.actions.commands import equipment, keeping
from rezept.core.errors import NotFound
from rezept.store import book, changes, confirmations, people, search
from rezept.store.errors import Stale
from tests.made import WREN, ShopCase

AT = "2026-11-23T09:00:00Z"


class WordsCase(ShopCase):
    """A shop with one recipe that says something."""

    def setUp(self) -> None:
        super().setUp()
        self.recipe = self.wrote("blackened stamp for the tea tins")

    def wrote(self, purpose: str) -> int:
        document = {"process": "cut", "material": self.poplar, "head": self.wren, "purpose": purpose}
        speeds = {"speed_mm_s": 18.0, "power_pct": 60.0}
        return keeping.write_down(self.shop, self.member, document, speeds, {})


class SearchTest(WordsCase):
    def found(self, text: str) -> list[int]:
        with self.shop.database.reading() as db:
            return [row["id"] for row in book.search_recipes(db, text)[1]]

    def test_what_is_asked_of_sqlite(self):
        with self.shop.database.reading() as db:
            self.assertEqual(search.matching(db, ""), "")
            self.assertEqual(search.matching(db, "Stamp 4mm"), '"stamp"* AND "4" AND "mm"*')
            self.assertEqual(search.matching(db, "stapm"), '("stamp")')
            self.assertIsNone(search.matching(db, "qqqqq"))
            self.assertIsNone(search.matching(db, "zz"))

    def test_a_words_index_grows_once(self):
        def count() -> int:
            with self.shop.database.reading() as db:
                return db.execute("SELECT count(*) FROM word_slip").fetchone()[0]

        before = count()
        self.wrote("blackened stamp for the tea tins")
        self.assertEqual(count(), before)
        self.wrote("rosette")
        self.assertGreater(count(), before)

    def test_a_machine_by_another_name(self):
        with self.shop.database.reading() as db:
            machine = equipment.equipment_table.one(db, "head", self.wren)["machine_id"]
        facts = {**WREN, "name": "Robin"}
        equipment.change(self.shop, self.technician, "machine", machine, 1, facts, {}, False)
        self.assertEqual((self.found("wren"), self.found("robin")), ([], [self.recipe]))

    @settings(max_examples=40, deadline=None)
    @given(st.data())
    def test_one_slip_in_any_word_still_finds_it(self, data):
        words = ["blackened", "stamp", "tins", "poplar", "plywood"]
        word = data.draw(st.sampled_from(words))
        at = data.draw(st.integers(0, len(word) - 1))
        letter = data.draw(st.sampled_from(string.ascii_lowercase))
        slipped = data.draw(
            st.sampled_from(
                [
                    word[:at] + letter + word[at:],
                    word[:at] + letter + word[at + 1 :],
                    word[:at] + word[at : at + 2][::-1] + word[at + 2 :],
                ]
            )
        )
        # A slip may happen to begin another word of the book; then that word is meant.
        with self.shop.database.reading() as db:
            begins = search.begins_a_word(db, slipped)
        if not begins:
            self.assertIn(self.recipe, self.found(slipped), slipped)

    @settings(max_examples=60, deadline=None)
    @given(st.text(max_size=40))
    def test_no_text_makes_it_stumble(self, text):
        self.found(text)


class LogTest(ShopCase):
    def log(self, verb="scored", by=None, before=None, after=None):
        with self.shop.database.writing() as db:
            by = (by or self.member).id
            return changes.log(db, "trial", 5, verb, "T-005", by, AT, before, after)

    def lines(self):
        with self.shop.database.reading() as db:
            return [(row["id"], row["verb"]) for row in changes.changes(db, "trial", 5, None, 50)]

    def test_going_on_with_the_same_is_shown_as_one_line_and_all_are_kept(self):
        ids = [self.log(), self.log(), self.log()]
        self.assertEqual(self.lines(), [(ids[-1], "scored")])
        with self.shop.database.reading() as db:
            self.assertEqual([changes.change(db, one)["verb"] for one in ids], ["scored"] * 3)
            # Page by page the same: what goes on over the end of a page is shown on the one before.
            self.assertEqual(changes.changes(db, "trial", 5, ids[-1], 50), [])

    def test_somebody_else_or_something_else_in_between_is_a_line_of_its_own(self):
        ids = [self.log(), self.log(by=self.technician), self.log(), self.log("burned"), self.log()]
        self.assertEqual([line[0] for line in self.lines()], ids[::-1])

    def test_what_can_be_taken_back_is_never_merged(self):
        self.log(before={"a": 1}, after={"a": 2})
        self.log(before={"a": 2}, after={"a": 3})
        self.assertEqual(len(self.lines()), 2)

    def test_ids_never_come_twice(self):
        """Who follows asks for what came after an id; going on with the same comes after it, too."""
        first = self.log()
        again = self.log()
        with self.shop.database.reading() as db:
            self.assertEqual([row["id"] for row in changes.since(db, first)], [again])
            self.assertEqual(changes.since(db, again), [])
            self.assertEqual(changes.latest_id(db), again)


class SessionTest(ShopCase):
    def test_live_ended_idle_and_gone(self):
        with self.shop.database.writing() as db:
            session = people.add_session(db, "a" * 64, self.member.id, "phone", AT)
            long_ago = "2026-01-01T00:00:00Z"
            live = people.live_session(db, "a" * 64, long_ago, long_ago)
            self.assertEqual(live["id"], session)
            for started, seen in ((AT, long_ago), (long_ago, AT)):
                self.assertIsNone(people.live_session(db, "a" * 64, started, seen))
            people.end_session(db, session, AT)
            self.assertIsNone(people.live_session(db, "a" * 64, long_ago, long_ago))
            self.assertIsNone(people.live_session(db, "b" * 64, long_ago, long_ago))

    def test_others_are_signed_out_and_this_one_stays(self):
        with self.shop.database.writing() as db:
            ids = [people.add_session(db, letter * 64, self.member.id, letter, AT) for letter in "abc"]
            people.end_sessions_of(db, self.member.id, AT, but=ids[1])
            rest = people.sessions_of(db, self.member.id, "2026", "2026")
            self.assertEqual([row["id"] for row in rest], [ids[1]])

    def test_a_member_changed_twice_from_one_version(self):
        with self.shop.database.writing() as db:
            people.change_member(db, self.guest.id, 1, "Gil", "member", None)
        with self.assertRaises(Stale) as caught, self.shop.database.writing() as db:
            people.change_member(db, self.guest.id, 1, "Gilbert", "guest", None)
        self.assertEqual((caught.exception.current["role"], caught.exception.yours["name"]), ("member", "Gilbert"))


class ConfirmationTest(WordsCase):
    def test_in_order_of_time_without_those_taken_back(self):
        with self.shop.database.writing() as db:
            ids = [
                confirmations.add(db, self.recipe, held, "", None, None, self.member.id, AT)
                for held in (True, False, True)
            ]
            confirmations.take_back(db, ids[1], AT)
            self.assertEqual([row["held"] for row in confirmations.of_recipe(db, self.recipe)], [True, True])
            self.assertEqual(confirmations.confirmation(db, ids[1])["taken_back_at"], AT)
            with self.assertRaises(NotFound):
                confirmations.confirmation(db, 99)


if __name__ == "__main__":
    unittest.main()
