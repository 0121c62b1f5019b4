"""From "what do we use for this?" to a setting in the book, as a technician walks it."""

import csv
import io
import json
import re
import tempfile
import unittest
import xml.etree.ElementTree as ET
from pathlib import Path

from PIL import Image
from playwright.sync_api import expect

from tests.browser.browser_case import PHONE_SCREEN, BrowserCase
from tests.formats.gcode_reader import read_gcode

SVG = "{http://www.w3.org/2000/svg}"


class WalkTest(BrowserCase):
    def test_the_whole_path(self):
        page = self.go("/")
        self.become("Tess")
        self.ask()
        self.plan()
        files = self.get_files()
        self.check_files(files)
        self.burn()
        self.read()
        self.decide()
        self.book()
        expect(page).to_have_url(re.compile(r"/\?"))

    def ask(self):
        page = self.page
        page.get_by_label("Material").select_option("Printing linoleum")
        expect(page.get_by_text("Not known yet on Wren.")).to_be_visible()
        page.get_by_label("Material").select_option("Poplar plywood")
        page.get_by_label("Thickness").select_option(label="6 mm")
        expect(page.get_by_text("with 80 in 100 between")).to_be_visible()
        expect(page.get_by_role("listitem").filter(has_text="Poplar plywood 4 mm").first).to_be_visible()
        page.get_by_role("button", name="Plan an array").click()
        page.wait_for_url("**/trials/*/plan")
        self.trial = int(page.url.split("/")[-2])

    def plan(self):
        """Speed from 600 mm/min in three steps, passes 1 to 2 upward, one patch left out."""
        page = self.page
        plate = page.get_by_role("listbox")
        expect(plate.get_by_role("option")).to_have_count(25)

        start = page.get_by_label("speed from, x axis")
        start.fill("fast")
        expect(page.get_by_role("alert").filter(has_text="not a number I can read")).to_be_visible()
        self.expected_complaints = ("400",)
        start.fill("600 mm/min")
        page.get_by_label("speed to, x axis").fill("20")
        for _ in range(2):
            page.get_by_role("button", name="One step less along x").click()
        expect(plate.get_by_role("option")).to_have_count(15)
        start.blur()
        expect(start).to_have_value("10")

        page.get_by_label("Setting along y").select_option("passes")
        page.get_by_label("passes to, y axis").fill("2")
        page.get_by_role("button", name="One step less along y").click()
        page.get_by_role("button", name="One step less along y").click()
        expect(plate.get_by_role("option")).to_have_count(6)
        page.get_by_label("power", exact=True).fill("60 %")

        plate.locator("[data-patch=B3]").click()
        # The warnings offer the same of theirs; what is meant here stands with the patch.
        page.get_by_role("button", name="Leave it out").last.click()
        expect(page.locator("[data-tick]")).to_have_count(5)
        page.get_by_role("button", name="Undo").click()
        expect(page.locator("[data-tick]")).to_have_count(6)
        page.get_by_role("button", name="Redo").click()
        expect(page.locator("[data-tick]")).to_have_count(5)
        expect(page.get_by_text("kept", exact=True)).to_be_visible()

    def get_files(self):
        page = self.page
        page.get_by_role("button", name="Get the files").click()
        page.wait_for_url("**/trials/*/burn?files")
        files = {}
        with tempfile.TemporaryDirectory() as folder:
            for kind in ("gcode", "svg", "csv", "json"):
                with page.expect_download() as waiting:
                    page.locator(f"[data-file={kind}]").click()
                path = Path(folder) / waiting.value.suggested_filename
                waiting.value.save_as(path)
                self.assertTrue(path.name.startswith(f"7K3Q-T{self.trial:03d}.1-poplar-plywood-6-mm."), path.name)
                files[kind] = path.read_bytes()
        return files

    def check_files(self, files):
        """What was planned on the screen is what stands in the files, read by others than our writers."""
        plate = json.loads(files["json"])
        planned = {p["id"]: p for p in plate["patches"]}
        self.assertEqual(sorted(plate["order"]), ["A1", "A2", "A3", "B1", "B2"])

        program = read_gcode(files["gcode"])
        for patch, speed, passes in [("A1", 10, 1), ("A2", 15, 1), ("A3", 20, 1), ("B1", 10, 2), ("B2", 15, 2)]:
            moves = program.burning(f"patch {patch}")
            self.assertEqual({(move.feed, move.beam) for move in moves}, {(speed * 60.0, 600.0)}, patch)
            self.assertAlmostEqual(sum(move.length for move in moves), 40.0 * passes, places=2)
            x, y = planned[patch]["x_mm"], planned[patch]["y_mm"]
            self.assertAlmostEqual(min(move.end[0] for move in moves), x, places=2)
            self.assertAlmostEqual(min(move.end[1] for move in moves), y, places=2)
        self.assertEqual(program.burning("patch B3"), [])
        self.assertGreater(program.burned_length("label"), 100)
        self.assertTrue(all(move.air for move in program.burning("patch")))

        root = ET.fromstring(files["svg"])
        groups = {g.get("id"): g for g in root.iter(f"{SVG}g")}
        self.assertEqual(groups["patch-B1"][0].get("data-passes"), "2")
        self.assertNotIn("patch-B3", groups)

        rows = {row["patches"]: row for row in csv.DictReader(io.StringIO(files["csv"].decode()))}
        self.assertEqual((rows["A2"]["speed mm/s"], rows["A2"]["power %"]), ("15", "60"))
        self.assertNotIn("B3", rows)
        self.assertAlmostEqual(float(rows["A2"]["dose J/mm"]), 36 / 15, places=4)

    def burn(self):
        """The only lot is there already, marked; what was done to another sheet is not. One click logs the burn."""
        page = self.page
        expect(page.get_by_label("Lot")).to_have_value("autumn delivery")
        expect(page.get_by_text("the only lot, not looked at yet").first).to_be_visible()
        expect(page.get_by_label("Focus, how set")).to_have_value("")
        page.get_by_label("Measured thickness, mm").fill("5,8")
        page.get_by_label("Note").fill("weights at the corners")
        page.get_by_role("button", name="I burned it").click()
        expect(page.get_by_role("main").get_by_text("Tess Sample").first).to_be_visible()
        expect(page.get_by_text("5.8 mm measured")).to_be_visible()
        plate = page.get_by_role("listbox")
        plate.locator("[data-patch=A3]").click()
        page.get_by_role("button", name="A3 was not burned").click()
        expect(page.get_by_text("Not burned: A3.")).to_be_visible()
        page.get_by_role("link", name="Read the plate").click()
        page.wait_for_url("**/read*")

    def read(self):
        """A digit scores and goes on; letters tag; u takes back."""
        page = self.page
        plate = page.get_by_role("listbox")
        expect(page.get_by_text("0 of 4 read")).to_be_visible()
        plate.focus()
        page.keyboard.press("c")
        page.keyboard.press("c")
        page.keyboard.press("3")
        page.keyboard.press("2")
        page.keyboard.press("1")
        expect(page.get_by_text("3 of 4 read")).to_be_visible()
        page.keyboard.press("u")
        expect(page.get_by_text("2 of 4 read")).to_be_visible()
        page.keyboard.press("3")
        page.keyboard.press("3")
        expect(page.get_by_text("4 of 4 read")).to_be_visible()
        page.keyboard.press("t")
        page.keyboard.press("u")
        page.keyboard.press("x")
        expect(page.get_by_text("seen from the back")).to_be_visible()
        page.keyboard.press("x")

        photo = io.BytesIO()
        Image.new("RGB", (320, 240), (190, 150, 100)).save(photo, "JPEG")
        page.get_by_label("Photo of the front", exact=True).set_input_files(
            {"name": "plate.jpg", "mimeType": "image/jpeg", "buffer": photo.getvalue()}
        )
        # No plate is on it: it is kept all the same, and says so.
        expect(page.get_by_text("too small to measure anything")).to_be_visible()
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        outcomes = {r["patch"]: r for r in self.server.ask("GET", f"/api/trials/{self.trial}")["readings"]}
        self.assertEqual(
            {p: r["values"].get("through") for p, r in outcomes.items()}, {"A1": 3, "A2": 2, "B1": 3, "B2": 3}
        )
        self.assertEqual(outcomes["A1"]["values"].get("char"), 2)
        page.get_by_role("link", name="Decide").last.click()
        page.wait_for_url("**/decide*")

    def decide(self):
        page = self.page
        # The address changes before the page does.
        expect(page.get_by_label("Outcomes of plate")).to_be_visible()
        page.get_by_role("listbox").locator("[data-patch=B1]").click()
        expect(page.get_by_text("It came out drops out.")).to_be_visible()
        expect(page.get_by_text(re.compile(r"holds to 15 mm/s"))).to_be_visible()
        page.get_by_label("For what (may be empty)").fill("lantern bases")
        page.get_by_text("proven", exact=True).click()
        page.get_by_role("button", name="Keep as recipe").click()
        expect(page.get_by_text("B1 is in the book")).to_be_visible()

    def book(self):
        page = self.page
        page.keyboard.press("Escape")
        page.get_by_role("navigation", name="Places").get_by_role("link", name="Book").click()
        page.get_by_label("Find", exact=True).fill("lantern bases")
        expect(page.get_by_role("list", name="Recipes").get_by_role("listitem")).to_have_count(1)
        page.get_by_role("list", name="Recipes").get_by_role("link").click()
        expect(page.get_by_role("heading", name="Poplar plywood 6 mm")).to_be_visible()
        expect(page.get_by_text(f"7K3Q-T{self.trial:03d}.1, patch B1")).to_be_visible()
        page.get_by_label("My unit of speed").select_option("mm/min")
        expect(page.get_by_text("600 mm/min")).to_be_visible()
        page.get_by_label("My unit of speed").select_option("mm/s")
        page.get_by_role("navigation", name="Places").get_by_role("link", name="Ask").click()
        page.get_by_label("Thickness").select_option(label="6 mm")
        card = page.locator("[data-recipe]").first
        expect(card).to_contain_text("lantern bases")
        expect(card).to_contain_text("proven")
        expect(card).to_contain_text("2 passes")
        expect(card.get_by_role("img").first).to_be_visible()


