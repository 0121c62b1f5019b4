"""A trial that was fixed yesterday is judged by the machine, head and material of today, by whatever way it leaves."""

import unittest

from rezept.actions.commands import burning, equipment, exporting
from rezept.actions.queries import shop_facts
from rezept.actions.running import live
from rezept.actions.running.again import Again, again_in_place
from rezept.core.errors import InvalidInput, Refused, SeveralErrors
from tests.actions.running.test_live import LiveCase
from tests.bench_port import link
from tests.until import until


class TodayCase(LiveCase):
    def setUp(self):
        super().setUp()
        self.link()
        page = self.page()
        self.revision = exporting.freeze_latest(self.shop, self.member, self.trial, page["edit"])

    def fact(self, **facts):
        link(self.shop, "Linnet", self.bench.url, **facts)

    def row(self, kind, name):
        return next(row for row in shop_facts.inventory(self.shop)[kind] if row["name"] == name)

    def poplar_is(self, retired=False, **facts):
        row = next(row for row in shop_facts.inventory(self.shop)["materials"] if row["id"] == self.poplar)
        keys = (*shop_facts.MATERIAL_KEYS, "processes", "density_kg_m3", "hardness", "supplier_code", "note")
        document = {**{key: row[key] for key in keys}, **facts}
        equipment.change(self.shop, self.keeper, "material", self.poplar, row["edit"], document, {}, retired)

    def refused(self, words, files=("gcode", "svg")):
        """No way out carries it, nothing was begun, and Plan says so."""
        edit = self.page()["edit"]
        for act in (
            lambda: live.start(self.burns, self.member, self.trial, edit, {}, True),
            lambda: live.dry_run(self.burns, self.member, self.trial, edit, True),
        ):
            with self.assertRaisesRegex(Refused, words):
                act()
        for kind in files:
            with self.assertRaisesRegex(Refused, words):
                exporting.file_of(self.shop, self.trial, self.revision, kind)
        page = self.page()
        self.assertEqual((page["burns"], self.bench.controller.taken), ([], 0))
        self.assertRegex(" ".join(warning["sentence"] for warning in page["plate"]["warnings"]), words)
        said = {file["kind"]: file["refused"] for file in page["files"]}
        for kind in files:
            self.assertRegex(said[kind], words)


class FrozenTest(TodayCase):
    def test_as_it_was_it_leaves(self):
        exporting.file_of(self.shop, self.trial, self.revision, "gcode")
        self.assertEqual(self.ended(self.start()).state, "done")

    def test_the_ceiling_lowered(self):
        self.fact(max_power_pct=50.0)
        self.refused(r"B1: 60 % is more than Linnet should give \(50 %\)")

    def test_the_top_speed_lowered(self):
        self.fact(max_speed_mm_s=25.0)
        self.refused("A3: 30 mm/s is faster than Linnet can go")

    def test_the_field_shrunk(self):
        self.fact(field_width_mm=20.0)
        self.refused("beyond the field of Linnet")

    def test_the_floor_raised(self):
        self.fact(firing_floor_pct=45.0)
        self.refused("A1: Linnet does not fire below 45 %")

    def test_a_beam_that_no_longer_drops_at_rest_is_not_streamed(self):
        self.fact(beam_drops_at_rest=False)
        self.refused("could stay on where the head stands", files=())
        exporting.file_of(self.shop, self.trial, self.revision, "gcode")

    def test_a_hazard_found_out(self):
        self.poplar_is(hazards=["fire", "chlorine"])
        self.refused("gives off chlorine")

    def test_the_material_retired(self):
        self.poplar_is(retired=True)
        self.refused("Poplar plywood 4 mm is retired")

    def test_the_machine_retired(self):
        row = self.row("machines", "Linnet")
        facts = {**row["facts"], "note": row["note"], "link": row["link"]}
        equipment.change(self.shop, self.keeper, "machine", row["id"], row["edit"], facts, {}, True)
        self.refused("Linnet is retired")


class BurnedTest(TodayCase):
    def test_the_rest_and_again_in_place(self):
        self.bench.speed_up = 5
        run = self.wait(self.start(), "running")
        until(lambda: run.done)
        live.stop(self.burns, self.member, run.key)
        self.ended(run)
        burn = self.page()["burns"][0]["id"]
        self.poplar_is(hazards=["fire", "cyanide"])
        runs = len(self.page()["runs"])
        with self.assertRaisesRegex(Refused, "gives off cyanide"):
            live.carry_on(self.burns, self.member, burn, "bare", True)
        with self.assertRaisesRegex(Refused, "gives off cyanide"):
            again_in_place(self.burns, self.member, burn, Again(["A1"], 1), True)
        self.assertEqual(len(self.page()["runs"]), runs)
        # What was burned by hand can be noted: it has happened.
        burning.remark(self.shop, self.member, burn, {"kind": "smell"})


class EnteredTest(TodayCase):
    def test_facts_that_cannot_be_are_refused_where_they_are_entered(self):
        for facts, path in (
            ({"max_speed_mm_s": 1.7e308}, "max_speed_mm_s"),
            ({"acceleration_mm_s2": 1e-300}, "acceleration_mm_s2"),
            ({"s_at_full_power": 1e-6}, "s_at_full_power"),
            ({"frequency_khz": [1e-9, 1e300]}, "frequency_khz[0]"),
            ({"jump_delay_us": 1e12}, "jump_delay_us"),
        ):
            with self.subTest(path), self.assertRaises(InvalidInput) as caught:
                self.fact(**facts)
            error = caught.exception
            paths = [one.path for one in error.errors] if isinstance(error, SeveralErrors) else [error.path]
            self.assertIn(path, paths)
        for spot in (1e-6, 1e6):
            machine = self.row("machines", "Linnet")
            with self.assertRaisesRegex(InvalidInput, "spot"):
                document = {"machine_id": machine["id"], "name": "fine", "spot_mm": spot}
                equipment.add(self.shop, self.keeper, "head", document, {})

    def test_a_link_with_a_line_break(self):
        for wrong in ("/dev/ttyUSB0\n", "socket://localhost:9750\nG0", "/dev/tty USB0", "socket://ｌocalhost:9750"):
            with self.assertRaisesRegex(InvalidInput, "A live link is"):
                link(self.shop, "Linnet", wrong)


if __name__ == "__main__":
    unittest.main()
