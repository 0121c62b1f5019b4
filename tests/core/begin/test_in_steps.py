"""A trial around what several steps did together."""

import unittest

from rezept.core.begin.in_steps import StepKept, Together

FILL = {"speed_mm_s": 300.0, "power_pct": 40.0, "line_spacing_mm": 0.1, "passes": 2.0}
WASH = {"speed_mm_s": 500.0, "power_pct": 10.0, "line_spacing_mm": 0.2}
DESIGN = {
    "hold": {"line_spacing_mm": 0.1, "passes": 2.0},
    "axes": [{"parameter": "speed_mm_s", "along": "x", "from": 150, "to": 600, "count": 5}],
    "order": "rows",
    "starting_dose_j_mm2": 2.0,
}


class InStepsTest(unittest.TestCase):
    def test_one_plain_step_is_a_design_of_its_process(self):
        alone = Together([StepKept("fill", "area", FILL)], 1, 0)
        self.assertEqual(alone.in_design(DESIGN), DESIGN)

    def test_the_others_are_held_as_they_were(self):
        steps = [StepKept("fill", "area", FILL), StepKept("wash", "surface", WASH, {"one_way": True})]
        design = Together(steps, 3, 0).in_design(DESIGN)
        fill, wash = design["steps"]
        self.assertEqual(fill["hold"], DESIGN["hold"])
        self.assertEqual(wash, {"name": "wash", "process": "surface", "hold": WASH, "one_way": True})
        self.assertEqual((design["hold"], design["rounds"], design["order"]), ({}, 3, "rows"))
        self.assertEqual([axis["step"] for axis in design["axes"]], ["fill"])
        # Three rounds of 2 J/mm2, said of the step and no longer of the whole.
        self.assertEqual(fill["starting_dose_j_mm2"], 6.0)
        self.assertNotIn("starting_dose_j_mm2", design)

    def test_the_second_may_be_what_it_is_about(self):
        steps = [StepKept("wash", "surface", WASH), StepKept("fill", "area", FILL)]
        wash, fill = Together(steps, 1, 1).in_design(DESIGN)["steps"]
        self.assertEqual((wash["hold"], fill["hold"]), (WASH, DESIGN["hold"]))

    def test_sets_of_lines_over_its_own_add_to_the_dose(self):
        """A set as dense as its own doubles it, one half as dense adds a half."""
        over = [{"hatch_angle_deg": 90.0}, {"line_spacing_mm": 0.2, "hatch_angle_deg": 45.0}]
        [fill] = Together([StepKept("fill", "area", FILL, {"hatch": over})], 1, 0).in_design(DESIGN)["steps"]
        self.assertEqual(fill["hatch"], [{}, *over])
        self.assertEqual(fill["starting_dose_j_mm2"], 5.0)


if __name__ == "__main__":
    unittest.main()
