"""Dials, valves and heights: how a control shows them, in which order they are turned, and what a program says."""

import itertools
import re
import unittest

import numpy as np

from rezept.core.control import own_amount, own_unit, own_words, read_off
from rezept.core.errors import InvalidInput, Refused
from rezept.core.fields import Fields
from rezept.core.findings.choices import shown
from rezept.core.machine import read_machine
from rezept.core.plan.by_hand import hand_stops, least_turned
from rezept.core.plan.gate import gate, gate_of_trace
from rezept.core.plan.typed_settings import typed_rows
from rezept.formats.gcode import program_parts
from rezept.formats.trial_file import read_trial_file, write_trial_file
from tests.made import POWER, SPEED, WREN, leaving, own_facts, planned, trial_document

# A tube's dial: steep below, flat above, as tubes are.
DIAL = {"unit": "mA", "pairs": [[3, 12], [8, 40], [20, 76]]}
TURNED = {**WREN, "by_hand": ["power_pct"], "curves": {"power_pct": DIAL}}
LABELS = {"on": True, "height_mm": 2.0, "settings": {"speed_mm_s": 100, "power_pct": 12, "passes": 1}}


def turned(**changes):
    return trial_document(machine={**TURNED, **changes.pop("facts", {})}, **changes)


def machine(**facts):
    return read_machine(Fields({**WREN, **facts}))


class CurveTest(unittest.TestCase):
    def test_straight_between_the_pairs_both_ways(self):
        wren = machine(curves={"power_pct": DIAL})
        # Half way from 8 to 20 mA lies half way from 40 to 76 %.
        self.assertEqual(own_amount(wren, "power_pct", 58), "14")
        self.assertEqual(own_words(wren, "power_pct", 58), "14 mA")
        self.assertEqual(read_off(wren, "power_pct", 14, "x"), 58)
        self.assertEqual(own_unit(wren, "power_pct"), "mA")

    def test_a_valve_that_closes_with_its_turns(self):
        wren = machine(air="pressure", curves={"air_kpa": {"unit": "turns", "pairs": [[4, 0], [0, 200], [2, 150]]}})
        self.assertEqual(own_amount(wren, "air_kpa", 75), "3")
        self.assertEqual(read_off(wren, "air_kpa", 1, "x"), 175)

    def test_beyond_its_ends_nothing_is_known(self):
        wren = machine(curves={"power_pct": DIAL})
        self.assertEqual(own_amount(wren, "power_pct", 80), "?")
        with self.assertRaisesRegex(InvalidInput, "from 3 to 20 mA"):
            read_off(wren, "power_pct", 21, "x")
        plate = planned(
            turned(axes=[{"parameter": "power_pct", "along": "x", "values": [40, 80]}], hold={"speed_mm_s": 10})
        )
        said = [warning.sentence for warning in plate.refusals()]
        self.assertEqual(len(said), 1, said)
        self.assertIn("A2: Wren cannot be set to power 80 %: its scale of 3 to 20 mA covers 12 to 76 %", said[0])

    def test_steps_are_readings_of_the_dial(self):
        """30, 50 and 70 % lie at 6.21, 11.33 and 18 mA; to half a milliampere that is 6, 11.5 and 18."""
        read_to = {**DIAL, "step": 0.5}
        axes = [SPEED, {**POWER, "to": 70}]
        plate = planned(turned(facts={"curves": {"power_pct": read_to}}, axes=axes))
        self.assertEqual([axis.values for axis in plate.trial.axes][1], (28.8, 50.5, 70.0))
        self.assertIn("rounded to steps of 0.5 mA", " ".join(one.sentence for one in plate.warnings))
        wren = plate.trial.machine
        self.assertEqual([shown(wren, "power_pct", 30, way) for way in ("down", "near", "up")], [28.8, 28.8, 31.6])
        falling = machine(air="pressure", curves={"air_kpa": {"unit": "turns", "pairs": [[0, 200], [4, 0]], "step": 1}})
        self.assertEqual([shown(falling, "air_kpa", 130, way) for way in ("down", "near", "up")], [100, 150, 150])

    def test_a_control_without_one_shows_its_unit(self):
        wren = machine(air="pressure", units={"speed": "mm/min", "pressure": "bar"})
        self.assertEqual(own_words(wren, "speed_mm_s", 10), "speed 600 mm/min")
        self.assertEqual(read_off(wren, "air_kpa", 0.5, "x"), 50)

    def test_nonsense_is_refused_with_its_place(self):
        for curves, path in (
            ({"power_pct": {"unit": "mA", "pairs": [[3, 12]]}}, "curves.power_pct.pairs"),
            ({"power_pct": {"unit": "mA", "pairs": [[3, 12], [3, 20]]}}, "curves.power_pct.pairs"),
            ({"power_pct": {"unit": "mA", "pairs": [[3, 12], [5, 30], [8, 20]]}}, "curves.power_pct.pairs"),
            ({"power_pct": {"unit": "mA", "pairs": [[3, 12], [5, 130]]}}, "curves.power_pct.pairs"),
            ({"power_pct": {"unit": " ", "pairs": [[3, 12], [5, 30]]}}, "curves.power_pct.unit"),
            ({"power_pct": {"unit": "mA", "pairs": [[3, 12], 5]}}, "curves.power_pct.pairs[1]"),
            ({"blast": DIAL}, "curves.blast"),
        ):
            with self.subTest(curves), self.assertRaises(InvalidInput) as caught:
                machine(curves=curves)
            self.assertEqual(caught.exception.path, path)
        with self.assertRaisesRegex(InvalidInput, "whatever moves the head"):
            machine(by_hand=["speed_mm_s"])

    def test_a_machine_without_any_says_nothing_of_them(self):
        self.assertEqual({"by_hand", "curves", "control_order", "stops_in_program"} & set(machine().document()), set())
        again = read_machine(Fields(machine(**TURNED, control_order=["power_pct"], stops_in_program=True).document()))
        self.assertEqual((again.by_hand, again.stops_in_program), (("power_pct",), True))
        self.assertEqual(again.curve("power_pct").pairs, ((3.0, 12.0), (8.0, 40.0), (20.0, 76.0)))


