"""Who did what: in retrospect, and live as server-sent events of a real server."""

import json
import tempfile
import unittest
import urllib.request
from pathlib import Path

from werkzeug.exceptions import ServiceUnavailable

from rezept.actions.commands import signing_in
from rezept.actions.queries import following
from rezept.server.routes import changes
from tests.demo_copy import copy_demo
from tests.server.api_case import ApiCase
from tests.server.real_server import Server


class LogTest(ApiCase):
    def test_everything_done_leaves_a_line(self):
        page, burn = self.burned_trial()
        url = f"/api/burns/{burn}/patches/A1/reading"
        for edit in range(3):
            self.call("PUT", url, json={"edit": edit, "values": {"through": edit}})
        lines = self.call("GET", f"/api/changes?subject=trial&id={page['id']}")["changes"]
        # Going on with the same is shown as one line; all of them are kept.
        self.assertEqual([line["verb"] for line in lines], ["scored", "burned", "fixed the plan of", "began"])
        with self.shop.database.reading() as db:
            kept = db.execute("SELECT count(*) FROM change WHERE verb = 'scored'").fetchone()[0]
        self.assertEqual(kept, 3)
        self.assertEqual({line["title"] for line in lines}, {"T-001"})

    def test_a_refused_change_leaves_none(self):
        before = self.call("GET", "/api/shop")["latest_change"]
        self.call("POST", "/api/lots", 400, json={"facts": {"material_id": self.poplar, "name": ""}})
        self.assertEqual(self.call("GET", "/api/shop")["latest_change"], before)

    def test_the_log_goes_on_page_by_page(self):
        everything = self.call("GET", "/api/changes")["changes"]
        first = self.call("GET", "/api/changes?most=3")["changes"]
        rest = self.call("GET", f"/api/changes?before={first[-1]['id']}")["changes"]
        self.assertEqual(first + rest, everything)
        self.call("GET", "/api/changes?most=0", 400)

    def test_equipment_is_changed_and_taken_back_over_http(self):
        self.become(self.technician.id)
        facts = {"material_id": self.poplar, "name": "pallet", "measured_mm": "38 cm"}
        lot = self.call("POST", "/api/lots", 201, json={"facts": facts})["id"]
        body = {"edit": 1, "facts": {**facts, "name": "pallet 7"}}
        self.assertEqual(self.call("PUT", f"/api/lots/{lot}", json=body)["measured_mm"], 380.0)
        stale = self.call("PUT", f"/api/lots/{lot}", 409, json={**body, "facts": {**facts, "name": "mine"}})
        self.assertEqual((stale["current"]["name"], stale["yours"]["name"]), ("pallet 7", "mine"))
        line = self.call("GET", "/api/changes?subject=lot&most=1")["changes"][0]
        taken = self.call("POST", f"/api/changes/{line['id']}/take-back", json={})
        self.assertEqual((taken["subject"], taken["row"]["name"]), ("lot", "pallet"))

    def test_following_ends_with_the_session(self):
        session = signing_in.start_session(self.shop, self.member.id, "phone")
        places = changes.Places()
        some = [{"id": 1, "subject": "machine"}]
        events = changes.Events(self.shop, self.app.extensions["rezept_live"], session, places, iter([some, []]))
        self.assertIn(b"following", next(events))
        self.assertIn(b'"subject": "machine"', next(events))
        signing_in.sign_out(self.shop, session)
        with self.assertRaises(StopIteration):
            next(events)
        events.close()
        events.close()
        self.assertEqual(places.taken(), 0)

    def test_there_are_only_so_many_places(self):
        places = self.app.extensions["rezept_streams"]
        for member in range(100, 100 + changes.MOST_STREAMS):
            places.take(member)
        self.assertIn("48 screens", self.call("GET", "/api/changes/stream?since=0", 503)["detail"])

    def test_one_member_has_three_of_them_and_leaves_the_others(self):
        places = self.app.extensions["rezept_streams"]
        for _ in range(changes.MOST_OF_ONE):
            places.take(self.member.id)
        self.assertIn("3 of your", self.call("GET", "/api/changes/stream?since=0", 503)["detail"])
        places.take(self.keeper.id)
        places.free(self.member.id)
        places.take(self.member.id)
        # In the demo nobody is anybody: there all may be taken.
        for _ in range(changes.MOST_STREAMS - 4):
            places.take(None)
        with self.assertRaises(ServiceUnavailable):
            places.take(None)

    def test_follow_gives_a_heartbeat_when_nothing_happens(self):
        with self.shop.database.reading() as db:
            latest = following.changes.latest_id(db)
        batches = following.follow(self.shop, latest, 0.01)
        self.assertEqual(next(batches), [])


class StreamTest(unittest.TestCase):
    """Two people on a real server: what one does reaches the other."""

    def test_a_change_arrives_and_a_gone_follower_frees_its_place(self):
        with tempfile.TemporaryDirectory() as folder:
            copy_demo(Path(folder) / "shop")
            server = Server(Path(folder) / "shop")
            self.addCleanup(server.stop)
            since = server.ask("GET", "/api/shop")["latest_change"]
            # More than there are places, one after the other: each must free its own.
            with urllib.request.urlopen(f"{server.base}/api/changes/stream?since={since}", timeout=20) as stream:
                self.assertEqual(stream.headers["Content-Type"], "text/event-stream")
                self.assertIn(b"following", stream.readline())
                server.ask("POST", "/api/lots", {"facts": {"material_id": 1, "name": "pallet 9"}})
                line = next(line for line in iter(stream.readline, b"") if line.startswith(b"data:"))
            self.assertEqual(json.loads(line[5:])["subject"], "lot")

    def test_after_a_lost_connection_it_goes_on_where_it_was(self):
        """The browser says itself what it has seen; that outranks the address."""
        with tempfile.TemporaryDirectory() as folder:
            copy_demo(Path(folder) / "shop")
            server = Server(Path(folder) / "shop")
            self.addCleanup(server.stop)
            for name in ("pallet 1", "pallet 2"):
                server.ask("POST", "/api/lots", {"facts": {"material_id": 1, "name": name}})
            latest = server.ask("GET", "/api/shop")["latest_change"]
            request = urllib.request.Request(
                f"{server.base}/api/changes/stream?since=0", headers={"Last-Event-ID": str(latest - 1)}
            )
            with urllib.request.urlopen(request, timeout=20) as stream:
                lines = (line for line in iter(stream.readline, b"") if line.startswith(b"id:"))
                self.assertEqual(next(lines), f"id: {latest}\n".encode())
            nonsense = urllib.request.Request(
                f"{server.base}/api/changes/stream?since={latest - 1}", headers={"Last-Event-ID": "-1; DROP"}
            )
            with urllib.request.urlopen(nonsense, timeout=20) as stream:
                lines = (line for line in iter(stream.readline, b"") if line.startswith(b"id:"))
                self.assertEqual(next(lines), f"id: {latest}\n".encode())


if __name__ == "__main__":
    unittest.main()
