"""What plates mean, over HTTP: candidates, the next array, kept findings, and the chance of a recipe."""

import json
import unittest

import numpy as np

from rezept.core.findings.decision import decide
from rezept.core.findings.from_readings import read_readings
from tests.core.findings.test_decision import AXES, margin
from tests.formats.test_files import validator
from tests.server.test_book_api import BookCase


class FindingCase(BookCase):
    def scored_trial(self, seed=1, **hold):
        """A trial of 25 cuts, burned, and scored by a law of equal dose."""
        trial = self.call("POST", "/api/trials", 201, json={
            "process": "cut", "material": self.poplar, "head": self.wren})["id"]  # fmt: skip
        page = self.call("GET", f"/api/trials/{trial}")
        design = {**page["design"], "axes": AXES, "off": [], "dose_ceiling_j_mm": None}
        design["hold"] = {key: value for key, value in design["hold"].items() if key not in ("speed_mm_s", "power_pct")}
        design["hold"] |= hold
        page = self.call("PUT", f"/api/trials/{trial}/design", json={"edit": page["edit"], "design": design})
        burn = self.call("POST", f"/api/trials/{trial}/burns", 201, json={"edit": page["edit"]})["id"]
        patches = self.call("GET", f"/api/trials/{trial}")["burned"]["patches"]
        chance = np.random.default_rng(seed)
        settings = {key: np.array([one["settings"][key] for one in patches]) for key in ("power_pct", "speed_mm_s")}
        got = margin(settings) + 0.04 * chance.standard_normal(len(patches))
        through = (got > -0.25).astype(int) + (got > -0.1) + (got > 0)
        for patch, value in zip(patches, through.tolist(), strict=True):
            self.call("PUT", f"/api/burns/{burn}/patches/{patch['id']}/reading",
                      json={"edit": 0, "values": {"through": value}})  # fmt: skip
        return trial, burn


