"""Figures a person would choose, and where a setting begins to vary."""

import unittest

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.chosen import chosen_span, round_steps, spacing_of
from rezept.core.plan.first_axis import first_axis
from rezept.core.plan.holding import limits_of, settings_on
from tests.made import HERON, SPEED, WREN, planned, trial_document


def digits(value: float) -> int:
    """Significant digits of a figure as it is written."""
    return len(f"{value:.10g}".replace(".", "").strip("0")) or 1


class RoundStepsTest(unittest.TestCase):
    def test_worked_examples(self) -> None:
        for values, expected in [
            (np.geomspace(4, 40, 5), [4, 7, 13, 22, 40]),
            # 18.86 of nine even steps from 10 to 25.5: a person says 19.
            (np.linspace(10, 26, 8), [10, 12.5, 14.5, 17, 19, 21.5, 23.5, 26]),
            (np.geomspace(20, 400, 5), [20, 40, 90, 190, 400]),
            (np.linspace(80, 20, 3), [80, 50, 20]),
            (np.linspace(10, 20, 5), [10, 12.5, 15, 17.5, 20]),
            (np.array([3.0, 7.0]), [3, 7]),
        ]:
            with self.subTest(values=values.tolist()):
                self.assertEqual(round_steps(values).tolist(), expected)

    @given(start=st.floats(0.01, 1000), ratio=st.floats(1.01, 100), count=st.integers(3, 30), even=st.booleans())
    def test_ends_stay_order_stays_and_no_step_moves_far(
        self, start: float, ratio: float, count: int, even: bool
    ) -> None:
        values = np.linspace(start, start * ratio, count) if even else np.geomspace(start, start * ratio, count)
        rounded = round_steps(values)
        self.assertEqual((rounded[0], rounded[-1]), (values[0], values[-1]))
        self.assertTrue(np.all(np.diff(rounded) > 0))
        gap = np.minimum(np.diff(values)[:-1], np.diff(values)[1:])
        self.assertTrue(np.all(np.abs(rounded - values)[1:-1] <= gap / 8 + 1e-9 * values[-1]))


class SpanTest(unittest.TestCase):
    def test_even_ratios_beyond_four_to_one(self) -> None:
        self.assertEqual((spacing_of(5, 20), spacing_of(5, 20.1), spacing_of(20.1, 5)), ("linear", *["geometric"] * 2))
        self.assertEqual(spacing_of(-2, 20), "linear")

    def test_even_ranges_have_round_steps(self) -> None:
        for low, high in [(6.9, 25.0), (100.0, 390.0), (3.1, 6.2), (0.36, 1.4), (250.0, 480.0), (42.0, 84.0)]:
            span = chosen_span(low, high, 0.1, 500.0, 5)
            with self.subTest(low=low, high=high):
                self.assertEqual(span.spacing, "linear")
                self.assertTrue(all(digits(value) <= 3 for value in np.linspace(span.start, span.end, 5)))
                self.assertLess(abs(np.log(span.start / low)), 0.3)
                self.assertLess(abs(np.log(span.end / high)), 0.3)

    def test_what_the_control_shows(self) -> None:
        span = chosen_span(11.3, 33.0, 1.0, 100.0, 5, finest=2.0)
        steps = np.linspace(span.start, span.end, 5)
        self.assertTrue(np.allclose(steps / 2, np.round(steps / 2)), steps)

    @given(low=st.floats(0.2, 900), ratio=st.floats(1.2, 40), least=st.floats(0.1, 5), most=st.floats(100, 5000))
    def test_never_beyond_the_limits(self, low: float, ratio: float, least: float, most: float) -> None:
        assume(low < most and low * ratio > least)
        span = chosen_span(low, low * ratio, least, most, 5)
        self.assertGreaterEqual(min(span.start, span.end), min(least, max(low, least)) - 1e-9)
        self.assertLessEqual(max(span.start, span.end), most + 1e-9)


class RoundAxisTest(unittest.TestCase):
    def axis(self, **changes: object) -> list[float]:
        axes = [
            {**SPEED, "from": 4, "to": 40, "count": 5, "spacing": "geometric", **changes},
            {"parameter": "power_pct", "along": "y", "values": [60]},
        ]
        plate = planned(trial_document(axes=axes))
        self.assertEqual(plate.trial.document()["axes"][0].get("round", False), changes.get("round", False))
        return [float(value) for value in np.unique(plate.judged.settings["speed_mm_s"])]

    def test_only_where_it_is_asked_for(self) -> None:
        self.assertEqual(self.axis(round=True), [4, 7, 13, 22, 40])
        self.assertAlmostEqual(self.axis()[1], 4 * 10**0.25, places=6)

    def test_what_is_counted_stays_whole(self) -> None:
        axes = [{"parameter": "passes", "along": "x", "from": 1, "to": 4, "count": 4, "round": True}]
        plate = planned(trial_document(axes=axes, hold={"speed_mm_s": 20, "power_pct": 60}))
        self.assertEqual(np.unique(plate.judged.settings["passes"]).tolist(), [1, 2, 3, 4])


class FirstAxisTest(unittest.TestCase):
    machines = [read_machine(Fields(one)) for one in (WREN, HERON)]

    def test_around_what_was_held_and_within_the_machine(self) -> None:
        wren, heron = self.machines
        for machine, key, held, low, high in [
            (wren, "speed_mm_s", 40.0, 20, 60), (wren, "power_pct", 80.0, 40, 85), (wren, "passes", 3.0, 2, 5),
            (wren, "focus_offset_mm", 1.0, -1, 3), (heron, "frequency_khz", 100.0, 50, 150),
        ]:  # fmt: skip
            axis = first_axis(machine, key, held)
            with self.subTest(key):
                self.assertGreaterEqual(axis["from"], low)
                self.assertLessEqual(axis["to"], high)
                self.assertTrue(axis["from"] <= held <= axis["to"])
                self.assertGreaterEqual(axis["count"], 4)

    def test_pulse_widths_are_those_the_source_has(self) -> None:
        self.assertEqual(first_axis(self.machines[1], "pulse_width_ns", 200.0), {"values": [20.0, 200.0]})

    def test_few_steps_in_blocks(self) -> None:
        self.assertEqual(first_axis(self.machines[0], "speed_mm_s", 40.0, "block_x")["count"], 3)
        self.assertEqual(first_axis(self.machines[0], "passes", None, "block_y")["count"], 3)

    def test_everything_there_is_to_set_can_begin_to_vary(self) -> None:
        for machine in self.machines:
            for key in settings_on(machine, "cut"):
                for held in (None, PARAMETERS[key].default):
                    axis = first_axis(machine, key, held)
                    ends = axis.get("values") or [axis["from"], axis["to"]]
                    low, high = limits_of(machine, key)
                    with self.subTest(key, machine=machine.name, held=held):
                        self.assertTrue(low <= min(ends) < max(ends) <= high, axis)


if __name__ == "__main__":
    unittest.main()
