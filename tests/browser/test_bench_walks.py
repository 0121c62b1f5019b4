"""Whole jobs at the bench, from the question to the setting that is kept."""

import re
import unittest

from playwright.sync_api import expect

from tests.browser.browser_case import BrowserCase
from tests.random_figures import svg

# A tag with an eye; its outline ends 0.3 mm before it began.
TAG = '<path d="M1 7C1 2 6 1 10 1S19 3 19 7 14 13 10 13 1.1 12 1 7.3"/><circle cx="10" cy="7" r="3"/>'


class BenchCase(BrowserCase):
    def setUp(self):
        super().setUp()
        self.page = self.open_page()

    def trial(self):
        return self.server.ask("GET", f"/api/trials/{re.search('trials/([0-9]+)', self.page.url)[1]}")

    def plan(self, address):
        page = self.go(address)
        page.get_by_role("button", name=re.compile("Plan an array")).first.click()
        page.wait_for_url("**/plan")
        return page

    def fill(self, figures):
        for label, value in figures.items():
            field = self.page.get_by_label(label, exact=True)
            field.fill(str(value))
            field.blur()

    def fewer(self, along, presses):
        for _ in range(presses):
            self.page.get_by_role("button", name=f"One step less along {along}").click()

    def kept(self):
        expect(self.page.get_by_text("kept", exact=True)).to_be_visible()

    def burn(self):
        self.kept()
        self.page.get_by_role("button", name="Get the files").click()
        self.page.wait_for_url("**/burn?files")
        self.page.get_by_role("button", name="I burned it").click()
        expect(self.page.get_by_role("link", name="Read the plate")).to_be_visible()

    def read(self, patches):
        self.page.get_by_role("link", name="Read the plate").click()
        self.page.wait_for_url("**/read")
        expect(self.page.get_by_text(f"of {patches} read")).to_be_visible()

    def score(self, question, **degrees):
        for patch, degree in degrees.items():
            self.page.locator(f"[data-patch={patch}]").click()
            self.page.get_by_role("group", name=question).get_by_role("button").nth(degree).click()
        self.kept()

    def decide(self):
        self.page.get_by_role("link", name="Decide", exact=False).first.click()
        self.page.wait_for_url(re.compile("/decide"))
        expect(self.page.get_by_label("Outcomes of plate")).to_be_visible()


class DeepEngravingTest(BenchCase):
    def test_bulk_and_clean_in_an_open_outline_at_the_edge_of_the_field_and_again_in_place(self):
        page = self.plan("/?process=deep&material={material: Nickel-silver}&head={head: Heron 110}")
        self.fewer("x", 2)
        self.fewer("y", 3)
        page.get_by_label("Add a step").select_option(label="Surface mark")
        steps = page.get_by_role("list", name="Steps")
        expect(steps.get_by_role("button", name="2 Surface mark")).to_be_visible()
        self.fill({"passes": 2})
        steps.get_by_role("button", name="1 Deep engrave").click()
        page.get_by_label("All of them").select_option("2")
        # Each pass turned on from the one before.
        self.fill({"speed from, x axis": 150, "speed to, x axis": 450, "passes": 4, "turn per pass": 30})
        # The outline does not close: that is said with its gap, shown, and mended by one press.
        page.get_by_role("group", name="Patch shape").get_by_text("figure", exact=True).click()
        tag = {"name": "tag.svg", "mimeType": "image/svg+xml", "buffer": svg(TAG).encode()}
        page.get_by_label("Drawing of the figure").set_input_files(tag)
        warned = page.get_by_label("Warnings")
        expect(warned).to_contain_text("1 line of the figure does not close and is not filled")
        expect(warned).to_contain_text("with a gap of 0.3 mm")
        page.get_by_role("button", name="Close it").click()
        expect(page.get_by_text("2 closed outlines, 1 of them a hole")).to_be_visible()
        self.fill({"Patch width": 8})
        # Too far out: by how much is said, and no file leaves. At the very edge it goes.
        page.get_by_text("Piece", exact=True).click()
        self.fill({"Zero at X": 48})
        expect(warned).to_contain_text("beyond the field of Heron")
        expect(warned).to_contain_text("2 patches outside the field")
        expect(page.get_by_role("button", name="Get the files")).to_be_disabled()
        over = float(re.search(r"reaches ([\d.]+) mm beyond the field", warned.inner_text())[1])
        self.fill({"Zero at X": 48 - over})
        expect(warned).to_be_hidden()
        self.burn()
        trial = self.trial()
        bulk, clean = trial["design"]["steps"]
        self.assertEqual((bulk["hold"]["hatch_turn_deg"], bulk["hold"]["passes"], clean["hold"]["passes"]), (30, 4, 2))
        self.assertEqual([len(patch["steps"]) for patch in trial["burned"]["patches"]], [4] * 6)
        # A1 is not deep enough: two more passes of the bulk, where it lies.
        page.locator("[data-patch=A1]").click()
        page.get_by_role("button", name="Choose A1").click()
        page.get_by_role("button", name="One pass more").click()
        page.get_by_role("button", name="I did it by hand").click()
        expect(page.get_by_text("2 more passes on A1")).to_be_visible()
        parts = next(patch for patch in self.trial()["burned"]["patches"] if patch["id"] == "A1")["steps"]
        self.assertEqual([part["settings"]["passes"] for part in parts], [4, 2, 6, 2])
        self.read(6)
        depths = {"A1": "0.21 mm", "A2": "0.1", "A3": "65 um", "B1": "0.3", "B2": "0.19", "B3": "0.13"}
        for patch, depth in depths.items():
            self.score("How dark is it?", **{patch: 4})
            page.locator(f"[data-patch={patch}]").click()
            field = page.get_by_label("Depth by callipers")
            field.fill(depth)
            field.press("Enter")
            self.kept()
        self.decide()
        page.get_by_label("Depth wanted").fill("0.25")
        page.get_by_label("Depth wanted").press("Enter")
        wanted = page.get_by_role("region", name="The depth you want")
        expect(wanted).to_contain_text("A first pass takes")
        expect(wanted).to_contain_text("0.25 mm takes")
        page.locator("[data-patch=B1]").click()
        page.get_by_role("button", name="Keep as recipe").click()
        expect(page.get_by_text("is in the book")).to_be_visible()
        [recipe] = self.trial()["recipes"]
        self.assertEqual((len(recipe["steps"]), recipe["rounds"]), (2, 2))
        page = self.go(f"/book/{recipe['id']}")
        expect(page.get_by_text("All of it 2 times, round after round.").first).to_be_visible()
        expect(page.get_by_text("turn per pass 30").first).to_be_visible()


