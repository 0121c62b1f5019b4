"""A plate of several figures and steps: what is asked of it is asked of each element and step."""

import dataclasses
import unittest

import numpy as np
from numpy.testing import assert_allclose

from rezept.core.burned import plate_as_burned, runs_of
from rezept.core.errors import InvalidInput
from rezept.core.path.shapes import shaped
from rezept.core.plan import gate, read_plate
from rezept.core.plan.again import only
from rezept.core.plan.checked import checked
from rezept.core.plan.distinct import distinct_settings, split
from rezept.core.plan.elements import line_total, refuse_endless, seconds_of, work_of, worked_step
from rezept.core.plan.moves import moves_of
from rezept.core.plan.program import burns
from rezept.core.process import PROCESSES
from rezept.formats.gcode import write_gcode
from tests.formats.gcode_reader import read_gcode
from tests.made import planned, trial_document

FILL = {"speed_mm_s": 200.0, "power_pct": 20.0, "passes": 1.0, "line_spacing_mm": 0.5, "hatch_angle_deg": 0.0}
FILL |= {"hatch_turn_deg": 0.0}


def two_steps(**fill):
    """The 4 x 3 cut of the tests with a filled step before it, every second element a disc: fills first, then cuts."""
    document = trial_document(
        steps=[
            {"name": "fill", "process": "area", "hold": {**FILL, **fill}},
            {"name": "cut", "process": "cut"},
        ],
    )
    document["axes"] = [{**axis, "step": "cut"} for axis in document["axes"]]
    del document["process"], document["hold"]
    plate = planned(document)
    count = len(plate.elements)
    elements = dataclasses.replace(
        plate.elements,
        figures=(plate.elements.figures[0], shaped("disc", 10.0, 10.0)),
        figure=np.arange(count) % 2,
        width_mm=np.full(count, 10.0),
        height_mm=np.full(count, 10.0),
    )
    machine = plate.trial.machine
    steps = tuple(worked_step(machine, elements, step.work, step.settings) for step in plate.steps)
    return dataclasses.replace(plate, elements=elements, steps=steps)


class ElementsTest(unittest.TestCase):
    def test_each_figure_is_worked_out_for_those_that_have_it(self):
        """A disc of 10 mm takes fewer lines and less time than a square of 10 mm, whatever stands beside it."""
        plate = two_steps()
        elements, step = plate.elements, plate.steps[0]
        alone = dataclasses.replace(elements, figure=np.zeros(len(elements), np.int64))
        squares = seconds_of(plate.trial.machine, alone, step.work, step.settings)
        assert_allclose(step.seconds[0::2], squares[0::2])
        self.assertTrue((step.seconds[1::2] < squares[1::2]).all())
        # 20 rows of 0.5 mm in 10 mm: twelve elements take 240, and the quick count is never too low.
        lines = line_total(elements, [(step.work, step.settings)])
        self.assertGreaterEqual(lines, 240)
        self.assertLess(lines, 2.5 * 240)

    def test_dose_and_corners_are_those_of_the_step(self):
        """12 W at 200 mm/s with lines of 0.5 mm: 0.12 J/mm2; the cut keeps its J/mm, and a disc has no corner."""
        fill, cut = two_steps().steps
        assert_allclose(fill.dose, 0.12)
        assert_allclose(cut.dose, planned(trial_document()).judged.dose)
        assert_allclose(fill.corner_rise, 1.0)
        self.assertTrue((cut.corner_rise[0::2] > cut.corner_rise[1::2]).all())

    def test_too_many_lines_of_all_steps_together(self):
        plate = two_steps()
        steps = [(step.work, step.settings) for step in plate.steps]
        refuse_endless(plate.elements, steps)
        with self.assertRaisesRegex(InvalidInput, "million is the most"):
            refuse_endless(
                plate.elements,
                [*steps, (work_of(PROCESSES["area"]), {**steps[0][1], "line_spacing_mm": np.full(12, 1e-4)})],
            )


