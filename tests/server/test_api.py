"""The API: every route, its shape, its refusals."""

import io
import json
import subprocess
import unittest

from PIL import Image

from rezept.core.parameters import PARAMETERS
from rezept.core.photo.card import CARD_TEXT, PLAIN_CURVE, read_card
from rezept.formats.photo_file import read_photo
from tests.server.api_case import ApiCase


class ShopTest(ApiCase):
    def test_inventory_carries_the_tables_of_the_core(self):
        inventory = self.call("GET", "/api/shop")
        self.assertEqual([row["key"] for row in inventory["parameters"]], list(PARAMETERS))
        self.assertEqual([head["title"] for head in inventory["heads"]], ["Wren", "Heron 110", "Heron 175"])
        self.assertEqual(next(one for one in inventory["scales"] if one["key"] == "through")["words"][3], "drops out")


class GrowingTest(ApiCase):
    def test_coupon_by_coupon(self):
        place = {"process": "cut", "material": self.poplar, "head": self.wren, "begun_as": "coupons"}
        trial = self.call("POST", "/api/trials", 201, json=place)["id"]
        self.call("GET", f"/api/trials/{trial}/next-coupon", 422)
        for speed, came in (("600 mm/min", 3), (16, 1)):
            edit = self.call("GET", f"/api/trials/{trial}")["edit"]
            body = {"edit": edit, "settings": {"speed_mm_s": speed, "power_pct": 60}}
            said = self.call("POST", f"/api/trials/{trial}/coupons", json=body)
            burn = self.call("POST", f"/api/trials/{trial}/burns", 201, json={"edit": said["edit"]})["id"]
            score = {"edit": 0, "values": {"through": came}}
            self.call("PUT", f"/api/burns/{burn}/patches/{said['patch']}/reading", json=score)
        coupon = self.call("GET", f"/api/trials/{trial}/next-coupon")
        self.assertIn("Between 10 mm/s", coupon["why"])
        broken = {"edit": 1, "settings": {"speed_mm_s": "much", "power_pct": 60}}
        problem = self.call("POST", f"/api/trials/{trial}/coupons", 400, json=broken)
        self.assertEqual(problem["errors"][0]["path"], "listed.settings[0].speed_mm_s")


