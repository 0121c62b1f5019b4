"""The book in Chromium: map, finding, a recipe's words and history, taps, prints; two people at once."""

import io
import re
import unittest

import zxingcpp
from PIL import Image
from playwright.sync_api import Page, expect

from tests.browser.browser_case import PHONE_SCREEN, BrowserCase


class BookTest(BrowserCase):
    def test_a_gap_of_the_map_becomes_a_plan(self):
        page = self.go("/book?process=cut")
        page.get_by_role("button", name="Wool felt 3 mm on Finch: not known yet").click()
        page.get_by_role("button", name="Plan an array").click()
        page.wait_for_url("**/trials/*/plan")
        expect(page.get_by_role("heading", name="Wool felt 3 mm, cut on Finch")).to_be_visible()

    def test_found_while_typing_in_spite_of_slips(self):
        page = self.go("/book")
        page.get_by_label("Find", exact=True).fill("latnern")
        expect(page.get_by_role("list", name="Recipes").get_by_role("listitem")).to_have_count(1)
        expect(page).to_have_url(re.compile("text=latnern"))
        page.get_by_label("Find", exact=True).fill("leather")
        expect(page.get_by_text("3 recipes")).to_be_visible()
        page.get_by_label("Standing").select_option("retired")
        expect(page.get_by_text("1 recipe", exact=True)).to_be_visible()
        page.get_by_label("Find", exact=True).fill("zzzz")
        expect(page.get_by_text("Nothing in the book matches")).to_be_visible()

    def test_a_tap_and_its_undo(self):
        page = self.go("/book/{recipe: Laser rubber, area}")
        page.get_by_role("button", name="It held").click()
        expect(page.get_by_text("held 2 times").first).to_be_visible()
        page.get_by_text("Undo").click()
        expect(page.get_by_text("held once").first).to_be_visible()

    def test_words_in_markdown_with_history_and_putting_back(self):
        # Twice kept out: the handler is cut away from the note, and the page's policy would not run it.
        self.expected_complaints = ("Executing inline event handler violates",)
        page = self.go("/book/{recipe: Polypropylene, cut}")
        page.get_by_role("button", name="Change the words").click()
        page.get_by_label("Note").fill("**Pull** it off <img src=x onerror=alert(1)> [page](javascript:alert(1))")
        page.get_by_label("Links, one a line").fill("https://example.org/shade the pattern")
        page.get_by_role("button", name="Keep").click()
        expect(page.locator(".markdown strong").first).to_have_text("Pull")
        self.assertEqual(page.locator(".markdown img, .markdown a[href^=javascript]").count(), 0)
        expect(page.get_by_role("link", name="the pattern")).to_have_attribute("href", "https://example.org/shade")
        page.get_by_role("button", name="put this back").first.click()
        expect(page.get_by_text("Melts back a little").first).to_be_visible()

    def test_what_was_heard_is_written_down_in_any_unit(self):
        self.expected_complaints = ("400 (BAD REQUEST)",)
        page = self.go("/book")
        page.get_by_role("button", name="Write down what you heard").click()
        page.get_by_label("Speed", exact=True).fill("12 bananas")
        page.get_by_label("Power", exact=True).fill("70")
        page.get_by_role("button", name="Write it down").click()
        expect(page.get_by_text("Speed cannot be in 'bananas'")).to_be_visible()
        page.get_by_label("Speed", exact=True).fill("900 mm/min")
        page.get_by_role("button", name="Write it down").click()
        expect(page.get_by_text("heard", exact=True).first).to_be_visible()
        expect(page.get_by_text("15", exact=True).first).to_be_visible()

    def test_two_people_change_the_same_words(self):
        self.expected_complaints = ("409 (CONFLICT)",)
        page, other = (
            self.go("/book/{recipe: leather, area, merely tan}"),
            self.go("/book/{recipe: leather, area, merely tan}", self.open_page()),
        )
        for one in (page, other):
            one.get_by_role("button", name="Change the words").click()
        page.get_by_label("For what").fill("light tan")
        page.get_by_role("button", name="Keep").click()
        expect(page.get_by_role("button", name="Change the words")).to_be_visible()
        other.get_by_label("For what").fill("nearly white")
        other.get_by_role("button", name="Keep").click()
        versions = other.locator("[data-conflict]")
        expect(versions).to_contain_text("light tan")
        expect(versions).to_contain_text("nearly white")
        other.get_by_role("button", name="Keep mine").click()
        expect(other.get_by_text("nearly white").first).to_be_visible()

    def test_what_others_do_is_seen_without_reloading(self):
        page = self.go("/shop?part=materials")
        other = self.go("/", self.open_page())
        # The same person on another screen, then somebody else.
        self._add_lot(other, "roll 5")
        expect(page.get_by_text("Lot roll 5")).to_be_visible()
        with other.expect_response("**/api/me") as answer:
            other.get_by_label("Who I am").select_option(label="Tess Sample · technician")
        self.assertEqual(answer.value.json()["name"], "Tess Sample")
        self._add_lot(other, "roll 6")
        expect(page.get_by_text("Lot roll 6")).to_be_visible()

    def _add_lot(self, page: Page, name: str) -> None:
        lot = {"facts": {"material_id": 4, "name": name}}
        headers = {"Content-Type": "application/json"}
        answer = page.request.post(self.server.base + "/api/lots", data=lot, headers=headers)
        self.assertEqual(answer.status, 201)

    def test_prints_carry_a_code_that_leads_back(self):
        page = self.go("/print/recipe/{recipe: Poplar plywood 4 mm, cut}")
        expect(page.get_by_text("17.6", exact=True)).to_be_visible()
        shot = page.get_by_alt_text("QR code of this page").screenshot()
        found = zxingcpp.read_barcodes(Image.open(io.BytesIO(shot)))
        self.assertEqual(
            [one.text for one in found],
            [self.server.base + self.server.path("/book/{recipe: Poplar plywood 4 mm, cut}")],
        )
        pdf = page.pdf(format="A4")
        self.assertEqual(pdf.count(b"/Type /Page\n") or pdf.count(b"/Type /Page "), 1)
        self.go("/print/wall/{machine: Heron}")
        expect(page.get_by_role("heading", name="Heron 175")).to_be_visible()
        page.emulate_media(media="print")
        self.assertFalse(page.get_by_role("banner").is_visible())

    def test_the_map_fits_a_phone(self):
        page = self.go("/book", self.open_page(PHONE_SCREEN))
        expect(page.get_by_role("button", name="Poplar plywood 4 mm on Wren: proven")).to_be_visible()
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)


class ClearTest(BrowserCase):
    def test_the_demo_is_cleared_into_an_empty_shop(self):
        page = self.go("/shop")
        page.get_by_role("button", name="Clear the demo shop").click()
        page.get_by_role("button", name="Clear it").click()
        expect(page.get_by_role("heading", name="Found your shop")).to_be_visible()


if __name__ == "__main__":
    unittest.main()