class TwoStepsTest(unittest.TestCase):
    def setUp(self):
        self.plate = two_steps()

    def test_parts_are_called_by_element_and_step(self):
        names = [burn.name for burn in burns(self.plate)]
        self.assertEqual(names[:2] + names[12:14], ["A1/1", "A2/1", "A1/2", "A2/2"])
        self.assertEqual(len(names), 24)
        self.assertEqual(planned(trial_document()).part_name(0, 0), "A1")

    def test_the_program_fills_before_it_cuts_each_with_its_own_figures(self):
        """From the program's own words: 200 mm/s at 20 % in rows, then the cut of B3, 24 mm/s at 55 %."""
        program = read_gcode(write_gcode(self.plate))
        filled, cut = program.burning("patch B3/1"), program.burning("patch B3/2")
        self.assertEqual({round(move.feed / 60, 6) for move in filled}, {200.0})
        self.assertEqual({round(move.beam / 10, 6) for move in filled}, {20.0})
        self.assertEqual({round(move.feed / 60, 6) for move in cut}, {24.0})
        self.assertEqual({round(move.beam / 10, 6) for move in cut}, {55.0})
        self.assertTrue({move.start[1] == move.end[1] for move in filled} == {True})

    def test_moves_say_which_element_they_burn_and_how_far_they_go(self):
        moves = moves_of(self.plate)
        self.assertEqual(moves.element.tolist(), [*range(12), *range(12)])
        # The run-up of 200 mm/s at 4000 mm/s2 is 5 mm, to either side of the square; the cut stays in its box.
        width = moves.high[:, 0] - moves.low[:, 0]
        assert_allclose(width[[0, 12]], [20.0, 10.0], atol=1e-9)
        assert_allclose(moves.column("line_spacing_mm")[:12], 0.5)
        self.assertTrue(np.isnan(moves.column("line_spacing_mm")[12:]).all())

    def test_the_gate_looks_at_every_step(self):
        strong = two_steps(power_pct=99.0)
        today = gate.Today(strong.trial.machine, strong.trial.material)
        said = [refusal for refusal in gate.gate(strong, today, "drawing") if refusal.warning.kind == "max_power"]
        self.assertEqual({refusal.part for refusal in said}, {name for _, _, name in strong.parts()[:12]})
        warned = checked(strong).patch_warnings[0]
        self.assertTrue(any(warning.sentence.startswith("A1/1: 99 %") for warning in warned))

    def test_it_is_read_as_it_was_written(self):
        again = read_plate(self.plate.document())
        self.assertEqual(again.document(), self.plate.document())
        self.assertEqual([step.process.key for step in again.steps], ["area", "cut"])
        self.assertEqual(again.elements.figures, self.plate.elements.figures)
        assert_allclose(again.total_seconds, self.plate.total_seconds)

    def test_documents_that_contradict_themselves(self):
        def spoiled(change):
            document = self.plate.document()
            change(document["patches"][3], document)
            return document

        cases = {
            "no such figure": lambda patch, _: patch.update(figure="star"),
            "same steps": lambda patch, _: patch["steps"].pop(),
            "is not known here": lambda patch, _: patch.update(settings={"power_pct": 31.0}),
            "one process": lambda patch, _: patch["steps"][0].update(process="line"),
            "every patch that burns, once": lambda _, document: document["order"].pop(),
            "no patch": lambda _, document: document["order"].append("A1/3"),
            "one name": lambda _, document: document["figures"][1].update(id="patch"),
        }
        for words, change in cases.items():
            with self.subTest(words), self.assertRaisesRegex(InvalidInput, words):
                read_plate(spoiled(change))

    def test_a_part_of_an_element_burns_again_alone(self):
        rest = only(self.plate, ["B3/2", "C1/1"], {"B3/2": {"passes": 4}})
        self.assertEqual([burn.name for burn in burns(rest)], ["C1/1", "B3/2"])
        index = self.plate.elements.ids.index("B3")
        self.assertEqual((rest.steps[0].settings["passes"][index], rest.steps[1].settings["passes"][index]), (1.0, 4.0))
        self.assertEqual(np.flatnonzero(rest.elements.burn).tolist(), sorted([index, rest.elements.ids.index("C1")]))
        with self.assertRaisesRegex(InvalidInput, "B3 is not among"):
            only(self.plate, ["B3"])

    def test_what_one_step_got_more_is_not_the_other_ones(self):
        part = {"kind": "patch", "state": "done", "power": 1.0, "speed": 1.0, "focus_mm": 0.0, "mixed": False}
        part["read_off"] = {}
        whole = {"kind": "whole", "parts": [{**part, "name": f"B3/{i}", "passes": 1} for i in (1, 2)]}
        again = {"kind": "again", "parts": [{**part, "name": "B3/2", "passes": 2, "power": 1.1}]}
        burned = plate_as_burned(self.plate, runs_of([whole, again]))
        index = self.plate.elements.ids.index("B3")
        fill, cut = burned.steps
        assert_allclose((fill.settings["passes"][index], fill.dose[index]), (1.0, 0.12))
        # 33 W at 24 mm/s once, and twice with 1.1 times the power: 3.2 times 1.375 J/mm.
        assert_allclose((cut.settings["passes"][index], cut.dose[index]), (3.0, 1.375 * 3.2))
        self.assertEqual(burned.mixed, {"B3/2"})
        self.assertEqual([burned.of_step(number).is_mixed(index) for number in (0, 1)], [False, True])

    def test_what_was_read_off_is_what_it_got(self):
        """Planned 55 % and read off 66, the dose is a fifth more; turned nobody knows how far, none is known."""
        part = {"kind": "patch", "state": "done", "power": 1.0, "speed": 1.0, "focus_mm": 0.0, "mixed": False}
        read = {"B3/2": {"power_pct": 66.0, "focus_offset_mm": 1.5}, "C1/2": {"power_pct": None}}
        parts = [{**part, "name": name, "passes": 1, "read_off": values} for name, values in read.items()]
        burned = plate_as_burned(self.plate, runs_of([{"kind": "whole", "parts": parts}]))
        at, other = (self.plate.elements.ids.index(name) for name in ("B3", "C1"))
        cut, planned = burned.steps[1], self.plate.steps[1]
        assert_allclose(planned.settings["power_pct"][at], 55)
        assert_allclose((cut.settings["power_pct"][at], cut.settings["focus_offset_mm"][at]), (66, 1.5))
        assert_allclose(cut.dose[at], 1.2 * planned.dose[at])
        assert_allclose(cut.dose[other], planned.dose[other])
        self.assertEqual(burned.mixed, {"C1/2"})

    def test_distinct_settings_are_counted_for_each_step(self):
        kinds = distinct_settings(self.plate)
        self.assertEqual([(kind.step, len(kind.elements)) for kind in kinds], [(0, 12), *[(1, 1)] * 12])
        parts = split(self.plate, 5)
        names = [name for part in parts for _, _, name in part.parts()]
        self.assertEqual(names, [name for _, _, name in self.plate.parts()])


if __name__ == "__main__":
    unittest.main()
