"""The OpenAPI document, and the pages around the API."""

import gzip
import re
import unittest

from rezept.formats.photo_file import LARGEST_BYTES
from rezept.server import pages
from rezept.server.bodies import most_bytes
from tests.server.api_case import SHAPES, ApiCase


class DocumentTest(ApiCase):
    def operations(self):
        for path, verbs in self.app.api_doc["paths"].items():
            for verb, operation in verbs.items():
                yield verb.upper(), path, operation

    def test_every_route_of_the_api_is_documented(self):
        documented = {(verb, re.sub(r"\{\w+\}", "<>", path)) for verb, path, _ in self.operations()}
        for rule in self.app.url_map.iter_rules():
            if rule.rule.startswith("/api/"):
                for verb in rule.methods - {"HEAD", "OPTIONS"}:
                    self.assertIn((verb, re.sub(r"<[^>]+>", "<>", rule.rule)), documented)

    def test_every_answer_with_a_shape_is_held_against_it_in_the_tests(self):
        for verb, path, operation in self.operations():
            answers = [code for code in operation["responses"] if code in ("200", "201")]
            shaped = any("content" in operation["responses"][code] for code in answers)
            if shaped and "files" not in path.split("/")[-2:]:
                example = re.sub(r"\{\w+\}", "1", path)
                known = any(
                    re.fullmatch(v, verb) and (re.fullmatch(p, example) or re.fullmatch(p, example + "?x"))
                    for v, p, _ in SHAPES
                )
                self.assertTrue(known, f"{verb} {path}")

    def test_wherever_a_photo_is_brought_there_is_room_for_one(self):
        brought = 0
        for verb, path, operation in self.operations():
            if "image/jpeg" in operation.get("requestBody", {}).get("content", {}):
                with self.subTest(f"{verb} {path}"):
                    self.assertGreater(most_bytes(re.sub(r"\{\w+\}", "1", path)), LARGEST_BYTES)
                brought += 1
        self.assertGreater(brought, 3)

    def test_every_operation_says_what_it_does(self):
        for verb, path, operation in self.operations():
            self.assertTrue(operation.get("summary"), f"{verb} {path}")


class PagesTest(ApiCase):
    def test_every_place_of_the_app_is_one_page(self):
        if not (pages.STATIC / "index.html").exists():
            self.skipTest("the web app is not built")
        first = self.client.get("/")
        for place in ("/trials/3/plan", "/book/2", "/no/such/place"):
            self.assertEqual(self.client.get(place).data, first.data)
        self.assertEqual(first.headers["Cache-Control"], "no-cache")
        script = re.search(rb'src="(/assets/[^"]+)"', first.data)
        asset = self.client.get(script.group(1).decode())
        self.assertIn("immutable", asset.headers["Cache-Control"])
        asset.close()

    def test_scripts_travel_packed_to_those_who_can_unpack(self):
        if not (pages.STATIC / "index.html").exists():
            self.skipTest("the web app is not built")
        script = next((pages.STATIC / "assets").glob("index-*.js"))
        url = f"/assets/{script.name}"
        packed = self.client.get(url, headers={"Accept-Encoding": "gzip, br"})
        self.assertEqual(packed.headers["Content-Encoding"], "gzip")
        self.assertEqual(gzip.decompress(packed.data), script.read_bytes())
        plain = self.client.get(url)
        self.assertNotIn("Content-Encoding", plain.headers)
        self.assertEqual(plain.data, script.read_bytes())
        for answer in (packed, plain):
            self.assertIn("immutable", answer.headers["Cache-Control"])
            self.assertEqual(answer.headers["Vary"], "Accept-Encoding")
        for name in ("../index.html", "..%2f..%2fapp.py", "none.js"):
            self.assertEqual(self.client.get(f"/assets/{name}", headers={"Accept-Encoding": "gzip"}).status_code, 404)

    def test_the_page_runs_no_script_but_its_own(self):
        policy = self.client.get("/").headers["Content-Security-Policy"]
        self.assertNotIn("unsafe-eval", policy)
        self.assertNotIn("script-src", policy)
        self.assertIn("default-src 'self'", policy)
        self.assertNotIn(b"<script>", self.client.get("/").data)

    def test_nothing_outside_the_app_can_be_fetched(self):
        for path in ("/assets/../app.py", "/assets/%2e%2e/%2e%2e/app.py", "/../app.py", "/assets/missing.js"):
            response = self.client.get(path)
            self.assertNotIn(b"create_app", response.data)
            response.close()


if __name__ == "__main__":
    unittest.main()
