"""A server killed in the middle of writing: everything it had acknowledged is there afterwards."""

import random
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from contextlib import closing
from pathlib import Path

from tests.demo_copy import copy_demo
from tests.server.real_server import Server


class KillTest(unittest.TestCase):
    ROUNDS = 4

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "shop"
        copy_demo(self.folder)

    def test_everything_acknowledged_is_there_after_restart(self):
        chance = random.Random(7)
        acknowledged: dict[str, int] = {}
        begun: dict[str, int] = {}
        for round_ in range(self.ROUNDS):
            server = Server(self.folder)
            page = server.ask("GET", "/api/trials/4")
            burn = page["burns"][0]["id"]
            stored = {r["patch"]: r for r in page["readings"]}
            for patch, edit in acknowledged.items():
                # At least what was acknowledged; a write under way when the server died may have made it too.
                self.assertIn(stored[patch]["edit"], (edit, begun[patch]), f"{patch} in round {round_}")
            edits = {patch: reading["edit"] for patch, reading in stored.items()}
            stop = threading.Event()

            def score(patches, server=server, burn=burn, edits=edits, stop=stop):
                while not stop.is_set():
                    for patch in patches:
                        try:
                            begun[patch] = edits[patch] + 1
                            url = f"/api/burns/{burn}/patches/{patch}/reading"
                            answer = server.ask(
                                "PUT", url, {"edit": edits[patch], "values": {"through": edits[patch] % 4}}
                            )
                        except (OSError, ValueError):
                            return
                        edits[patch] = acknowledged[patch] = answer["edit"]

            patches = sorted(edits)
            threads = [threading.Thread(target=score, args=(patches[i::3],)) for i in range(3)]
            for thread in threads:
                thread.start()
            time.sleep(0.3 + chance.random() * 0.4)
            server.kill()
            stop.set()
            for thread in threads:
                thread.join()
        self.assertGreater(sum(acknowledged.values()), 50)
        db = sqlite3.connect(self.folder / "rezept.sqlite3")
        self.addCleanup(db.close)
        self.assertEqual(db.execute("PRAGMA integrity_check").fetchone()[0], "ok")
        self.assertEqual(db.execute("PRAGMA foreign_key_check").fetchall(), [])
        for patch, edit in acknowledged.items():
            row = db.execute(
                "SELECT reading.edit, value FROM reading JOIN reading_value USING (burn_id, element, step, face)"
                " WHERE element = ? AND burn_id = 4 AND scale = 'through'",
                (patch,),
            ).fetchone()
            self.assertIn(row[0], (edit, begun[patch]))
            self.assertEqual(row[1], (row[0] - 1) % 4)


class BackupTest(unittest.TestCase):
    """A backup that is made while thirty people write holds one moment, whole."""

    PEOPLE = 30

    def rows(self, records):
        with closing(sqlite3.connect(records)) as db:
            tables = [row[0] for row in db.execute("SELECT name FROM sqlite_schema WHERE type = 'table'")]
            keyed = {}
            for table in tables:
                if not table.startswith(("recipe_text", "sqlite_")):
                    keyed[table] = {tuple(row) for row in db.execute(f'SELECT * FROM "{table}"')}
            return keyed

    def test_row_by_row_and_byte_by_byte(self):
        # Gone only after the server that writes in it.
        parent = self.enterContext(tempfile.TemporaryDirectory())
        folder = Path(parent) / "shop"
        copy_demo(folder)
        server = Server(folder)
        self.addCleanup(server.stop)
        page = server.ask("GET", "/api/trials/4")
        burn, edits = page["burns"][0]["id"], {row["patch"]: row["edit"] for row in page["readings"]}
        patches, stop, done = sorted(edits), threading.Event(), []

        def work(number):
            chance, mine = random.Random(number), patches[number :: self.PEOPLE]
            while not stop.is_set():
                if mine and chance.random() < 0.7:
                    patch = chance.choice(mine)
                    body = {"edit": edits[patch], "values": {"through": chance.randrange(4)}}
                    edits[patch] = server.ask("PUT", f"/api/burns/{burn}/patches/{patch}/reading", body)["edit"]
                else:
                    facts = {"material_id": 1, "name": f"lot {number}-{len(done)}-{chance.random()}"}
                    done.append(server.ask("POST", "/api/lots", {"facts": facts})["id"])

        threads = [threading.Thread(target=work, args=(number,)) for number in range(self.PEOPLE)]
        for thread in threads:
            thread.start()
        time.sleep(0.5)
        made = []
        for number in range(3):
            before = dict(edits), set(done)
            target = Path(parent) / f"{number}.zip"
            command = [sys.executable, "-m", "rezept.cli", "backup", str(target), "--data", str(folder)]
            subprocess.run(command, check=True, capture_output=True)
            made.append((target, before))
        stop.set()
        for thread in threads:
            thread.join()
        self.assertGreater(len(done), 60)
        now = self.rows(folder / "rezept.sqlite3")
        for target, (scored, lots) in made:
            again = target.with_suffix("")
            subprocess.run([sys.executable, "-m", "rezept.cli", "restore", str(target), str(again)], check=True)
            then = self.rows(again / "rezept.sqlite3")
            # The log only grows.
            self.assertLessEqual(then["change"], now["change"])
            # All that had been acknowledged when it began is in it, and nothing that never was.
            self.assertLessEqual(lots, {row[0] for row in then["lot"]})
            self.assertEqual(then["lot"] - now["lot"], set())
            with closing(sqlite3.connect(again / "rezept.sqlite3")) as db:
                stored = dict(db.execute("SELECT element, edit FROM reading WHERE burn_id = ?", (burn,)).fetchall())
                self.assertEqual(db.execute("PRAGMA integrity_check").fetchone()[0], "ok")
            for patch, edit in scored.items():
                self.assertGreaterEqual(stored[patch], edit)
                self.assertLessEqual(stored[patch], edits[patch])
            # One moment: the log has a line for every lot, and for no lot that is not there.
            lines = sum(row[1] == "lot" and row[3] == "added" for row in then["change"])
            self.assertEqual(lines, len(then["lot"]))
            for table in ("member", "machine", "material", "trial", "revision", "burn", "recipe", "photo"):
                self.assertEqual(then[table], now[table], table)
            photos = sorted(path.relative_to(folder) for path in (folder / "photos").glob("*/*"))
            self.assertEqual(sorted(path.relative_to(again) for path in (again / "photos").glob("*/*")), photos)
            for photo in photos:
                self.assertEqual((again / photo).read_bytes(), (folder / photo).read_bytes())


if __name__ == "__main__":
    unittest.main()
