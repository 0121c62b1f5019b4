"""A figure somebody brings, from its drawing to a plate in the shop."""

import re
import unittest

from playwright.sync_api import expect

from tests.browser.browser_case import BrowserCase
from tests.random_figures import svg

ALMOST = '<path d="M0 10 10 0H30L40 10L30 20H10L.3 10.3"/><circle cx="20" cy="10" r="5"/><text>A</text>'


class FigureTest(BrowserCase):
    def file(self, text):
        return {"name": "drawing.svg", "mimeType": "image/svg+xml", "buffer": text.encode()}

    def test_from_a_drawing_to_a_burned_plate(self):
        self.page = self.open_page()
        # The first drawing has no outline.
        self.expected_complaints = ("400",)
        page = self.go("/?process=cut&material={material: Poplar plywood 6 mm}&head={head: Wren}")
        page.get_by_role("button", name="Plan an array").first.click()
        page.wait_for_url("**/plan")
        page.get_by_role("group", name="Patch shape").get_by_text("figure", exact=True).click()
        bring = page.get_by_label("Drawing of the figure")
        bring.set_input_files(self.file(svg("<text>A</text>")))
        expect(page.get_by_role("alert").filter(has_text="There is no outline in this drawing")).to_be_visible()
        bring.set_input_files(self.file(svg(ALMOST)))
        # What does not close is named, with what was left out, and shown on the plate.
        expect(page.get_by_text("1 line does not close; a gap of 0.424 mm")).to_be_visible()
        expect(page.get_by_text("letters are no outlines")).to_be_visible()
        page.get_by_role("button", name="Close it").click()
        expect(page.get_by_text("2 closed outlines, 1 of them a hole")).to_be_visible()
        expect(page.get_by_text("does not close")).to_be_hidden()
        # Its height follows from its width until it is let go.
        expect(page.get_by_label("Patch height")).to_be_hidden()
        page.get_by_label("Patch width").fill("20")
        page.get_by_label("Patch width").blur()
        page.get_by_label("other proportions than drawn").check()
        expect(page.get_by_label("Patch height")).to_have_value("10")
        page.get_by_label("Patch height").fill("12")
        page.get_by_label("Patch height").blur()
        expect(page.locator("[data-patch=A1]")).to_be_visible()
        expect(page.get_by_label("Patch height")).to_have_value("12")
        page.get_by_label("other proportions than drawn").uncheck()
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        page.reload()
        expect(page.get_by_text("2 closed outlines, 1 of them a hole")).to_be_visible()
        # The shop keeps it under a name; from there it is one press away on another trial.
        page.get_by_label("Keep this figure as").fill("Lantern wall")
        page.get_by_role("button", name="Keep", exact=True).last.click()
        expect(page.get_by_role("button", name="Use Lantern wall")).to_be_visible()
        page.get_by_role("button", name="Get the files").click()
        page.wait_for_url("**/burn?files")
        page.get_by_role("button", name="I burned it").click()
        page.get_by_role("link", name="Read the plate").click()
        page.wait_for_url("**/read")
        expect(page.get_by_text("Did it go through?")).to_be_visible()
        page = self.go("/?process=line&material={material: Poplar plywood 6 mm}&head={head: Wren}")
        page.get_by_role("button", name="Plan an array").first.click()
        page.wait_for_url("**/plan")
        page.get_by_role("group", name="Patch shape").get_by_text("figure", exact=True).click()
        page.get_by_role("button", name="Use Lantern wall").click()
        expect(page.get_by_text("2 closed outlines, 1 of them a hole")).to_be_visible()

    def test_a_coupon_cut_round_a_name_that_is_engraved(self):
        self.page = self.open_page()
        page = self.go("/?process=area&material={material: Poplar plywood 6 mm}&head={head: Wren}")
        page.get_by_role("button", name="Plan an array").first.click()
        page.wait_for_url("**/plan")
        page.get_by_label("Add a step").select_option(label="Cut")
        page.get_by_role("button", name=re.compile("^1 ?Engrave")).click()
        page.get_by_text("Over the figure").click()
        page.get_by_label("Letters in place of the figure").fill("Ida")
        page.get_by_label("How far inside the figure").fill("2")
        page.get_by_label("How far inside the figure").blur()
        expect(page.get_by_role("button", name="Engrave 2 mm inside, “Ida”")).to_be_visible()
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        trial = self.server.ask("GET", f"/api/trials/{re.search('trials/([0-9]+)', page.url)[1]}")
        self.assertEqual([step.get("text") for step in trial["design"]["steps"]], ["Ida", None])
        # The engraved part is the letters, the cut one the patch: two figures, three letters and the holes of two.
        figures = trial["plate"]["drawing"]["figures"]
        self.assertEqual(sorted(figure["face"].count("Z") for figure in figures), [1, 5])

    def test_the_shop_keeps_figures(self):
        self.page = self.open_page()
        # A name that is there already.
        self.expected_complaints = ("400",)
        page = self.go("/shop?part=figures")
        for name in ("Round tag", "ROUND TAG"):
            page.get_by_label("Drawing of a figure to keep").set_input_files(
                {**self.file(svg(ALMOST)), "name": "tag.svg"}
            )
            expect(page.get_by_text("1 line that does not close")).to_be_visible()
            expect(page.get_by_label("Keep this figure as")).to_have_value("tag")
            page.get_by_label("Keep this figure as").fill(name)
            page.get_by_role("button", name="Keep", exact=True).click()
            expect(page.get_by_role("button", name="Retire Round tag")).to_be_visible()
        expect(page.get_by_role("alert").filter(has_text="keeps a figure named Round tag already")).to_be_visible()
        page.get_by_role("button", name="Retire Round tag").click()
        expect(page.get_by_role("button", name="Retire Round tag")).to_be_hidden()


if __name__ == "__main__":
    unittest.main()
