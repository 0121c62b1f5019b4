"""Proofs on a real shape, over HTTP: begun, read, and what follows."""

import unittest

from tests.server.api_case import ApiCase


class ProofTest(ApiCase):
    def setUp(self):
        super().setUp()
        self.before, self.burn = self.burned_trial()
        self.score(self.burn, "C3", through=3)
        self.score(self.burn, "A1", through=3)
        self.score(self.burn, "E5", through=0)

    def score(self, burn, patch, **values):
        page = self.call("GET", f"/api/burns/{burn}")
        edit = next((one["edit"] for one in page["readings"] if one["patch"] == patch and one["face"] == "back"), 0)
        body = {"edit": edit, "values": values}
        self.call("PUT", f"/api/burns/{burn}/patches/{patch}/reading", json=body)

    def burned(self, trial):
        page = self.call("GET", f"/api/trials/{trial}")
        return self.call("POST", f"/api/trials/{trial}/burns", 201, json={"edit": page["edit"]})["id"]

    def proof(self, **body):
        return self.call("POST", f"/api/burns/{self.burn}/proof", 201, json=body)["id"]

    def page(self, trial):
        return self.call("GET", f"/api/trials/{trial}")

    def patch_settings(self, patch):
        return next(one for one in self.page(self.before["id"])["burned"]["patches"] if one["id"] == patch)["settings"]

    def test_a_plate_of_one_real_shape_with_the_very_settings(self):
        page = self.page(self.proof(patch="C3"))
        (patch,) = page["plate"]["patches"]
        self.assertEqual(patch["settings"], self.patch_settings("C3"))
        self.assertEqual(page["plate"]["trial"]["patch"]["shape"], "proof")
        self.assertIn("Ribs of", page["proof"]["fineness"])
        self.assertEqual(page["proof"]["of"]["burn_id"], self.burn)
        # What it was begun from says that it is waiting.
        (waiting,) = self.page(self.before["id"])["proofs"]
        self.assertEqual((waiting["trial_id"], waiting["results"]), (page["id"], []))

    def test_it_is_as_large_as_a_piece_on_the_shelf_has_room_for(self):
        """A scrap of 34 x 27 mm within its margins takes a smaller one, with what edges a plate."""
        scrap = {"material_id": self.poplar, "name": "scrap", "shape": "rectangle", "width_mm": 38, "height_mm": 31}
        self.call("POST", "/api/pieces", 201, json={"facts": {**scrap, "margin_mm": 2}})
        page = self.page(self.proof(patch="C3"))
        patch = page["plate"]["trial"]["patch"]
        self.assertLess(patch["width_mm"], 34)
        self.assertAlmostEqual(patch["width_mm"] / patch["height_mm"], 4 / 3)
        self.assertLessEqual(page["plate"]["plate"]["width_mm"], 34)
        # What is fine on it is as much smaller.
        self.assertIn(f"Ribs of {0.5 * patch['width_mm'] / 40:.2g} to", page["proof"]["fineness"])

    def test_what_burned_on_it_proposes_more_and_faster_passes_of_the_same_dose(self):
        trial = self.proof(patch="C3")
        burn = self.burned(trial)
        self.score(burn, "A1", through=3, gave_way=1, finest_mm="0.8 mm", picked_out="3")
        page = self.page(trial)
        self.assertEqual(page["proof"]["results"][0]["words"], "It burned: a rib gave way first.")
        before = self.patch_settings("C3")
        more = page["proof"]["more"]["A1"]
        self.assertTrue(more)
        for one in more:
            self.assertAlmostEqual(one["passes"] / one["speed_mm_s"], before["passes"] / before["speed_mm_s"])
        array = self.page(self.call("POST", f"/api/burns/{burn}/more-passes", 201, json={"patch": "A1"})["id"])
        got = [(one["settings"]["passes"], one["settings"]["speed_mm_s"]) for one in array["plate"]["patches"]]
        self.assertEqual(got, [(one["passes"], one["speed_mm_s"]) for one in more])
        self.assertEqual({one["settings"]["power_pct"] for one in array["plate"]["patches"]}, {before["power_pct"]})
        self.assertEqual(array["plate"]["trial"]["patch"]["shape"], "proof")
        # Both proofs stand where they were begun from.
        results = self.page(self.before["id"])["proofs"]
        self.assertEqual([one["trial_id"] for one in results], [trial, array["id"]])
        self.assertEqual([one["result"] for one in results[0]["results"]], ["burned"])

    def test_coupons_and_real_shapes_say_nothing_of_each_other(self):
        trial = self.proof(patch="C3")
        burn = self.burned(trial)
        self.score(burn, "A1", through=0)
        plates = self.call("GET", f"/api/burns/{self.burn}/finding")["plates"]
        self.assertEqual(len(plates), 1)
        alone = self.call("GET", f"/api/burns/{burn}/finding")["plates"]
        self.assertNotEqual(alone, plates)

    def candidate(self):
        for row in "ABCDE":
            for column in range(1, 6):
                values = {"through": 3 if row < "D" and column < 4 else 0}
                self.score(self.burn, f"{row}{column}", **values)
        finding = self.call("GET", f"/api/burns/{self.burn}/finding")
        return finding["candidates"][0]

    def test_what_burned_is_kept_for_simple_shapes_only(self):
        chosen = self.candidate()
        trial = self.proof(aim=chosen["aim"])
        page = self.page(trial)
        self.assertEqual(page["plate"]["patches"][0]["settings"]["speed_mm_s"], chosen["settings"]["speed_mm_s"])
        burn = self.burned(trial)
        self.score(burn, "A1", through=3, flame=1)
        body = {"aim": chosen["aim"], "wish": {}}
        kept = self.call("POST", f"/api/burns/{self.burn}/candidates", 201, json=body)["id"]
        recipe = self.call("GET", f"/api/recipes/{kept}")
        self.assertEqual((recipe["good_enough"], recipe["standing"]), ("simple shapes only", "estimate"))

    def test_what_held_makes_the_estimate_tried(self):
        chosen = self.candidate()
        kept = self.call("POST", f"/api/burns/{self.burn}/candidates", 201, json={"aim": chosen["aim"], "wish": {}})[
            "id"
        ]
        trial = self.call("POST", f"/api/recipes/{kept}/proof", 201, json={})["id"]
        self.assertEqual(self.page(trial)["proof"]["recipe_id"], kept)
        burn = self.burned(trial)
        # It came out, and burned all the same: no evidence for the recipe.
        self.score(burn, "A1", through=3, gave_way=2)
        self.assertEqual(self.call("GET", f"/api/recipes/{kept}")["standing"], "estimate")
        self.score(burn, "A1", through=3, gave_way=0)
        recipe = self.call("GET", f"/api/recipes/{kept}")
        self.assertEqual((recipe["standing"], recipe["good_enough"]), ("tried", ""))

    def test_a_choice_that_held_on_a_real_shape_is_kept_as_tried(self):
        """Proven first and kept then: it has held already, and its proof is what it rests on."""
        chosen = self.candidate()
        trial = self.proof(aim=chosen["aim"])
        burn = self.burned(trial)
        self.score(burn, "A1", through=3)
        finding = self.call("GET", f"/api/burns/{self.burn}/finding")
        shapes = {one["aim"]: one["shapes"] for one in finding["candidates"]}
        number = self.page(trial)["number"]
        self.assertEqual(
            shapes.pop(chosen["aim"]), [{"trial_id": trial, "number": number, "words": "It held.", "result": "held"}]
        )
        same = [one["aim"] for one in finding["candidates"] if one["settings"] == chosen["settings"]]
        self.assertEqual({aim for aim, said in shapes.items() if said}, set(same) - {chosen["aim"]})
        kept = self.call("POST", f"/api/burns/{self.burn}/candidates", 201, json={"aim": chosen["aim"], "wish": {}})
        self.assertEqual(kept["standing"], "tried")
        # Though it rests on a patch of another plate now, it is in the book once.
        again = self.call("POST", f"/api/burns/{self.burn}/candidates", 422, json={"aim": chosen["aim"], "wish": {}})
        self.assertIn("in the book already", again["detail"])
        recipe = self.call("GET", f"/api/recipes/{kept['id']}")
        self.assertEqual((recipe["standing"], recipe["good_enough"]), ("tried", ""))
        self.assertEqual((recipe["burn_id"], recipe["patch"]), (burn, "A1"))

    def test_a_real_shape_that_burned_is_kept_with_its_limit(self):
        burn = self.burned(self.proof(patch="C3"))
        self.score(burn, "A1", through=3, gave_way=4)
        body = {"burn": burn, "patch": "A1", "standing": "tried"}
        kept = self.call("POST", "/api/recipes", 201, json=body)["id"]
        self.assertEqual(self.call("GET", f"/api/recipes/{kept}")["good_enough"], "simple shapes only")

    def test_what_cannot_be_proven_says_why(self):
        said = self.call("POST", f"/api/burns/{self.burn}/proof", 400, json={})
        self.assertIn("either the aim or the patch", said["detail"])
        self.call("POST", f"/api/burns/{self.burn}/proof", 400, json={"patch": "Z9"})
        self.call("POST", "/api/burns/999/proof", 404, json={"patch": "A1"})
        self.become(self.guest.id)
        self.call("POST", f"/api/burns/{self.burn}/proof", 403, json={"patch": "A1"})


if __name__ == "__main__":
    unittest.main()
