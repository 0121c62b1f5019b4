"""A server killed in the middle of writing: everything it had acknowledged is there afterwards."""

import random
import sqlite3
import tempfile
import threading
import time
import unittest
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
                            answer = server.ask("PUT", url, {"edit": edits[patch], "through": edits[patch] % 4})
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
            row = db.execute("SELECT edit, through FROM reading WHERE patch = ? AND burn_id = 4", (patch,)).fetchone()
            self.assertIn(row[0], (edit, begun[patch]))
            self.assertEqual(row[1], (row[0] - 1) % 4)


if __name__ == "__main__":
    unittest.main()
