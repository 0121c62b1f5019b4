"""Machines, heads, materials, lots and pieces over HTTP: every kind added, changed, retired, taken back."""

import unittest

from tests.made import HERON, WREN
from tests.server.api_case import ApiCase


class EquipmentTest(ApiCase):
    def setUp(self) -> None:
        super().setUp()
        self.become(self.technician.id)

    def row(self, plural, number):
        return next(row for row in self.call("GET", "/api/shop")[plural] if row["id"] == number)

    def facts_of(self, plural, number):
        """What a form would send back unchanged."""
        row = self.row(plural, number)
        if plural == "machines":
            return {**row["facts"], "note": row["note"]}
        if plural == "heads":
            return row["facts"]
        left_out = {"id", "title", "edit", "retired", "ground_colour", "left", "left_back"}
        return {key: value for key, value in row.items() if key not in left_out}

    def added(self):
        """One of each kind; plural and id."""
        machine = {"facts": {**WREN, "name": "Robin"}, "heads": [{"name": "lens", "spot_mm": "0.2 mm"}]}
        head = self.call("POST", "/api/machines", 201, json=machine)["id"]
        machine_id = self.row("heads", head)["machine_id"]
        bodies = [
            ("heads", {"machine_id": machine_id, "name": "long lens", "focal_mm": "4 in"}),
            ("materials", {"name": "Birch", "family": "wood", "thickness_mm": "3 mm", "processes": ["cut"]}),
            ("lots", {"material_id": self.poplar, "name": "pallet"}),
            ("pieces", {"material_id": self.poplar, "name": "offcut", "shape": "disc", "width_mm": "12 cm"}),
        ]
        yield "machines", machine_id
        for plural, facts in bodies:
            yield plural, self.call("POST", f"/api/{plural}", 201, json={"facts": facts})["id"]

    def test_a_form_sent_back_unchanged_changes_nothing(self):
        for plural, number in self.added():
            with self.subTest(plural):
                before = self.row(plural, number)
                body = {"edit": 1, "facts": self.facts_of(plural, number)}
                after = self.call("PUT", f"/api/{plural}/{number}", json=body)
                self.assertEqual({**after, "edit": 1}, before)

    def test_retired_and_back_in_use(self):
        for plural, number in self.added():
            with self.subTest(plural):
                url, facts = f"/api/{plural}/{number}", self.facts_of(plural, number)
                self.assertTrue(self.call("PUT", url, json={"edit": 1, "facts": facts, "retired": True})["retired"])
                self.assertFalse(self.call("PUT", url, json={"edit": 2, "facts": facts})["retired"])

    def test_two_at_once(self):
        for plural, number in self.added():
            with self.subTest(plural):
                url, facts = f"/api/{plural}/{number}", self.facts_of(plural, number)
                self.call("PUT", url, json={"edit": 1, "facts": {**facts, "name": "first"}})
                stale = self.call("PUT", url, 409, json={"edit": 1, "facts": {**facts, "name": "second"}})
                self.assertEqual((stale["current"]["name"], stale["yours"]["name"]), ("first", "second"))
                self.assertEqual(self.row(plural, number)["name"], "first")

    def test_what_is_not_there_or_cannot_be(self):
        for plural in ("machines", "heads", "materials", "lots", "pieces"):
            with self.subTest(plural):
                self.call("PUT", f"/api/{plural}/999", 404, json={"edit": 1, "facts": {"name": "X"}})
                self.call("POST", f"/api/{plural}", 400, json={"facts": {"nonsense": 1}, "heads": [{}]})
                endless = '{"facts": {"name": "X", "width_mm": 1e400}}'
                self.call("POST", f"/api/{plural}", 400, data=endless, content_type="application/json")

    def test_paths_lead_to_the_fields(self):
        facts = {**WREN, "name": "Robin", "rated_power_w": "much", "max_speed_mm_s": "9 kg"}
        said = self.call("POST", "/api/machines", 400, json={"facts": facts, "heads": [{"name": "lens"}]})
        self.assertEqual({error["path"] for error in said["errors"]}, {"rated_power_w", "max_speed_mm_s"})
        body = {"facts": {**WREN, "name": "Robin"}, "heads": [{"name": "a"}, {"name": "b", "spot_mm": -1}]}
        said = self.call("POST", "/api/machines", 400, json=body)
        self.assertEqual(said["errors"][0]["path"], "heads[1].spot_mm")
        # All of a machine or nothing of it.
        self.assertNotIn("Robin", [row["name"] for row in self.call("GET", "/api/shop")["machines"]])

    def test_pulse_widths_and_frequencies_are_typed_too(self):
        facts = {**HERON, "name": "Egret", "frequency_khz": ["5", "2 MHz"]}
        facts["pulse_widths"] = [
            {"ns": "0.2 us", "frequency_khz": ["20000 Hz", "600"], "full_power_from_khz": "40"},
        ]
        head = self.call("POST", "/api/machines", 201, json={"facts": facts, "heads": [{"name": "110"}]})["id"]
        machine = self.row("heads", head)["machine_facts"]
        self.assertEqual(machine["frequency_khz"], [5.0, 2000.0])
        self.assertEqual(
            machine["pulse_widths"], [{"ns": 200.0, "frequency_khz": [20.0, 600.0], "full_power_from_khz": 40.0}]
        )
        facts["pulse_widths"][0]["frequency_khz"] = ["20", "fast"]
        said = self.call("POST", "/api/machines", 400, json={"facts": {**facts, "name": "Ibis"}, "heads": [{}]})
        self.assertEqual(said["errors"][0]["path"], "pulse_widths[0].frequency_khz")

    def test_my_units(self):
        body = {"facts": {"material_id": self.poplar, "name": "thin", "measured_mm": "0.16"}, "units": {"length": "in"}}
        lot = self.call("POST", "/api/lots", 201, json=body)["id"]
        self.assertAlmostEqual(self.row("lots", lot)["measured_mm"], 4.064)

    def test_members_keep_lots_and_guests_nothing(self):
        self.become(self.member.id)
        lot = {"facts": {"material_id": self.poplar, "name": "pallet"}}
        self.call("POST", "/api/lots", 201, json=lot)
        self.call("POST", "/api/materials", 403, json={"facts": {"name": "Birch"}})
        self.become(self.guest.id)
        said = self.call("POST", "/api/lots", 403, json=lot)["detail"]
        self.assertIn("That is: Kay, Tess, Moss.", said)