class TrialTest(ApiCase):
    def test_preview_understands_typed_quantities(self):
        page = self.new_trial()
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "from": "600", "to": "20 mm/s", "count": "3"},
            {"parameter": "power_pct", "along": "y", "values": "30 40; 50 %"},
        ]
        body = {"design": {**page["design"], "axes": axes}, "units": {"speed": "mm/min"}}
        preview = self.call("POST", f"/api/trials/{page['id']}/preview", json=body)
        self.assertEqual(preview["plate"]["patches"][0]["settings"]["speed_mm_s"], 10.0)
        self.assertEqual(len(preview["plate"]["patches"]), 9)
        self.assertTrue(preview["burnable"])
        self.assertEqual(
            {file["kind"] for file in page["files"]}, {"gcode", "trace", "tight", "svg", "dxf", "csv", "pdf", "json"}
        )

    def test_what_no_file_can_burn_is_said_to_be_so(self):
        """Faster than the machine goes: the preview says that there is nothing to burn it by, and so does the page."""
        page = self.new_trial()
        [head] = [one for one in self.call("GET", "/api/shop")["heads"] if one["id"] == page["head_id"]]
        speed, power = page["design"]["axes"]
        fast = {**speed, "from": 10, "to": head["machine_facts"]["max_speed_mm_s"] * 2}
        design = {**page["design"], "axes": [fast, power]}
        url = f"/api/trials/{page['id']}"
        preview = self.call("POST", f"{url}/preview", json={"design": design})
        self.assertFalse(preview["burnable"])
        kept = self.call("PUT", f"{url}/design", json={"edit": page["edit"], "design": design})
        self.assertFalse(kept["burnable"])
        self.assertEqual({file["kind"] for file in kept["files"] if file["refused"] is None}, {"json"})

    def test_nonsense_gets_a_sentence_beside_its_field(self):
        page = self.new_trial()
        speed, power = page["design"]["axes"]
        url = f"/api/trials/{page['id']}"
        cases = [
            ({"axes": [{**speed, "from": "fast"}, power]}, "axes[0].from"),
            ({"axes": [{**speed, "from": "-3"}, power]}, "axes[0].from"),
            ({"axes": [{**speed, "from": 0}, power]}, "axes[0].from"),
            ({"axes": [{**speed, "count": 0}, power]}, "axes[0].count"),
            ({"axes": [{**speed, "count": 5001}, power]}, "axes[0].count"),
            ({"axes": [{**speed, "count": 100}, {**power, "count": 100}]}, "axes"),
            ({"axes": [speed, {**speed, "along": "y"}]}, "axes[1].parameter"),
            ({"axes": [{**speed, "to": speed["from"]}, power]}, "axes[0].to"),
            ({"axes": [{**speed, "parameter": "frequency_khz"}, power]}, "axes[0].parameter"),
            ({"axes": [{**speed, "parameter": "warp"}, power]}, "axes[0].parameter"),
            ({"hold": {"frequency_khz": 20}}, "hold.frequency_khz"),
            ({"hold": {"shininess": 20}}, "hold.shininess"),
            ({"patch": {"width_mm": "0"}}, "patch.width_mm"),
            ({"labels": {"on": True}}, "labels.settings.speed_mm_s"),
            ({"order": "random"}, "order"),
            ({"off": ["Z99"]}, "off"),
            ({"place": {"x_mm": "left"}}, "place.x_mm"),
            ({"wheels": 4}, "wheels"),
        ]
        for change, path in cases:
            design = {**page["design"], **change}
            with self.subTest(change=change):
                problem = self.call("POST", f"{url}/preview", 400, json={"design": design})
                self.assertEqual(problem["errors"][0]["path"], path)
                self.assertGreater(len(problem["errors"][0]["detail"]), 15)
                self.call("PUT", f"{url}/design", 400, json={"design": design, "edit": page["edit"]})
        self.assertEqual(self.call("GET", url)["edit"], page["edit"])

    def test_infinite_numbers_do_not_get_in(self):
        page = self.new_trial()
        url = f"/api/trials/{page['id']}/preview"
        for number in ("NaN", "Infinity", "-Infinity", "1e999"):
            plain = json.dumps(page["design"])
            design = plain.replace('"count": 5', f'"count": {number}', 1)
            self.assertNotEqual(design, plain)
            body = f'{{"design": {design}}}'
            with self.subTest(number):
                self.call("POST", url, 400, data=body, content_type="application/json")

    def test_stale_design_is_a_409_with_both_versions(self):
        page = self.new_trial()
        url = f"/api/trials/{page['id']}/design"
        mine = {**page["design"], "title": "mine"}
        self.call("PUT", url, json={"design": {**page["design"], "title": "theirs"}, "edit": page["edit"]})
        problem = self.call("PUT", url, 409, json={"design": mine, "edit": page["edit"]})
        self.assertEqual(problem["current"]["design"]["title"], "theirs")
        self.assertEqual(problem["yours"]["design"]["title"], "mine")

    def test_files_come_with_their_names_and_types(self):
        page = self.new_trial()
        exported = self.call("POST", f"/api/trials/{page['id']}/files", json={"edit": page["edit"]})
        for kind, media_type in [("gcode", "text/plain"), ("svg", "image/svg+xml"), ("csv", "text/csv")]:
            url = f"/api/trials/{page['id']}/revisions/{exported['revision']}/files/{kind}"
            response = self.call("GET", url)
            self.assertTrue(response.content_type.startswith(media_type))
            self.assertIn(f'filename="T3ST-T001.1-poplar-plywood-4-mm.{kind}"', response.headers["Content-Disposition"])
        self.call("GET", f"/api/trials/{page['id']}/revisions/7/files/svg", 404)
        self.call("GET", f"/api/trials/{page['id']}/revisions/1/files/exe", 404)

    def test_a_plate_that_must_not_burn_has_no_files(self):
        page = self.new_trial()
        axes = [{**page["design"]["axes"][0], "to": 900}, page["design"]["axes"][1]]
        url = f"/api/trials/{page['id']}"
        page = self.call(
            "PUT", f"{url}/design", json={"design": {**page["design"], "axes": axes}, "edit": page["edit"]}
        )
        problem = self.call("POST", f"{url}/files", 422, json={"edit": page["edit"]})
        self.assertIn("faster than Wren", problem["detail"])
        self.call("POST", f"{url}/burns", 422, json={"edit": page["edit"]})

    def test_lists_and_the_bench(self):
        first = self.new_trial()
        self.call("POST", f"/api/trials/{first['id']}/files", json={"edit": 1})
        self.new_trial("line")
        self.assertEqual([t["number"] for t in self.call("GET", "/api/trials")["trials"]], [2, 1])
        bench = self.call("GET", "/api/trials?bench=true")["trials"]
        self.assertEqual([(t["number"], t["stage"]) for t in bench], [(1, "burn")])
        self.assertEqual(self.call("GET", f"/api/trials?head={self.heron}")["trials"], [])
        self.assertEqual(len(self.call("GET", "/api/trials?shelf=drafts&text=poplar")["trials"]), 1)
        self.call("PUT", f"/api/trials/{bench[0]['id']}/shelf", 204, json={"name": "Lanterns", "put_away": True})
        (away,) = self.call("GET", "/api/trials?shelf=away")["trials"]
        self.assertEqual((away["name"], away["burning"]), ("Lanterns", False))
        self.call("PUT", f"/api/trials/{bench[0]['id']}/shelf", 204, json={"put_away": False})
        self.call("PUT", f"/api/trials/{bench[0]['id']}/shelf", 400, json={"name": "x" * 90})
        self.assertEqual(len(self.call("GET", f"/api/trials?material={self.poplar}")["trials"]), 2)

    def test_guests_change_nothing(self):
        page = self.new_trial()
        self.become(self.guest.id)
        trial = f"/api/trials/{page['id']}"
        body = {"process": "cut", "material": self.poplar, "head": self.wren}
        self.call("POST", "/api/trials", 403, json=body)
        self.call("PUT", f"{trial}/design", 403, json={"design": page["design"], "edit": 1})
        self.call("POST", f"{trial}/files", 403, json={"edit": 1})
        self.call("POST", f"{trial}/burns", 403, json={"edit": 1})
        # A plan takes its time: for those who may plan.
        self.call("POST", f"{trial}/preview", 403, json={"design": page["design"]})


