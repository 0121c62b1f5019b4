"""Reading trials: what is understood, what is refused, and where."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from rezept.core.errors import InvalidInput, UnknownKey
from rezept.core.parameters import PARAMETERS
from rezept.core.plan import read_trial
from rezept.core.plan.axes import stepped
from tests.made import HERON, POWER, SPEED, WREN, area_document, token_document, trial_document


class SteppedTest(unittest.TestCase):
    """`stepped`: the values along an axis."""

    def test_even_steps_and_even_ratios(self):
        self.assertEqual(stepped(8, 32, 4, "linear"), (8, 16, 24, 32))
        self.assertEqual(stepped(1, 1000, 4, "geometric"), (1, 10, 100, 1000))

    def test_runs_downward(self):
        self.assertEqual(stepped(80, 20, 3, "linear"), (80, 50, 20))

    @given(st.floats(0.1, 1e4), st.floats(0.1, 1e4), st.integers(2, 60), st.sampled_from(["linear", "geometric"]))
    def test_ends_are_met_and_order_is_kept(self, start, end, count, spacing):
        values = stepped(start, end, count, spacing)
        self.assertEqual(len(values), count)
        self.assertTrue(math.isclose(values[0], start, rel_tol=1e-9))
        self.assertTrue(math.isclose(values[-1], end, rel_tol=1e-9))
        self.assertEqual(sorted(values, reverse=end < start), list(values))


class ReadTrialTest(unittest.TestCase):
    """`read_trial` on whole documents."""

    def refused(self, document, path, words=""):
        with self.assertRaises(InvalidInput) as caught:
            read_trial(document)
        self.assertEqual(caught.exception.path, path)
        self.assertIn(words, caught.exception.sentence)
        return caught.exception

    def test_lists_the_defaults_it_used(self):
        trial = read_trial(trial_document())
        self.assertEqual(trial.hold, {"passes": 1.0, "focus_offset_mm": 0.0})
        for path in ("hold.passes", "patch.width_mm", "machine.wavelength_nm", "order", "labels.on"):
            self.assertIn(path, trial.defaulted)
        self.assertNotIn("machine.max_speed_mm_s", trial.defaulted)

    def test_completed_document_reads_the_same(self):
        for document in (trial_document(), area_document(), token_document()):
            first = read_trial(document).document() | {"piece": None}
            again = read_trial(first).document()
            self.assertEqual({**again, "defaulted": []}, {**first, "defaulted": []})
            self.assertLessEqual(set(first["defaulted"]), set(again["defaulted"]))

    def test_speed_and_power_are_never_guessed(self):
        self.refused(trial_document(axes=[SPEED]), "hold.power_pct", "never guessed")
        self.refused(trial_document(axes=[POWER]), "hold.speed_mm_s", "never guessed")
        self.refused(trial_document(labels={"on": True, "settings": {"speed_mm_s": 9}}), "labels.settings.power_pct")

    def test_bad_axes(self):
        cases = [
            ([{**SPEED, "to": 8}, POWER], "axes[0].to", "nothing would vary"),
            ([{**SPEED, "from": -8}, POWER], "axes[0].from", "more than 0"),
            ([{**SPEED, "from": math.nan}, POWER], "axes[0].from", "finite"),
            ([{**SPEED, "to": math.inf}, POWER], "axes[0].to", "finite"),
            ([{**SPEED, "from": "8"}, POWER], "axes[0].from", "number"),
            ([{**SPEED, "from": True}, POWER], "axes[0].from", "number"),
            ([{**SPEED, "count": 0}, POWER], "axes[0].count", "at least 1"),
            ([{**SPEED, "count": 2.5}, POWER], "axes[0].count", "whole"),
            ([{**SPEED, "count": 5001}, POWER], "axes[0].count", "at most 5000"),
            ([{**SPEED, "count": 100}, {**POWER, "count": 51}], "axes", "5100 patches"),
            ([SPEED, {**SPEED, "along": "y"}], "axes[1].parameter", "two axes"),
            ([SPEED, {**POWER, "along": "x"}], "axes[1].along", "along x"),
            ([{**SPEED, "along": "z"}, POWER], "axes[0].along", "block_x"),
            ([{**SPEED, "along": "block_x"}], "axes", "inside"),
            ([{**SPEED, "wrap": 2}, POWER], "axes[0].wrap", "ladder"),
            ([SPEED, {**POWER, "wrap": 2}], "axes[1].wrap", "left to right"),
            ([{**SPEED, "steps": 3}, POWER], "axes[0].steps", "newer"),
            ([{**SPEED, "parameter": "warp"}, POWER], "axes[0].parameter", "warp"),
            ([{"parameter": "speed_mm_s", "along": "x", "values": []}, POWER], "axes[0].values", "0 values"),
            ([{"parameter": "speed_mm_s", "along": "x", "values": [5, -1]}, POWER], "axes[0].values[1]", "more than 0"),
            ([], "axes", "one to four"),
            ("speed", "axes", "list"),
        ]
        for axes, path, words in cases:
            with self.subTest(path=path, words=words):
                self.refused(trial_document(axes=axes), path, words)

    def test_unknown_keys_name_themselves(self):
        error = self.refused(trial_document(tilte="x"), "tilte", "Did you mean title")
        self.assertIsInstance(error, UnknownKey)
        self.refused(trial_document(machine={**WREN, "colour": "red"}), "machine.colour", "newer Rezept")
        self.refused(trial_document(hold={"speeed": 3}), "hold.speeed", "settings are")

    def test_held_and_varied_is_one_too_many(self):
        self.refused(trial_document(hold={"speed_mm_s": 5}), "hold.speed_mm_s", "both held and varied")

    def test_settings_the_machine_does_not_have(self):
        cases = [
            ({"frequency_khz": 20}, "hold.frequency_khz", "no frequency"),
            ({"pulse_width_ns": 20}, "hold.pulse_width_ns", "no pulse width"),
            ({"air_kpa": 60}, "hold.air_kpa", "no air pressure"),
            ({"air_level": 2}, "hold.air_level", "no air level 2"),
            ({"line_spacing_mm": 0.1}, "hold.line_spacing_mm", "means nothing"),
            ({"on_delay_us": 10}, "hold.on_delay_us", "no beam on delay"),
        ]
        for hold, path, words in cases:
            with self.subTest(path):
                self.refused(trial_document(hold=hold), path, words)
        frequency = {"parameter": "frequency_khz", "along": "x", "values": [20, 40]}
        self.refused(trial_document(hold={"speed_mm_s": 9}, axes=[frequency, POWER]), "axes[0].parameter", "frequency")

    def test_machine_facts_have_no_dangerous_default(self):
        for key in ("rated_power_w", "max_speed_mm_s", "field_width_mm", "source", "motion", "name"):
            with self.subTest(key):
                machine = {name: value for name, value in WREN.items() if name != key}
                self.refused(trial_document(machine=machine), f"machine.{key}", "missing")
        self.refused(trial_document(machine={**HERON, "frequency_khz": [40, 2]}), "machine.frequency_khz", "lowest")

    def test_what_comes_later_is_refused_not_ignored(self):
        for changes, path in [
            ({"order": "spiral"}, "order"),
            ({"fit": "somehow"}, "fit"),
            ({"patch": {"shape": "outline"}}, "patch.shape"),
            ({"patch": {"text": "no lettering"}}, "patch.text"),
            ({"patch": {"shape": "disc", "width_mm": 8}}, "patch.height_mm"),
            ({"cut_out": True}, "cut_settings.speed_mm_s"),
            ({"hang_hole_mm": 4, "cut_settings": {"speed_mm_s": 8}}, "cut_settings.power_pct"),
            ({"labels": {"qr": True}}, "labels.settings.speed_mm_s"),
            (
                {"labels": {"marks": True, "settings": {"speed_mm_s": 9, "power_pct": 9, "hatch_angle_deg": 1}}},
                "labels.settings.hatch_angle_deg",
            ),
            ({"overrides": {"B9x": {}}}, "overrides.B9x"),
            ({"overrides": {"B1": {"power_pct": 101}}}, "overrides.B1.power_pct"),
            ({"overrides": {"B1": {"pierce_dwell_ms": 5}}}, "overrides.B1.pierce_dwell_ms"),
            ({"dose_floor_j_mm": 2, "dose_ceiling_j_mm": 1}, "dose_floor_j_mm"),
            ({"dose_ceiling_j_mm2": 1}, "dose_ceiling_j_mm2"),
            ({"burned_ground": [[[0, 0], [1, 1]]]}, "burned_ground[0]"),
            ({"burned_ground": [[[0, 0], [1, 1], [1]]]}, "burned_ground[0][2].point"),
            ({"machine": {**WREN, "shows": {"speed": 1}}}, "machine.shows.speed"),
            ({"machine": {**WREN, "power_mode": "random"}}, "machine.power_mode"),
            ({"steps": []}, "steps"),
            ({"version": 2}, "version"),
            ({"format": "else"}, "format"),
        ]:
            with self.subTest(path):
                self.refused(trial_document(**changes), path)

    def test_every_parameter_takes_its_own_limits(self):
        """The table's lowest and highest value are allowed, the next beyond are not."""
        for row in PARAMETERS.values():
            with self.subTest(row.key):
                self.assertEqual(row.checked(row.high, "p"), row.high)
                with self.assertRaises(InvalidInput):
                    row.checked(row.high * 1.01 + 1, "p")
                with self.assertRaises(InvalidInput):
                    row.checked(row.low - 1, "p")
                if not row.zero_ok:
                    with self.assertRaises(InvalidInput):
                        row.checked(0, "p")

    @given(
        st.recursive(
            st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=8),
            lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=6), inner, max_size=3),
            max_leaves=6,
        ),
        st.sampled_from([None, *trial_document(patch={}, labels={}, piece={}, place={}, off=[], order="rows")]),
    )
    def test_survives_nonsense(self, nonsense, key):
        """Whatever stands anywhere: a trial comes out, or a sentence; never another error."""
        document = nonsense if key is None else trial_document(**{key: nonsense})
        try:
            read_trial(document)
        except InvalidInput as error:
            self.assertTrue(error.sentence)


if __name__ == "__main__":
    unittest.main()
