"""Photographs in the browser: dropped anywhere they find their plate, and the plate reads itself."""

import base64
import unittest
import urllib.request

from playwright.sync_api import expect

from rezept.actions.commands import burning, people, planning
from rezept.actions.open_shop import open_shop
from rezept.actions.queries import views, wall
from rezept.core.plan import plan, read_trial
from tests.browser.axe import AxeCase
from tests.browser.browser_case import PHONE_SCREEN
from tests.photographed import burned_plate, mirrored, taken, true_through

AXES = [
    {"parameter": "speed_mm_s", "along": "x", "values": [8, 12, 16, 24]},
    {"parameter": "power_pct", "along": "y", "values": [30, 50, 80]},
]
LABELS = {"on": True, "qr": True, "marks": True, "height_mm": 2.5, "settings": {"speed_mm_s": 80, "power_pct": 30}}
DROP = """([name, data]) => {
  const bytes = Uint8Array.from(atob(data), (letter) => letter.charCodeAt(0))
  const transfer = new DataTransfer()
  transfer.items.add(new File([bytes], name, { type: 'image/jpeg' }))
  for (const kind of ['dragover', 'drop'])
    document.body.dispatchEvent(new DragEvent(kind, { bubbles: true, cancelable: true, dataTransfer: transfer }))
}"""


