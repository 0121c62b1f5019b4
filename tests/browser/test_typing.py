"""Settings that are typed into a control: counted while one plans, ticked off row by row on the phone."""

import json
import sqlite3
import unittest

from playwright.sync_api import expect

from tests.browser.browser_case import PHONE_SCREEN, BrowserCase, settle


class TypingTest(BrowserCase):
    """Finch is given drawings, and its settings are typed in mm/min."""

    @classmethod
    def prepare(cls, folder):
        records = sqlite3.connect(folder / "rezept.sqlite3")
        [facts] = records.execute("SELECT facts FROM machine WHERE name = 'Finch'").fetchone()
        facts = {**json.loads(facts), "takes": ["svg", "sheet"], "units": {"speed": "mm/min"}}
        records.execute("UPDATE machine SET facts = ? WHERE name = 'Finch'", (json.dumps(facts),))
        records.commit()
        records.close()

    def test_counted_in_the_plan_and_ticked_off_at_the_machine(self):
        page = self.go("/?process=area&material={material: Vegetable-tanned leather}&head={head: Finch}")
        page.get_by_role("button", name="Plan an array").click()
        page.wait_for_url("**/plan")
        expect(page.get_by_text("25 settings to type, about")).to_be_visible()
        page.get_by_role("button", name="Burn it now").click()
        page.wait_for_url("**/burn*")
        phone = self.open_page(PHONE_SCREEN)
        phone.goto(page.url)
        settle(phone)
        rows = phone.get_by_role("list").filter(has=phone.get_by_label("Setting 1 has burned")).get_by_role("listitem")
        expect(rows).to_have_count(25)
        expect(rows.first).to_contain_text("mm/min")
        phone.get_by_label("Setting 1 has burned").click()
        expect(phone.get_by_text("To type: 1 of 25 done")).to_be_visible()
        # A reload at the machine forgets nothing.
        phone.reload()
        settle(phone)
        expect(phone.get_by_text("To type: 1 of 25 done")).to_be_visible()
        phone.get_by_label("Setting 1 is done").click()
        expect(phone.get_by_text("To type: 0 of 25 done")).to_be_visible()
        self.assertLessEqual(phone.evaluate("document.documentElement.scrollWidth"), 390)


if __name__ == "__main__":
    unittest.main()
