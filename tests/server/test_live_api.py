"""Burning live over HTTP: started, watched by several, held, and a server killed in the middle."""

import json
import tempfile
import unittest
import urllib.request
from pathlib import Path

from rezept.actions.commands import equipment
from rezept.actions.open_shop import open_shop
from rezept.actions.queries import views
from tests.bench_port import link_in, start_bench
from tests.demo_copy import copy_demo
from tests.made import WREN
from tests.server.api_case import ApiCase
from tests.server.real_server import Server
from tests.until import until

LANTERN_SIDES = "{trial: Poplar plywood 6 mm, cut}"  # cut, 25 patches, its files fetched and waiting for the burn


class LiveApiCase(ApiCase):
    def setUp(self):
        super().setUp()
        self.addCleanup(self.app.extensions["rezept_live"].close)
        facts = {**WREN, "name": "Linnet", "beam_drops_at_rest": True}
        self.linnet = equipment.add_machine(self.shop, self.keeper, facts, [{"name": "lens", "spot_mm": 0.2}])[0]
        body = {"process": "cut", "material": self.poplar, "head": self.linnet}
        self.trial = self.call("POST", "/api/trials", 201, json=body)["id"]
        page = self.page()
        axes = [{"parameter": "speed_mm_s", "along": "x", "values": [10, 20, 30]}]
        design = {**page["design"], "axes": axes, "hold": {"power_pct": 50}}
        body = {"edit": page["edit"], "design": design, "units": {}}
        self.call("PUT", f"/api/trials/{self.trial}/design", json=body)

    def page(self):
        return self.call("GET", f"/api/trials/{self.trial}")

    def link(self, **how):
        self.bench = start_bench(self, **how)
        machine = next(row for row in self.call("GET", "/api/shop")["machines"] if row["name"] == "Linnet")
        self.become(self.technician.id)
        facts = {**machine["facts"], "link": self.bench.url}
        body = {"edit": machine["edit"], "facts": facts, "units": {}, "retired": False}
        changed = self.call("PUT", f"/api/machines/{machine['id']}", json=body)
        self.assertEqual(changed["link"], self.bench.url)
        self.become(self.member.id)

    def until(self, *states):
        until(lambda: self.page()["live"]["state"] in states)
        return self.page()["live"]