class TogetherTest(BrowserCase):
    """Two people, roles, and what happens when something goes wrong."""

    def test_two_edit_one_trial(self):
        page = self.go("/trials/{trial: Poplar plywood 6 mm, cut}/plan")
        other = self.go("/trials/{trial: Poplar plywood 6 mm, cut}/plan", self.open_page())
        with other.expect_response("**/design"):
            other.get_by_label("speed to, x axis").fill("30")
        self.expected_complaints = ("409",)
        page.get_by_label("speed to, x axis").fill("40")
        expect(page.get_by_text("Kay Example changed T-006")).to_be_visible()
        page.get_by_role("button", name="Take theirs").click()
        expect(page.get_by_label("speed to, x axis")).to_have_value("30")
        with page.expect_response("**/design"):
            page.get_by_label("speed to, x axis").fill("28")
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        self.assertEqual(
            self.server.ask("GET", "/api/trials/{trial: Poplar plywood 6 mm, cut}")["design"]["axes"][0]["to"], 28
        )

    def test_leaving_the_page_loses_nothing(self):
        page = self.go("/trials/{trial: Poplar plywood 6 mm, cut}/plan")
        box = page.get_by_label("Patch width")
        box.fill("9")
        with page.expect_response("**/design"):
            page.get_by_role("navigation", name="Places").get_by_role("link", name="Trials").click()
        self.assertEqual(
            self.server.ask("GET", "/api/trials/{trial: Poplar plywood 6 mm, cut}")["design"]["patch"]["width_mm"], 9
        )

    def test_members_do_not_prove_and_guests_do_not_write(self):
        self.go("/trials/{trial: Wool felt, cut}/decide?patch=E1")
        self.become("Moss")
        expect(self.page.get_by_text("a technician can mark it proven")).to_be_visible()
        expect(self.page.get_by_role("button", name="Keep as recipe")).to_be_enabled()
        self.become("Gil")
        expect(self.page.get_by_text("a member can keep recipes")).to_be_visible()
        expect(self.page.get_by_role("button", name="Keep as recipe")).to_have_count(0)

    def test_a_server_that_does_not_answer_gets_a_sentence(self):
        page = self.go("/book")
        self.expected_complaints = ("ERR_FAILED",)
        page.route("**/api/recipes?text=xyz*", lambda route: route.abort())
        page.get_by_label("Find", exact=True).fill("xyz")
        expect(page.get_by_role("alert").filter(has_text="Rezept does not answer")).to_be_visible(timeout=15_000)

    def test_unknown_addresses(self):
        self.expected_complaints = ("404",)
        self.go("/trials/999")
        expect(self.page.get_by_text("There is no trial 999.")).to_be_visible()
        self.go("/book/abc")
        expect(self.page.get_by_text("There is no such recipe.")).to_be_visible()
        self.go("/somewhere")
        expect(self.page.get_by_text("There is nothing at this address.")).to_be_visible()

    def test_keys_are_told(self):
        page = self.go("/trials/{last trial: leather, area}/read")
        page.get_by_role("listbox").focus()
        page.keyboard.press("?")
        expect(page.get_by_text("Keys of this page")).to_be_visible()
        expect(page.get_by_text("flip the plate")).to_be_visible()
        page.keyboard.press("Escape")
        page.keyboard.press("/")
        expect(page.get_by_label("Find a recipe")).to_be_focused()
        page.keyboard.type("felt")
        page.keyboard.press("Enter")
        page.wait_for_url("**/book?text=felt")

    def test_everything_by_keyboard(self):
        """Tab reaches the plate and leaves it again; arrows walk; the chosen patch stands in the address."""
        page = self.go("/trials/{trial: Poplar plywood 4 mm, cut}/decide")
        for _ in range(40):
            page.keyboard.press("Tab")
            if page.evaluate("document.activeElement.hasAttribute('data-plate')"):
                break
        else:
            self.fail("Tab never reaches the plate")
        page.keyboard.press("ArrowRight")
        page.keyboard.press("ArrowUp")
        expect(page).to_have_url(re.compile("patch="))
        page.keyboard.press("Tab")
        self.assertFalse(page.evaluate("document.activeElement.hasAttribute('data-plate')"))


