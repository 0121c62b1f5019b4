"""A machine with a dial: its scale in the Shop, a plan that turns it least, a burn that waits, what was read off."""

import unittest

from playwright.sync_api import expect

from tests.bench_port import link_in, start_bench
from tests.browser.axe import AxeCase
from tests.browser.browser_case import PHONE_SCREEN, settle

PLYWOOD = "{trial: Poplar plywood 4 mm, cut}"


class ByHandTest(AxeCase):
    @classmethod
    def prepare(cls, folder):
        cls.bench = start_bench(cls, speed_up=30)
        link_in(folder, "Wren", cls.bench.url)

    def test_from_the_dial_to_what_was_read_off(self):
        self.say_what_the_dial_shows()
        self.plan()
        self.burn()

    def say_what_the_dial_shows(self):
        self.expected_complaints = ("400",)
        page = self.go("/shop")
        page.get_by_role("button", name="Change Wren", exact=True).click()
        form = page.get_by_role("form", name="Wren")
        form.get_by_role("group", name="Set by hand, told by no program").get_by_label("power", exact=True).check()
        scales = form.get_by_role("group", name="Scales of its control")
        scales.get_by_label("Another scale").select_option(label="power")
        scales.get_by_label("power in").fill("mA")
        scales.get_by_label("finest read").fill("0.5")
        scales.get_by_label("What it shows = power, a pair a line").fill("3 mA = 12 %\n8 = 40\n30 = 40")
        form.get_by_role("button", name="Keep").click()
        expect(scales.get_by_role("alert")).to_contain_text("rise or fall together")
        scales.get_by_label("What it shows = power, a pair a line").fill("3 mA = 12 %\n8 = 40\n20 = 84")
        form.get_by_role("group", name="Fields of its control").get_by_role("button", name="power", exact=True).click()
        self.check_both_themes(page, "a machine with a dial")
        form.get_by_role("button", name="Keep").click()
        expect(form).to_have_count(0)
        machines = self.server.ask("GET", "/api/shop")["machines"]
        facts = next(one["facts"] for one in machines if one["name"] == "Wren")
        self.assertEqual(facts["by_hand"], ["power_pct"])
        self.assertEqual(
            facts["curves"], {"power_pct": {"unit": "mA", "pairs": [[3, 12], [8, 40], [20, 84]], "step": 0.5}}
        )
        self.assertEqual(facts["control_order"], ["power_pct"])

    def plan(self):
        """The array of the demo shop as a new one: its steps are readings of the dial."""
        page = self.go("/?process=cut&material={material: Poplar plywood 4 mm}&head={head: Wren}")
        page.get_by_role("button", name="Plan an array").click()
        page.wait_for_url("**/plan")
        settle(page)
        expect(page.get_by_text("By hand", exact=False).first).to_be_visible()
        self.check_both_themes(page, "a plan with a dial")
        self.trial = int(page.url.split("/trials/")[1].split("/")[0])

    def burn(self):
        page = self.page
        page.get_by_role("button", name="Burn it now").click()
        page.wait_for_url("**/burn")
        settle(page)
        page.get_by_label("I stand at Wren").check()
        page.get_by_role("button", name="Start the burn").click()
        card = page.get_by_role("form", name="Set by hand")
        expect(card.get_by_role("status")).to_contain_text("mA, then go on.")
        self.check_both_themes(page, "waits for a hand")
        phone = self.open_page(PHONE_SCREEN)
        self.go(f"/trials/{self.trial}/burn", phone)
        expect(phone.get_by_role("button", name="go on")).to_be_in_viewport()
        self.assertLessEqual(phone.evaluate("document.documentElement.scrollWidth"), 390)
        self.turn_each(page, card)

    def turn_each(self, page, card):
        """The lettering as planned; of the first patches 11 mA are read off; all else as planned."""
        stops = self.server.ask("GET", f"/api/trials/{self.trial}")
        powers = sorted({patch["settings"]["power_pct"] for patch in stops["plate"]["patches"]})
        for turn in range(len(powers) + 1):
            sentence = card.get_by_role("status").inner_text()
            if turn == 1:
                card.get_by_label("power as read off, mA").fill("11")
            card.get_by_role("button", name="go on").click()
            expect(card.get_by_text(sentence)).to_have_count(0, timeout=40_000)
            expect(card.or_(page.get_by_text("Every patch was burned."))).to_be_visible(timeout=60_000)
        expect(page.get_by_text("Every patch was burned.")).to_be_visible()
        got = self.server.ask("GET", f"/api/trials/{self.trial}")["burned"]["patches"]
        # 8 = 40 and 20 = 84: 11 mA are 51 %.
        self.assertEqual({patch["settings"]["power_pct"] for patch in got}, {51, *powers[1:]})


if __name__ == "__main__":
    unittest.main()
