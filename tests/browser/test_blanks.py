"""A blank by its photo, forty of them on the shelf, and a dense array on one: compact, on the blank, in least time."""

import re
import tempfile
import unittest
from pathlib import Path

import numpy as np
from playwright.sync_api import expect

from tests.browser.browser_case import BrowserCase
from tests.core.photo.test_blank import STEEL, disc, farthest, scene, taken

TOKEN = disc(75, 80, 44)


class BlanksTest(BrowserCase):
    def test_from_the_photo_of_a_blank_to_a_burned_array_on_it(self):
        page = self.go("/shop?part=materials")
        photo = Path(self.enterContext(tempfile.TemporaryDirectory())) / "token.jpg"
        photo.write_bytes(taken(scene(TOKEN, piece=STEEL), (0.06, -0.03), 0.4, seed=9))
        page.get_by_label("Find a material").fill("Nickel-silver")
        page.get_by_role("button", name="add a piece").click()
        page.get_by_role("textbox", name=re.compile("^Piece")).fill("token")
        page.get_by_label("Shape").select_option("outline")
        page.get_by_label("Photo of the piece").set_input_files(photo)
        expect(page.get_by_label("Its corners in turn")).not_to_have_value("", timeout=60_000)
        page.get_by_label("So many alike").fill("40")
        page.get_by_role("button", name="Keep").click()
        expect(page.get_by_text("40 of 40 left")).to_be_visible()
        shop = self.server.ask("GET", "/api/shop")
        piece = next(one for one in shop["pieces"] if one["name"] == "token")
        outline = np.array(piece["outline"])
        true = np.array(TOKEN) - np.array(TOKEN).min(axis=0)
        self.assertLess(farthest(outline, true), 0.5)

        # A dense array around the baseline, in the middle of it.
        page = self.go("/?process=surface&material={material: Nickel-silver token 1.2 mm}&head={head: Heron 110}")
        page.get_by_role("button", name="Plan an array").first.click()
        page.wait_for_url("**/plan")
        page.get_by_text("just as large as the plate").click()
        page.get_by_label("From the shelf").select_option(str(piece["id"]))
        page.get_by_label("Fit").select_option(label="patches shrink to fit")
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        number = int(re.search(r"/trials/(\d+)/", page.url).group(1))
        kept = self.server.ask("GET", f"/api/trials/{number}")
        self.assertEqual([one["kind"] for one in kept["plate"]["warnings"] if one["kind"] == "piece"], [])
        patches = kept["plate"]["patches"]
        self.assertGreaterEqual(len(patches), 16)
        page.get_by_role("button", name="Get the files").click()
        page.wait_for_url("**/burn?files")
        page.get_by_role("button", name="I burned it").click()
        expect(page.get_by_role("link", name="Read the plate")).to_be_visible()
        page = self.go("/shop?part=materials")
        page.get_by_label("Find a material").fill("Nickel-silver")
        expect(page.get_by_text("39 of 40 left")).to_be_visible()


if __name__ == "__main__":
    unittest.main()
