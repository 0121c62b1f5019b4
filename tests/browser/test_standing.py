"""One recipe on three pieces of three heights: three instructions, in the form the head is set."""

import re
import unittest

from playwright.sync_api import expect

from tests.browser.browser_case import BrowserCase


class StandingTest(BrowserCase):
    def test_three_heights_show_three_instructions(self):
        self.page = self.open_page()
        recipes = self.server.ask("GET", "/api/recipes")["recipes"]
        recipe = next(one for one in recipes if one["head"].startswith("Wren") and one["process"] == "cut")
        material = recipe["material_id"]
        for name, rise in (("low", "1.5"), ("riser", "21.5 mm")):
            facts = {"material_id": material, "name": name, "shape": "rectangle", "width_mm": 90, "rise_mm": rise}
            self.server.ask("POST", "/api/pieces", {"facts": facts})
        # The third as somebody types it in the shop.
        page = self.go("/shop?part=materials")
        page.get_by_label("Find a material").fill(recipe["material"])
        page.get_by_role("button", name="add a piece").first.click()
        page.get_by_role("textbox", name=re.compile("^Piece")).fill("warped")
        page.get_by_label("Width or diameter").fill("90")
        page.get_by_text("More", exact=True).click()
        page.get_by_label("Its top above the bed").fill("5")
        page.get_by_label("Its top is").select_option(label="not level")
        page.get_by_label("It varies by").fill("2 mm")
        page.get_by_role("button", name="Keep").click()
        expect(page.get_by_text("warped").first).to_be_visible()
        page = self.go(f"/book/{recipe['id']}")
        card = page.get_by_role("region", name="Height of the head")
        for to in ("229.5", "249.5", "233"):
            expect(card.get_by_text(f"Set the scale to {to} mm")).to_be_visible()
        expect(card.get_by_text("its ends are 1 mm out of focus")).to_be_visible()
        expect(card.get_by_role("img", name="Focus on the surface").first).to_be_visible()
        # The same on the checklist of a burn, which way the offset goes is seen.
        body = {"process": "cut", "material": material, "head": recipe["head_id"]}
        trial = self.server.ask("POST", "/api/trials", body)["id"]
        draft = self.server.ask("GET", f"/api/trials/{trial}")
        design = {**draft["design"], "hold": {**draft["design"]["hold"], "focus_offset_mm": -1.5}}
        put = self.server.ask("PUT", f"/api/trials/{trial}/design", {"edit": draft["edit"], "design": design})
        self.server.ask("POST", f"/api/trials/{trial}/files", {"edit": put["edit"]})
        page = self.go(f"/trials/{trial}/burn?files")
        page.get_by_text("Before the start").first.click()
        steps = page.get_by_role("list", name="Before the start").first
        expect(steps.get_by_text("the focus lies 1.5 mm below its surface")).to_be_visible()
        expect(steps.get_by_role("img", name="Focus below the surface")).to_be_visible()


if __name__ == "__main__":
    unittest.main()
