"""Nothing burns that should not: programs and streams of random trials, gone through by an interpreter of the tests'
own; each rule of the gate broken alone; corrections, and plates of machines that have changed since."""

import copy
import dataclasses
import gzip
import json
import re
import unittest
from functools import cache
from pathlib import Path
from random import Random

from rezept.core.curve import Curve
from rezept.core.errors import Refused
from rezept.core.fields import Fields
from rezept.core.machine import read_machine
from rezept.core.plan import read_plate
from rezept.core.plan.again import only
from rezept.core.plan.gate import (
    BY_MOVE,
    BY_WHOLE,
    Asked,
    Today,
    by_rule,
    gate,
    gate_of_trace,
    judged_correction,
)
from rezept.core.plan.moves import moves_of
from rezept.core.plan.traced import OUTLINES
from rezept.formats.gcode import lines_to_send, program_parts, write_gcode
from rezept.formats.trace import write_trace
from rezept.formats.trial_file import read_trial_file
from rezept.store.plates_before import ways_as_planned
from tests.beam import violations
from tests.made import leaving, own_facts, planned, trial_document
from tests.random_trials import GANTRY, random_trial, turned_by_hand

GOLDEN = Path(__file__).parents[2] / "golden"
EXAMPLES = Path(__file__).parents[3] / "docs" / "formats" / "examples"
TRIALS = 500


def machine(facts):
    return read_machine(Fields(copy.deepcopy(facts)))


@cache
def plate_of(seed, wild=0.15):
    document = random_trial(seed, wild)
    return document["machine"], planned(document)


@cache
def good_plates(count):
    """Plates by which no rule is broken, on any way out."""
    found = []
    for seed in range(10_000, 20_000):
        facts, plate = plate_of(seed, 0.0)
        if not gate(plate, own_facts(plate), "program"):
            found.append((facts, plate))
        if len(found) == count:
            return found
    raise AssertionError("too few trials can be burned")


def streamed(plate):
    return [line for part in program_parts(plate) for line in part.lines]


