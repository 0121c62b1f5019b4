"""Burning live in the browser: from the checklist over hold, corrections and stop to the rest, watched on a phone."""

import re
import sqlite3
import unittest
from contextlib import closing

from playwright.sync_api import expect

from rezept.actions.open_shop import DATABASE_NAME
from tests.bench_port import link_in, start_bench
from tests.browser.axe import AxeCase
from tests.browser.browser_case import PHONE_SCREEN

TRIAL = "{trial: Poplar plywood 6 mm, cut}"  # 25 cuts in poplar 6 mm, its files fetched


class BurnTest(AxeCase):
    @classmethod
    def prepare(cls, folder):
        cls.folder = folder
        cls.bench = start_bench(cls, speed_up=3)
        link_in(folder, "Wren", cls.bench.url)

    def live(self):
        return self.server.ask("GET", f"/api/trials/{TRIAL}")["live"]

    def test_from_the_checklist_to_the_plate(self):
        # What is heard is counted: each tone is an oscillator.
        self.page.add_init_script("""
            window.tones = []
            const made = AudioContext.prototype.createOscillator
            AudioContext.prototype.createOscillator = function () {
              const tone = made.call(this)
              window.tones.push(tone.frequency)
              return tone
            }""")
        # A phone lies at the machine already: on a slow computer the burn would be over before it had come up.
        phone = self.open_page(PHONE_SCREEN)
        self.go(f"/trials/{TRIAL}/burn", phone)
        page = self.go(f"/trials/{TRIAL}/burn")
        self.start(page)
        page.get_by_role("group", name="Tell me").get_by_text("a sound", exact=True).click()
        self.watch_on_a_phone(phone)
        self.hold_remark_correct(page)
        expect(phone.get_by_text("Kay Example holds the control.").or_(phone.get_by_text("You hold"))).to_be_visible()
        self.stop(page)
        # Slow until then, so that a slow computer sees it burn.
        self.bench.speed_up = 30
        self.the_rest(page)
        self.again(page)

    def start(self, page):
        checks = page.get_by_role("list", name="Before the start")
        expect(checks).to_contain_text("10.6 µm")
        expect(checks).to_contain_text("no emergency stop")
        self.check_both_themes(page, "before the start")
        start = page.get_by_role("button", name="Start the burn")
        expect(start).to_be_disabled()
        page.get_by_label("All seen to, and I stand at Wren").check()
        page.get_by_label("Held down by").fill("steel bars")
        start.click()
        expect(page.get_by_role("progressbar", name="Burned so far")).to_be_visible()
        expect(page.get_by_text("of 25 patches")).to_be_visible()

    def watch_on_a_phone(self, phone):
        expect(phone.get_by_role("button", name="Stop")).to_be_in_viewport()
        expect(
            phone.locator('[aria-label*="burns now"]').or_(phone.locator('[aria-label$="burned"]')).first
        ).to_be_visible()
        self.assertLessEqual(phone.evaluate("document.documentElement.scrollWidth"), PHONE_SCREEN["width"])

    def hold_remark_correct(self, page):
        expect(page.locator('[aria-label$=", burned"]').first).to_be_visible(timeout=40_000)
        # Space holds, whatever has the focus: even the button that would stop.
        page.get_by_role("button", name="Stop").focus()
        heard = page.evaluate("window.tones.length")
        page.keyboard.press("Space")
        expect(page.get_by_text("Held, beam off")).to_be_visible()
        # Two falling tones call somebody to it.
        tones = page.wait_for_function("(before) => window.tones.length > before && window.tones", arg=heard)
        low, lower = tones.evaluate("(all) => all.slice(-2).map((one) => one.value)")
        self.assertGreater(low, lower)
        page.keyboard.press("f")
        self.check_both_themes(page, "held")
        log = page.get_by_role("list").filter(has_text="holds it")
        expect(log).to_contain_text("flame")
        page.get_by_role("button", name="speed up").click()
        expect(page.get_by_text("+2 %").first).to_be_visible()
        # The button keeps the focus after the click; a remark is one key all the same.
        page.keyboard.press("s")
        expect(log).to_contain_text("smoke")
        # What is refused says so, and lies over no button that puts the beam off.
        self.expected_complaints = ("422 (UNPROCESSABLE ENTITY)",)
        refused = page.get_by_text("The correction stays as it was.").first
        for _ in range(9):
            with page.expect_response("**/correction"):
                page.get_by_role("button", name="power up").click()
            if refused.is_visible():
                break
        expect(refused).to_be_visible()
        page.get_by_role("button", name="Stop").click(trial=True, timeout=2000)
        go_on = page.get_by_role("button", name="Go on")
        expect(go_on).to_be_disabled()
        page.get_by_label("I stand at Wren, and it may go on").check()
        # A second press of space never lights the beam again.
        go_on.focus()
        page.keyboard.press("Space")
        page.keyboard.press("Space")
        page.wait_for_timeout(500)
        expect(page.get_by_text("Held, beam off")).to_be_visible()
        page.keyboard.press("Enter")
        expect(page.get_by_role("button", name="Hold")).to_be_visible()
        expect(log).to_contain_text("speed +2 %")

    def stop(self, page):
        # Records that somebody else is writing to take the end later than the screen hears of it.
        with closing(sqlite3.connect(self.folder / DATABASE_NAME, isolation_level=None)) as other:
            other.execute("BEGIN IMMEDIATE")
            page.keyboard.press("Escape")
            expect(
                page.get_by_role("heading", name="What there is").or_(page.get_by_text("not reached"))
            ).to_be_visible()
            self.assertEqual(self.live()["settled"], False)
        expect(page.get_by_text("Stopped by Kay Example.")).to_be_visible()
        run = self.live()
        # A stop just between two patches leaves none uncertain.
        self.uncertain = run["uncertain"]
        expect(page.locator('[aria-label*="nobody knows"]')).to_have_count(int(self.uncertain is not None))
        self.assertEqual(run["state"], "stopped")
        self.assertLess(len(run["done"]), 26)

    def the_rest(self, page):
        self.check_both_themes(page, "stopped")
        carry_on = page.get_by_role("button", name="Carry on with the rest")
        expect(carry_on).to_be_disabled()
        if self.uncertain:
            page.get_by_label("Nothing has moved").first.check()
            expect(carry_on).to_be_disabled()
            page.get_by_label("Nothing has moved").first.uncheck()
            page.get_by_text("bare: burn it").click()
        page.get_by_label("Nothing has moved").first.check()
        carry_on.click()
        expect(page.get_by_text("Burning the rest")).to_be_visible()
        expect(page.get_by_text("Every patch was burned.")).to_be_visible(timeout=60_000)
        expect(page.locator('[aria-label$=", burned"]')).to_have_count(25)
        expect(page.get_by_text("Held down by: steel bars")).to_be_visible()
        page.get_by_role("button", name=re.compile("Take back: flame")).click()
        expect(page.get_by_role("button", name=re.compile("Take back: flame"))).to_have_count(0)
        expect(page.get_by_role("button", name=re.compile("Take back"))).to_have_count(1)

    def again(self, page):
        """Choose a patch with the keyboard, log two more passes by hand; the plate says three."""
        page.locator("[data-patch=E5]").click()
        page.get_by_role("listbox").focus()
        page.keyboard.press("a")
        page.get_by_role("button", name="One pass more").click()
        page.get_by_role("button", name="I did it by hand").click()
        expect(page.get_by_text("2 more passes on E5")).to_be_visible()
        patch = next(
            one for one in self.server.ask("GET", f"/api/trials/{TRIAL}")["burned"]["patches"] if one["id"] == "E5"
        )
        self.assertEqual(patch["settings"]["passes"], 3)
        # Once more at another speed, put back against a stop: that is said to be in doubt, and what is wrong is said.
        self.expected_complaints += ("400",)
        page.locator("[data-patch=E4]").click()
        page.get_by_role("button", name="Choose E4").click()
        page.get_by_label("speed this time").fill("fast")
        page.get_by_label("The piece").select_option(label="put back against a stop")
        page.get_by_role("button", name="I did it by hand").click()
        expect(page.get_by_text("Speed is not a number I can read")).to_be_visible()
        page.get_by_label("speed this time").fill("20")
        page.get_by_role("button", name="I did it by hand").click()
        expect(page.get_by_text("E4 burned again after the piece was put back")).to_be_visible()


if __name__ == "__main__":
    unittest.main()
