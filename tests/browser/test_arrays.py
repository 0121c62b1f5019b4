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


class ListTest(BrowserCase):
    def test_an_array_becomes_a_list_and_grows_by_lines_and_cells(self):
        """From the array's 25 patches; one taken off, one once more, one typed, two lines pasted from a sheet."""
        page = self.go("/trials/{trial: Poplar plywood 6 mm, cut}/plan")
        page.get_by_role("button", name="Write it as a list").click()
        table = page.get_by_role("table", name="Settings of each patch")
        expect(table.get_by_role("row")).to_have_count(26)
        expect(page.get_by_text("25 patches one by one")).to_be_visible()
        page.get_by_role("button", name="Take E5 off the list").click()
        page.get_by_role("button", name="A1 once more").click()
        with page.expect_response("**/design"):
            field = page.get_by_label("speed of A2")
            field.fill("600 mm/min")
            field.press("Enter")
        expect(field).to_have_value("10")
        last = page.get_by_label("speed of E5")
        last.focus()
        with page.expect_response("**/design"):
            page.evaluate(
                """text => {
                  const data = new DataTransfer(); data.setData('text', text)
                  document.activeElement.dispatchEvent(
                    new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true }))
                }""",
                "7.5\t62\n7\t64",
            )
        expect(page.get_by_label("power of F1")).to_have_value("64")
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        kept = self.server.ask("GET", "/api/trials/{trial: Poplar plywood 6 mm, cut}")
        speeds = [patch["settings"]["speed_mm_s"] for patch in kept["plate"]["patches"]]
        self.assertEqual((len(speeds), speeds[1], speeds[-2:]), (26, 10.0, [7.5, 7.0]))
        self.assertEqual(kept["design"]["axes"], [])


if __name__ == "__main__":
    unittest.main()