class RandomTest(unittest.TestCase):
    def test_what_the_gate_lets_go_does_no_harm(self):
        """Programs, streams and outlines of 500 trials; and the interpreter sees what the gate refuses."""
        written = live = traced = refused = seen = 0
        for seed in range(TRIALS):
            facts, plate = plate_of(seed)
            today = own_facts(plate)
            kinds = {refusal.warning.kind for refusal in gate(plate, today, "program")}
            if not kinds:
                written += 1
                self.assertEqual(violations(write_gcode(plate).splitlines(), facts), [], seed)
            elif kinds <= {"speed", "max_power", "firing_floor", "frequency", "field", "pulse_width"}:
                refused += 1
                seen += bool(violations(write_gcode(plate).splitlines(), facts))
            if not gate(plate, today, "stream"):
                live += 1
                self.assertEqual(violations(streamed(plate), facts, live=True), [], seed)
            for outline in OUTLINES:
                if not gate_of_trace(plate, today, "stream", outline):
                    traced += 1
                    lines = lines_to_send(write_trace(plate, outline))
                    self.assertEqual(violations(lines, facts, live=True, trace=True), [], seed)
        self.assertEqual(seen, refused, "what the gate refuses by these rules does harm")
        for count, least in ((written, 300), (live, 250), (traced, 300), (refused, 80)):
            self.assertGreater(count, least)

    def test_where_a_dial_sets_the_power(self):
        """The same of 150 trials: the program gives all the dial allows, and nothing beyond its scale leaves."""
        written = off_scale = 0
        for seed in range(150):
            document = turned_by_hand(random_trial(seed, 0.05), Random(seed))
            plate = planned(document)
            facts, power = document["machine"], plate.judged.settings["power_pct"][plate.elements.burn]
            kinds = {refusal.warning.kind for refusal in gate(plate, own_facts(plate), "program")}
            low, high = facts["curves"]["power_pct"]["pairs"]
            if power.min() < low[1] or power.max() > high[1]:
                self.assertIn("off_scale", kinds, seed)
                off_scale += 1
            if not kinds:
                written += 1
                for program in leaving(plate):
                    self.assertEqual(violations(program.splitlines(), facts), [], seed)
        self.assertGreater(min(written, off_scale), 25, (written, off_scale))

    def test_the_rest_and_again_in_place(self):
        for seed in range(100):
            facts, plate = plate_of(seed)
            ids = [plate.elements.ids[i] for i in plate.order[:, 0]]
            rest = ids[len(ids) // 2 :]
            part = only(plate, rest, {name: {"passes": 3.0} for name in rest}, cuts=True)
            if not gate(part, own_facts(part), "stream"):
                self.assertEqual(violations(streamed(part), facts, live=True), [], seed)

    def test_corrections(self):
        """A stream whose every S and F is turned, as a controller would; the trial is one that can be burned."""
        allowed = refused = 0
        for i, (facts, plate) in enumerate(good_plates(120)):
            random = Random(i)
            power, speed = (1 + random.randint(-15, 15) * 0.02 for _ in range(2))
            against = judged_correction(plate.trial, moves_of(plate), own_facts(plate), power, speed)
            if against:
                refused += 1
                continue
            allowed += 1

            def turned(line, power=power, speed=speed):
                line = re.sub(rb"S([0-9.]+)", lambda m: b"S%.9f" % (float(m[1]) * power), line)
                return re.sub(rb"F([0-9.]+)", lambda m: b"F%.9f" % (float(m[1]) * speed), line)

            lines = [line if line.startswith(b";") else turned(line) for line in streamed(plate)]
            harmful = violations(lines, {**facts, "beam_drops_at_rest": True}, live=True)
            self.assertEqual([one for one in harmful if "stands" not in one], [], i)
        self.assertGreater(min(allowed, refused), 12, (allowed, refused))


class ChangedTest(unittest.TestCase):
    """The same for plates that were frozen before a fact of their machine was changed."""

    CHANGES = (
        {"max_power_pct": 40.0},
        {"max_power_pct": 40.0, "firing_floor_pct": 30.0},
        {"max_speed_mm_s": 60.0},
        {"field_width_mm": 30.0},
        {"field_height_mm": 25.0},
        {"frequency_khz": None, "pulse_widths": None},
        {"pulse_widths": [{"ns": 20, "frequency_khz": [90, 200], "full_power_from_khz": 100}]},
        {"beam_drops_at_rest": False},
        {"dwells_with_beam": False},
        {"s_at_full_power": 30.0},
        {"rated_power_w": 100.0},
        {"power_mode": "constant", "beam_drops_at_rest": False},
        {"hears_settings": False},
    )

    def test_programs_of_frozen_plates(self):
        kept = let_go = 0
        for _, plate in good_plates(40):
            frozen = read_plate(json.loads(json.dumps(plate.document())))
            program, stream = write_gcode(frozen).splitlines(), streamed(frozen)
            self.assertEqual(program, write_gcode(plate).splitlines())
            facts = frozen.trial.machine.document()
            for change in self.CHANGES:
                now = {**facts, **change}
                today = Today(machine(now), frozen.trial.material)
                for via, lines in (("program", program), ("stream", stream)):
                    if gate(frozen, today, via):
                        kept += 1
                    else:
                        let_go += 1
                        self.assertEqual(violations(lines, now, live=via == "stream"), [], change)
        self.assertGreater(min(kept, let_go), 150)


def _set(plate, key, value):
    """The plate with another figure in every patch."""
    step = plate.judged
    settings = {**step.settings, key: step.settings["power_pct"] * 0 + value}
    return dataclasses.replace(plate, steps=(dataclasses.replace(step, settings=settings),))


def _now(plate, **facts):
    return Today(dataclasses.replace(plate.trial.machine, **facts), plate.trial.material)


def _on_a_scale(plate, curve):
    today = _now(plate, curves=(("power_pct", curve),))
    return dataclasses.replace(plate, trial=dataclasses.replace(plate.trial, machine=today.machine)), today


def _field_broken(plate):
    reach = moves_of(plate)
    size = float((reach.high.max(axis=0) - reach.low.min(axis=0))[0])
    head = dataclasses.replace(plate.trial.machine.head, overrides=())
    return _now(plate, field_width_mm=max(size - 1.0, 1.0), head=head)


class AloneTest(unittest.TestCase):
    """Each rule, broken alone, keeps at least twenty trials in the house."""

    # How each rule is broken: from a plate that may leave to one, or to facts, by which it may not.
    BROKEN = {
        "speed": (lambda p: (p, _now(p, max_speed_mm_s=10.0)), "program"),
        "ceiling": (lambda p: (p, _now(p, max_power_pct=9.5)), "program"),
        "floor": (lambda p: (p, _now(p, firing_floor_pct=84.9)), "program"),
        "pulses": (lambda p: (p, _now(p, frequency_khz=(1.0, 2.0), pulse_widths=None)), "program"),
        "scale": (lambda p: _on_a_scale(p, Curve("mA", ((1.0, 1.0), (2.0, 9.5)))), "program"),
        "at_rest": (lambda p: (_set(p, "pierce_dwell_ms", 50.0), _now(p, dwells_with_beam=False)), "program"),
        "written": (lambda p: (_set(p, "speed_mm_s", 5e-6), own_facts(p)), "program"),
        "told": (lambda p: (_set(p, "focus_offset_mm", 1.5), _now(p, hears_settings=False)), "program"),
        "field": (lambda p: (p, _field_broken(p)), "program"),
        "hazards": (
            lambda p: (p, Today(p.trial.machine, dataclasses.replace(p.trial.material, hazards=("chlorine",)))),
            "drawing",
        ),
        "retired": (lambda p: (p, Today(p.trial.machine, p.trial.material, ("Wren",))), "drawing"),
        "bounds": (lambda p: (p, _now(p, travel_speed_mm_s=1.7e308)), "drawing"),
        "translation": (lambda p: (p, _now(p, s_at_full_power=p.trial.machine.s_at_full_power * 2)), "program"),
        "stays_on": (lambda p: (p, _now(p, power_mode="constant", beam_drops_at_rest=False)), "stream"),
    }

    def test_every_rule_is_broken_here(self):
        self.assertEqual(set(self.BROKEN), {*BY_MOVE, *BY_WHOLE})

    def test_each_alone(self):
        plates = good_plates(120)
        for rule, (broken, via) in self.BROKEN.items():
            with self.subTest(rule):
                alone = 0
                for _, plate in plates:
                    other, today = broken(plate)
                    asked = Asked(other.trial, moves_of(other), today, via)
                    found = by_rule(asked)
                    alone += set(found) == {rule}
                    for refusal in found.get(rule, []):
                        self.assertTrue(refusal.warning.sentence.endswith("."), refusal)
                self.assertGreaterEqual(alone, 20)

    def test_a_refusal_names_part_figure_limit_and_way_out(self):
        labels = {"on": True, "settings": {"speed_mm_s": 900, "power_pct": 20}}
        plate = planned(trial_document(machine=GANTRY, labels=labels))
        with self.assertRaises(Refused) as caught:
            leaving(plate)
        error = caught.exception
        self.assertIn("The labels: 900 mm/s is faster than Wren can go (500 mm/s); go slower.", error.sentence)
        self.assertEqual((error.path, error.value, error.limit), ("labels.settings.speed_mm_s", 900.0, 500.0))


class SeenTest(unittest.TestCase):
    """What was seen to burn and must not."""

    def refused(self, words, **changes):
        plate = planned(trial_document(**{"machine": GANTRY, **changes}))
        for kind in ("gcode", "svg", "csv"):
            with self.assertRaisesRegex(Refused, words):
                leaving(plate, kind)
        said = " ".join(warning.sentence for warning in plate.refusals())
        self.assertRegex(said, words)

    def test_a_cut_out_at_full_power_and_far_too_fast(self):
        cut = {"speed_mm_s": 5000, "power_pct": 100}
        self.refused("plate's own cuts: 5000 mm/s is faster", cut_out=True, cut_settings=cut)

    def test_labels_at_a_frequency_no_source_has(self):
        galvo = next(
            random_trial(seed, 0.0) for seed in range(99) if random_trial(seed, 0.0)["material"]["family"] == "metal"
        )
        labels = {"on": True, "settings": {"speed_mm_s": 100, "power_pct": 20, "frequency_khz": 9999}}
        plate = planned({**galvo, "labels": labels})
        with self.assertRaisesRegex(Refused, "would ignore 9999 kHz"):
            leaving(plate)

    def test_corner_power_above_the_ceiling(self):
        hold = {"speed_mm_s": 20, "power_pct": 40, "corner_power_pct": 100, "passes": 1}
        axes = [{"parameter": "air_level", "along": "x", "values": [0, 1]}]
        facts = {**GANTRY, "max_power_pct": 60, "hears_settings": True}
        self.refused("100 % at corners is more", hold=hold, axes=axes, machine=facts)

    def test_a_speed_that_would_be_written_as_none(self):
        hold = {"power_pct": 40, "passes": 1}
        axes = [{"parameter": "speed_mm_s", "along": "x", "values": [5e-6]}]
        plate = planned(trial_document(machine=GANTRY, hold=hold, axes=axes))
        with self.assertRaisesRegex(Refused, "cannot say a speed of 5e-06 mm/s"):
            leaving(plate)
        self.assertIn("unwritable", {warning.kind for warning in plate.warnings})

    def test_where_full_power_is_a_tiny_number(self):
        """S3 is full power, and a power of 10 % is 0.3; at S0.01 it would be 0.001, and 12 % no different."""
        for full, words in ((3.0, None), (0.01, "cannot say a power of")):
            axes = [{"parameter": "power_pct", "along": "x", "values": [10, 12.5]}]
            facts = {**GANTRY, "s_at_full_power": full}
            hold = {"speed_mm_s": 20, "passes": 1}
            plate = planned(trial_document(machine=facts, hold=hold, axes=axes))
            if words is None:
                leaving(plate)
            else:
                with self.assertRaisesRegex(Refused, words):
                    leaving(plate)


class InnocentTest(unittest.TestCase):
    """The gate lets go what is sound: the examples and the golden plates."""

    def test_examples(self):
        for path in sorted(EXAMPLES.glob("*.trial.json")):
            plate = planned(json.loads(path.read_text()))
            self.assertEqual(gate(plate, own_facts(plate), "drawing"), [], path.name)
            self.assertEqual(read_trial_file(path.read_bytes()).process, plate.trial.process)

    def test_golden_plates(self):
        for name, golden in json.loads(gzip.decompress((GOLDEN / "plates.json.gz").read_bytes())).items():
            plate = read_plate({**golden["plate"], **(ways_as_planned(golden["plate"]) or {})})
            via = "program" if "gcode" in golden["sha256"] else "drawing"
            self.assertEqual(gate(plate, _now(plate, dwells_with_beam=True), via), [], name)


if __name__ == "__main__":
    unittest.main()