class LiveApiTest(LiveApiCase):
    def test_from_start_to_the_log(self):
        self.link()
        start = {"edit": self.page()["edit"], "lot": "Autumn", "cleaning": "dusted", "at_machine": True}
        run = self.call("POST", f"/api/trials/{self.trial}/live", 201, json=start)
        self.assertEqual((run["how"], run["parts"]), ("whole", ["A3", "A2", "A1"]))
        run = self.until("done")
        self.assertEqual([one["key"] for one in self.call("GET", "/api/live")["runs"]], [run["key"]])
        page = self.page()
        self.assertEqual([part["state"] for part in page["runs"][0]["parts"]], ["done"] * 3)
        burn = page["burns"][0]
        self.assertEqual((burn["cleaning"], page["link"]), ("dusted", True))
        remark = self.call("POST", f"/api/burns/{burn['id']}/remarks", 201, json={"kind": "sparks", "patch": "A2"})
        self.assertEqual([one["kind"] for one in self.page()["remarks"]], ["sparks"])
        self.call("DELETE", f"/api/remarks/{remark['id']}", 204)
        self.assertEqual(self.page()["remarks"], [])
        again = {"patches": ["A1"], "passes": 1, "by_hand": True}
        self.assertEqual(self.client.post(f"/api/burns/{burn['id']}/again", json=again).status_code, 204)
        self.assertEqual(self.page()["burned"]["patches"][0]["settings"]["passes"], 2)

    def test_held_corrected_and_stopped(self):
        self.link(speed_up=5)
        start = {"edit": self.page()["edit"], "at_machine": True}
        key = self.call("POST", f"/api/trials/{self.trial}/live", 201, json=start)["key"]
        self.until("running")
        self.call("POST", f"/api/live/{key}/hold", 204, json={})
        self.until("held")
        self.call("POST", f"/api/live/{key}/correction", 204, json={"what": "power", "steps": 2})
        self.call("POST", f"/api/live/{key}/correction", 400, json={"what": "power", "steps": 99})
        self.call("POST", f"/api/live/{key}/go-on", 400, json={})
        self.call("POST", f"/api/live/{key}/go-on", 204, json={"at_machine": True})
        self.become(self.technician.id)
        self.call("POST", f"/api/live/{key}/control", 204, json={})
        self.assertEqual(self.page()["live"]["holder"]["name"], "Tess")
        self.become(self.guest.id)
        self.call("POST", f"/api/live/{key}/stop", 403, json={})
        self.become(self.member.id)
        self.call("POST", f"/api/live/{key}/stop", 204, json={})
        self.assertEqual(self.until("stopped")["reason"], "by Moss")

    def test_followed_by_the_clock(self):
        axes = [{"parameter": "speed_mm_s", "along": "x", "values": [3, 4, 5]}]
        body = {"edit": self.page()["edit"], "design": {**self.page()["design"], "axes": axes}, "units": {}}
        self.call("PUT", f"/api/trials/{self.trial}/design", json=body)
        run = self.call("POST", f"/api/trials/{self.trial}/by-clock", 201, json={"edit": self.page()["edit"]})
        burn = f"/api/burns/{run['burn_id']}"
        # The clock of the tests goes on with every look.
        self.assertTrue(run["by_clock"])
        self.assertIn(run["current"], run["parts"])
        self.assertEqual(self.page()["live"]["key"], run["key"])
        self.call("POST", f"{burn}/clock", json={"what": "pause"})
        self.call("POST", f"{burn}/clock", 400, json={"what": "explode"})
        self.call("POST", f"{burn}/clock/turned", 422, json={"part": "A3"})
        self.call("POST", f"{burn}/clock/corrected", json={"key": "power_pct", "way": "lower"})
        self.become(self.guest.id)
        self.call("POST", f"{burn}/clock/ended", 403, json={"whole": True})
        self.become(self.member.id)
        over = self.call("POST", f"{burn}/clock/ended", json={"whole": True})
        self.assertEqual((over["state"], over["settled"], self.page()["live"]), ("done", True, None))
        self.call("POST", f"{burn}/clock", 422, json={"what": "pause"})
        self.assertTrue(self.page()["burned"]["patches"][0]["mixed"])

    def test_it_waits_for_a_hand(self):
        self.link()
        machine = next(row for row in self.call("GET", "/api/shop")["machines"] if row["name"] == "Linnet")
        self.become(self.technician.id)
        scale = {"unit": "mA", "pairs": "2 = 10\n16 mA = 80 %", "step": ""}
        facts = {**machine["facts"], "link": machine["link"], "by_hand": ["power_pct"], "curves": {"power_pct": scale}}
        body = {"edit": machine["edit"], "facts": facts, "units": {}, "retired": False}
        wrong = {**body, "facts": {**facts, "curves": {"power_pct": {**scale, "pairs": "two = ten"}}}}
        self.assertIn("8 = 40", self.call("PUT", f"/api/machines/{machine['id']}", 400, json=wrong)["detail"])
        changed = self.call("PUT", f"/api/machines/{machine['id']}", json=body)
        self.assertEqual(changed["facts"]["curves"], {"power_pct": {"unit": "mA", "pairs": [[2, 10], [16, 80]]}})
        self.become(self.member.id)
        design = {"edit": self.page()["edit"], "design": {**self.page()["design"], "title": "x"}, "units": {}}
        self.call("PUT", f"/api/trials/{self.trial}/design", json=design)
        start = {"edit": self.page()["edit"], "at_machine": True}
        key = self.call("POST", f"/api/trials/{self.trial}/live", 201, json=start)["key"]
        stop = self.until("waiting")["stop"]
        self.assertEqual(stop["sentence"], "Set 10 mA, then go on.")
        first = stop["parts"][0]
        self.call("POST", f"/api/live/{key}/turned", 400, json={"part": first})
        self.call("POST", f"/api/live/{key}/turned", 400, json={"part": first, "at_machine": True, "shown": {"x": 1}})
        self.call(
            "POST",
            f"/api/live/{key}/turned",
            204,
            json={"part": first, "at_machine": True, "shown": {"power_pct": "11 mA"}},
        )
        self.until("done")
        self.assertEqual(self.page()["burned"]["patches"][0]["settings"]["power_pct"], 55)

    def test_what_cannot_be_is_a_sentence(self):
        start = {"edit": self.page()["edit"], "at_machine": True}
        problem = self.call("POST", f"/api/trials/{self.trial}/live", 422, json=start)
        self.assertIn("no live link", problem["detail"])
        self.link()
        problem = self.call("POST", f"/api/trials/{self.trial}/live", 400, json={**start, "at_machine": False})
        self.assertIn("stand at the machine", problem["detail"])
        self.call("POST", "/api/live/nothing/hold", 404, json={})
        machine = next(row for row in self.call("GET", "/api/shop")["machines"] if row["name"] == "Linnet")
        self.become(self.technician.id)
        for wrong in ("spy://loop", "http://example", "socket://host", "../etc/passwd"):
            facts = {**machine["facts"], "link": wrong}
            body = {"edit": machine["edit"], "facts": facts, "units": {}, "retired": False}
            self.call("PUT", f"/api/machines/{machine['id']}", 400, json=body)


