"""Depth read of a burned plate: what a pass takes, passes and time to a wanted depth, in Decide."""

import unittest

from tests.server.api_case import ApiCase


class DepthTest(ApiCase):
    def setUp(self):
        super().setUp()
        # A sheet that is meant for it.
        facts = {"name": "Linoleum", "thickness_mm": 3, "family": "rubber", "processes": ["deep", "area"]}
        self.become(self.technician.id)
        sheet = self.call("POST", "/api/materials", 201, json={"facts": facts})["id"]
        self.become(self.member.id)
        body = {"process": "deep", "material": sheet, "head": self.wren}
        self.trial = self.call("POST", "/api/trials", 201, json=body)["id"]
        page = self.call("GET", f"/api/trials/{self.trial}")
        design = {
            **page["design"],
            "axes": [{"parameter": "passes", "along": "x", "values": [1, 2, 4, 8]},
                     {"parameter": "power_pct", "along": "y", "values": [30, 60]}],
            "hold": {"speed_mm_s": 200, "line_spacing_mm": 0.1},
        }  # fmt: skip
        design = {key: value for key, value in design.items() if not key.startswith("starting_")}
        page = self.call("PUT", f"/api/trials/{page['id']}/design", json={"edit": page["edit"], "design": design})
        self.burn = self.call("POST", f"/api/trials/{page['id']}/burns", 201, json={"edit": page["edit"]})["id"]

    def read(self, patch, **values):
        body = {"edit": 0, "values": values}
        return self.call("PUT", f"/api/burns/{self.burn}/patches/{patch}/reading", json=body)["values"]

    def finding(self, **query):
        said = "&".join(f"{key}={value}" for key, value in query.items())
        return self.call("GET", f"/api/burns/{self.burn}/finding?{said}")

    def test_a_few_depths_tell_how_it_goes_on(self):
        self.assertEqual(self.read("B1", darkness=3, depth_mm="100 um")["depth_mm"], 0.1)
        self.read("B2", darkness=4, depth_mm="0.19 mm")
        before = self.finding()
        self.assertIsNone(before["depth"])
        self.assertIn("the depth of 3 patches", " ".join(before["questions"]))
        self.read("B3", darkness=4, depth_mm=0.34)
        self.read("B4", darkness=5, depth_mm=0.57)
        found = self.finding(depth_mm=0.45, piece_mm=500)
        self.assertEqual((found["depth"]["patch"], found["depth"]["read"]), ("B4", 4))
        takes, way, cleaning = found["depth"]["words"]
        self.assertRegex(takes, r"A first pass takes 0\.1\d* mm .* half as much once it is")
        # Between the four passes of 0.34 mm and the eight of 0.57: six. 500 mm2 at 200 mm/s
        # and 0.1 mm take 25 s a pass.
        self.assertRegex(way, r"0\.45 mm takes 6 passes.*: 2:30 min of beam for 500 mm²\.")
        self.assertIn("Cleaning every", cleaning)

    def test_what_is_chosen_says_its_own(self):
        for row, share in (("A", 0.45), ("B", 1.0)):
            for number, (darkness, depth) in enumerate(((2, 0.1), (3, 0.19), (4, 0.34), (5, 0.57)), start=1):
                self.read(f"{row}{number}", darkness=darkness, depth_mm=depth * share)
        found = self.finding(depth_mm=0.3)
        self.assertTrue(found["candidates"])
        for one in found["candidates"]:
            self.assertIn("A first pass takes", one["depth"][0])
            self.assertIn("0.3 mm takes", one["depth"][1])

    def test_passes_are_those_of_all_rounds(self):
        """Twice one, two and four passes get as deep as two, four and eight, and say the same of a pass."""
        for number, depth in ((2, 0.19), (3, 0.34), (4, 0.57)):
            self.read(f"B{number}", darkness=4, depth_mm=depth)
        takes, way, _ = self.finding(depth_mm=0.45, piece_mm=500)["depth"]["words"]
        page = self.call("GET", f"/api/trials/{self.trial}")
        passes = {**page["design"]["axes"][0], "values": [1, 2, 4], "step": "bulk"}
        design = {
            **page["design"],
            "hold": {},
            "axes": [passes, {**page["design"]["axes"][1], "step": "bulk"}],
            "steps": [{"name": "bulk", "process": "deep", "hold": page["design"]["hold"]}],
            "rounds": 2,
        }
        page = self.call("PUT", f"/api/trials/{self.trial}/design", json={"edit": page["edit"], "design": design})
        self.burn = self.call("POST", f"/api/trials/{self.trial}/burns", 201, json={"edit": page["edit"]})["id"]
        for number, depth in ((1, 0.19), (2, 0.34), (3, 0.57)):
            self.read(f"B{number}", darkness=4, depth_mm=depth)
        # Whether cleaning would pay is not asked where there are rounds already.
        found = self.finding(depth_mm=0.45, piece_mm=500)
        self.assertEqual(found["depth"]["words"], [takes, way])
        # What is chosen says the time of both rounds: 500 mm2 at 200 mm/s and 0.1 mm, so many passes in each.
        for one in found["candidates"]:
            settings = one["settings"]
            took = 2 * settings["passes"] * 500 / (settings["speed_mm_s"] * settings["line_spacing_mm"])
            self.assertAlmostEqual(one["seconds"], took, delta=0.02 * took)
        # So does the map, and its dose is that of both.
        [plan] = found["maps"]
        power, passes = plan["y"]["setting"][-1], plan["x"]["setting"][0]
        watts = page["plate"]["trial"]["machine"]["rated_power_w"] * power / 100
        self.assertEqual((plan["y"]["parameter"], plan["x"]["parameter"]), ("power_pct", "passes"))
        self.assertAlmostEqual(plan["dose"][-1][0], 2 * passes * watts / (200 * 0.1), delta=0.01)
        self.assertAlmostEqual(plan["seconds"][-1][0], 2 * passes * 500 / (200 * 0.1), delta=0.01)

    def test_other_marks_say_nothing_of_it(self):
        page, burn = self.burned_trial("area")
        for number in (1, 2, 3):
            body = {"edit": 0, "values": {"darkness": 3, "depth_mm": 0.1 * number}}
            self.call("PUT", f"/api/burns/{burn}/patches/A{number}/reading", json=body)
        self.assertIsNone(self.call("GET", f"/api/burns/{burn}/finding")["depth"])
        self.assertEqual(page["process"], "area")


if __name__ == "__main__":
    unittest.main()
