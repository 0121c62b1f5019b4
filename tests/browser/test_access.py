"""Every main view against axe-core (WCAG 2.2 AA), in both themes and on a phone; keys and focus."""

import re
import unittest

from playwright.sync_api import expect

from tests.browser.axe import AxeCase
from tests.browser.browser_case import PHONE_SCREEN

VIEWS = (
    "/",
    "/?process=cut&material={material: Poplar plywood 6 mm}&head={head: Wren}",
    "/trials",
    "/trials/{trial: Poplar plywood 6 mm, cut}/plan",
    "/trials/{trial: Poplar plywood 6 mm, cut}/burn",
    "/trials/{trial: Wool felt, cut}/read",
    "/trials/{last trial: leather, area}/read",
    "/trials/{trial: Poplar plywood 4 mm, cut}/decide?patch=F3",
    "/book",
    "/book?process=area",
    "/book?view=list",
    "/book/{recipe: leather, area, dark}",
    "/shop",
    "/shop?part=materials",
    "/shop?part=members",
    "/shop?part=log",
    "/me",
    "/print/recipe/{recipe: leather, area, dark}",
    "/print/wall/{machine: Wren}",
)
PHONE_VIEWS = (
    "/?process=cut&material={material: Poplar plywood 6 mm}&head={head: Wren}",
    "/trials/{trial: Poplar plywood 6 mm, cut}/plan",
    "/trials/{trial: Poplar plywood 6 mm, cut}/burn",
    "/trials/{trial: Wool felt, cut}/read",
    "/trials/{trial: Poplar plywood 4 mm, cut}/decide?patch=F3",
    "/book",
    "/book/{recipe: leather, area, dark}",
    "/shop?part=materials",
    "/print/wall/{machine: Wren}",
)


class AccessTest(AxeCase):
    def test_every_view_in_both_themes(self):
        for path in VIEWS:
            page = self.go(path)
            self.check_both_themes(page, path)

    def test_the_theme_is_turned_and_stays(self):
        self.go("/")
        self.page.get_by_role("button", name="Dark theme").click()
        self.go("/book")
        expect(self.page.get_by_role("button", name="Light theme")).to_be_visible()
        self.assertEqual(self.page.evaluate("document.documentElement.className"), "dark")

    def test_views_on_a_phone_without_sideways_scrolling(self):
        page = self.open_page(PHONE_SCREEN)
        for path in PHONE_VIEWS:
            self.check(self.go(path, page), f"phone {path}")
            with self.subTest(f"phone {path}: width"):
                self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)

    def test_keys(self):
        page = self.go("/book/{recipe: leather, area, dark}")
        expect(page.get_by_role("button", name="It held")).to_be_visible()
        page.keyboard.press("?")
        expect(page.get_by_role("dialog")).to_contain_text("search the book")
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_be_hidden()
        page.keyboard.press("/")
        expect(page.get_by_label("Find a recipe")).to_be_focused()
        page.keyboard.type("popalr")
        page.keyboard.press("Enter")
        expect(page.get_by_text("recipes", exact=False).first).to_be_visible()
        expect(page).to_have_url(re.compile("text=popalr"))


if __name__ == "__main__":
    unittest.main()