class ServerCase(unittest.TestCase):
    """A real server on the demo shop, whose Wren listens at a bench."""

    def served(self, **how):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "shop"
        copy_demo(self.folder)
        self.bench = start_bench(self, **how)
        link_in(self.folder, "Wren", self.bench.url)
        return Server(self.folder)

    def start(self, server):
        page = server.ask("GET", f"/api/trials/{LANTERN_SIDES}")
        return server.ask(
            "POST", f"/api/trials/{LANTERN_SIDES}/live", {"edit": page["edit"], "lot": "", "at_machine": True}
        )

    def until(self, server, at_least):
        def so_far():
            run = server.ask("GET", f"/api/trials/{LANTERN_SIDES}")["live"]
            return run if len(run["done"]) >= at_least or run["state"] in ("done", "interrupted") else None

        return until(so_far)


class KilledTest(ServerCase):
    def test_a_server_killed_in_the_middle_stops_the_machine_and_the_record_says_how_far_it_came(self):
        server = self.served(speed_up=15)
        self.start(server)
        run = self.until(server, 4)
        self.assertEqual(run["state"], "running")
        server.kill()
        until(lambda: self.bench.controller.state in ("idle", "alarm"))
        self.assertEqual(self.bench.controller.state, "idle", "the machine was stopped by the job it left behind")
        shop = open_shop(self.folder)
        self.addCleanup(shop.close)

        def kept_run():
            [kept] = views.trial_page(shop, run["trial_id"])["runs"]
            return kept if kept["state"] != "running" else None

        kept = until(kept_run)
        self.assertEqual((kept["state"], kept["reason"]), ("interrupted", "Rezept was ended while it burned."))
        states = [part["state"] for part in kept["parts"]]
        done = states.count("done")
        self.assertGreaterEqual(done, 4)
        # None is uncertain where the end came just between two patches.
        unsure = states.count("uncertain")
        self.assertLessEqual(unsure, 1)
        self.assertEqual(states, ["done"] * done + ["uncertain"] * unsure + ["waiting"] * (len(states) - done - unsure))


class WatchTest(ServerCase):
    def test_every_watcher_sees_the_plate_fill_and_who_holds_the_control(self):
        server = self.served(speed_up=40)
        self.addCleanup(server.stop)
        streams = [
            urllib.request.urlopen(f"{server.base}/api/changes/stream?since=999999", timeout=20) for _ in range(2)
        ]
        for stream in streams:
            self.addCleanup(stream.close)
        self.start(server)
        for stream in streams:
            shares, holders = [], set()
            while not shares or shares[-1] < 1:
                line = stream.readline().decode().strip()
                if line == "event: live":
                    run = json.loads(stream.readline().decode().removeprefix("data: "))
                    shares.append(run["share"])
                    holders.add(run["holder"]["name"])
                    self.assertNotIn(run["state"], ("stopped", "interrupted"), run["reason"])
            self.assertGreater(len(shares), 3)
            self.assertEqual(holders, {"Kay Example"})


if __name__ == "__main__":
    unittest.main()
