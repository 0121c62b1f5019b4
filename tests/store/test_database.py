"""The database: migrations, transactions, one writer, faults."""

import sqlite3
import tempfile
import threading
import time
import unittest
from pathlib import Path

from rezept.store import equipment, people, shop
from rezept.store.database import Database, migrations
from rezept.store.errors import NotSaved, TooNew, Unreadable

AT = "2026-11-23T09:00:00Z"


class DatabaseCase(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "shop.sqlite3"
        self.database = Database(self.path)
        self.addCleanup(self.database.close)


class ReadingTest(DatabaseCase):
    def test_whoever_comes_next_reads_through_the_connection_that_is_free(self):
        used = []

        def read():
            with self.database.reading() as db:
                used.append(db)

        for _ in range(5):
            thread = threading.Thread(target=read)
            thread.start()
            thread.join(10)
        self.assertEqual(len(used), 5)
        self.assertEqual(len(set(used)), 1)

    def test_two_at_a_time_have_a_snapshot_each(self):
        def count(db):
            return db.execute("SELECT count(*) FROM member").fetchone()[0]

        with self.database.reading() as before:
            self.assertEqual(count(before), 0)
            with self.database.writing() as db:
                people.add_member(db, "Ada Sample", "keeper", None, AT)
            with self.database.reading() as after:
                self.assertIsNot(before, after)
                self.assertEqual((count(before), count(after)), (0, 1))

    def test_what_went_wrong_while_reading_leaves_nothing_behind(self):
        with self.assertRaises(ZeroDivisionError), self.database.reading() as db:
            db.execute("SELECT 1").fetchone()
            _ = 1 / 0
        with self.database.reading() as again:
            self.assertIs(again, db)
            self.assertEqual(again.execute("SELECT 1").fetchone()[0], 1)


class ClosingTest(DatabaseCase):
    def test_it_waits_for_who_reads_and_takes_nobody_on_any_more(self):
        inside, done = threading.Event(), threading.Event()
        seen = []

        def read():
            with self.database.reading() as db:
                inside.set()
                done.wait(10)
                seen.extend(row[0] for row in db.execute("SELECT 1 UNION SELECT 2"))

        reader = threading.Thread(target=read)
        reader.start()
        inside.wait(10)
        closing = threading.Thread(target=self.database.close)
        closing.start()
        # Whoever comes now is refused, whoever is in there goes on.
        with self.assertRaisesRegex(sqlite3.ProgrammingError, "closed"):
            while True:
                with self.database.reading():
                    pass
        self.assertTrue(closing.is_alive())
        done.set()
        for thread in (reader, closing):
            thread.join(10)
            self.assertFalse(thread.is_alive())
        self.assertEqual(seen, [1, 2])
        with self.assertRaisesRegex(sqlite3.ProgrammingError, "closed"), self.database.writing():
            pass

    def test_closed_under_many_who_read_and_write(self):
        for _ in range(10):
            database = Database(self.path)
            ended = []

            def work(database=database, ended=ended):
                try:
                    while True:
                        with database.reading() as db:
                            db.execute("SELECT count(*) FROM sqlite_master").fetchone()
                        with database.writing() as db:
                            db.execute("PRAGMA user_version")
                except sqlite3.ProgrammingError as error:
                    ended.append(str(error))

            threads = [threading.Thread(target=work) for _ in range(4)]
            for thread in threads:
                thread.start()
            time.sleep(0.02)
            database.close()
            for thread in threads:
                thread.join(10)
            self.assertEqual(ended, ["The shop's records are closed."] * 4)


class OpeningTest(DatabaseCase):
    def test_brings_the_file_up_to_date(self):
        with self.database.reading() as db:
            self.assertEqual(db.execute("PRAGMA user_version").fetchone()[0], migrations()[-1][0])
            self.assertEqual(db.execute("PRAGMA foreign_keys").fetchone()[0], 1)
            self.assertEqual(db.execute("PRAGMA journal_mode").fetchone()[0], "wal")

    def test_every_table_is_strict(self):
        with self.database.reading() as db:
            tables = db.execute("PRAGMA table_list").fetchall()
        loose = [row["name"] for row in tables if row["type"] == "table" and not row["strict"]]
        self.assertEqual([name for name in loose if not name.startswith("sqlite_")], [])

    def test_opening_again_keeps_everything(self):
        with self.database.writing() as db:
            shop.create_shop(db, "Shop", "T3ST", False, AT)
        again = Database(self.path)
        self.addCleanup(again.close)
        with again.reading() as db:
            self.assertEqual(shop.shop(db)["name"], "Shop")

    def test_newer_database_is_left_alone(self):
        newer = self.path.with_name("newer.sqlite3")
        db = sqlite3.connect(newer)
        db.execute("PRAGMA user_version = 999")
        db.commit()
        db.close()
        before = newer.read_bytes()
        with self.assertRaisesRegex(TooNew, "newer Rezept"):
            Database(newer)
        db = sqlite3.connect(newer)
        self.assertEqual(db.execute("PRAGMA user_version").fetchone()[0], 999)
        self.assertEqual(db.execute("SELECT count(*) FROM sqlite_master").fetchone()[0], 0)
        db.close()
        self.assertGreaterEqual(len(before), 0)

    def test_a_file_that_is_no_database_gets_a_sentence(self):
        other = self.path.with_name("photo.sqlite3")
        other.write_bytes(b"this is not a database, but long enough to look like one" * 100)
        with self.assertRaisesRegex(Unreadable, "cannot be used as a shop's records"):
            Database(other)


class TransactionTest(DatabaseCase):
    def test_an_error_takes_everything_back(self):
        with self.assertRaisesRegex(ZeroDivisionError, "division"), self.database.writing() as db:
            shop.create_shop(db, "Shop", "T3ST", False, AT)
            _ = 1 / 0
        with self.database.reading() as db:
            self.assertIsNone(shop.shop(db))

    def test_readers_cannot_write(self):
        with self.database.reading() as db, self.assertRaises(sqlite3.OperationalError):
            db.execute("DELETE FROM shop")

    def test_a_reader_keeps_its_snapshot_and_never_waits(self):
        with self.database.reading() as before:
            self.assertIsNone(shop.shop(before))
            with self.database.writing() as db:
                shop.create_shop(db, "Shop", "T3ST", False, AT)
            self.assertIsNone(shop.shop(before))
        with self.database.reading() as after:
            self.assertIsNotNone(shop.shop(after))

    def test_writers_queue_up(self):
        def add(name):
            with self.database.writing() as db:
                people.add_member(db, name, "member", None, AT)

        threads = [threading.Thread(target=add, args=(f"M{i}",)) for i in range(20)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        with self.database.reading() as db:
            self.assertEqual(len(people.members(db)), 20)

    def test_a_full_disk_gets_a_sentence_and_changes_nothing(self):
        with self.database.writing() as db:
            shop.create_shop(db, "Shop", "T3ST", False, AT)
            pages = db.execute("PRAGMA page_count").fetchone()[0]
            db.execute(f"PRAGMA max_page_count = {pages}")
        with self.assertRaisesRegex(NotSaved, "could not be saved"), self.database.writing() as db:
            for i in range(2000):
                people.add_member(db, f"Somebody {i} " + "x" * 500, "member", None, AT)
        with self.database.writing() as db:
            db.execute("PRAGMA max_page_count = 1000000")
            self.assertEqual(people.members(db), [])
            people.add_member(db, "Kay", "keeper", None, AT)

    def test_frozen_revisions_never_change(self):
        with self.database.writing() as db:
            member = people.add_member(db, "Kay", "keeper", None, AT)
            machine = equipment.add(db, "machine", {"name": "Wren", "facts": {}, "note": ""}, member, AT)
            head = equipment.add(db, "head", {"machine_id": machine, "name": "lens", "facts": {}}, member, AT)
            facts: dict = {"name": "Ply", "family": "wood", "thickness_mm": 4.0, "mark": "darker", "hazards": []}
            facts |= {"ground_lab": None, "processes": ["cut"], "density_kg_m3": None, "hardness": None}
            sheet = equipment.add(db, "material", {**facts, "supplier_code": "", "note": ""}, member, AT)
            db.execute(
                """
                INSERT INTO trial (id, number, process, head_id, material_id, reason, by_member, at, changed_by,
                                   changed_at)
                VALUES (1, 1, 'cut', ?, ?, '', ?, ?, ?, ?)
                """,
                (head, sheet, member, AT, member, AT),
            )
            db.execute("INSERT INTO revision VALUES (1, 1, 1, '{}', '{}', ?, ?)", (AT, member))
        with (
            self.assertRaisesRegex(sqlite3.IntegrityError, "never changes"),
            self.database.writing() as db,
        ):
            db.execute("UPDATE revision SET design = '[]' WHERE id = 1")


if __name__ == "__main__":
    unittest.main()
