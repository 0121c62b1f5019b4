"""The book over HTTP: finding, the map, taps, versions, prints."""

import io
import unittest

import zxingcpp
from PIL import Image

from rezept.formats.qr import qr_svg
from tests.server.api_case import ApiCase

SETTINGS = {"speed_mm_s": "18 mm/s", "power_pct": "60"}


class BookCase(ApiCase):
    def heard(self, **more):
        body = {"process": "cut", "material": self.poplar, "head": self.wren, "settings": SETTINGS, **more}
        return self.call("POST", "/api/recipes/written-down", 201, json=body)["id"]

    def kept(self):
        _, burn = self.burned_trial()
        self.call("PUT", f"/api/burns/{burn}/patches/A1/reading", json={"edit": 0, "values": {"through": 3}})
        return self.call("POST", "/api/recipes", 201, json={"burn": burn, "patch": "A1"})["id"]


class RecipeTest(BookCase):
    def test_taps_and_their_undo(self):
        recipe = self.kept()
        url = f"/api/recipes/{recipe}/confirmations"
        self.call("POST", url, 201, json={"held": True})
        tap = self.call("POST", url, 201, json={"held": False, "note": "thicker sheet"})["id"]
        page = self.call("GET", f"/api/recipes/{recipe}")
        self.assertEqual((page["held"], page["failed"], page["confirmations"][1]["note"]), (1, 1, "thicker sheet"))
        self.call("DELETE", f"/api/confirmations/{tap}", 204)
        self.assertEqual(self.call("GET", f"/api/recipes/{recipe}")["failed"], 0)
        self.call("DELETE", f"/api/confirmations/{tap}", 409)
        self.call("DELETE", "/api/confirmations/999", 404)
        self.call("POST", url, 400, json={"held": "perhaps"})

    def test_versions_side_by_side_and_putting_back(self):
        recipe = self.heard(note="first")
        url = f"/api/recipes/{recipe}"
        links = [{"title": "thread", "url": "https://example.org/1"}]
        page = self.call("PUT", url, json={"edit": 1, "note": "second", "links": links})
        self.assertEqual((page["edit"], page["links"]), (2, links))
        stale = self.call("PUT", url, 409, json={"edit": 1, "note": "third"})
        self.assertEqual((stale["current"]["note"], stale["yours"]["note"]), ("second", "third"))
        back = self.call("POST", f"{url}/restore", json={"edit": 2, "version": 1})
        self.assertEqual((back["note"], back["links"]), ("first", []))
        self.assertEqual([version["edit"] for version in back["history"]], [3, 2, 1])
        self.call("POST", f"{url}/restore", 404, json={"edit": 3, "version": 8})
        self.call("PUT", url, 400, json={"edit": 3})
        self.call("PUT", url, 400, json={"edit": 3, "links": [{"url": "javascript:alert(1)"}]})

    def test_a_member_neither_proves_nor_retires(self):
        recipe = self.heard()
        for standing in ("proven", "retired"):
            said = self.call("PUT", f"/api/recipes/{recipe}", 403, json={"edit": 1, "standing": standing})
            self.assertIn("Tess", said["detail"])
        self.become(self.technician.id)
        page = self.call("PUT", f"/api/recipes/{recipe}", json={"edit": 1, "standing": "proven"})
        self.assertEqual(page["standing"], "proven")

    def test_a_plate_is_not_hearsay(self):
        recipe = self.kept()
        self.call("PUT", f"/api/recipes/{recipe}", 400, json={"edit": 1, "standing": "heard"})

    def test_superseded_and_free_again(self):
        old, new = self.heard(), self.heard(purpose="better")
        page = self.call("PUT", f"/api/recipes/{old}", json={"edit": 1, "superseded_by": new})
        self.assertEqual(page["superseded_by"], new)
        self.assertEqual([one["id"] for one in self.ask()["unproven"]], [new])
        page = self.call("PUT", f"/api/recipes/{old}", json={"edit": 2, "superseded_by": None})
        self.assertIsNone(page["superseded_by"])
        self.call("PUT", f"/api/recipes/{old}", 404, json={"edit": 3, "superseded_by": 999})

    def ask(self):
        return self.call("GET", f"/api/ask?process=cut&material={self.poplar}&head={self.wren}")