class UnitsTest(BrowserCase):
    def test_my_unit_holds_everywhere_on_the_plan(self):
        """In mm/min, lists, ends and label settings are shown and read in mm/min, and say so."""
        page = self.go("/trials/{trial: Poplar plywood 6 mm, cut}/plan")
        inside = self.server.ask("GET", "/api/trials/{trial: Poplar plywood 6 mm, cut}")["design"]
        first = inside["axes"][0]["from"]
        page.get_by_label("My unit of speed").select_option("mm/min")
        expect(page.get_by_label("speed from, x axis")).to_have_value(f"{first * 60:g}")
        expect(page.get_by_label("Label speed")).to_have_value("10800")
        expect(page.get_by_text("speed mm/min", exact=True)).to_be_visible()
        page.get_by_label("Steps along x").select_option("list")
        field = page.get_by_label("speed values, x axis")
        self.assertTrue(field.input_value().startswith(f"{first * 60:g} "), field.input_value())
        with page.expect_response("**/design"):
            field.fill("600 900 1200")
        values = self.server.ask("GET", "/api/trials/{trial: Poplar plywood 6 mm, cut}")["design"]["axes"][0]["values"]
        self.assertEqual(values, [10, 15, 20])


class PhoneTest(BrowserCase):
    def test_nothing_is_wider_than_the_phone(self):
        for path in (
            "/",
            "/book/{recipe: Poplar plywood 4 mm, cut}",
            "/book",
            "/trials",
            "/trials/{last trial: leather, area}/read",
            "/trials/{trial: Poplar plywood 6 mm, cut}/burn",
        ):
            page = self.go(path, self.open_page(PHONE_SCREEN))
            with self.subTest(path):
                self.assertLessEqual(page.evaluate("document.documentElement.scrollWidth"), 390)

    def test_controls_are_large_enough_for_a_thumb(self):
        page = self.go("/", self.open_page(PHONE_SCREEN))
        for box in page.locator("nav a, header select").all():
            self.assertGreaterEqual(round(box.bounding_box()["height"]), 44)


if __name__ == "__main__":
    unittest.main()
