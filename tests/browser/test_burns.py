"""A plate burned twice in the browser: nothing hides, what was noted wrong is put right, and the address says which."""

import unittest

from playwright.sync_api import expect

from tests.browser.axe import AxeCase

TRIAL = "{trial: leather, area}"  # an engraving on leather: burned, read, two recipes kept from it


class BurnsTest(AxeCase):
    def test_a_second_burn_hides_nothing_and_can_be_taken_back(self):
        page = self.go(f"/trials/{TRIAL}/burn")
        expect(page.get_by_label("Which burn")).to_have_count(0)
        first = self.server.ask("GET", f"/api/trials/{TRIAL}")["burn"]["id"]
        page.get_by_role("button", name="Burned once more on another piece").click()
        page.get_by_label("Lot").first.fill("belly, dark")
        page.get_by_role("button", name="I burned it").click()
        choice = page.get_by_label("Which burn")
        expect(choice).to_contain_text("Burn 2 of 2")
        expect(choice).to_contain_text("belly, dark")
        expect(choice).to_contain_text("30 read")
        self.check_both_themes(page, "burned twice")
        # The earlier one with its readings and recipes, by the address.
        choice.select_option(str(first))
        expect(page).to_have_url(self.server.base + self.server.path(f"/trials/{TRIAL}/burn?burn={first}"))
        page.get_by_role("link", name="Decide").click()
        expect(page).to_have_url(self.server.base + self.server.path(f"/trials/{TRIAL}/decide?burn={first}"))
        expect(page.get_by_text("In the book from this plate")).to_be_visible()
        page.go_back()
        expect(page.get_by_role("button", name="Burned once more on another piece")).to_be_visible()
        page.get_by_label("Which burn").select_option(
            label=page.get_by_label("Which burn").locator("option").first.inner_text()
        )
        self.put_right(page)

    def put_right(self, page):
        page.get_by_role("button", name="Something noted wrong?").click()
        page.get_by_label("Lot").last.fill("belly, pale")
        page.get_by_role("button", name="Put it right").click()
        expect(page.get_by_text("Lot: belly, pale")).to_be_visible()
        expect(page.get_by_text("Put right")).to_be_visible()
        page.get_by_role("button", name="Something noted wrong?").click()
        page.get_by_role("button", name="It was never burned").click()
        expect(page.get_by_label("Which burn")).to_have_count(0)
        expect(page.get_by_text("Lot: shoulder, tan")).to_be_visible()
        # A recipe was kept from the one that is left: it stays as it is.
        expect(page.get_by_role("button", name="Something noted wrong?")).to_have_count(0)


if __name__ == "__main__":
    unittest.main()