class BurnTest(ApiCase):
    def test_from_burn_to_book(self):
        page, burn = self.burned_trial()
        reading = f"/api/burns/{burn}/patches/B2/reading"
        stored = self.call("PUT", reading, json={"edit": 0, "values": {"through": 3, "char": 1, "flame": 1}})
        self.assertEqual((stored["edit"], stored["by_name"]), (1, "Moss"))
        self.assertEqual(
            self.call("PUT", reading, 409, json={"edit": 0, "values": {"through": 0}})["current"]["values"]["through"],
            3,
        )
        margins = self.call("GET", f"/api/burns/{burn}/decision")["margins"]
        self.assertEqual(len(margins["B2"]), 4)
        finer = self.call("POST", f"/api/burns/{burn}/finer", 201, json={"failed": "B3", "worked": "B2"})["id"]
        next_page = self.call("GET", f"/api/trials/{finer}")
        self.assertIn("Between B3 of T-001", next_page["reason"])
        self.assertEqual((next_page["against"]["number"], len(next_page["plate"]["patches"])), (1, 7))
        self.assertTrue(any(words.startswith("power: varied") for words in next_page["against"]["changes"]))
        self.call("POST", f"/api/burns/{burn}/finer", 400, json={"failed": "Q9", "worked": "B2"})
        body = {"burn": burn, "patch": "B2", "note": "ok"}
        self.call("POST", "/api/recipes", 403, json={**body, "standing": "proven"})
        recipe = self.call("POST", "/api/recipes", 201, json=body)["id"]
        card = self.call("GET", f"/api/recipes/{recipe}")
        burned = next(patch for patch in page["burned"]["patches"] if patch["id"] == "B2")
        self.assertEqual(card["steps"][0]["settings"], burned["settings"])
        answer = self.call("GET", f"/api/ask?process=cut&material={self.poplar}&head={self.wren}")
        self.assertEqual([one["id"] for one in answer["recipes"]], [recipe])
        self.become(self.technician.id)
        proven = self.call("PUT", f"/api/recipes/{recipe}", json={"edit": 1, "standing": "proven"})
        self.assertEqual((proven["standing"], len(proven["history"])), ("proven", 2))
        self.call("PUT", f"/api/recipes/{recipe}", 409, json={"edit": 1, "note": "late"})
        self.call("PUT", f"/api/recipes/{recipe}", 400, json={"edit": 2})
        self.assertEqual(len(self.call("GET", "/api/recipes?text=poplar")["recipes"]), 1)

    def test_not_burned(self):
        page, burn = self.burned_trial()
        url = f"/api/burns/{burn}/patches/A1/not-burned"
        self.call("PUT", url, 204, json={"not_burned": True})
        self.assertEqual(self.call("GET", f"/api/trials/{page['id']}")["not_burned"], ["A1"])
        self.call("PUT", f"/api/burns/{burn}/patches/Q9/not-burned", 400, json={"not_burned": True})

    def test_the_reference_card_reads_as_one(self):
        """The drawing that is printed: an independent renderer's greys are its steps, and its code is seen."""
        svg = self.call("GET", "/api/reference-card").data
        done = subprocess.run(["rsvg-convert", "--width", "1900"], input=svg, capture_output=True, check=True)
        picture = read_photo(done.stdout)
        code = next(code for code in picture.codes if code.text == CARD_TEXT)
        card = read_card(picture.rgb, code.corners)
        self.assertIsNotNone(card)
        # sRGB greys are written, so nothing is there to be bent.
        middle = card.curve[[60, 120, 180], 1] / PLAIN_CURVE[[60, 120, 180], 1]
        self.assertLess(middle.max() / middle.min(), 1.05)

    def test_photos(self):
        page, burn = self.burned_trial()
        data = io.BytesIO()
        Image.new("RGB", (40, 30), (90, 60, 30)).save(data, "PNG")
        url = f"/api/burns/{burn}/photos/front"
        job = self.call("PUT", url, 202, data=data.getvalue(), content_type="image/png")
        face = job["photo"]
        self.assertEqual(self.call("GET", f"/api/jobs/{job['id']}?wait=true")["photo"], face)
        self.assertEqual(self.call("GET", "/api/jobs")["jobs"][0]["state"], "done")
        photo = self.call("GET", f"/api/photos/{face['sha256']}")
        self.assertEqual((photo.data, photo.content_type), (data.getvalue(), "image/png"))
        self.assertEqual(photo.headers["Cache-Control"], "private, no-cache")
        del face["trial_id"], face["moved"]
        self.assertEqual(self.call("GET", f"/api/trials/{page['id']}")["photos"], [face])
        changed = self.call("PUT", f"/api/plate-photos/{face['id']}", json={"edit": face["edit"], "treatment": "wiped"})
        self.assertEqual(changed["treatment"], "wiped")
        self.call("PUT", f"/api/plate-photos/{face['id']}", 409, json={"edit": face["edit"], "treatment": "burned"})
        self.assertEqual(self.call("GET", f"/api/burns/{burn}/measured"), {"front": [], "back": [], "scores": []})
        self.call("GET", f"/api/plate-photos/{face['id']}/flat", 404)
        upright = self.call("GET", f"/api/plate-photos/{face['id']}/upright")
        self.assertEqual(Image.open(io.BytesIO(upright.data)).size, (40, 30))
        vain = self.call("POST", "/api/photos", 202, data=data.getvalue(), content_type="image/png")
        self.assertEqual((vain["state"], vain["path"], vain["photo"]), ("failed", "photo", None))
        self.assertIn("No plate's code", vain["sentence"])
        self.call("POST", "/api/photos", 400, data=b"no photo", content_type="image/png")
        self.call("PUT", url, 400, data=b"nonsense", content_type="image/jpeg")
        self.call("PUT", f"/api/burns/{burn}/photos/side", 400, data=b"x", content_type="image/png")
        self.call("GET", f"/api/photos/{'0' * 64}", 404)
        self.call("GET", "/api/photos/..%2F..%2Frezept.sqlite3", 404)

    def test_a_picture_is_asked_after_each_time_and_not_made_again(self):
        """What a browser keeps it shows only while one is signed in."""
        _, burn = self.burned_trial()
        data = io.BytesIO()
        Image.new("RGB", (40, 30)).save(data, "PNG")
        url = f"/api/burns/{burn}/photos/front"
        brought = self.call("PUT", url, 202, data=data.getvalue(), content_type="image/png")["photo"]
        for url in (f"/api/photos/{brought['sha256']}", f"/api/plate-photos/{brought['id']}/upright"):
            first = self.call("GET", url)
            self.assertEqual(first.headers["Cache-Control"], "private, no-cache")
            again = {"If-None-Match": first.headers["ETag"]}
            self.assertEqual(self.client.get(url, headers=again).status_code, 304)
            self.assertEqual(self.app.test_client().get(url, headers=again).status_code, 401)
        untouched = f"/api/photos/{brought['sha256']}?untouched=true"
        self.call("GET", untouched, 403)
        self.become(self.keeper.id)
        self.assertEqual(self.call("GET", untouched).data, data.getvalue())

    def test_paths_never_tell_what_lies_outside(self):
        """What is there and what is not are answered alike, however the way out is written."""
        for way in ("..%2f", "%2e%2e%2f", "..%5c", "..%2f..%2f", "....//", "%2f"):
            for before in ("/", "/assets/", "/book/", "/api/photos/"):
                for there, nothing in (
                    ("app.py", "nothing.py"),
                    ("routes%2fshop.py", "routes%2fnothing.py"),
                    ("etc%2fpasswd", "etc%2fnothing"),
                ):
                    one, other = (self.client.get(f"{before}{way}{name}") for name in (there, nothing))
                    with self.subTest(before=before, way=way, there=there):
                        self.assertEqual((one.status_code, one.content_type), (other.status_code, other.content_type))
                        if one.status_code == 200:
                            self.assertEqual(one.data, other.data)
                        self.assertNotIn(b"import annotations", one.data)
                    one.close()
                    other.close()


