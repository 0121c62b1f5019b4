"""The door: founding, signing in, sessions, and which role reaches which route."""

import re
import tempfile
import unittest
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from rezept.actions.commands import people, signing_in
from rezept.actions.open_shop import open_shop
from rezept.server import create_app, pages, permissions
from rezept.store import people as people_table
from tests.made import ShopCase
from tests.server.api_case import ApiCase, carry, cookie_of

PASSPHRASE = "oak barrel"


class DoorTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        signing_in.set_secret(self.shop, self.keeper, self.member.id, PASSPHRASE)
        self.fresh = self.app.test_client()

    def sign_in(self, name: str, secret: str, status: int = 201) -> Any:
        self.client = self.fresh
        return self.call("POST", "/api/session", status, json={"name": name, "secret": secret})

    def test_without_a_session_only_the_door_answers(self):
        self.client = self.fresh
        self.assertEqual(self.call("GET", "/api/door")["signed_in"], False)
        for url in ("/api/shop", "/api/me", "/api/recipes", "/api/photos/" + "0" * 64):
            self.call("GET", url, 401)

    def test_signing_in_and_out(self):
        me = self.sign_in(" Moss ", PASSPHRASE)
        self.assertEqual((me["name"], me["may_write"], me["may_keep"]), ("Moss", True, False))
        cookie = self.fresh.get_cookie(cookie_of(self.shop), domain="localhost")
        assert cookie is not None
        self.assertTrue(cookie.http_only)
        self.assertEqual(cookie.same_site, "Strict")
        self.fresh.environ_base["HTTP_X_REZEPT_FORM"] = me["form_token"]
        self.call("GET", "/api/shop")
        self.call("DELETE", "/api/session", 204)
        self.fresh.set_cookie(cookie_of(self.shop), cookie.value, domain="localhost")
        self.call("GET", "/api/shop", 401)

    def test_the_page_begins_to_fetch_the_shop_only_for_those_inside(self):
        if not (pages.STATIC / "index.html").exists():
            self.skipTest("the web app is not built")
        self.client = self.fresh
        self.assertNotIn("Link", self.client.get("/").headers)
        self.sign_in("Moss", PASSPHRASE)
        early = self.client.get("/book").headers.getlist("Link")
        self.assertEqual([link[1 : link.index(">")] for link in early], ["/api/shop", "/api/me"])
        for link in early:
            self.assertIn("rel=preload; as=fetch; crossorigin=anonymous", link)
        self.assertNotIn("Link", self.client.get("/icon.svg").headers)

    def test_a_wrong_name_and_a_wrong_passphrase_sound_alike(self):
        said = [self.sign_in(*who, status=401)["detail"] for who in (("Moss", "nonsense"), ("Nobody", "nonsense"))]
        self.assertEqual(said[0], said[1])
        # Kay has no passphrase yet, so nothing fits.
        self.assertEqual(self.sign_in("Kay", "", status=401)["detail"], said[0])

    def test_a_write_without_the_form_token_is_refused(self):
        self.sign_in("Moss", PASSPHRASE)
        body = {"process": "cut", "material": self.poplar, "head": self.wren}
        self.assertIn("own page", self.call("POST", "/api/trials", 403, json=body)["detail"])
        self.call("POST", "/api/trials", 403, json=body, headers={"X-Rezept-Form": "0" * 64})
        token = self.call("GET", "/api/me")["form_token"]
        self.call("POST", "/api/trials", 201, json=body, headers={"X-Rezept-Form": token})

    def stop_the_clock(self):
        object.__setattr__(self.shop, "clock", lambda: datetime(2026, 11, 27, tzinfo=UTC))

    def test_who_tries_too_often_is_told_how_long_to_wait(self):
        self.stop_the_clock()
        self.sign_in("Moss", "guess", status=401)
        answer = self.fresh.post("/api/session", json={"name": "moss", "secret": PASSPHRASE})
        self.assertEqual((answer.status_code, answer.headers["Retry-After"]), (429, "1"))
        self.assertEqual(answer.json["detail"], "After a wrong try one waits: 1 second more.")

    def test_two_shops_on_one_machine_leave_each_others_cookie_alone(self):
        self.sign_in("Moss", PASSPHRASE)
        mine = cookie_of(self.shop)
        with self.shop.database.writing() as db:
            db.execute("UPDATE shop SET key = 'another'")
        self.assertNotEqual(cookie_of(self.shop), mine)
        self.call("GET", "/api/shop", 401)

    def test_my_passphrase_is_changed_by_the_old_one_and_others_are_signed_out(self):
        self.stop_the_clock()
        me = self.sign_in("Moss", PASSPHRASE)
        self.fresh.environ_base["HTTP_X_REZEPT_FORM"] = me["form_token"]
        elsewhere = signing_in.start_session(self.shop, self.member.id, "phone")
        listed = self.call("GET", "/api/me/sessions")["sessions"]
        self.assertIn(("phone", False), [(row["device"], row["current"]) for row in listed])
        self.call("PUT", "/api/me/secret", 400, json={"old": PASSPHRASE, "new": "short"})
        for weak in ("MOSS", "football", "Test Shop"):
            self.call("PUT", "/api/me/secret", 400, json={"old": PASSPHRASE, "new": weak})
        self.call("PUT", "/api/me/secret", 400, json={"old": "wrong one", "new": "birch barrel"})
        self.call("PUT", "/api/me/secret", 429, json={"old": PASSPHRASE, "new": "birch barrel"})
        with self.shop.database.writing() as db:
            people_table.forget_tries(db, "moss")
        self.call("PUT", "/api/me/secret", 204, json={"old": PASSPHRASE, "new": "birch barrel"})
        self.assertIsNone(signing_in.session_of(self.shop, elsewhere.token))
        self.call("GET", "/api/shop")
        self.sign_in("Moss", "birch barrel")

    def test_a_keeper_ends_sessions_and_lets_people_go(self):
        mine = signing_in.start_session(self.shop, self.member.id, "bench PC")
        self.become(self.technician.id)
        self.call("DELETE", f"/api/me/sessions/{mine.id}", 404)
        self.become(self.keeper.id)
        self.call("DELETE", f"/api/members/{self.member.id}/sessions", 204)
        self.assertIsNone(signing_in.session_of(self.shop, mine.token))
        again = signing_in.start_session(self.shop, self.member.id, "bench PC")
        change = {"edit": 1, "name": "Moss", "role": "member", "retired": True}
        self.call("PUT", f"/api/members/{self.member.id}", json=change)
        self.assertIsNone(signing_in.session_of(self.shop, again.token))
        self.sign_in("Moss", PASSPHRASE, 401)

    def test_picking_is_for_the_demo_only(self):
        self.become(self.member.id)
        self.call("PUT", "/api/me", 403, json={"member": self.technician.id})
        with self.shop.database.writing() as db:
            db.execute("UPDATE shop SET demo = 1")
        self.client = self.fresh
        self.assertEqual(self.call("GET", "/api/me")["name"], "Kay")
        self.assertEqual(self.call("PUT", "/api/me", json={"member": self.technician.id})["may_prove"], True)
        self.assertEqual(self.call("GET", "/api/me")["name"], "Tess")
        self.call("PUT", "/api/me", 404, json={"member": 999})
        name = cookie_of(self.shop).replace("session", "member")
        self.assertIsNotNone(self.client.get_cookie(name, domain="localhost"))
        for cookie in ("999", "x", "-1", "9" * 40):
            self.client.set_cookie(name, cookie, domain="localhost")
            self.assertEqual(self.call("GET", "/api/me")["name"], "Kay")


class FirstRunTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.shop = open_shop(Path(folder.name))
        self.addCleanup(self.shop.close)
        self.body = {"name": "Our shop", "tag": "0RSH", "keeper": "Kay", "secret": PASSPHRASE}

    def test_the_first_run_makes_the_keeper_and_signs_them_in(self):
        client = create_app(self.shop).test_client()
        self.assertEqual(client.get("/api/door").json["state"], "empty")
        self.assertEqual(client.get("/api/shop").status_code, 401)
        self.assertEqual(client.post("/api/door/found", json={**self.body, "secret": "1234"}).status_code, 400)
        answer = client.post("/api/door/found", json=self.body)
        self.assertEqual((answer.status_code, answer.json["role"]), (201, "keeper"))
        self.assertEqual(client.get("/api/shop").json["shop"]["name"], "Our shop")
        token = {"X-Rezept-Form": answer.json["form_token"]}
        self.assertEqual(client.post("/api/door/found", json=self.body, headers=token).status_code, 400)

    def test_no_shop_is_founded_over_the_network(self):
        client = create_app(self.shop, ["rezept.local"], network=True).test_client()
        refused = client.post("/api/door/found", json=self.body, headers={"Host": "rezept.local"})
        self.assertEqual(refused.status_code, 403)

    def test_names_in_the_network(self):
        client = create_app(self.shop, ["rezept.local"], network=True).test_client()
        for host, status in (("rezept.local:80", 200), ("192.168.1.7:8137", 200), ("evil.example", 403)):
            self.assertEqual(client.get("/api/door", headers={"Host": host}).status_code, status, host)


