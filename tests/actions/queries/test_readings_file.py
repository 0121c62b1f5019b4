"""A burn as a file: whatever decides its patches is in it."""

import unittest

from rezept.actions.commands import burning, equipment, planning, reading
from rezept.actions.queries import views
from rezept.actions.queries.readings_file import readings_file
from rezept.core.findings.from_readings import read_readings
from rezept.core.process import PROCESSES
from tests.made import POPLAR, ShopCase


class OutcomeInTheFileTest(ShopCase):
    def setUp(self):
        super().setUp()
        every = ["cut", "line", "area", "deep", "surface", "layer"]
        self.board = equipment.add_material(self.shop, self.keeper, {**POPLAR, "name": "Two-ply"}, every)

    def scored(self, process, value):
        trial = planning.new_trial(self.shop, self.member, process, self.board, self.wren)
        edit = views.trial_page(self.shop, trial)["edit"]
        burn = burning.mark_burned(self.shop, self.member, trial, edit, {})
        said = {"values": {PROCESSES[process].outcome: value}}
        reading.score(self.shop, self.member, burn, "A1", 0, said)
        return readings_file(self.shop, burn)[1]

    def test_what_came_of_each_process_is_read_again(self):
        for process in ("cut", "line", "area", "deep", "surface", "layer"):
            with self.subTest(process):
                document = self.scored(process, 2)
                first = next(patch for patch in document["patches"] if patch["id"] == "A1")
                self.assertEqual(first.get(PROCESSES[process].outcome), 2)
                seen = read_readings(document, 1).seen
                self.assertEqual(seen.outcome[seen.element.index("A1")], 2)


if __name__ == "__main__":
    unittest.main()
