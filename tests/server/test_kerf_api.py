"""The kerf of a recipe over HTTP: found by slots and a tab, kept, changed, and put back."""

import unittest

from tests.server.api_case import ApiCase


class KerfTest(ApiCase):
    def setUp(self):
        super().setUp()
        page, burn = self.burned_trial()
        self.page_id, self.burn = page["id"], burn
        body = {"edit": 0, "values": {"through": 3}}
        self.call("PUT", f"/api/burns/{burn}/patches/C3/reading", json=body)
        keep = {"burn": burn, "patch": "C3", "standing": "tried"}
        self.recipe = self.call("POST", "/api/recipes", 201, json=keep)["id"]

    def test_found_by_the_slot_that_fits(self):
        self.assertIsNone(self.call("GET", f"/api/recipes/{self.recipe}")["kerf_mm"])
        trial = self.call("POST", f"/api/recipes/{self.recipe}/kerf", 201, json={})["id"]
        page = self.call("GET", f"/api/trials/{trial}")
        recipe = self.call("GET", f"/api/recipes/{self.recipe}")
        self.assertEqual(page["plate"]["patches"][0]["settings"], recipe["steps"][0]["settings"])
        self.assertEqual(page["plate"]["trial"]["patch"]["slots"]["tab_mm"], 5)
        self.assertEqual(page["kerf_of"], {"recipe_id": self.recipe, "edit": recipe["edit"], "kerf_mm": None})
        burn = self.call("POST", f"/api/trials/{trial}/burns", 201, json={"edit": page["edit"]})["id"]
        body = {"edit": 0, "values": {"through": 3, "fit_slot": "5"}}
        said = self.call("PUT", f"/api/burns/{burn}/patches/A1/reading", json=body)["values"]
        # The fifth of 4.2, 4.3 ... 4.9 beside a tab of 5.
        self.assertEqual((said["fit_slot"], said["kerf_mm"]), (5, 0.2))
        beyond = {"edit": 1, "values": {"through": 3, "fit_slot": 9}}
        self.assertIn(
            "slots 1 to 8", self.call("PUT", f"/api/burns/{burn}/patches/A1/reading", 400, json=beyond)["detail"]
        )
        change = {"edit": recipe["edit"], "kerf_mm": "0.2 mm"}
        self.assertEqual(self.call("PUT", f"/api/recipes/{self.recipe}", json=change)["kerf_mm"], 0.2)
        restored = {"edit": recipe["edit"] + 1, "version": recipe["edit"]}
        self.assertIsNone(self.call("POST", f"/api/recipes/{self.recipe}/restore", json=restored)["kerf_mm"])

    def test_what_was_measured_is_kept_with_the_recipe(self):
        body = {"edit": 0, "values": {"through": 3, "kerf_mm": 0.17}}
        self.call("PUT", f"/api/burns/{self.burn}/patches/B2/reading", json=body)
        keep = {"burn": self.burn, "patch": "B2", "standing": "tried"}
        recipe = self.call("POST", "/api/recipes", 201, json=keep)["id"]
        self.assertEqual(self.call("GET", f"/api/recipes/{recipe}")["kerf_mm"], 0.17)

    def test_what_has_no_kerf_says_so(self):
        for wrong in (0, -1, 50):
            self.call("PUT", f"/api/recipes/{self.recipe}", 400, json={"edit": 1, "kerf_mm": wrong})
        _, burn = self.burned_trial("area")
        self.call("PUT", f"/api/burns/{burn}/patches/A1/reading", json={"edit": 0, "values": {"darkness": 3}})
        keep = {"burn": burn, "patch": "A1", "standing": "tried"}
        mark = self.call("POST", "/api/recipes", 201, json=keep)["id"]
        self.assertIn("a kerf to find", self.call("POST", f"/api/recipes/{mark}/kerf", 422, json={})["detail"])

    def test_typed_slots_are_read_in_the_persons_own_units(self):
        page = self.new_trial()
        slots = {"tab_mm": "0.2 in", "widths_mm": "4.7, 4.8 mm, 0.19 in"}
        design = {**page["design"], "patch": {"shape": "slots", "width_mm": 10, "gap_mm": 3, "slots": slots}}
        changed = self.call("PUT", f"/api/trials/{page['id']}/design", json={"edit": page["edit"], "design": design})
        kept = changed["plate"]["trial"]["patch"]["slots"]
        self.assertEqual(kept, {"tab_mm": 5.08, "widths_mm": [4.7, 4.8, 4.826]})


if __name__ == "__main__":
    unittest.main()
