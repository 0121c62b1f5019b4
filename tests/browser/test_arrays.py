"""Planning arrays of three settings and more, single patches, piece and order, in Chromium."""

import unittest

from playwright.sync_api import expect

from tests.browser.browser_case import BrowserCase


class ArraysTest(BrowserCase):
    def plan_of(self):
        """The plan of a new trial, so that no test sees what another changed."""
        request, base = self.page.request, self.server.base
        shop = request.get(f"{base}/api/shop").json()
        sheet = next(one["id"] for one in shop["materials"] if one["title"] == "Poplar plywood 6 mm")
        head = next(one["id"] for one in shop["heads"] if one["title"] == "Wren")
        made = request.post(f"{base}/api/trials", data={"process": "cut", "material": sheet, "head": head})
        return self.go(f"/trials/{made.json()['id']}/plan")

    def patches(self, page):
        return page.locator("[data-patch]").count()

    def wait_for_patches(self, page, count):
        expect(page.locator("[data-patch]")).to_have_count(count)

    def test_a_third_setting_as_blocks_and_away_again(self):
        page = self.plan_of()
        self.wait_for_patches(page, 25)
        page.get_by_label("a third setting, as blocks").select_option(label="passes")
        self.wait_for_patches(page, 75)
        page.locator("[data-patch='3-E5']").click()
        page.get_by_text("3-E5", exact=True).wait_for()
        # From block to block with the arrow keys, as one sees it.
        page.locator("[data-plate]").focus()
        page.locator("[data-patch='1-A5']").click()
        page.keyboard.press("ArrowRight")
        page.get_by_text("2-A1", exact=True).wait_for()
        page.get_by_label("Steps in a line, blocks across").fill("2")
        expect(page.get_by_label("Plan of Poplar plywood 6 mm, 75 patches")).to_be_visible()
        page.get_by_text("kept", exact=True).wait_for()
        top = {patch: page.locator(f"[data-patch='{patch}']").bounding_box()["y"] for patch in ("3-A1", "1-E1")}
        self.assertLess(top["3-A1"], top["1-E1"])
        page.get_by_label("Setting along block_x").select_option(label="hold it")
        self.wait_for_patches(page, 25)
        self.check_complaints()

    def test_a_ladder_of_one_setting(self):
        page = self.plan_of()
        page.get_by_label("Setting along y").select_option(label="hold it")
        self.wait_for_patches(page, 5)
        page.get_by_label("Steps in a line, x axis").fill("3")
        page.locator("[data-patch=B2]").wait_for()
        self.assertEqual(page.locator("[data-patch=A4]").count(), 0)
        page.get_by_label("Undo").click()
        page.get_by_label("Undo").click()
        self.wait_for_patches(page, 25)

    def test_one_patch_by_hand_and_extremes_left_out(self):
        page = self.plan_of()
        self.wait_for_patches(page, 25)
        page.locator("[data-patch=C3]").click()
        page.get_by_label("power of C3").fill("66")
        page.get_by_text("Give it back to the axes").wait_for()
        page.get_by_text("Leave out", exact=True).click()
        page.get_by_label("Greatest dose").fill("6")
        page.get_by_text("left out by their dose").wait_for()
        page.get_by_text("Give it back to the axes").click()
        page.get_by_text("Give it back to the axes").wait_for(state="detached")

    def test_order_piece_and_fit(self):
        page = self.plan_of()
        self.wait_for_patches(page, 25)
        page.get_by_text("scattered", exact=True).click()
        page.get_by_text("10 patches apart of 10 possible").wait_for()
        page.get_by_label("Play the order on the plate").click()
        page.get_by_label("Stop playing the order").click()
        page.get_by_text("Piece", exact=True).click()
        page.get_by_label("Piece", exact=True).get_by_text("rectangle").click()
        page.get_by_role("img", name="The plate on its piece").wait_for()
        page.get_by_label("Piece width").fill("60")
        page.get_by_text("beyond the usable piece").wait_for()
        page.get_by_label("Fit").select_option("more_patches")
        page.get_by_text("beyond the usable piece").wait_for(state="detached")
        self.assertLess(self.patches(page), 25)

    def test_labels_with_code_and_marks(self):
        page = self.plan_of()
        page.get_by_text("marks", exact=True).click()
        page.get_by_text("code", exact=True).click()
        expect(page.locator("[data-plate] [data-mark]")).to_have_count(5)
        kinds = page.locator("[data-mark]").evaluate_all("marks => marks.map(mark => mark.dataset.mark).sort()")
        self.assertEqual(kinds, ["corner", "corner", "corner", "distinct", "qr"])
        self.expected_complaints = ("400 (BAD REQUEST)",)
        page.get_by_text("coupon", exact=True).click()
        page.get_by_text("Cut out", exact=True).click()
        page.get_by_text("cut out last").click()
        page.get_by_text("never guessed").first.wait_for()
        page.get_by_label("Cut-out speed").fill("10")
        page.get_by_label("Cut-out power").fill("80")
        page.get_by_text("kept", exact=True).wait_for()


if __name__ == "__main__":
    unittest.main()
