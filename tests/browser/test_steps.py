"""Trials of several steps as a technician works with them: a starter board from an unknown sheet to three recipes on
one card, and a deep engraving that is cleaned between."""

import re
import unittest

from playwright.sync_api import expect

from tests.browser.browser_case import BrowserCase


class StepsCase(BrowserCase):
    def setUp(self):
        super().setUp()
        self.page = self.open_page()

    def sheet(self, name, processes, **facts):
        said = {"name": name, "thickness_mm": 3, "family": "wood", "processes": processes, **facts}
        return self.server.ask("POST", "/api/materials", {"facts": said})["id"]

    def trial(self):
        return self.server.ask("GET", f"/api/trials/{re.search('trials/([0-9]+)', self.page.url)[1]}")

    def line(self, name):
        return self.page.get_by_role("list", name="Steps").get_by_role("button", name=re.compile(rf"^\d+ ?{name}"))

    def kept(self):
        """The draft is with the server."""
        expect(self.page.get_by_text("kept", exact=True)).to_be_visible()


class StarterBoardTest(StepsCase):
    def test_three_recipes_of_an_unknown_sheet_on_one_card(self):
        board = self.sheet("Birch scrap", ["cut", "line", "area"])
        page = self.go(f"/?process=cut&material={board}&head={{head: Wren}}")
        page.get_by_role("button", name="Plan a starter board").click()
        page.wait_for_url("**/plan")
        for name in ("Line mark", "Engrave", "Cut"):
            expect(self.line(name)).to_be_visible()
        # One line at a time is edited on the plate's own edges.
        expect(page.get_by_label("speed from, x axis")).to_be_visible()
        self.line("Cut").click()
        expect(page.get_by_label("speed from, y axis")).to_be_visible()
        expect(page.get_by_label("speed from, x axis")).to_be_hidden()
        for name in ("line mark", "engrave", "cut"):
            expect(page.get_by_text(f"Dose, {name},")).to_be_visible()
        page.get_by_role("button", name="Show all on the plate").click()
        self.kept()
        page.get_by_role("button", name="Get the files").click()
        page.wait_for_url("**/burn?files")
        expect(page.get_by_text("75 parts")).to_be_visible()
        page.get_by_role("button", name="I burned it").click()
        page.get_by_role("link", name="Read the plate").click()
        page.wait_for_url("**/read")
        came = {
            "Line mark": ("How dark is it?", 3),
            "Engrave": ("How dark is it?", 4),
            "Cut": ("Did it go through?", 3),
        }
        for name, (question, degree) in came.items():
            page.get_by_role("group", name="Step").get_by_text(re.compile(name)).click()
            expect(page.get_by_role("group", name=question)).to_be_visible()
            page.locator("[data-patch=C3]").click()
            page.get_by_role("group", name=question).get_by_role("button").nth(degree).click()
            expect(page.get_by_text("kept", exact=True)).to_be_visible()
        page.get_by_role("link", name="Decide", exact=False).first.click()
        page.wait_for_url(re.compile("/decide"))
        # The address changes before the page does.
        expect(page.get_by_label("Outcomes of plate")).to_be_visible()
        for name in came:
            page.get_by_role("group", name="Step").get_by_text(re.compile(name)).click()
            page.locator("[data-patch=C3]").click()
            expect(page.get_by_role("button", name="Keep as recipe")).to_be_visible()
            page.get_by_role("button", name="Keep as recipe").click()
            expect(page.get_by_text("C3 is in the book")).to_be_visible()
        recipes = self.trial()["recipes"]
        self.assertEqual(sorted(one["process"] for one in recipes), ["area", "cut", "line"])
        plate = self.trial()["burned"]
        cut = next(one for one in recipes if one["process"] == "cut")
        c3 = next(patch for patch in plate["patches"] if patch["id"] == "C3")
        self.assertEqual(cut["steps"][0]["settings"], c3["steps"][2]["settings"])
        # All of it on one card.
        page = self.go(f"/book/{cut['id']}")
        page.get_by_role("link", name="Print all of it on one card").click()
        for name in ("Line mark", "Engrave", "Cut on Wren"):
            expect(page.get_by_text(re.compile(name)).first).to_be_visible()
        # Whoever asks for the engraving is answered by the board.
        page = self.go(f"/?process=area&material={board}&head={{head: Wren}}")
        expect(page.locator("[data-recipe]").first).to_be_visible()


