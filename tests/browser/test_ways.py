"""The ways through the house: keys that act at once, the next step within reach, and nothing lost on the way."""

import re
import unittest

from playwright.sync_api import Route, expect

from tests.bench_port import link_in
from tests.browser.browser_case import BrowserCase, settle

PLYWOOD = "{trial: Poplar plywood 6 mm, cut}"
# The plate's own edges come before it.
TABS = 10


class WaysTest(BrowserCase):
    @classmethod
    def prepare(cls, folder):
        link_in(folder, "Heron", "socket://127.0.0.1:9")

    def focused(self):
        return self.page.evaluate(
            "document.activeElement.getAttribute('aria-label') ?? document.activeElement.innerText"
        )

    def test_the_files_are_within_ten_tabs_and_burning_is_nearer(self):
        page = self.go(f"/trials/{PLYWOOD}/plan")
        expect(page.get_by_role("listbox")).to_be_focused()
        reached = []
        for _ in range(TABS):
            page.keyboard.press("Tab")
            reached.append(self.focused())
        self.assertIn("Get the files", reached)
        self.assertLess(reached.index("Burn it now"), reached.index("Get the files"))
        while self.focused() != "Burn it now":
            page.keyboard.press("Shift+Tab")
        page.keyboard.press("Enter")
        page.wait_for_url("**/burn")

    def test_keys_act_at_once_in_decide(self):
        page = self.go("/trials/{trial: Poplar plywood 4 mm, cut}/decide")
        expect(page.get_by_label("Outcomes of plate")).to_be_focused()
        page.keyboard.press("ArrowRight")
        page.wait_for_url(re.compile("patch="))
        first = page.url
        page.keyboard.press("ArrowUp")
        page.wait_for_url(lambda url: url != first)
        expect(page).to_have_url(re.compile("patch="))

    def test_what_is_done_on_a_page_one_has_left_does_not_lead_back_to_it(self):
        """The next page is on its way; until it has come the one before stands there, and may be pressed."""
        page = self.go("/trials/{trial: Poplar plywood 4 mm, cut}/read")
        coming: list[Route] = []
        page.route(re.compile("DecideStage"), lambda route: coming.append(route))
        page.get_by_role("link", name="Decide").last.click()
        page.wait_for_url("**/decide*")
        page.locator("[data-patch=B1]").click()
        expect(page.get_by_role("option", name=re.compile("^B1"))).to_have_attribute("aria-selected", "true")
        page.wait_for_url("**/decide*")
        for route in coming:
            route.continue_()
        expect(page.get_by_label("Outcomes of plate")).to_be_visible()

    def test_control_z_takes_back_what_was_planned_and_what_was_read(self):
        page = self.go(f"/trials/{PLYWOOD}/plan")
        end = page.get_by_label("speed to, x axis")
        before = end.input_value()
        end.fill("40")
        end.press("Enter")
        patches = page.locator("[data-patch]")
        expect(end).to_have_value("40")
        # In a field with nothing typed it is the plan's; with something typed it is the field's own.
        page.keyboard.press("Control+z")
        expect(end).to_have_value(before)
        page.keyboard.press("Control+y")
        expect(end).to_have_value("40")
        page.keyboard.press("Control+z")
        expect(end).to_have_value(before)
        self.assertGreater(patches.count(), 0)

        page = self.go("/trials/{last trial: leather, area}/read?patch=E5")
        read = page.get_by_text(re.compile(r"^\d+ of 25 read"))
        said = read.inner_text()
        page.keyboard.press("3")
        expect(read).not_to_have_text(said)
        page.keyboard.press("Control+z")
        expect(read).to_have_text(said)

    def test_scores_given_without_a_connection_are_spoken_of_wherever_one_is_and_sent(self):
        self.expected_complaints = ("ERR_INTERNET_DISCONNECTED",)
        page = self.go("/trials/{last trial: leather, area}/read?patch=E4")
        read = page.get_by_text(re.compile(r"^\d+ of 25 read"))
        before = read.inner_text()
        page.context.set_offline(True)
        page.keyboard.press("3")
        expect(read).not_to_have_text(before)
        expect(page.get_by_text("no connection: 1 patch kept here")).to_be_visible()
        # Leaving does not lose it, and the net comes back elsewhere.
        page.get_by_role("link", name="Ask", exact=True).click()
        expect(page.get_by_text("I want to")).to_be_visible()
        expect(page.get_by_role("status").filter(has_text="other pages come when it is back")).to_be_visible()
        page.context.set_offline(False)
        waiting = page.get_by_role("status").filter(has_text="wait in this browser")
        expect(waiting).to_be_visible()
        waiting.get_by_role("link", name="Send them").click()
        expect(waiting).to_have_count(0)
        page.wait_for_load_state("networkidle")
        page.reload()
        settle(page)
        expect(read).not_to_have_text(before)
        expect(page.get_by_role("status").filter(has_text="wait in this browser")).to_have_count(0)

    def test_a_place_gone_to_without_a_connection_comes_when_it_is_back(self):
        self.expected_complaints = ("ERR_INTERNET_DISCONNECTED", "Unable to preload")
        page = self.go("/")
        page.context.set_offline(True)
        page.get_by_role("link", name="Book", exact=True).click()
        expect(page.get_by_role("status").filter(has_text="There is no connection")).to_be_visible()
        expect(page.get_by_text("I want to")).to_be_visible()
        page.context.set_offline(False)
        expect(page.get_by_role("columnheader", name="Material")).to_be_visible()

    def test_a_place_that_does_not_come_takes_nothing_else_with_it(self):
        self.expected_complaints = ("ERR_FAILED", "Unable to preload", "Failed to fetch", "error boundary")
        page = self.go("/")
        page.route("**/assets/ShopPage*", lambda route: route.abort())
        page.get_by_role("link", name="Shop", exact=True).click()
        expect(page.get_by_role("alert")).to_contain_text("could not be loaded")
        page.get_by_role("link", name="Ask", exact=True).click()
        expect(page.get_by_text("I want to")).to_be_visible()

    def test_a_dense_array_on_a_small_round_blank(self):
        page = self.go("/?process=surface&material={material: Nickel-silver}&head={head: Heron 175}")
        page.get_by_role("button", name="Plan an array").click()
        page.wait_for_url("**/plan")
        settle(page)
        page.get_by_text("Piece", exact=True).click()
        page.get_by_label("From the shelf").select_option(label="blank, Ø 30 mm")
        expect(page.get_by_label("Laid from the")).to_have_value("centre")
        page.get_by_label("Patch gap").fill("0.6")
        page.get_by_label("Patch gap").press("Enter")
        page.get_by_label("Fit", exact=True).select_option(label="patches shrink to fit")
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        expect(page.get_by_text("beyond the usable piece")).to_have_count(0)
        # Lettering takes its shortest form there.
        page.get_by_label("Heading", exact=True).check()
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        expect(page.get_by_text("beyond the usable piece")).to_have_count(0)
        expect(page.get_by_text("shrunk to")).to_be_visible()

    def test_a_filled_form_survives_a_reload(self):
        page = self.go("/shop?part=materials")
        page.get_by_role("button", name="Add a material").click()
        page.get_by_label("Name", exact=False).first.fill("Birch veneer")
        page.get_by_label("Thickness", exact=False).first.fill("0.6")
        page.reload()
        settle(page)
        expect(page.get_by_label("Name", exact=False).first).to_have_value("Birch veneer")
        expect(page.get_by_label("Thickness", exact=False).first).to_have_value("0.6")
        page.get_by_role("button", name="Keep", exact=True).click()
        expect(page.get_by_role("button", name="Change Birch veneer 0.6 mm")).to_be_visible()
        # It is kept, so nothing is left over for the next one.
        page.reload()
        settle(page)
        expect(page.get_by_role("button", name="Add a material")).to_be_visible()

    def test_what_is_said_in_passing_lies_over_nothing(self):
        page = self.go("/shop?part=materials")
        page.get_by_role("button", name="Change Poplar plywood 6 mm").click()
        page.get_by_label("Note", exact=False).first.fill("dry")
        page.get_by_role("button", name="Keep", exact=True).click()
        notice = page.get_by_role("region", name="Notices")
        expect(notice.get_by_role("button").first).to_be_visible()
        # What had been scrolled away before stays so.
        page.evaluate("scrollTo(0, 0)")
        low = notice.bounding_box()
        for place in ("Ask", "Trials", "Book", "Shop"):
            with self.subTest(place):
                box = page.get_by_role("link", name=place, exact=True).first.bounding_box()
                self.assertGreaterEqual(box["y"], low["y"] + low["height"] - 1)

    def test_labels_are_as_large_as_they_say(self):
        page = self.go("/print/plate/{trial: Poplar plywood 4 mm, cut}")
        for name, size in (("label, 70 x 36 mm", (70, 36)), ("sticker, 38 x 21 mm", (38, 21))):
            with self.subTest(name):
                page.get_by_text(name).click()
                # What goes on paper is what is on the screen: a printout begins once the chosen size is drawn.
                expect(page.get_by_role("main").and_(page.locator(f'[style*="width: {size[0]}mm"]'))).to_be_visible()
                page.emulate_media(media="print")
                pdf = page.pdf(prefer_css_page_size=True)
                page.emulate_media(media="screen")
                box = [float(side) for side in re.search(rb"/MediaBox\s*\[([^\]]*)\]", pdf)[1].split()]
                millimetres = [round(side / 72 * 25.4, 1) for side in box[2:]]
                self.assertAlmostEqual(millimetres[0], size[0], delta=0.6)
                self.assertAlmostEqual(millimetres[1], size[1], delta=0.6)

    def test_which_lens_is_on_is_asked_before_a_laser_starts(self):
        page = self.go("/trials/{trial: Luggage tag, surface}/burn")
        page.get_by_role("button", name="All", exact=True).click()
        start = page.get_by_role("button", name="Burn again")
        page.get_by_label("Nothing has moved, and I stand at Heron").check()
        expect(start).to_be_disabled()
        lenses = page.get_by_role("group", name="What is mounted on Heron")
        lenses.get_by_text("110").click()
        expect(page.get_by_text("This plate is for 175. Change the lens, or plan it for 110.")).to_be_visible()
        expect(start).to_be_disabled()
        lenses.get_by_text("175").click()
        expect(start).to_be_enabled()


if __name__ == "__main__":
    unittest.main()
