"""Figures people bring, over HTTP: understood, planned, said where they are none."""

import unittest

from tests.random_figures import svg
from tests.server.api_case import ApiCase

BODY = '<path d="M0 0H20V10H0V0.4"/><circle cx="10" cy="5" r="2"/><text>A</text>'


class FiguresApiTest(ApiCase):
    def brought(self, text, status=200):
        kind = {"data": text.encode(), "content_type": "image/svg+xml"}
        return self.call("POST", "/api/figures", status, **kind)

    def change(self, trial, patch):
        page = self.call("GET", f"/api/trials/{trial}")
        design = {**page["design"], "patch": {**page["design"]["patch"], **patch}}
        return self.call("PUT", f"/api/trials/{trial}/design", json={"edit": page["edit"], "design": design})

    def test_a_drawing_becomes_the_figure_of_a_trial(self):
        found = self.brought(svg(BODY))
        self.assertEqual((found["width_mm"], found["height_mm"]), (20.0, 10.0))
        self.assertEqual(found["brought"], {"outlines": 1, "holes": 0, "open": 1, "small_gap_mm": 0.4})
        self.assertEqual([one["what"] for one in found["left_out"]], ["lettering"])
        trial = self.new_trial()["id"]
        patch = {"shape": "figure", "figure": found["figure"], "width_mm": 30, "height_mm": None}
        page = self.change(trial, patch)
        plate = page["plate"]
        self.assertEqual((plate["patches"][0]["width_mm"], plate["patches"][0]["height_mm"]), (30, 15))
        self.assertEqual(plate["brought"]["open"], 1)
        self.assertNotEqual(plate["drawing"]["figures"][0]["lines"], "")
        page = self.change(trial, {"figure": {**found["figure"], "close_gaps_mm": 0.4}})
        self.assertEqual(page["plate"]["brought"], {"outlines": 2, "holes": 1, "open": 0, "small_gap_mm": None})
        self.assertEqual(page["plate"]["drawing"]["figures"][0]["lines"], "")

    def test_what_is_none_is_said_in_a_sentence(self):
        for text, words in (("<svg", "no SVG"), ("hello", "neither"), (svg("<text>A</text>"), "no outline")):
            self.assertIn(words, self.brought(text, 400)["detail"])
        self.become(self.guest.id)
        self.assertIn("member", self.brought(svg(BODY), 403)["detail"])

    def test_the_shop_keeps_a_figure_under_a_name(self):
        drawn = svg(BODY + "<script>alert(1)</script>")
        one = self.call(
            "POST", "/api/kept-figures", 201, json={"name": " Lantern  tag ", "svg": drawn, "close_gaps_mm": 0.4}
        )
        (kept,) = self.call("GET", "/api/kept-figures")["figures"]
        said = (kept["id"], kept["name"], kept["width_mm"], kept["height_mm"], kept["by_name"])
        self.assertEqual(said, (one["id"], "Lantern tag", 20, 10, self.member.name))
        # The disc by its picture's path, the tag around it; nothing is left open.
        self.assertEqual((kept["picture"]["outlines"].count("Z"), kept["picture"]["lines"]), (2, ""))
        found = self.call("GET", f"/api/kept-figures/{kept['id']}")
        self.assertEqual(found["brought"], {"outlines": 2, "holes": 1, "open": 0, "small_gap_mm": None})
        trial = self.new_trial()["id"]
        patch = {"shape": "figure", "figure": found["figure"], "width_mm": 30, "height_mm": None}
        self.assertEqual(self.change(trial, patch)["plate"]["patches"][0]["height_mm"], 15)
        # What is given to others is the figure alone.
        file = self.client.get(f"/api/kept-figures/{kept['id']}/file")
        self.assertEqual(file.content_type, "image/svg+xml")
        self.assertIn("attachment", file.headers["Content-Disposition"])
        self.assertNotIn(b"script", file.data)
        self.assertEqual(self.brought(file.get_data(as_text=True))["brought"], found["brought"])

    def test_a_name_is_there_once_and_free_again_when_it_is_retired(self):
        body = {"name": "Tag", "svg": svg(BODY)}
        one = self.call("POST", "/api/kept-figures", 201, json=body)["id"]
        refused = self.call("POST", "/api/kept-figures", 400, json={**body, "name": "TAG"})
        self.assertIn(f"{self.member.name} keeps a figure named Tag already", refused["detail"])
        self.become(self.guest.id)
        self.assertIn("member", self.call("DELETE", f"/api/kept-figures/{one}", 403)["detail"])
        self.become(self.member.id)
        self.call("DELETE", f"/api/kept-figures/{one}", 204)
        self.assertEqual(self.call("GET", "/api/kept-figures")["figures"], [])
        self.call("POST", "/api/kept-figures", 201, json=body)
        said = [(line["verb"], line["title"]) for line in self.call("GET", "/api/changes?subject=figure")["changes"]]
        self.assertEqual(said, [("kept", "figure Tag"), ("retired", "figure Tag"), ("kept", "figure Tag")])
        # What is no figure is kept under no name.
        self.assertIn(
            "no outline", self.call("POST", "/api/kept-figures", 400, json={"name": "None", "svg": svg("")})["detail"]
        )
        self.call("GET", "/api/kept-figures/999", 404)
        self.call("DELETE", "/api/kept-figures/999", 404)


if __name__ == "__main__":
    unittest.main()
