"""Plates side by side, and from a look to a setting."""

import unittest

from playwright.sync_api import expect

from tests.browser.axe import AxeCase
from tests.browser.browser_case import PHONE_SCREEN


class SideBySideTest(AxeCase):
    def test_k_lays_other_plates_beside_it_and_one_key_walks_all(self):
        page = self.go("/trials/{trial: Poplar plywood 4 mm, cut}/read?patch=B2")
        page.get_by_role("listbox").focus()
        page.keyboard.press("k")
        expect(page.get_by_role("heading", name="Side by side")).to_be_visible()
        add = page.get_by_label("Lay another plate beside it")
        add.select_option(index=1)
        plates = page.get_by_role("listbox")
        expect(plates).to_have_count(2)
        page.get_by_text("Same place").click()
        self.check_both_themes(page, "side by side")
        plates.first.focus()
        page.keyboard.press("ArrowRight")
        for plate in (plates.first, plates.last):
            expect(plate.locator("[data-patch=B3]")).to_have_attribute("aria-selected", "true")
        page.get_by_text("Difference to the first").click()
        first, second = (
            {
                row["patch"]: row["values"].get("through")
                for row in self.server.ask("GET", f"/api/burns/{burn}")["readings"]
            }
            for burn in self.sides(page)
        )
        apart = second["B3"] - first["B3"]
        shown = plates.last.locator("[data-patch=B3] text").text_content()
        self.assertEqual(shown, "0" if apart == 0 else f"{'+' if apart > 0 else chr(0x2212)}{abs(apart)}")
        page.get_by_role("button", name="Take T-").last.click()
        expect(plates).to_have_count(1)

    def sides(self, page):
        return page.evaluate("new URLSearchParams(location.search).get('sides')").split(",")

    def test_a_shade_on_a_real_plate_leads_to_its_setting(self):
        page = self.go("/book?view=look")
        page.get_by_role("group", name="Shades").get_by_role("button").nth(20).click()
        nearest = page.get_by_role("list", name="Nearest patches").get_by_role("listitem")
        expect(nearest).to_have_count(12)
        expect(nearest.first).to_contain_text("Looks the same")
        self.check_both_themes(page, "by look")
        shade = page.evaluate("new URLSearchParams(location.search).get('shade')")
        lightness, a, b = shade.split(",")
        asked = f"/api/looks?lightness={lightness}&a={a}&b={b}"
        first = self.server.ask("GET", asked)["nearest"][0]
        page.get_by_text("Darkness only").click()
        expect(nearest.first).to_contain_text("As dark")
        alike = self.server.ask("GET", f"{asked}&darkness_only=true")["nearest"][1]
        expect(nearest.nth(1).get_by_role("link")).to_contain_text(alike["patch"])
        page.get_by_text("Colour and darkness").click()
        # Until the answer comes, those of before stand there.
        expect(nearest.first).to_contain_text("Looks the same")
        nearest.first.get_by_role("link").click()
        expect(page).to_have_url(
            f"{self.server.base}/trials/{first['trial_id']}/read?burn={first['burn_id']}&patch={first['patch']}"
        )
        page.get_by_role("link", name="Find this look").click()
        expect(nearest.first).to_contain_text("Looks the same")

    def test_on_a_phone(self):
        phone = self.open_page(PHONE_SCREEN)
        for path in ("/compare?sides=2,4", "/book?view=look"):
            self.go(path, phone)
            self.assertLessEqual(phone.evaluate("document.documentElement.scrollWidth"), 390, path)


if __name__ == "__main__":
    unittest.main()
