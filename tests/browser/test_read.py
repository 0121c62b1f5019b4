"""Reading at the speed of a hand: every key lands on the patch that was active when it was pressed."""

import os
import re
import unittest

from playwright.sync_api import Route, expect

from tests.browser.browser_case import BrowserCase


class ReadTest(BrowserCase):
    """Trial 5 of the demo: leather, 25 patches, 11 of them read."""

    def setUp(self):
        super().setUp()
        self.go("/trials/{last trial: leather, area}/read")
        self.plate = self.page.get_by_role("listbox")
        self.plate.focus()

    def stored(self):
        return {
            reading["patch"]: reading
            for reading in self.server.ask("GET", "/api/trials/{last trial: leather, area}")["readings"]
        }

    def wait_until_kept(self):
        expect(self.page.get_by_text("kept", exact=True)).to_be_visible()

    def test_1_a_whole_plate_takes_one_key_a_patch(self):
        """It begins at the first unread patch; 14 digits typed without a pause score the other 14."""
        expect(self.page.get_by_text("11 of 25 read")).to_be_visible()
        digits = "54321054321054"
        self.page.keyboard.type(digits)
        expect(self.page.get_by_text("25 of 25 read")).to_be_visible()
        self.wait_until_kept()
        unread = [f"C{i}" for i in range(2, 6)] + [f"{row}{i}" for row in "DE" for i in range(1, 6)]
        stored = self.stored()
        self.assertEqual({patch: stored[patch]["values"].get("darkness") for patch in unread},
                         dict(zip(unread, map(int, digits), strict=True)))  # fmt: skip

    def test_2_undo_takes_them_back_in_turn(self):
        before = self.stored()
        self.plate.locator("[data-patch=A1]").click()
        self.page.keyboard.type("050")
        self.page.keyboard.type("uuu")
        self.wait_until_kept()
        after = self.stored()
        dark = [{p: r["values"].get("darkness") for p, r in said.items()} for said in (after, before)]
        self.assertEqual(*dark)
        self.assertEqual(after["A1"]["edit"], before["A1"]["edit"] + 2)
        expect(self.page).to_have_url(re.compile("patch=A1"))

    def test_3_shift_and_digit_is_evenness_and_stays(self):
        self.plate.locator("[data-patch=B2]").click()
        self.page.keyboard.press("Shift+Digit2")
        self.page.keyboard.press("s")
        self.page.keyboard.press("s")
        self.page.keyboard.press("m")
        self.wait_until_kept()
        reading = self.stored()["B2"]
        said = {key: reading["values"].get(key) for key in ("evenness", "soot", "melted")}
        self.assertEqual(said, {"evenness": 2, "soot": 2, "melted": 1})
        expect(self.page).to_have_url(re.compile("patch=B2"))

    def test_3b_what_turned_lighter_is_called_so(self):
        page = self.page
        self.plate.locator("[data-patch=B3]").click()
        expect(page.get_by_role("group", name="How dark is it?")).to_be_visible()
        page.keyboard.press("i")
        page.keyboard.press("i")
        asked = page.get_by_role("group", name="How bright is it?")
        expect(asked).to_contain_text("white")
        page.keyboard.press("4")
        expect(self.plate.get_by_label("B3, bright")).to_be_visible()
        self.wait_until_kept()
        self.assertEqual({key: self.stored()["B3"]["values"].get(key) for key in ("darkness", "turned")},
                         {"darkness": 4, "turned": 2})  # fmt: skip
        self.plate.locator("[data-patch=B3]").click()
        self.shot("turned")
        self.plate.focus()
        page.keyboard.press("i")
        expect(page.get_by_role("group", name="How strong is its colour?")).to_be_visible()

    def shot(self, name):
        if os.environ.get("SHOTS"):
            self.page.screenshot(path=f"{os.environ['SHOTS']}/{name}.png")

    def test_4_not_burned_and_cannot_tell_are_scores_too(self):
        self.plate.locator("[data-patch=E5]").click()
        self.page.keyboard.press("o")
        expect(self.page.get_by_text("E5 was not burned.")).to_be_visible()
        expect(self.page.get_by_text("24 of 24 read")).to_be_visible()
        self.page.keyboard.press("3")
        self.page.keyboard.press("o")
        expect(self.page.get_by_text("25 of 25 read")).to_be_visible()
        self.page.keyboard.press("t")
        self.wait_until_kept()
        unsure = self.stored()["E5"]
        self.assertEqual((unsure["cannot_tell"], unsure["values"].get("darkness")), (True, None))

    def test_5_notes_are_kept_when_one_goes_on(self):
        self.plate.locator("[data-patch=A2]").click()
        self.page.get_by_label("Note").fill("edge lifts")
        self.page.get_by_label("Note").press("Enter")
        self.wait_until_kept()
        self.assertEqual(self.stored()["A2"]["note"], "edge lifts")

    def test_6_somebody_elses_score_is_not_overwritten(self):
        """Another member scores A3 while this page is open: the late score is refused, theirs is shown."""
        burn = self.server.ask("GET", "/api/trials/{last trial: leather, area}")["burn"]["id"]
        url = f"/api/burns/{burn}/patches/A3/reading"
        self.server.ask("PUT", url, {"edit": self.stored()["A3"]["edit"], "values": {"darkness": 1, "evenness": 0}})
        self.expected_complaints = ("409",)
        self.plate.locator("[data-patch=A3]").click()
        self.page.keyboard.press("5")
        expect(self.page.get_by_text("Kay Example changed the reading of A3")).to_be_visible()
        self.assertEqual(self.stored()["A3"]["values"].get("darkness"), 1)
        expect(self.plate.get_by_role("option", name="A3, faint")).to_be_visible()

    def test_7_the_back_is_turned_like_a_page(self):
        front = self.plate.locator("[data-patch=A1]").bounding_box()
        self.page.keyboard.press("x")
        expect(self.page.get_by_text("seen from the back")).to_be_visible()
        back = self.plate.locator("[data-patch=A1]").bounding_box()
        self.assertGreater(back["x"], front["x"] + 100)
        self.assertAlmostEqual(back["y"], front["y"], delta=1)
        self.plate.locator("[data-patch=B1]").click()
        self.page.keyboard.press("ArrowLeft")
        expect(self.page).to_have_url(re.compile("patch=B2"))

    def test_8_a_key_is_obeyed_before_the_next_is_heard(self):
        """On a busy machine, too, nobody scores the patch or lays the face they have left."""
        labels = self.plate.evaluate(
            """async (plate) => {
                const label = () => document.querySelector('[role=listbox]').getAttribute('aria-label').split(' of ')[0]
                const seen = [label()]
                for (let i = 0; i < 2; i++) {
                    plate.dispatchEvent(new KeyboardEvent('keydown', { key: 'x', bubbles: true }))
                    await Promise.resolve()
                    seen.push(label())
                }
                return seen
            }"""
        )
        self.assertIn(labels, (["The front", "The back", "The front"], ["The back", "The front", "The back"]))

    def test_8b_taken_back_while_it_is_sent_it_is_kept_when_all_of_it_is(self):
        """A score, *can't tell* and its undoing, all before the first has arrived: that the server has the first says
        nothing of the last, though both say the same."""
        page = self.page
        held: list[Route] = []
        page.route("**/readings*", lambda route: held.append(route))
        before = self.stored()["A1"]["values"]["darkness"]
        self.plate.locator("[data-patch=A1]").click()
        said = 1 if before != 1 else 2
        page.keyboard.press(str(said))
        page.keyboard.press("Backspace")
        page.keyboard.press("t")
        page.keyboard.press("u")
        shown = self.plate.locator("[data-patch=A1]").get_attribute("aria-label")
        for sent in range(3):
            expect(page.get_by_text("keeping …")).to_be_visible()
            self.assertEqual(self.plate.locator("[data-patch=A1]").get_attribute("aria-label"), shown, sent)
            while len(held) <= sent:
                page.wait_for_timeout(10)
            with page.expect_response("**/readings*"):
                held[sent].continue_()
        self.wait_until_kept()
        self.assertEqual(self.stored()["A1"]["values"]["darkness"], said)

    def test_8c_until_it_is_known_how_the_piece_is_treated_no_score_is_given(self):
        """A key pressed right after *sanded* belongs neither to what was read before nor to what comes."""
        page = self.page
        held: list[Route] = []
        page.route("**/treatment", lambda route: held.append(route))
        before = self.stored()["A1"]
        self.plate.locator("[data-patch=A1]").click()
        page.get_by_label("The piece is", exact=True).select_option(label="wiped")
        page.get_by_role("listbox").focus()
        page.keyboard.press("5" if before["values"]["darkness"] != 5 else "4")
        for route in held:
            route.continue_()
        page.unroute("**/treatment")
        expect(page.get_by_text("0 of 25 read")).to_be_visible()
        self.assertNotIn("A1", self.stored())
        page.get_by_label("The piece is", exact=True).select_option(label="as burned")
        expect(page.get_by_text("0 of 25 read")).to_be_hidden()
        self.assertEqual(self.stored()["A1"], before)

    def test_9_sanded_it_is_read_anew_and_both_stand_side_by_side(self):
        page = self.page
        before = self.stored()["A1"]["values"]["darkness"]
        page.get_by_label("The piece is", exact=True).select_option(label="sanded")
        expect(page.get_by_text("0 of 25 read")).to_be_visible()
        page.locator("[data-patch=A1]").click()
        expect(page.get_by_text(f"as burned: {before:g}")).to_be_visible()
        page.get_by_role("listbox").focus()
        page.keyboard.press("1")
        expect(page.get_by_text("1 of 25 read")).to_be_visible()
        self.wait_until_kept()
        self.assertEqual(self.stored()["A1"]["values"]["darkness"], 1)
        page.get_by_label("The piece is", exact=True).select_option(label="as burned")
        expect(page.get_by_text("0 of 25 read")).to_be_hidden()
        page.locator("[data-patch=A1]").click()
        expect(page.get_by_text("sanded: 1 faint")).to_be_visible()
        self.assertEqual(self.stored()["A1"]["values"]["darkness"], before)


if __name__ == "__main__":
    unittest.main()