class OrderTest(unittest.TestCase):
    def turns(self, order, columns):
        values = np.column_stack(columns)[order]
        return int((np.diff(values, axis=0) != 0).sum())

    def test_no_order_turns_less(self):
        """Against every order of a small array, for one setting and for two."""
        one = np.array([3.0, 1.0, 3.0, 1.0, 2.0, 2.0])
        two = np.array([5.0, 5.0, 7.0, 7.0, 5.0, 7.0])
        every = [np.array(order) for order in itertools.permutations(range(6))]
        for columns in ([one], [one, two]):
            least = min(self.turns(order, columns) for order in every)
            self.assertEqual(self.turns(least_turned(np.arange(6), columns), columns), least)

    def test_within_a_setting_the_order_stays(self):
        column = np.array([2.0, 1.0, 2.0, 1.0, 2.0])
        self.assertEqual(least_turned(np.array([4, 3, 2, 1, 0]), [column]).tolist(), [3, 1, 4, 2, 0])

    def test_each_value_of_an_array_is_turned_to_once(self):
        across = turned(axes=[{**POWER, "along": "x"}, {**SPEED, "along": "y"}], order="scattered")
        plate = planned(across)
        stops = hand_stops(plate)
        self.assertEqual([stop.settings for stop in stops], [{"power_pct": v} for v in (30.0, 55.0, 80.0)])
        self.assertEqual([len(stop.parts) for stop in stops], [4, 4, 4])

    def test_lettering_is_turned_to_as_well(self):
        stops = hand_stops(planned(turned(labels=LABELS)))
        self.assertEqual([stop.settings["power_pct"] for stop in stops], [12, 30, 55, 80])
        self.assertEqual(stops[0].parts, ("labels",))

    def test_the_plate_is_lettered_as_the_dial_shows_it(self):
        plate = planned(turned(labels=LABELS, axes=[SPEED, {**POWER, "to": 70}]))
        lettered = [text.text for text in plate.texts]
        self.assertEqual(
            [text for text in lettered if text in ("6.21", "11.3", "18", "30", "50", "70")], ["6.21", "11.3", "18"]
        )
        self.assertIn("power mA ^", " ".join(lettered))
        held = planned(turned(labels=LABELS, axes=[SPEED], hold={"power_pct": 40}))
        self.assertIn("power 8 mA", " ".join(text.text for text in held.texts))

    def test_what_stays_is_turned_once_and_what_nobody_touches_never(self):
        held = turned(axes=[SPEED], hold={"power_pct": 40}, facts={"by_hand": ["power_pct", "focus_offset_mm"]})
        self.assertEqual([stop.settings for stop in hand_stops(planned(held))], [{"power_pct": 40.0}])
        self.assertEqual(hand_stops(planned(trial_document())), [])