class SessionTest(ShopCase):
    def test_a_session_runs_out_when_idle_and_in_the_end(self):
        now = [datetime(2026, 11, 1, tzinfo=UTC)]
        object.__setattr__(self.shop, "clock", lambda: now[0])
        idle = signing_in.start_session(self.shop, self.member.id, "idle")
        used = signing_in.start_session(self.shop, self.member.id, "used")
        for _ in range(29):
            now[0] += timedelta(days=1)
            self.assertIsNotNone(signing_in.session_of(self.shop, used.token))
        self.assertIsNone(signing_in.session_of(self.shop, idle.token))
        now[0] += timedelta(days=1, seconds=1)
        self.assertIsNone(signing_in.session_of(self.shop, used.token))

    def test_the_last_keeper_stays(self):
        for role, retired in (("member", False), ("keeper", True)):
            with self.assertRaisesRegex(ValueError, "only keeper"):
                people.change_member(self.shop, self.keeper, self.keeper.id, 1, "Kay", role, retired)


class RoleTableTest(ApiCase):
    """Every role walks every route: it passes exactly where the table says."""

    IDS = (
        ("<path:place>", "book"), ("<path:name>", "none.js"), ("<int:id>", "1"), ("<int:revision>", "1"),
        ("<string:kind>", "svg"), ("<string:patch>", "A1"), ("<string:face>", "front"), ("<string:sha256>", "0" * 64),
        ("<string:key>", "none"),
    )  # fmt: skip

    def test_the_table_names_every_route_and_no_other(self):
        self.assertEqual(permissions.unlisted(self.app), [])
        rules = {rule.rule for rule in self.app.url_map.iter_rules()}
        self.assertEqual([rule for _, rule in permissions.ROUTES if rule not in rules], [])

    def test_every_role_on_every_route(self):
        everyone = [None, self.guest, self.member, self.technician, self.keeper]
        walked = 0
        for (method, rule), (least, _) in permissions.ROUTES.items():
            if rule.startswith("/api/changes/stream"):
                continue
            url = rule
            for part, value in self.IDS:
                url = url.replace(part, value)
            self.assertNotRegex(url, "[<>]")
            for who in everyone:
                client = self.app.test_client()
                if who is not None:
                    session = signing_in.start_session(self.shop, who.id, "walk")
                    carry(client, self.shop, session)
                json = None if method in ("GET", "DELETE") else {}
                status = client.open(url, method=method, json=json).status_code
                with self.subTest(f"{method} {rule} as {who.role if who else 'nobody'}"):
                    if least == permissions.ANYONE:
                        self.assertNotIn(status, (401, 403))
                    elif who is None:
                        self.assertEqual(status, 401)
                    elif who.may(least):
                        self.assertNotIn(status, (401, 403, 500))
                    else:
                        self.assertEqual(status, 403)
                walked += 1
        self.assertEqual(walked % len(everyone), 0)

    def test_what_i_may_not_do_says_who_can(self):
        said = self.call("POST", "/api/members", 403, json={"name": "Ann", "role": "guest"})["detail"]
        self.assertRegex(said, r"Moss is here as member; to add members, ask a keeper\. That is: Kay\.")

    def test_the_document_and_the_table_agree(self):
        documented = {
            (method.upper(), re.sub(r"\{(\w+)\}", r"<\1>", path))
            for path, methods in self.app.api_doc["paths"].items()
            for method in methods
        }
        listed = {
            (method, re.sub(r"<\w+:(\w+)>", r"<\1>", rule))
            for method, rule in permissions.ROUTES
            if rule.startswith("/api/")
        }
        self.assertEqual(documented, listed)


if __name__ == "__main__":
    unittest.main()
