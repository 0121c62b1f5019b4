"""Decide in the browser: pins and cards in step, a probe that is dragged, bounds, keeping and the next array."""

import re
import unittest

from playwright.sync_api import expect

from tests.browser.axe import AxeCase
from tests.browser.browser_case import PHONE_SCREEN

POPLAR = "/trials/{trial: Poplar plywood 4 mm, cut}/decide"
# Moves of a pointer over the map, each in a frame of its own, and how many frames a second came of it.
DRAGGED = """(box) => new Promise((done) => {
  const plate = document.querySelector('[data-plate]')
  let moves = 0
  const began = performance.now()
  const step = () => {
    const share = (moves % 60) / 60
    const at = { clientX: box.x + box.width * (0.3 + 0.5 * share), clientY: box.y + box.height * (0.3 + 0.4 * share) }
    plate.dispatchEvent(new PointerEvent('pointermove', { bubbles: true, pointerType: 'mouse', ...at }))
    if (++moves < 120) requestAnimationFrame(step)
    else done((moves / (performance.now() - began)) * 1000)
  }
  requestAnimationFrame(step)
})"""


class DecideTest(AxeCase):
    def open(self, path=POPLAR):
        page = self.go(path)
        expect(page.locator("[data-finding]")).to_be_visible()
        return page

    def test_cards_and_pins_go_in_step(self):
        page = self.open()
        expect(page.locator("[data-map] image")).to_be_attached()
        fastest = page.get_by_role("region", name="Fastest")
        expect(fastest.get_by_text("100 fresh sheets")).to_be_visible()
        pins = page.locator("[data-plate]")
        expect(pins.get_by_text("fastest", exact=True)).to_be_visible()
        page.get_by_role("button", name="Most forgiving").click()
        expect(pins.get_by_text("forgiving", exact=True)).to_be_visible()
        expect(pins.get_by_text("fastest", exact=True)).to_have_count(0)
        self.check_both_themes(page, "decide with a map")

    def test_a_probe_says_what_to_expect_anywhere(self):
        page = self.open()
        box = page.locator("[data-plate]").bounding_box()
        for share in (0.3, 0.5):
            page.mouse.move(box["x"] + box["width"] * share, box["y"] + box["height"] * 0.4)
            expect(page.locator("[data-probe]")).to_contain_text("J/mm")
        said = page.locator("[data-probe]").inner_text()
        page.mouse.move(box["x"] + box["width"] * 0.8, box["y"] + box["height"] * 0.7)
        expect(page.locator("[data-probe]")).not_to_have_text(said)
        requests = []
        page.on("request", lambda one: requests.append(one.url))
        frames = page.evaluate(DRAGGED, box)
        # Every frame of a screen of 60; what it says comes from the grid that is here already.
        self.assertGreater(frames, 0)
        self.assertEqual(requests, [])

    def test_bounds_stand_in_the_address_and_change_the_choice(self):
        page = self.open()
        page.get_by_label("Power at most").fill("60")
        page.keyboard.press("Enter")
        expect(page).to_have_url(re.compile("power_at_most_pct=60"))
        fastest = page.get_by_role("region", name="Fastest")
        expect(fastest).not_to_contain_text("85")
        page.reload()
        expect(page.get_by_label("Power at most")).to_have_value("60")
        page.get_by_label("Power at most").fill("2")
        page.keyboard.press("Enter")
        expect(page.get_by_text("Nothing near what was burned keeps to that")).to_be_visible()

    def test_what_is_chosen_is_kept_and_each_tap_moves_it(self):
        page = self.open()
        page.get_by_role("button", name="Most forgiving").click()
        page.get_by_role("button", name="Keep it").click()
        expect(page.get_by_text("as an estimate until it has held")).to_be_visible()
        # The notice stands before the list of what is kept is fetched anew.
        kept = page.get_by_role("link", name="recipe", exact=True)
        expect(kept).to_have_count(2)
        kept.last.click()
        said = page.get_by_text("of 100 fresh sheets (")
        expect(said).to_be_visible()
        expect(page.get_by_text("No patch of them had just these settings")).to_be_visible()
        rests_on = page.get_by_text("since.")
        taps = int(re.search(r"(\d+) taps? since", rests_on.inner_text())[1])
        page.get_by_role("button", name="It held").first.click()
        expect(rests_on).to_contain_text(f"{taps + 1} taps since")
        expect(page.get_by_text("tried").first).to_be_visible()

    def test_the_next_array_in_one_press(self):
        page = self.open()
        page.get_by_role("button", name="Plan it").click()
        expect(page).to_have_url(re.compile("/plan$"))
        # The address is the plan's before the page is.
        expect(page.get_by_role("button", name="Burn it now")).to_be_visible()
        expect(page.get_by_text("another sheet")).to_be_visible()

    def test_a_wanted_darkness(self):
        page = self.open("/trials/{trial: Vegetable-tanned leather, area}/decide")
        page.get_by_label("L* wanted").fill("40")
        page.keyboard.press("Enter")
        wanted = page.get_by_role("region", name="The darkness you want")
        expect(wanted).to_contain_text("L* 40 on a fresh sheet")

    def test_on_a_phone(self):
        page = self.open_page(PHONE_SCREEN)
        self.go(POPLAR, page)
        expect(page.locator("[data-finding]")).to_be_visible()
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)


if __name__ == "__main__":
    unittest.main()