class FindingTest(FindingCase):
    def test_candidates_map_and_what_it_costs(self):
        _, burn = self.scored_trial()
        found = self.call("GET", f"/api/burns/{burn}/finding")
        self.assertEqual([one["aim"] for one in found["candidates"]], ["fastest", "gentlest", "forgiving"])
        self.assertIn("% faster needs", found["trade"])
        [drawn] = found["maps"]
        expected = np.array(drawn["expected"])
        # Slow and strong is below left to above right: rows from weak to strong, columns from slow to fast.
        self.assertGreater(expected[-1, 0], 0.99)
        self.assertLess(expected[0, -1], 0.01)
        low, high = (np.array(drawn[key]) for key in ("low", "high"))
        self.assertTrue((low <= high + 1e-9).all())

    def test_a_slice_where_other_plates_vary_more(self):
        """A plate in one pass and one in two: the map of either shows its own, and the other where one asks for it."""
        _, once = self.scored_trial()
        _, twice = self.scored_trial(seed=2, passes=2)
        found = self.call("GET", f"/api/burns/{once}/finding")
        self.assertEqual(found["slices"], [{"parameter": "passes", "values": [1.0, 2.0], "at": 1.0}])
        self.assertEqual(found["maps"][0]["held"]["passes"], 1.0)
        other = self.call("GET", f"/api/burns/{once}/finding?slice=passes=2")
        self.assertEqual((other["slices"][0]["at"], other["maps"][0]["held"]["passes"]), (2.0, 2.0))
        np.testing.assert_allclose(other["maps"][0]["dose"], 2 * np.array(found["maps"][0]["dose"]), atol=0.001)
        self.assertEqual(self.call("GET", f"/api/burns/{twice}/finding")["slices"][0]["at"], 2.0)
        # Its pin lies on the slice that has its settings, and on no other.
        passes = other["candidates"][0]["settings"]["passes"]
        pinned = {1.0: found, 2.0: other}
        self.assertIsNotNone(pinned[passes]["candidates"][0]["place_mm"])
        self.assertIsNone(pinned[3.0 - passes]["candidates"][0]["place_mm"])
        for bad in ("passes=two", "wings=2", "passes"):
            self.assertEqual(self.call("GET", f"/api/burns/{once}/finding?slice={bad}", 400)["status"], 400)

    def test_bounds_are_offered_by_what_was_read(self):
        _, burn = self.scored_trial()
        self.assertEqual(self.call("GET", f"/api/burns/{burn}/finding")["can_be_bounded"], [])
        for patch in ("A1", "B2", "C3", "D4"):
            values = {"through": 3, "char": 1, "kerf_mm": 0.21, "back_burn": 1}
            self.call("PUT", f"/api/burns/{burn}/patches/{patch}/reading", json={"edit": 1, "values": values})
        found = self.call("GET", f"/api/burns/{burn}/finding?bounds=kerf_mm=0.3,back_burn=0")
        self.assertEqual(
            [(one["key"], one["label"], one["is_flag"]) for one in found["can_be_bounded"]],
            [
                ("char", "Char at most", False),
                ("back_burn", "No back burn", True),
                ("kerf_mm", "Kerf at most", False),
            ],
        )
        for bad in ("char", "char=much", "wings=1", "char=7"):
            self.assertEqual(self.call("GET", f"/api/burns/{burn}/finding?bounds={bad}", 400)["status"], 400)

    def test_an_engraving_as_deep_as_wanted(self):
        trial = self.call("POST", "/api/trials", 201, json={
            "process": "area", "material": self.poplar, "head": self.wren})["id"]  # fmt: skip
        edit = self.call("GET", f"/api/trials/{trial}")["edit"]
        burn = self.call("POST", f"/api/trials/{trial}/burns", 201, json={"edit": edit})["id"]
        patches = self.call("GET", f"/api/trials/{trial}")["burned"]["patches"]
        doses = [one["settings"]["power_pct"] / one["settings"]["speed_mm_s"] for one in patches]
        for patch, dose in zip(patches, doses, strict=True):
            values = {"darkness": 3, "depth_mm": round(0.2 * dose, 3)}
            self.call("PUT", f"/api/burns/{burn}/patches/{patch['id']}/reading", json={"edit": 0, "values": values})
        wanted = 0.2 * sorted(doses)[len(doses) // 2]
        found = self.call("GET", f"/api/burns/{burn}/finding?depth_mm={wanted:.3f}&depth_off_mm={wanted / 5:.3f}")
        self.assertEqual(found["can_be_wanted"], ["darkness", "depth"])
        first = found["candidates"][0]
        self.assertEqual(first["aim"], "depth")
        self.assertIn("deep on a fresh sheet", first["why"])
        kept = self.call("POST", f"/api/burns/{burn}/candidates", 201, json={
            "aim": "depth", "wish": {"depth_mm": round(wanted, 3)}})["id"]  # fmt: skip
        self.assertEqual(self.call("GET", f"/api/recipes/{kept}")["finding"]["aim"], "depth")
        for wrong in ("depth_mm=0", "colour=brown"):
            self.assertEqual(self.call("GET", f"/api/burns/{burn}/finding?{wrong}", 400)["status"], 400)

    def test_what_one_keeps_to(self):
        _, burn = self.scored_trial()
        found = self.call("GET", f"/api/burns/{burn}/finding?power_at_most_pct=60&piece_mm=2400")
        fastest = found["candidates"][0]
        self.assertLessEqual(fastest["settings"]["power_pct"], 60)
        self.assertAlmostEqual(fastest["seconds"], 2400 / fastest["settings"]["speed_mm_s"], delta=0.1)
        self.assertEqual(self.call("GET", f"/api/burns/{burn}/finding?power_at_most_pct=0", 400)["status"], 400)

    def test_the_next_array_is_a_plan(self):
        _, burn = self.scored_trial()
        trial = self.call("POST", f"/api/burns/{burn}/next", 201, json={})["id"]
        page = self.call("GET", f"/api/trials/{trial}")
        self.assertLessEqual(len(page["plate"]["patches"]), 16)
        self.assertIn("sheet", page["reason"])

    def test_a_kept_candidate_is_an_estimate_that_rests_on_the_plates(self):
        trial, burn = self.scored_trial()
        chosen = self.call("GET", f"/api/burns/{burn}/finding")["candidates"][0]
        recipe = self.call("POST", f"/api/burns/{burn}/candidates", 201, json={"aim": "fastest", "wish": {}})["id"]
        page = self.call("GET", f"/api/recipes/{recipe}")
        self.assertEqual((page["standing"], page["patch"], page["steps"][0]["settings"]),
                         ("estimate", None, chosen["settings"]))  # fmt: skip
        self.assertEqual([(one["trial"], one["burn"]) for one in page["finding"]["plates"]], [(trial, burn)])
        self.assertAlmostEqual(page["chance"]["value"], chosen["predicted"]["p_drops_out"], delta=0.01)
        # Twice the same is said; so is a burn that something rests on, which stays as it is.
        self.assertIn("in the book already", self.call(
            "POST", f"/api/burns/{burn}/candidates", 422, json={"aim": "fastest", "wish": {}})["detail"])  # fmt: skip
        self.call("DELETE", f"/api/burns/{burn}", 422)

    def test_each_tap_moves_the_chance(self):
        """Held on fresh sheets it grows, not through it falls; a flame says nothing of the dose."""
        _, burn = self.scored_trial()
        recipe = self.call("POST", f"/api/burns/{burn}/candidates", 201, json={"aim": "fastest", "wish": {}})["id"]
        url = f"/api/recipes/{recipe}/confirmations"

        def chance():
            return self.call("GET", f"/api/recipes/{recipe}")["chance"]

        first = chance()
        asked = self.call("GET", f"/api/ask?process=cut&material={self.poplar}&head={self.wren}")
        self.assertEqual(asked["chances"], {str(recipe): first})
        self.call("POST", url, 201, json={"held": True})
        held = chance()
        self.assertGreater(held["value"], first["value"])
        self.assertEqual((held["taps"], self.call("GET", f"/api/recipes/{recipe}")["standing"]), (1, "tried"))
        self.call("POST", url, 201, json={"held": False, "reason": "flame"})
        self.assertEqual(chance(), held)
        self.call("POST", url, 201, json={"held": False, "reason": "not_through"})
        self.assertLess(chance()["value"], held["value"] - 0.02)

    def test_the_plate_as_a_file_decides_the_same(self):
        _, burn = self.scored_trial()
        file = self.client.get(f"/api/burns/{burn}/readings-file").get_json()
        validator("readings").validate(file)
        read = read_readings(file, 1)
        decision = decide(read.seen, read.plate.trial.machine, aims=("fastest",))
        found = self.call("GET", f"/api/burns/{burn}/finding")["candidates"][0]
        self.assertEqual(dict(decision.candidates[0].settings), found["settings"])

    def test_nothing_read_yet(self):
        _, burn = self.burned_trial()
        found = self.call("GET", f"/api/burns/{burn}/finding")
        self.assertEqual((found["candidates"], found["maps"], found["next"]), ([], [], None))
        self.assertIn("score the plate first", found["questions"][0])
        self.call("POST", f"/api/burns/{burn}/next", 422, json={})
        self.call("POST", f"/api/burns/{burn}/candidates", 422, json={"aim": "fastest", "wish": {}})

    def test_what_is_kept_can_be_explained(self):
        """The record holds plates, model, parameters and author."""
        _, burn = self.scored_trial()
        self.call("POST", f"/api/burns/{burn}/candidates", 201, json={"aim": "gentlest", "wish": {"piece_mm": 500}})
        with self.shop.database.reading() as db:
            [row] = db.execute("SELECT * FROM finding").fetchall()
            plates = [one["burn_id"] for one in db.execute("SELECT burn_id FROM finding_burn")]
        self.assertEqual((row["aim"], json.loads(row["wish"]), plates), ("gentlest", {"piece_mm": 500}, [burn]))
        self.assertEqual(json.loads(row["model"])["patches"], 25)


if __name__ == "__main__":
    unittest.main()
