"""What is kept of a member: shown whole, and removed so that nothing of them can be read any more."""

import json
import re
import tempfile
import unittest
from pathlib import Path

from rezept.actions.commands import people, personal, signing_in
from rezept.actions.members import NotAllowed
from rezept.actions.open_shop import DATABASE_NAME, open_shop
from rezept.actions.queries import asking, following
from rezept.core.errors import InvalidInput, Refused
from tests.demo_copy import copy_demo

NAME = "Moss Sample"


class PersonalTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "shop"
        copy_demo(self.folder)
        self.shop = open_shop(self.folder)
        self.addCleanup(self.shop.close)
        with self.shop.database.writing() as db:
            db.execute("UPDATE shop SET demo = 0")
        self.kay = people.first_keeper(self.shop)
        self.moss = people.member_named(self.shop, NAME)
        people.change_member(self.shop, self.kay, self.moss.id, 1, "Mossy Stone", "member", False)
        people.change_member(self.shop, self.kay, self.moss.id, 2, NAME, "member", False)
        signing_in.set_secret(self.shop, self.kay, self.moss.id, "oak barrel")
        self.session = signing_in.sign_in(self.shop, NAME, "oak barrel", "10.0.0.7", "a phone of theirs")
        with self.assertRaises(signing_in.NotSignedIn):
            signing_in.sign_in(self.shop, NAME, "guess", "10.0.0.66", "")
        with self.shop.database.writing() as db:
            db.execute(
                "INSERT INTO burn_run (burn_id, kind, via, state, reason, by_member, at, ended_at)"
                " SELECT id, 'whole', 'link', 'stopped', 'by ' || ?, ?, at, at FROM burn WHERE by_member = ? LIMIT 1",
                (NAME, self.moss.id, self.moss.id),
            )
            (run,) = db.execute("SELECT max(id) FROM burn_run").fetchone()
            for number, name in enumerate((NAME, f"{NAME}-Hill", "Tess Sample")):
                db.execute(
                    "INSERT INTO run_line (run_id, number, sentence, at) VALUES (?, ?, ?, '')",
                    (run, number, f"{name} holds it"),
                )
            self.run = run
        # Somebody whose name begins like theirs, and a recipe changed again and again.
        people.add_member(self.shop, self.kay, f"{NAME}-Hill", "member")

    def test_all_of_it_is_shown_and_no_secret(self):
        document = personal.kept_of(self.shop, self.moss, self.moss.id)
        self.assertEqual(document["names"], [NAME, "Mossy Stone"])
        self.assertEqual(document["member"]["name"], NAME)
        self.assertEqual([row["device"] for row in document["rows"]["session.member_id"]], ["a phone of theirs"])
        self.assertEqual([row["address"] for row in document["tries_to_sign_in"]], ["10.0.0.66"])
        self.assertIn(f"{NAME} holds it", document["sentences"])
        self.assertGreater(len(document["rows"]["reading.by_member"]), 5)
        text = json.dumps(document)
        self.assertNotIn("scrypt", text)
        self.assertNotIn("token", text)
        # Counted by hand of every table: nothing that refers to them is left out.
        with self.shop.database.reading() as db:
            for table, column in (("trial", "by_member"), ("burn", "by_member"), ("change", "by_member")):
                (count,) = db.execute(f"SELECT count(*) FROM {table} WHERE {column} = ?", (self.moss.id,)).fetchone()
                self.assertEqual(len(document["rows"].get(f"{table}.{column}", [])), count)

    def test_only_they_and_the_keeper_see_it(self):
        tess = people.member_named(self.shop, "Tess Sample")
        personal.kept_of(self.shop, self.kay, self.moss.id)
        with self.assertRaises(NotAllowed):
            personal.kept_of(self.shop, tess, self.moss.id)
        with self.assertRaises(NotAllowed):
            personal.remove_for_good(self.shop, tess, self.moss.id)

    def test_removed_they_are_somebody_everywhere_and_nothing_of_them_is_left(self):
        did = [row["id"] for row in following.log(self.shop, None, None, None, 500) if row["by_name"] == NAME]
        self.assertGreater(len(did), 5)
        personal.remove_for_good(self.shop, self.kay, self.moss.id)
        self.assertIsNone(signing_in.session_of(self.shop, self.session.token))
        again = {row["id"]: row["by_name"] for row in following.log(self.shop, None, None, None, 500)}
        self.assertEqual({again[change] for change in did}, {"somebody"})
        with self.shop.database.reading() as db:
            said = db.execute("SELECT sentence FROM run_line WHERE run_id = ? ORDER BY number", (self.run,)).fetchall()
            self.assertEqual(
                [row[0] for row in said], ["somebody holds it", f"{NAME}-Hill holds it", "Tess Sample holds it"]
            )
            (reason,) = db.execute("SELECT reason FROM burn_run WHERE id = ?", (self.run,)).fetchone()
            self.assertEqual(reason, "by somebody")
            self.assertEqual(db.execute("PRAGMA foreign_key_check").fetchall(), [])
            self.assertEqual(db.execute("PRAGMA integrity_check").fetchone()[0], "ok")
        # Not in any page of the file, not in its log either; another's name that begins so stays.
        for file in (DATABASE_NAME, DATABASE_NAME + "-wal"):
            data = (self.folder / file).read_bytes() if (self.folder / file).exists() else b""
            for word in (NAME, "Mossy", "Stone", "a phone of theirs", "10.0.0.66"):
                self.assertEqual(re.findall(word.encode() + b"(?!-Hill)", data), [], (file, word))

    def test_a_name_is_free_again_and_nobody_comes_back(self):
        personal.remove_for_good(self.shop, self.kay, self.moss.id)
        with self.assertRaisesRegex(Refused, "does not come back"):
            people.change_member(self.shop, self.kay, self.moss.id, 4, NAME, "member", False)
        people.add_member(self.shop, self.kay, NAME, "member")
        tess = people.member_named(self.shop, "Tess Sample")
        personal.remove_for_good(self.shop, self.kay, tess.id)
        self.assertEqual(people.member_by_id(self.shop, tess.id).name, "somebody")

    def test_the_last_keeper_stays_and_a_recipe_of_somebody_goes_on(self):
        for name in ("Olive Example",):
            personal.remove_for_good(self.shop, self.kay, people.member_named(self.shop, name).id)
        with self.assertRaisesRegex(Refused, "only keeper"):
            personal.remove_for_good(self.shop, self.kay, self.kay.id)
        personal.remove_for_good(self.shop, self.kay, self.moss.id)
        with self.shop.database.reading() as db:
            recipe = db.execute("SELECT id FROM recipe LIMIT 1").fetchone()["id"]
        self.assertTrue(asking.recipe_page(self.shop, self.kay, recipe)["history"])
        with self.assertRaises(InvalidInput):
            people.add_member(self.shop, self.kay, "kay example", "member")


if __name__ == "__main__":
    unittest.main()