class GuardTest(ApiCase):
    def test_foreign_hosts_and_origins(self):
        self.call("GET", "/api/shop", 403, headers={"Host": "evil.example"})
        self.call("GET", "/api/shop", 403, headers={"Host": "127.0.0.1.evil.example:80"})
        self.call("GET", "/api/door", headers={"Host": "127.0.0.1:8137"})
        self.become(self.keeper.id)
        body = {"name": "Ann", "role": "guest"}
        for origin in ("http://evil.example", "http://localhost:1", "null"):
            self.call("POST", "/api/members", 403, json=body, headers={"Origin": origin})
        self.call("POST", "/api/members", 201, json=body, headers={"Origin": "http://localhost"})

    def test_only_strict_json(self):
        for data, content_type, status in [
            (b"{", "application/json", 400),
            (b'{"member": 1, "member": 2}', "application/json", 400),
            (b"member=1", "application/x-www-form-urlencoded", 415),
            (b'{"member": 1}', "text/plain", 415),
            (b"[]", "application/json", 400),
            (b'{"member": "one"}', "application/json", 400),
            (b'{"member": 1, "colour": 2}', "application/json", 400),
            (b"", "application/json", 400),
            (b"[" * 100_000, "application/json", 400),
        ]:
            with self.subTest(data[:30]):
                self.call("PUT", "/api/me", status, data=data, content_type=content_type)

    def test_nothing_there(self):
        for url in ("/api/nothing", "/api/trials/999", "/api/recipes/999", "/api/burns/999/decision"):
            self.call("GET", url, 404)
        self.call("DELETE", "/api/shop", 405)
        self.call("GET", "/api/ask?process=melt&material=1&head=1", 400)
        self.call("GET", "/api/ask?process=cut", 400)
        self.call("GET", f"/api/trials/{2**70}", 400)

    def test_too_large(self):
        _, burn = self.burned_trial()
        response = self.client.put(
            f"/api/burns/{burn}/photos/front", data=b"x" * (41 * 2**20), content_type="image/png"
        )
        self.assertEqual(response.status_code, 413)

    def test_headers(self):
        response = self.client.get("/api/shop")
        self.assertEqual(response.headers["X-Content-Type-Options"], "nosniff")
        self.assertIn("default-src 'self'", response.headers["Content-Security-Policy"])
        self.assertEqual(response.headers["Cache-Control"], "no-store")

    def test_an_unexpected_failure_tells_no_secrets(self):
        from unittest import mock

        with (
            mock.patch("rezept.server.routes.shop.inventory", side_effect=RuntimeError("secret path /root")),
            self.assertLogs("rezept.server.problems", "ERROR"),
        ):
            problem = self.call("GET", "/api/shop", 500)
        self.assertNotIn("secret", json.dumps(problem))


if __name__ == "__main__":
    unittest.main()