class LeastPowerTest(BenchCase):
    def prove(self, through):
        """A candidate on a real shape; returns to where it was chosen."""
        page = self.page
        page.get_by_role("button", name="Prove it on a real shape").first.click()
        page.wait_for_url("**/plan")
        expect(page.locator("[data-patch]")).to_have_count(1)
        self.burn()
        self.read(1)
        self.score("Did it go through?", A1=through)
        page.get_by_role("link", name="Back to T-").click()
        expect(page.get_by_role("heading", name="On a real shape")).to_be_visible()

    def choose(self, aim):
        card = self.page.get_by_role("region", name=aim)
        card.get_by_role("button").first.click()
        expect(card.get_by_role("button", name="Keep it")).to_be_visible()
        return card

    def test_a_power_series_at_two_speeds_candidates_on_real_shapes_and_the_least_power_kept(self):
        facts = {"name": "Plain board", "thickness_mm": 2, "family": "paper", "processes": ["cut", "line", "area"]}
        board = self.server.ask("POST", "/api/materials", {"facts": facts})["id"]
        page = self.plan(f"/?process=cut&material={board}&head={{head: Wren}}")
        self.fewer("x", 3)
        self.fill({"power from, y axis": 20, "power to, y axis": 60, "speed from, x axis": 40, "speed to, x axis": 60})
        self.burn()
        self.read(10)
        came = {"A1": 1, "A2": 0, "B1": 2, "B2": 0, "C1": 3, "C2": 2, "D1": 3, "D2": 3, "E1": 3, "E2": 3}
        self.score("Did it go through?", **came)
        self.decide()
        self.choose("Fastest so far")
        self.prove(through=1)
        self.choose("Gentlest on the source")
        self.prove(through=3)
        # Which of them held is told by what each was burned with.
        held = page.get_by_text(re.compile(r"power [\d.]+ % .*It held\."))
        expect(held).to_be_visible()
        least = float(re.search(r"power ([\d.]+) %", held.inner_text())[1])
        gentle = self.choose("Gentlest on the source")
        expect(gentle).to_contain_text("It held.")
        gentle.get_by_role("button", name="Keep it").click()
        expect(page.get_by_text("It is in the book, with the real shape that held.")).to_be_visible()
        [recipe] = [one for one in self.trial()["recipes"] if one["finding_id"] is not None]
        self.assertAlmostEqual(recipe["steps"][0]["settings"]["power_pct"], least, delta=0.06)
        self.assertLess(least, 45)
        self.assertEqual((recipe["standing"], recipe["patch"]), ("tried", "A1"))


if __name__ == "__main__":
    unittest.main()