class ProgramTest(unittest.TestCase):
    def powers(self, program):
        return set(re.findall(r"S([0-9.]+)", program.split("M3S0", 1)[1])) - {"0"}

    def test_the_program_gives_all_the_dial_allows(self):
        plate = planned(turned(facts={"stops_in_program": True}, axes=[SPEED, {**POWER, "to": 70}]))
        program = leaving(plate)[0].decode()
        self.assertEqual(self.powers(program), {"1000"})
        lines = program.splitlines()
        waits = [lines[i - 1] for i, line in enumerate(lines) if line == "M0"]
        self.assertEqual(waits, [f"; Set {amount} mA, then go on." for amount in ("6.21", "11.3", "18")])
        # The beam is off, and the head stands, wherever it waits.
        for i, line in enumerate(lines):
            if line == "M0":
                self.assertEqual(next(one for one in reversed(lines[:i]) if not one.startswith(";")), "M5S0")

    def test_a_machine_that_does_not_wait_gets_a_file_for_every_turn(self):
        plate = planned(turned(axes=[SPEED, {**POWER, "to": 70}], labels=LABELS, cut_out=False))
        for kind in ("gcode", "svg", "dxf"):
            self.assertEqual(len(leaving(plate, kind)), 4, kind)
        programs = [program.decode() for program in leaving(plate)]
        firsts = [re.search("by hand first: Set (.*) mA", program)[1] for program in programs]
        self.assertEqual(firsts, ["3", "6.21", "11.3", "18"])
        self.assertTrue(all("M0\n" not in program for program in programs))
        patches = [re.findall(r"; patch (\w+)", program) for program in programs]
        self.assertEqual([len(found) for found in patches], [0, 4, 4, 4])
        self.assertEqual(sorted(one for found in patches for one in found), sorted(plate.elements.ids))

    def test_a_height_that_is_set_with_a_spacer_moves_no_axis(self):
        facts = {"by_hand": ["focus_offset_mm"], "focus_by_z": True, "stops_in_program": True, "curves": {}}
        heights = {"parameter": "focus_offset_mm", "along": "y", "values": [0, -2, 4]}
        plate = planned(turned(facts=facts, axes=[SPEED, heights], hold={"power_pct": 40}))
        self.assertEqual(gate(plate, own_facts(plate), "program"), [])
        program = leaving(plate)[0].decode()
        self.assertNotRegex(program, r"^[^;]*Z[-\d]")
        self.assertEqual(re.findall("; Set (.*), then", program), [f"focus offset {v} mm" for v in ("-2", "0", "4")])

    def test_live_it_stops_before_the_first_of_each(self):
        plate = planned(turned(axes=[SPEED, {**POWER, "to": 70}]))
        parts = program_parts(plate)
        self.assertEqual([part.name for part in parts if part.stop], ["A1", "B1", "C1"])
        self.assertEqual([part for part in program_parts(plate, dark=True) if part.stop], [])

    def test_no_outline_at_a_power_the_dial_decides(self):
        plate = planned(turned(facts={"trace_power_pct": 2}, axes=[SPEED, {**POWER, "to": 70}]))
        self.assertRegex(gate_of_trace(plate, own_facts(plate), "program")[0].warning.sentence, "set by hand")

    def test_a_pointer_shows_the_outline_without_power(self):
        plate = planned(turned(facts={"pilot_pointer": True}, axes=[SPEED, {**POWER, "to": 70}]))
        self.assertEqual(gate_of_trace(plate, own_facts(plate), "program"), [])
        program = leaving(plate, "trace")[0].decode()
        self.assertIn("shown by the pointer, beam off", program)
        self.assertEqual(set(re.findall(r"S([0-9.]+)", program.split("G94", 1)[1])), {"0"})
        # It is gone round all the same.
        self.assertGreater(program.count("G1X"), 12)

    def test_a_machine_that_is_turned_otherwise_today_burns_no_plate_of_before(self):
        plate = planned(turned(axes=[SPEED, {**POWER, "to": 70}]))
        for facts, words in (
            ({"by_hand": []}, "what is set by hand was power and is nothing"),
            ({"curves": {}}, "what its control has scales for was power and is nothing"),
            ({"curves": {"power_pct": {**DIAL, "step": 1}}}, r"a scale of its control \(power\)"),
        ):
            today = own_facts(planned(turned(facts=facts)))
            with self.subTest(facts), self.assertRaisesRegex(Refused, words):
                leaving(plate, "gcode", today)

    def test_the_plan_says_how_often_and_to_what(self):
        plate = planned(turned(axes=[SPEED, {**POWER, "to": 70}]))
        said = next(warning for warning in plate.warnings if warning.kind == "by_hand")
        self.assertEqual(said.sentence, "By hand 3 times: power. In this order: 6.21 mA; 11.3 mA; 18 mA.")


class TypingTest(unittest.TestCase):
    def test_in_the_order_and_units_of_the_control(self):
        facts = {"takes": ["sheet"], "control_order": ["passes", "power_pct"], "units": {"speed": "mm/min"}}
        row = typed_rows(planned(turned(facts=facts, axes=[SPEED, {**POWER, "to": 70}])))[0]
        said = [(one.key, one.text, one.unit, one.by_hand) for one in row.values if one.key != "focus_offset_mm"]
        self.assertEqual(
            said,
            [("passes", "1", "", False), ("power_pct", "6.21", "mA", True), ("speed_mm_s", "480", "mm/min", False)],
        )

    def test_a_trial_file_keeps_what_its_machine_is(self):
        written = write_trial_file(planned(turned(axes=[SPEED, {**POWER, "to": 70}])).trial)
        self.assertEqual(read_trial_file(written).machine.by_hand, ("power_pct",))


if __name__ == "__main__":
    unittest.main()
