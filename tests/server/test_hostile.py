"""Hostile requests: whatever comes, a sentence and never a failure of the server."""

import json
import random
import tempfile
import unittest
from collections import Counter
from pathlib import Path
from unittest import mock

from rezept.actions.open_shop import open_shop
from rezept.server import create_app
from tests.demo_copy import copy_demo
from tests.hostile import Request, mutated, requests

# `make bench-long` sends five thousand; with those made of good ones this takes half a minute.
COUNT, MUTATED = 2500, 1000
KEEPER_AGAIN = 20
# An answer to nonsense is a sentence, not the nonsense back.
LONGEST_DETAIL = 1200


def good_requests(client):
    """Requests that are taken as they are, of every kind of document the shop keeps."""

    def get(url):
        return client.get(url).json

    shop = get("/api/shop")
    page = get("/api/trials/1")
    machine, material = shop["machines"][0], shop["materials"][0]
    bare = ("id", "edit", "retired", "title", "by_name", "at")
    facts = {key: value for key, value in material.items() if key not in bare}
    burned = next(t for t in get("/api/trials?most=50")["trials"] if t["burned_at"])
    burn = get(f"/api/trials/{burned['id']}")["burn"]["id"]
    yield "POST", "/api/trials/1/preview", {"design": page["design"], "units": {}}
    yield "POST", "/api/trials/1/preview", {"design": page["design"], "units": {}}
    yield (
        "POST",
        "/api/lots",
        {"facts": {"material_id": 1, "name": "pallet", "measured_mm": 3.9, "note": "", "supplier_code": ""}},
    )
    yield "POST", "/api/materials", {"facts": {**facts, "name": "Sheet"}}
    yield (
        "POST",
        "/api/machines",
        {"facts": {**machine["facts"], "name": "Crane"}, "heads": [{"name": "lens", "spot_mm": 0.2}]},
    )
    yield (
        "POST",
        "/api/pieces",
        {"facts": {"material_id": 1, "name": "offcut", "shape": "rectangle", "width_mm": 100, "height_mm": 60}},
    )
    yield "POST", f"/api/burns/{burn}/remarks", {"kind": "note", "patch": None, "note": "it moved"}
    yield (
        "PUT",
        f"/api/burns/{burn}",
        {"lot": "pallet", "measured_mm": 3.9, "focus": "gauge", "air": "", "note": "", "cleaning": "", "hold_down": ""},
    )
    yield "POST", "/api/members", {"name": "Robin", "role": "guest", "secret": "oak barrel"}
    yield "PUT", "/api/shop/address", {"address": "https://shop.example"}
    yield (
        "POST",
        "/api/arrays/file",
        {
            "document": {
                "format": "rezept-array",
                "version": 1,
                "name": "a",
                "process": "cut",
                "axes": page["design"]["axes"],
            }
        },
    )
    yield "PUT", "/api/map/not-working", {"process": "cut", "material": 1, "head": 1, "reason": "it only chars"}


class HostileTest(unittest.TestCase):
    def ask(self, client, request, failed):
        answer = client.open(request.url, method=request.method, headers=request.headers, data=request.body)
        said = (request.method, request.url[:120], (request.body or b"")[:300])
        with self.subTest(request=said):
            self.assertLess(answer.status_code, 500, failed[-1:] or answer.data[:200])
            if answer.status_code >= 400 and request.method != "HEAD":
                problem = json.loads(answer.data)
                self.assertLess(len(problem["detail"]), LONGEST_DETAIL)
                self.assertTrue(all(len(one["path"]) < 300 for one in problem["errors"]))
        answer.close()
        return answer.status_code

    def test_no_request_makes_the_server_fail(self):
        with tempfile.TemporaryDirectory() as folder:
            copy_demo(Path(folder) / "shop")
            shop = open_shop(Path(folder) / "shop")
            self.addCleanup(shop.close)
            app = create_app(shop)
            client = app.test_client()
            keeper = client.get("/api/me").json["id"]
            seen, failed = Counter(), []
            with mock.patch(
                "rezept.server.problems.log.error", side_effect=lambda *_, exc_info: failed.append(exc_info)
            ):
                for number, request in enumerate(requests(20261127, COUNT - MUTATED)):
                    if number % KEEPER_AGAIN == 0:
                        # One of them may have made whoever asks a guest, who may do next to nothing.
                        client.put("/api/me", json={"member": keeper})
                    seen[self.ask(client, request, failed)] += 1
                good = list(good_requests(client))
                chance = random.Random(20261127)
                for number in range(MUTATED):
                    method, url, document = good[number % len(good)]
                    body = json.dumps(mutated(chance, document)).encode()
                    request = Request(method, url, {"Content-Type": "application/json"}, body)
                    seen[self.ask(client, request, failed)] += 1
            self.assertEqual(failed, [])
            # It got past the door often enough to mean something.
            self.assertGreater(seen[200] + seen[201] + seen[202] + seen[204], COUNT // 20, seen)
            self.assertGreater(seen[400], COUNT // 10, seen)
            with shop.database.reading() as db:
                self.assertEqual(db.execute("PRAGMA integrity_check").fetchone()[0], "ok")
                self.assertEqual(db.execute("PRAGMA foreign_key_check").fetchall(), [])


if __name__ == "__main__":
    unittest.main()