class FindTest(BookCase):
    def test_pages_filters_and_slips(self):
        for purpose in ("lantern sides", "lantern lids", "stamps"):
            self.heard(purpose=purpose)
        first = self.call("GET", "/api/recipes?text=latnern&most=1")
        self.assertEqual((first["total"], len(first["recipes"])), (2, 1))
        second = self.call("GET", "/api/recipes?text=latnern&most=1&skip=1")
        self.assertNotEqual(first["recipes"][0]["id"], second["recipes"][0]["id"])
        self.assertEqual(self.call("GET", "/api/recipes?standing=heard")["total"], 3)
        self.assertEqual(self.call("GET", "/api/recipes?standing=proven")["total"], 0)
        for query in ("most=0", "most=9999", "standing=nice", "head=0", f"head={2**63}", "text=" + "x" * 201):
            self.call("GET", f"/api/recipes?{query}", 400)

    def test_signs_of_the_search_language_are_only_signs(self):
        self.heard(purpose="lantern")
        for text in ('"', "lantern OR", "NEAR(", "lantern*", "-lantern", "words:lantern", "%00", "(((", "'"):
            self.call("GET", "/api/recipes", query_string={"text": text})
        self.assertEqual(self.call("GET", "/api/recipes", query_string={"text": "lantern*"})["total"], 1)


class MapTest(BookCase):
    def cell(self):
        answer = self.call("GET", "/api/map?process=cut")
        row = next(row for row in answer["rows"] if row["material_id"] == self.thick)
        return next(cell for cell in row["cells"] if cell["head_id"] == self.wren)

    def test_a_technician_says_what_does_not_work(self):
        body = {"process": "cut", "material": self.thick, "head": self.wren, "reason": "only chars"}
        self.call("PUT", "/api/map/not-working", 403, json=body)
        self.become(self.technician.id)
        self.call("PUT", "/api/map/not-working", 204, json=body)
        self.assertEqual((self.cell()["state"], self.cell()["reason"]), ("does_not_work", "only chars"))
        self.call("PUT", "/api/map/not-working", 400, json={**body, "reason": " "})
        self.call("PUT", "/api/map/not-working", 404, json={**body, "head": 99})
        self.call("PUT", "/api/map/not-working", 204, json={**body, "reason": None})
        self.assertEqual(self.cell()["state"], "gap")

    def test_the_map_is_followed_by_its_log(self):
        self.become(self.technician.id)
        body = {"process": "cut", "material": self.thick, "head": self.wren, "reason": "only chars"}
        self.call("PUT", "/api/map/not-working", 204, json=body)
        line = self.call("GET", "/api/changes?most=1")["changes"][0]
        self.assertEqual((line["verb"], line["title"]), ("said it does not work:", "cut Poplar plywood 6 mm on Wren"))


class PrintTest(BookCase):
    def test_the_wall_card_holds_what_is_proven_or_tried(self):
        kept = self.kept()
        self.heard()
        self.become(self.technician.id)
        machine = self.call("GET", "/api/shop")["machines"][0]["id"]
        self.assertEqual([one["id"] for one in self.call("GET", f"/api/machines/{machine}/wall")["recipes"]], [kept])
        self.call("PUT", f"/api/recipes/{kept}", json={"edit": 1, "standing": "doubtful"})
        self.assertEqual(self.call("GET", f"/api/machines/{machine}/wall")["recipes"], [])
        self.call("GET", "/api/machines/99/wall", 404)

    def test_codes_lead_to_pages_of_this_shop_only(self):
        answer = self.call("GET", "/api/qr", query_string={"place": "/book/3"})
        self.assertEqual(answer.content_type, "image/svg+xml")
        self.assertEqual(answer.data, qr_svg("http://localhost/book/3"))
        for place in ("//evil.example/x", "https://evil.example", "book/3", "/a b", "/" + "x" * 300):
            self.call("GET", "/api/qr", 400, query_string={"place": place})

    def test_a_reader_of_its_own_reads_the_code(self):
        import subprocess

        svg = qr_svg("http://127.0.0.1:8137/book/3")
        png = subprocess.run(["rsvg-convert", "-w", "400"], input=svg, capture_output=True, check=True).stdout
        found = zxingcpp.read_barcodes(Image.open(io.BytesIO(png)))
        self.assertEqual([one.text for one in found], ["http://127.0.0.1:8137/book/3"])


class BackupTest(ApiCase):
    def test_only_with_a_folder_and_only_for_keepers(self):
        self.call("GET", "/api/backup", 403)
        self.become(self.keeper.id)
        self.assertIsNone(self.call("GET", "/api/backup")["folder"])
        self.call("POST", "/api/backup", 422, json={})

    def test_now(self):
        from rezept.actions.commands.safekeeping import Schedule

        self.app.extensions["rezept_schedule"] = Schedule(self.folder / "backups", 24, 2)
        self.become(self.keeper.id)
        self.assertIsNone(self.call("GET", "/api/backup")["latest"])
        made = self.call("POST", "/api/backup", 201, json={})
        self.assertRegex(made["latest"], r"^20261123T\d{6}Z$")
        for _ in range(3):
            self.call("POST", "/api/backup", 201, json={})
        self.assertEqual(len(list((self.folder / "backups").iterdir())), 2)


if __name__ == "__main__":
    unittest.main()
