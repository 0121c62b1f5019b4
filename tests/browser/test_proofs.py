"""From a choice to its proof on a real shape, and on to more and faster passes where that burned."""

import unittest

from playwright.sync_api import expect

from tests.browser.browser_case import BrowserCase


class ProofTest(BrowserCase):
    def burn_and_read(self, page):
        page.get_by_role("button", name="Get the files").click()
        page.wait_for_url("**/burn?files")
        page.get_by_role("button", name="I burned it").click()
        page.get_by_role("link", name="Read the plate").click()
        page.wait_for_url("**/read")

    def score(self, page, patch, degree):
        page.locator(f"[data-patch={patch}]").click()
        page.get_by_role("group", name="Did it go through?").get_by_role("button").nth(degree).click()
        expect(page.get_by_text("kept", exact=True)).to_be_visible()

    def test_what_held_as_a_coupon_burns_and_is_tried_in_more_passes(self):
        self.page = self.open_page()
        page = self.go("/trials/{trial: Cast acrylic, amber, cut}/decide")
        page.get_by_role("button", name="Prove it on a real shape").first.click()
        page.wait_for_url("**/plan")
        expect(page.get_by_text("Ribs of 0.5 to 2 mm")).to_be_visible()
        expect(page.locator("[data-patch]")).to_have_count(1)
        # What is read of real shapes alone is not asked of others.
        self.burn_and_read(page)
        self.score(page, "A1", 3)
        expect(page.get_by_text("It held.")).to_be_visible()
        page.get_by_role("button", name="gave way first").click()
        expect(page.get_by_text("It burned: a rib gave way first.")).to_be_visible()
        page.get_by_role("link", name="Decide", exact=False).first.click()
        page.get_by_role("button", name="Plan that small array").click()
        expect(page.get_by_text("in more and faster passes").first).to_be_visible()
        expect(page.locator("[data-patch]")).to_have_count(3)
        self.burn_and_read(page)
        self.score(page, "A2", 3)
        page.get_by_role("link", name="Decide", exact=False).first.click()
        page.locator("[data-patch=A2]").click()
        page.get_by_role("button", name="Keep as recipe").click()
        expect(page.get_by_text("A2 is in the book")).to_be_visible()
        # All of it stands where it began.
        page.get_by_role("link", name="Back to T-").click()
        expect(page.get_by_text("It burned: a rib gave way first.")).to_be_visible()
        expect(page.get_by_text("It held.")).to_be_visible()
        page = self.go("/trials/{trial: Cast acrylic, amber, cut}/read")
        expect(page.get_by_text("back burn")).to_be_visible()
        expect(page.get_by_text("gave way first")).to_be_hidden()

    def test_slots_and_a_tab_tell_how_wide_the_cut_is(self):
        self.page = self.open_page()
        page = self.go("/book?process=cut")
        recipe = next(
            one for one in self.server.ask("GET", "/api/recipes")["recipes"] if one["process"] == "cut" and one["patch"]
        )
        page = self.go(f"/book/{recipe['id']}")
        page.get_by_role("button", name="Find its kerf").click()
        page.wait_for_url("**/plan")
        expect(page.get_by_label("Width of the tab")).to_have_value("5")
        # Another tab has slots of its own.
        page.get_by_label("Width of the tab").fill("6")
        page.get_by_label("Width of the tab").blur()
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        self.burn_and_read(page)
        self.score(page, "A1", 3)
        expect(page.get_by_text("Slots are counted from that corner")).to_be_visible()
        page.get_by_label("Which slot the tab fits").fill("6")
        page.get_by_label("Which slot the tab fits").press("Enter")
        expect(page.get_by_text("Kerf 0.15 mm")).to_be_visible()
        page.get_by_role("button", name="Keep it with the recipe").click()
        expect(page.get_by_text("The book says so.")).to_be_visible()
        page = self.go(f"/book/{recipe['id']}")
        expect(page.get_by_text("A part comes out 0.15 mm smaller than it is drawn")).to_be_visible()
        # It is said where sizes are chosen.
        page = self.go(f"/?process=cut&material={recipe['material_id']}&head={recipe['head_id']}")
        page.get_by_role("button", name="Plan an array").first.click()
        page.wait_for_url("**/plan")
        expect(page.get_by_text("A part comes out 0.15 mm smaller than it is drawn")).to_be_visible()


if __name__ == "__main__":
    unittest.main()