class PhotosTest(AxeCase):
    """A plate of 12 cuts in the demo shop, burned on the bench and photographed."""

    @classmethod
    def prepare(cls, folder):
        shop = open_shop(folder)
        keeper = people.first_keeper(shop)
        inventory = wall.trial_list(shop, None, None)
        trial = next(one for one in inventory if one["process"] == "cut" and "Poplar plywood 4" in one["material"])
        cls.trial = planning.new_trial(shop, keeper, "cut", trial["material_id"], trial["head_id"])
        page = views.trial_page(shop, cls.trial)
        design = {**page["design"], "axes": AXES, "labels": LABELS, "off": [],
                  "patch": {**page["design"]["patch"], "width_mm": 8, "height_mm": 8, "gap_mm": 3}}  # fmt: skip
        planning.change_draft(shop, keeper, cls.trial, page["edit"], design, {})
        page = views.trial_page(shop, cls.trial)
        cls.burn = burning.mark_burned(shop, keeper, cls.trial, page["edit"], {})
        document = views.trial_page(shop, cls.trial)["burned"]["trial"]
        shop.close()
        plate = plan(read_trial({key: value for key, value in document.items() if key != "defaulted"}))
        burned = burned_plate(plate)
        cls.truth = true_through(plate, burned)
        cls.photos = {face: taken(burned, face, 31)[0].jpeg for face in ("front", "back")}

    def stored(self):
        return {row["patch"]: row for row in self.server.ask("GET", f"/api/trials/{self.trial}")["readings"]}

    def test_from_a_dropped_photo_to_a_read_plate(self):
        page = self.go("/")
        self.drop(page, "front")
        expect(page).to_have_url(f"{self.server.base}/trials/{self.trial}/read?burn={self.burn}&face=front")
        expect(page.get_by_text("seen from the front, found by its marks")).to_be_visible()
        expect(page.get_by_text("0 of 12 read")).to_be_visible()
        self.drop(page, "back")
        expect(page.get_by_text("seen from the back, found by its outline")).to_be_visible()
        self.pushed_before(page)
        self.read_the_rest(page)
        self.overrule(page)
        self.lay_by_hand(page)
        self.on_a_phone()

    def pushed_before(self, page):
        """It is asked once, and what is said stays to be put right."""
        asked = page.get_by_text("Was anything pushed out before it was taken?")
        expect(asked).to_be_visible()
        page.get_by_role("button", name="Yes", exact=True).click()
        expect(page.get_by_text("what is missing says nothing")).to_be_visible()
        page.get_by_role("button", name="Nothing was pushed out before").click()
        expect(page.get_by_text("what is missing says nothing")).to_have_count(0)
        expect(asked).to_have_count(0)

    def drop(self, page, face):
        page.evaluate(DROP, [f"{face}.jpg", base64.b64encode(self.photos[face]).decode()])

    def read_the_rest(self, page):
        """What the photos are sure of is read; the rest takes Enter a patch, the least sure first."""
        expect(page.get_by_text("12 of 12 read").or_(page.get_by_text("want"))).to_be_visible()
        self.check_both_themes(page, "read with photos")
        plate = page.get_by_role("listbox")
        plate.focus()
        by_photo = {patch: row["values"].get("through") for patch, row in self.stored().items()}
        self.assertEqual(by_photo, {patch: self.truth[patch] for patch in by_photo})
        self.assertGreaterEqual(len(by_photo), 8)
        for _ in range(12 - len(by_photo)):
            page.keyboard.press("n")
            page.keyboard.press("Enter")
        expect(page.get_by_text("12 of 12 read")).to_be_visible()
        expect(page.get_by_text("kept", exact=True)).to_be_visible()

    def overrule(self, page):
        """Two patches at one stroke; what the photos said stays to be seen, and undo gives it back its word."""
        plate = page.get_by_role("listbox")
        plate.locator("[data-patch=A1]").click()
        plate.locator("[data-patch=A2]").click(modifiers=["Shift"])
        expect(page.get_by_text("All 2 selected at once")).to_be_visible()
        other = next(digit for digit in range(4) if digit not in (self.truth["A1"], self.truth["A2"]))
        page.keyboard.press(str(other))
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        self.assertEqual([self.stored()[patch]["values"].get("through") for patch in ("A1", "A2")], [other, other])
        expect(page.get_by_text("Kay Example saw it otherwise")).to_be_visible()
        expect(page.get_by_text("saw otherwise")).to_be_visible()
        page.keyboard.press("u")
        expect(page.get_by_text("That counts until you say otherwise")).to_be_visible()

    def lay_by_hand(self, page):
        page.keyboard.press("x")
        expect(page.get_by_text("seen from the front")).to_be_visible()
        page.get_by_role("button", name="Lay it anew").click()
        handle = page.get_by_role("slider", name="Handle 2")
        handle.focus()
        page.keyboard.press("Shift+ArrowRight")
        expect(page.get_by_text("Not laid like this yet.")).to_be_visible()
        page.keyboard.press("Shift+ArrowLeft")
        self.check_both_themes(page, "laid by hand")
        page.get_by_role("button", name="Lay it like this").click()
        expect(page.get_by_text("Off by 0.")).to_be_visible()
        page.get_by_role("button", name="Done").click()
        # The plate is laid, drawn to its edges and measured anew by the worker, beside whatever else is read.
        expect(page.get_by_text("found by hand to 0.").first).to_be_visible(timeout=60_000)

    def on_a_phone(self):
        phone = self.open_page(PHONE_SCREEN)
        self.go(f"/trials/{self.trial}/read", phone)
        expect(phone.get_by_role("button", name="drops out")).to_be_in_viewport()
        self.assertLessEqual(phone.evaluate("document.documentElement.scrollWidth"), 390)

    def test_a_click_between_patches_means_the_nearest(self):
        page = self.go("/trials/{trial: Poplar plywood 4 mm, cut}/read?patch=A1")
        box = page.locator("[data-patch=C3]").bounding_box()
        page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] + 3)
        expect(page.locator("[data-patch=C3]")).to_have_attribute("aria-selected", "true")
        expect(page.get_by_text("C3", exact=True).first).to_be_visible()

    def test_a_doubtful_photo_asks_and_is_answered(self):
        """A back as a mirror shows it."""
        back = next(
            one
            for one in self.server.ask("GET", "/api/trials/{trial: Polypropylene, cut}")["photos"]
            if one["face"] == "back"
        )
        with urllib.request.urlopen(f"{self.server.base}/api/photos/{back['sha256']}") as answer:
            jpeg = mirrored(answer.read())
        page = self.go("/trials/{trial: Polypropylene, cut}/read?face=back")
        expect(page.get_by_role("button", name="Lay it anew")).to_be_visible()
        held = []
        page.route("**/measured", lambda request: held.append(request))
        field = page.get_by_label("Photo of the back", exact=True)
        with page.expect_request("**/measured"):
            field.set_input_files({"name": "back.jpg", "mimeType": "image/jpeg", "buffer": jpeg})
        doubt = page.get_by_text("It looks like the other face")
        turn_it = page.get_by_role("button", name="Turn it round")
        # Before the figures are there, which push everything down, no button is offered that would move away.
        expect(page.get_by_text("Being read …")).to_be_visible()
        expect(turn_it).to_have_count(0)
        for request in held:
            request.continue_()
        page.unroute("**/measured")
        expect(doubt).to_be_visible()
        turn_it.click()
        expect(page.get_by_text("Found by hand to").last).to_be_visible()
        expect(doubt).to_have_count(0)

    def test_the_edge_of_a_part_stands_with_it(self):
        page = self.go(f"/trials/{self.trial}/read", self.open_page(PHONE_SCREEN))
        page.locator("[data-patch=B2]").click()
        edge = {"name": "edge.jpg", "mimeType": "image/jpeg", "buffer": self.photos["back"]}
        page.get_by_label("Photo of the edge of B2").set_input_files(edge)
        shown = page.get_by_label("B2, photo by")
        expect(shown).to_be_visible()
        self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), PHONE_SCREEN["width"])
        page.locator("[data-patch=A1]").click()
        expect(page.get_by_text("The edge of A1")).to_be_visible()
        expect(shown).to_be_hidden()
        page.locator("[data-patch=B2]").click()
        page.get_by_role("button", name="Take the photo of B2 away").click()
        expect(shown).to_be_hidden()
        page.get_by_role("button", name="Undo").last.click()
        expect(shown).to_be_visible()

    def test_a_photo_of_no_plate_says_so(self):
        self.expected_complaints = ("400",)
        page = self.go("/trials")
        page.evaluate(DROP, ["plain.jpg", base64.b64encode(self.photos["back"]).decode()])
        expect(page.get_by_text("No plate's code is to be seen in this photo")).to_be_visible()


if __name__ == "__main__":
    unittest.main()
