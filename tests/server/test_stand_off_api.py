"""One recipe on three pieces of three heights: how the head is set for each, and what an uneven top costs."""

import unittest

from tests.server.api_case import ApiCase


class StandOffTest(ApiCase):
    def setUp(self):
        super().setUp()
        self.become(self.technician.id)

    def head(self, **facts):
        shop = self.call("GET", "/api/shop")
        head = next(one for one in shop["heads"] if one["id"] == self.wren)
        body = {"edit": head["edit"], "facts": {**head["facts"], "assumed": head["assumed"], **facts}}
        return self.call("PUT", f"/api/heads/{self.wren}", json=body)

    def piece(self, name, **facts):
        body = {"facts": {"material_id": self.poplar, "name": name, "shape": "rectangle", "width_mm": 200, **facts}}
        return self.call("POST", "/api/pieces", 201, json=body)["id"]

    def recipe(self, offset):
        settings = {"speed_mm_s": "20", "power_pct": "60", "focus_offset_mm": offset}
        body = {"process": "cut", "material": self.poplar, "head": self.wren, "settings": settings}
        return self.call("POST", "/api/recipes/written-down", 201, json=body)["id"]

    def test_three_pieces_show_three_instructions(self):
        self.head(height_by="scale", datum_mm="228 mm")
        for name, rise in (("a", "1.5"), ("b", "0.8 mm"), ("c", "12")):
            self.piece(name, rise_mm=rise)
        said = self.call("GET", f"/api/recipes/{self.recipe(2)}")["stand_off"]
        self.assertEqual({one["name"]: one["set_mm"] for one in said}, {"a": 231.5, "b": 230.8, "c": 242})
        self.assertIn("the focus lies 2 mm above its surface", said[0]["words"])
        # In the form the head is set.
        self.head(height_by="spacer", datum_mm=6)
        words = {one["words"] for one in self.call("GET", f"/api/recipes/{self.recipe(-1)}")["stand_off"]}
        self.assertEqual(len(words), 1)
        self.assertIn("spacer of 6 mm just fits on the piece, take it out and lower the head by 1 mm", words.pop())

    def test_a_plate_says_it_on_its_checklist_and_what_an_uneven_top_costs(self):
        self.head(height_by="entered")
        piece = self.piece("bowl", rise_mm=20, top="round", top_varies_mm="3")
        page = self.new_trial()
        words = next(one["sentence"] for one in page["checklist"] if one["key"] == "stand_off")
        # No piece yet: a sheet that lies flat.
        self.assertIn("Enter 4 mm", words)
        self.assertIn("taken from its thickness", words)
        design = {**page["design"], "piece_id": piece}
        page = self.call("PUT", f"/api/trials/{page['id']}/design", json={"edit": page["edit"], "design": design})
        self.assertEqual(page["stand_off"]["set_mm"], 20)
        self.assertIn("its ends are 1.5 mm out of focus", page["stand_off"]["cost"])
        self.assertEqual(page["plate"]["trial"]["piece"]["rise_mm"], 20)

    def test_what_nobody_said_is_not_made_up(self):
        page = self.new_trial()
        self.assertNotIn("stand_off", [one["key"] for one in page["checklist"]])
        self.assertIn("say it in the Shop", page["stand_off"]["words"])
        wrong = {"material_id": self.poplar, "name": "x", "shape": "rectangle", "width_mm": 9}
        for key, value in (("rise_mm", -1), ("top", "bumpy"), ("rise_mm", "high")):
            said = self.call("POST", "/api/pieces", 400, json={"facts": {**wrong, key: value}})
            self.assertEqual(said["errors"][0]["path"], key)
        head = self.call("GET", "/api/shop")["heads"][0]
        for facts in ({"height_by": "guess"}, {"datum_mm": 9e9}):
            body = {"edit": head["edit"], "facts": {**head["facts"], **facts}}
            self.call("PUT", f"/api/heads/{head['id']}", 400, json=body)


if __name__ == "__main__":
    unittest.main()