class ThousandTest(ApiCase):
    """What is shown when there is a lot of it."""

    def test_the_wall_of_trials_comes_in_pages(self):
        for _ in range(7):
            self.new_trial()
        pages = [self.call("GET", f"/api/trials?most=3&skip={skip}")["trials"] for skip in (0, 3, 6, 9)]
        self.assertEqual([len(page) for page in pages], [3, 3, 1, 0])
        numbers = [trial["number"] for page in pages for trial in page]
        self.assertEqual(numbers, sorted(numbers, reverse=True))
        self.call("GET", "/api/trials?most=0", 400)
        self.call("GET", f"/api/trials?skip={2**70}", 400)

    def test_the_bench_shows_only_what_waits(self):
        self.new_trial()
        page, _ = self.burned_trial()
        bench = self.call("GET", "/api/trials?bench=true&most=8")["trials"]
        self.assertEqual([(trial["id"], trial["stage"]) for trial in bench], [(page["id"], "read")])

    def test_ask_shows_burned_plates_of_every_thickness_only(self):
        self.new_trial()
        page, _ = self.burned_trial()
        answer = self.call("GET", f"/api/ask?process=cut&material={self.thick}&head={self.wren}")
        self.assertEqual([plate["id"] for plate in answer["plates"]], [page["id"]])


if __name__ == "__main__":
    unittest.main()
