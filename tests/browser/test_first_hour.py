"""From a shop just founded to a kept setting, as a newcomer goes the way: counted."""

import unittest

from playwright.sync_api import expect

from tests.browser.browser_case import BrowserCase, settle

# What a hand does: every press of a button, link or patch, every choice from a list; and every field that was typed in.
COUNTING = """
    window.hands = { clicks: 0, fields: new Set() }
    addEventListener('pointerdown', (event) => {
      if (event.target.closest?.('select') === null) hands.clicks += 1
    }, true)
    addEventListener('change', (event) => { if (event.target.matches('select')) hands.clicks += 1 }, true)
    addEventListener('input', (event) => {
      if (event.target.matches('input:not([type=radio], [type=checkbox]), textarea')) hands.fields.add(event.target)
    }, true)
"""
MOST_CLICKS, MOST_FIELDS = 12, 8


class FirstHourTest(BrowserCase):
    demo = False

    def test_from_nothing_to_a_kept_setting(self):
        page = self.page
        # Clicks are counted from page to page: the app never loads afresh on the way.
        page.add_init_script(COUNTING)
        self.go("/", page)
        page.get_by_label("What the shop is called").fill("Our shop")
        page.get_by_label("Your name").fill("Kay")
        page.get_by_label("Your PIN or passphrase").fill("oak barrel")
        page.get_by_label("Once more").fill("oak barrel")
        page.get_by_role("button", name="Found the shop").click()
        expect(page.get_by_role("button", name="add a sheet")).to_be_visible()
        page.evaluate("hands.clicks = 0; hands.fields.clear()")

        page.get_by_role("button", name="add a machine").click()
        page.get_by_label("Name", exact=True).fill("Robin")
        page.get_by_label("Rated power").fill("40")
        page.get_by_label("Field width").fill("600")
        page.get_by_label("Field depth").fill("400")
        page.get_by_label("Top speed").fill("400")
        expect(page.get_by_label("Acceleration")).to_be_hidden()
        page.get_by_role("button", name="Keep").click()

        expect(page.get_by_text("A new sheet or blank")).to_be_visible()
        page.get_by_label("Name", exact=True).fill("Birch plywood")
        page.get_by_label("Thickness").fill("3")
        page.get_by_role("button", name="Keep").click()

        # The first plate is planned already; what its time rests on is said.
        page.wait_for_url("**/trials/*/plan")
        settle(page)
        expect(page.get_by_text("Time from an assumed acceleration and jump at corners; power from")).to_be_visible()
        page.get_by_role("button", name="Burn it now").click()
        page.get_by_role("button", name="I burned it").click()
        page.get_by_role("link", name="Read the plate").click()
        settle(page)
        plate = page.locator("[data-plate]")
        expect(plate).to_be_focused()
        for _ in range(page.locator("[data-patch]").count()):
            page.keyboard.press("3")
        expect(page.get_by_text("25 of 25 read")).to_be_visible()
        page.get_by_role("navigation", name="Stages").get_by_role("link", name="Decide").click()
        expect(page.get_by_text("Or choose a patch")).to_be_visible()
        page.locator("[data-patch=C3]").click()
        page.get_by_role("button", name="Keep as recipe").click()
        expect(page.get_by_text("C3 is in the book")).to_be_visible()

        clicks, fields = page.evaluate("[hands.clicks, hands.fields.size]")
        print(f"the first hour: {clicks} clicks, {fields} typed fields")
        self.assertLessEqual(clicks, MOST_CLICKS)
        self.assertLessEqual(fields, MOST_FIELDS)
        # It counted what was done, and not nothing.
        self.assertGreaterEqual(clicks, 8)
        self.assertGreaterEqual(fields, 7)


if __name__ == "__main__":
    unittest.main()
