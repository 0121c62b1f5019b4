"""Coupon by coupon on a phone at the machine: burned, said what came of it, the next one offered, until it is kept."""

import math
import random
import re
import unittest
from pathlib import Path

from playwright.sync_api import expect

from tests.browser.browser_case import PHONE_SCREEN, BrowserCase

SPEED, POWER = "speed of the next coupon", "power of the next coupon"


class PhoneTest(BrowserCase):
    def setUp(self):
        super().setUp()
        self.page = self.open_page(PHONE_SCREEN)
        self.taps = 0
        self.chance = random.Random(4)

    def tap(self, locator):
        locator.click()
        self.taps += 1

    def burned(self):
        """One coupon by hand: burned, and what came of it by a law of its own (it turns at 11 mm/s and 80 %)."""
        field = self.page.get_by_label(SPEED)
        expect(field).to_be_visible()
        speed, power = float(field.input_value()), float(self.page.get_by_label(POWER).input_value())
        got = math.log(power / 80) - math.log(speed / 11) + 0.04 * self.chance.gauss(0, 1)
        came = (got > -0.3) + (got > -0.12) + (got > 0)
        before = self.taps
        self.tap(self.page.get_by_role("button", name="I burned it"))
        asked = self.page.get_by_role("group", name="Did it go through?")
        self.tap(asked.get_by_role("button").nth(came))
        expect(asked).to_be_hidden()
        expect(self.page.get_by_label(SPEED)).to_be_visible()
        self.assertLessEqual(self.taps - before, 3)
        return speed, came

    def test_until_it_is_kept(self):
        page = self.go("/?process=cut&material={material: Poplar plywood 6 mm}&head={head: Wren}")
        page.get_by_role("button", name="Burn coupon by coupon").click()
        page.wait_for_url("**/burn")
        expect(page.get_by_text("Burn the first coupon")).to_be_visible()
        keep = page.get_by_role("link", name="Keep it")
        walked = []
        while len(walked) < 12 and not keep.is_visible():
            walked.append(self.burned())
        self.assertLessEqual(len(walked), 9, walked)
        self.assertTrue(walked[-1][1] == 3 and walked[-1][0] < 11, walked)
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)
        # One plate, as any other: read, decided and kept.
        keep.click()
        page.wait_for_url(re.compile("/decide"))
        expect(page.get_by_label("Outcomes of plate")).to_be_visible()
        expect(page.locator("[data-patch]")).to_have_count(len(walked))
        page.get_by_role("button", name="Keep as recipe").click()
        expect(page.get_by_text("is in the book")).to_be_visible()

    def test_typed_over_once_more_and_two_things_at_once(self):
        page = self.go("/?process=cut&material={material: Poplar plywood 6 mm}&head={head: Wren}")
        page.get_by_role("button", name="Burn coupon by coupon").click()
        page.get_by_label(SPEED).fill("600 mm/min")
        page.get_by_role("button", name="I burned it").click()
        page.get_by_role("button", name="3 drops out").click()
        expect(page.get_by_text("a quarter faster")).to_be_visible()
        expect(page.get_by_label(SPEED)).to_have_value("12.5")
        page.get_by_role("button", name="A1 once more").click()
        expect(page.get_by_label(SPEED)).to_have_value("10")
        page.get_by_label(SPEED).fill("13")
        page.get_by_label(POWER).fill("70")
        expect(page.get_by_text("2 things change at once (speed, power)")).to_be_visible()
        page.get_by_role("button", name="I burned it").click()
        page.get_by_role("button", name="not burned").click()
        # What stayed bare says nothing; the walk goes on from the first.
        expect(page.get_by_text("After A2: burn one more")).to_be_visible()
        expect(page.get_by_label(SPEED)).to_have_value("12.5")

    def test_what_cannot_be_is_said_and_nothing_is_lost(self):
        page = self.go("/?process=cut&material={material: Poplar plywood 6 mm}&head={head: Wren}")
        page.get_by_role("button", name="Burn coupon by coupon").click()
        self.expected_complaints = ("400", "422")
        page.get_by_label(SPEED).fill("much")
        page.get_by_role("button", name="I burned it").click()
        expect(page.get_by_role("alert").first).to_contain_text("much")
        expect(page.get_by_label(SPEED)).to_have_value("much")
        page.get_by_label(SPEED).fill("9")
        page.get_by_role("button", name="I burned it").click()
        expect(page.get_by_text("What came of A1")).to_be_visible()

    def test_keys_and_files_of_the_coupon_that_waits(self):
        page = self.go("/?process=cut&material={material: Poplar plywood 6 mm}&head={head: Wren}", self.open_page())
        page.get_by_role("button", name="Burn coupon by coupon").click()
        expect(page.get_by_label(SPEED)).to_be_visible()
        page.keyboard.press("Enter")
        expect(page.get_by_text("What came of A1")).to_be_visible()
        page.keyboard.press("1")
        expect(page.get_by_text("After A1: burn one more")).to_be_visible()
        page.get_by_role("button", name="Get its files").click()
        with page.expect_download() as got:
            page.locator("[data-file=csv]").click()
        sheet = Path(got.value.path()).read_text()
        self.assertIn("A2", sheet)
        self.assertNotIn("A1", sheet)


class BesideAnArrayTest(BrowserCase):
    """An array was burned and read; what it leaves open is burned beside it, one by one, in the same log."""

    def test_one_more_beside_it(self):
        page = self.go("/?process=cut&material={material: Poplar plywood 6 mm}&head={head: Wren}")
        page.get_by_role("button", name="Plan an array").click()
        page.wait_for_url("**/plan")
        page.get_by_role("button", name="Get the files").click()
        page.wait_for_url("**/burn?files")
        page.get_by_role("button", name="I burned it").click()
        page.get_by_role("link", name="Read the plate").click()
        page.wait_for_url("**/read")
        page.locator("[data-plate]").first.focus()
        for _ in range(5):
            page.keyboard.press("3")
        page.get_by_role("link", name="Burn", exact=False).first.click()
        page.get_by_role("button", name="One more beside it").click()
        expect(page.get_by_text(re.compile(r"burn one more"))).to_be_visible()
        expect(page.locator("[data-patch=A6]")).to_be_visible()
        page.get_by_label(SPEED).fill("19")
        page.get_by_role("button", name="I burned it").click()
        page.get_by_role("group", name="Did it go through?").get_by_role("button").nth(1).click()
        expect(page.get_by_text("After A6: burn one more")).to_be_visible()
        expect(page.locator("[data-patch]")).to_have_count(26)
        expect(page.locator("[data-own-numbers] text")).to_have_count(1)
        # Read knows it as one plate.
        page.get_by_role("link", name="Read", exact=False).first.click()
        page.wait_for_url(re.compile("/read"))
        expect(page.locator("[data-patch]")).to_have_count(26)


class LadderTest(BrowserCase):
    def test_a_known_sheet_in_another_thickness_begins_with_a_short_ladder(self):
        page = self.go("/?process=cut&material={material: Poplar plywood 6 mm}&head={head: Wren}")
        expect(page.get_by_text("known in another thickness")).to_be_visible()
        page.get_by_role("button", name="Plan a short ladder").click()
        page.wait_for_url("**/plan")
        expect(page.locator("[data-patch=A4]")).to_be_visible()
        self.assertEqual(page.locator("[data-patch^=B]").count(), 0)


if __name__ == "__main__":
    unittest.main()
