"""Placing by eye in the browser, on the phone at the machine: the outline nudged until it lies right, zero put where
the head stands."""

import os
import unittest

from playwright.sync_api import expect

from tests.bench_port import link_in, start_bench
from tests.browser.axe import AxeCase
from tests.browser.browser_case import PHONE_SCREEN

TRIAL = "{trial: Poplar plywood 6 mm, cut}"  # 25 cuts in poplar 6 mm, its files fetched


class PlacingTest(AxeCase):
    @classmethod
    def prepare(cls, folder):
        cls.bench = start_bench(cls, speed_up=20)
        link_in(folder, "Wren", cls.bench.url)

    def ask(self):
        return self.server.ask("GET", f"/api/trials/{TRIAL}")

    def test_the_outline_is_nudged_until_it_lies_right(self):
        page = self.open_page(PHONE_SCREEN)
        self.go(f"/trials/{TRIAL}/burn", page)
        page.get_by_label("All seen to, and I stand at Wren").check()
        before = self.ask()
        page.get_by_role("button", name="Outline, drawn tight").click()
        pad = page.get_by_role("group", name="Move the plate")
        expect(pad).to_be_visible()
        expect(page.get_by_text("Where it was planned")).to_be_visible()
        page.get_by_role("group", name="Step").get_by_text("5", exact=True).click()
        pad.get_by_role("button", name="right").click()
        page.get_by_role("group", name="Step").get_by_text("0.5", exact=True).click()
        pad.get_by_role("button", name="down").click()
        expect(page.get_by_text("Moved 5 mm right, 0.5 mm down")).to_be_visible()
        # At a keyboard the arrows do the same.
        page.locator("body").press("ArrowLeft")
        expect(page.get_by_text("Moved 4.5 mm right, 0.5 mm down")).to_be_visible()
        self.shot(page, "nudging")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE_SCREEN["width"])
        self.check(page, "nudging")
        page.get_by_role("button", name="Stop").click()
        expect(page.get_by_role("button", name="Start the burn")).to_be_visible()
        after = self.ask()
        self.assertTrue(after["frozen"])
        moved = [self.program_x_y(after)[i] - self.program_x_y(before)[i] for i in (0, 1)]
        self.assertEqual([round(value, 6) for value in moved], [4.5, -0.5])
        # The head stood where the outline stopped: from there it counts now.
        page.get_by_label("All seen to, and I stand at Wren").check()
        self.shot(page, "before")
        with page.expect_response("**/zero-here") as said:
            page.get_by_role("button", name="Zero where head is").click()
        self.assertTrue(said.value.ok)
        x, y = self.bench.controller.head
        expect(page.get_by_text("Machine zero:")).to_contain_text("the lower left corner of the piece")
        zero = self.ask()["design"]["zero"]
        self.assertEqual((zero["x_mm"], zero["y_mm"]), (round(x, 3), round(y, 3)))

    def program_x_y(self, page):
        """Where the plate lies, as far as place and zero say it."""
        place, zero = page["plate"]["trial"]["place"], page["design"].get("zero") or {"x_mm": 0, "y_mm": 0}
        return place["x_mm"] + zero["x_mm"], place["y_mm"] + zero["y_mm"]

    def test_zero_is_set_in_the_plan(self):
        page = self.go(f"/trials/{TRIAL}/plan")
        page.get_by_text("Piece", exact=True).click()
        page.get_by_label("Machine zero on the").select_option(label="plate: middle")
        page.get_by_label("Zero at X").fill("12")
        page.get_by_label("Zero at X").press("Tab")
        expect(page.get_by_text("to the left of and").first).to_be_visible()
        page.get_by_label("Zero at X").evaluate("(field) => field.scrollIntoView({block: 'center'})")
        self.shot(page, "plan")
        page.get_by_label("Machine zero on the").select_option(label="piece: lower left")
        expect(page.get_by_label("Zero at X")).to_have_value("0")

    def shot(self, page, name):
        if os.environ.get("SHOTS"):
            page.screenshot(path=f"{os.environ['SHOTS']}/{name}.png")


if __name__ == "__main__":
    unittest.main()
