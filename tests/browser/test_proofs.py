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


if __name__ == "__main__":
    unittest.main()