class DeepTest(StepsCase):
    def test_bulk_and_clean_in_rounds_kept_as_one(self):
        page = self.go("/?process=deep&material={material: Nickel-silver}&head={head: Heron 110}")
        page.get_by_role("button", name=re.compile("Plan an array")).first.click()
        page.wait_for_url("**/plan")
        page.get_by_label("Add a step").select_option(label="Surface mark")
        expect(self.line("Surface mark")).to_be_visible()
        # The new step is the one that is edited; lines laid over one another, one way.
        page.get_by_text("Over the figure").click()
        page.get_by_role("checkbox", name=re.compile("one way")).check()
        page.get_by_label("All of them").select_option("3")
        self.line("Deep engrave").click()
        page.get_by_role("button", name="Lay another set of lines over it").click()
        page.get_by_label("hatch angle of set 2").fill("37")
        page.get_by_label("hatch angle of set 2").blur()
        self.kept()
        design = self.trial()["design"]
        self.assertEqual(design["rounds"], 3)
        self.assertEqual([step.get("one_way") for step in design["steps"]], [None, True])
        self.assertEqual(design["steps"][0]["hatch"][1]["hatch_angle_deg"], 37)
        # What varies in one is not touched by the other: undo takes the last change back alone.
        page.get_by_role("button", name="Undo").click()
        page.get_by_role("button", name="Redo").click()
        self.kept()
        self.assertEqual(self.trial()["design"], design)
        page.get_by_role("button", name="Get the files").click()
        page.wait_for_url("**/burn?files")
        page.get_by_role("button", name="I burned it").click()
        page.get_by_role("link", name="Read the plate").click()
        page.wait_for_url("**/read")
        expect(page.get_by_role("group", name="Step").get_by_text("1 Deep engrave, with Surface mark")).to_be_visible()
        first = self.trial()["burned"]["patches"][0]["id"]
        page.locator(f"[data-patch='{first}']").click()
        page.get_by_role("group", name="How dark is it?").get_by_role("button").nth(4).click()
        expect(page.get_by_text("kept", exact=True)).to_be_visible()
        page.get_by_role("link", name="Decide", exact=False).first.click()
        page.wait_for_url(re.compile("/decide"))
        # The address changes before the page does.
        expect(page.get_by_label("Outcomes of plate")).to_be_visible()
        page.locator(f"[data-patch='{first}']").click()
        page.get_by_role("button", name="Keep as recipe").click()
        expect(page.get_by_text("is in the book")).to_be_visible()
        [recipe] = self.trial()["recipes"]
        self.assertEqual((len(recipe["steps"]), recipe["rounds"]), (2, 3))
        page = self.go(f"/book/{recipe['id']}")
        expect(page.get_by_text("All of it 3 times, round after round.").first).to_be_visible()
        expect(page.get_by_text(re.compile("at 37° over it")).first).to_be_visible()


class TakenBackTest(StepsCase):
    def test_a_second_step_comes_and_goes_and_leaves_the_first_as_it_was(self):
        board = self.sheet("Lime board", ["cut", "line", "area"])
        page = self.go(f"/?process=cut&material={board}&head={{head: Wren}}")
        page.get_by_role("button", name=re.compile("Plan an array")).first.click()
        page.wait_for_url("**/plan")
        before = self.trial()["design"]
        page.get_by_label("Add a step").select_option(label="Engrave")
        expect(self.line("Engrave")).to_be_visible()
        self.kept()
        self.assertEqual(len(self.trial()["design"]["steps"]), 2)
        page.get_by_role("button", name="Without engrave").click()
        expect(page.get_by_role("list", name="Steps")).to_be_hidden()
        self.kept()
        after = self.trial()["design"]
        self.assertEqual({key: value for key, value in after.items() if value is not None},
                         {key: value for key, value in before.items() if value is not None})  # fmt: skip


if __name__ == "__main__":
    unittest.main()
