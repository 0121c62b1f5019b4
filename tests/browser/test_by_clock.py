"""A file that a machine burns, followed by the clock on the phone at the machine: a flame, a hand that turns it lower,
a patch that begins already, and an early end."""

import re
import unittest

from playwright.sync_api import expect

from tests.browser.axe import AxeCase
from tests.browser.browser_case import PHONE_SCREEN

TRIAL = "{trial: Poplar plywood 6 mm, cut}"  # 25 cuts, its files fetched; in the tests nothing is linked


class ByClockTest(AxeCase):
    def page_of(self):
        return self.server.ask("GET", f"/api/trials/{TRIAL}")

    def test_on_a_phone_beside_the_machine(self):
        page = self.open_page(PHONE_SCREEN)
        self.go(f"/trials/{TRIAL}/burn", page)
        page.get_by_role("button", name="It starts now").click()
        expect(page.get_by_text("By the clock, time left")).to_be_visible()
        expect(page.get_by_role("button", name="It rests")).to_be_in_viewport()
        # Resting first, so that a slow computer does not change what is asked of it.
        page.get_by_role("button", name="It rests").click()
        expect(page.get_by_role("button", name="It goes on")).to_be_visible()
        self.check_both_themes(page, "by the clock")
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        second = self.page_of()["live"]["parts"][1]
        page.get_by_role("button", name=f"{second} begins already").click()
        expect(page.get_by_text(f"{second} begins just now", exact=False).first).to_be_visible()
        page.get_by_role("button", name=re.compile("flame")).click()
        expect(page.get_by_text(re.compile(r"flame at \w+ by the clock"))).to_be_visible()
        page.get_by_role("button", name="a little lower").click()
        expect(page.get_by_text(re.compile("power a little lower from"))).to_be_visible()
        page.get_by_role("group", name="What was turned").get_by_text("speed", exact=True).click()
        page.get_by_label("It shows now").fill("+10 %")
        page.get_by_role("button", name="to this").click()
        expect(page.get_by_text(re.compile(r"speed \+10 % from"))).to_be_visible()
        page.get_by_role("button", name="It ended here").click()
        expect(page.get_by_text("not reached", exact=False).first).to_be_visible()
        burned = self.page_of()
        self.assertIsNone(burned["live"])
        self.assertEqual((burned["runs"][-1]["state"], burned["runs"][-1]["by_clock"]), ("stopped", True))
        self.assertGreater(len(burned["not_burned"]), 5)


if __name__ == "__main__":
    unittest.main()
