"""Trials of several steps: what each is set to, in which order all of it burns, what programs and documents say."""

import copy
import csv
import io
import json
import math
import unittest
from itertools import groupby
from random import Random

import numpy as np
import shapely
from numpy.testing import assert_allclose

from rezept.core.errors import InvalidInput
from rezept.core.plan import plan, read_plate, read_trial
from rezept.core.plan.gate import gate
from rezept.core.plan.plate_words import axis_words, shortened, step_words, title_words
from rezept.formats.gcode import write_gcode
from rezept.formats.sheet import write_sheet
from tests.beam import violations
from tests.formats.gcode_reader import read_gcode
from tests.hatch_referee import length, polygon
from tests.made import own_facts, planned, trial_document
from tests.random_trials import random_steps_trial

FILL = {"speed_mm_s": 200, "line_spacing_mm": 0.2}


def step_document(*steps, axes=(), **said):
    document = trial_document(steps=list(steps), axes=list(axes), **said)
    del document["process"], document["hold"]
    return document


def along(parameter, direction, values, step):
    return {"parameter": parameter, "along": direction, "values": list(values), "step": step}


def card(**said):
    """A coupon of an outline and a filling, each varied for itself: the filling's power on x, the cut's speed on y."""
    return step_document(
        {"name": "mark", "process": "area", "hold": FILL, "inset_mm": 1.0},
        {"name": "cut", "process": "cut", "hold": {"power_pct": 60}},
        axes=[along("power_pct", "x", [20, 40, 60], "mark"), along("speed_mm_s", "y", [10, 20], "cut")],
        patch={"width_mm": 10, "height_mm": 8},
        **said,
    )


def cleaning(rounds=1, **said):
    """Four passes of a bulk fill and two that clean, over and over."""
    return step_document(
        {"name": "bulk", "process": "deep", "hold": {"power_pct": 60, "passes": 4, "line_spacing_mm": 0.2}},
        {"name": "clean", "process": "area", "hold": {"speed_mm_s": 400, "power_pct": 15, "passes": 2,
                                                      "line_spacing_mm": 0.4}},
        axes=[along("speed_mm_s", "x", [100, 200], "bulk")],
        patch={"width_mm": 6, "height_mm": 6},
        rounds=rounds,
        **said,
    )  # fmt: skip


def sections(plate):
    """The patches of a program in the order in which they burn."""
    moves = read_gcode(write_gcode(plate)).burning("patch")
    return [name.removeprefix("patch ") for name, _ in groupby(move.section for move in moves)]


class SettingsTest(unittest.TestCase):
    def test_each_step_varies_for_itself(self):
        plate = planned(card())
        patches = {patch["id"]: patch for patch in plate.document()["patches"]}
        mark, cut = patches["B3"]["steps"]
        self.assertEqual((mark["process"], mark["settings"]["power_pct"], mark["settings"]["speed_mm_s"]),
                         ("area", 60, 200))  # fmt: skip
        self.assertEqual((cut["process"], cut["settings"]["power_pct"], cut["settings"]["speed_mm_s"]), ("cut", 60, 20))
        # 36 W at 200 mm/s with lines 0.2 mm apart: 0.9 J/mm2; 36 W at 20 mm/s: 1.8 J/mm.
        assert_allclose((mark["dose_j_mm2"], cut["dose_j_mm"]), (0.9, 1.8))
        # Beside several steps a patch has neither settings nor a dose of its own.
        self.assertFalse({"settings", "dose_j_mm", "dose_j_mm2", "corner_rise"} & set(patches["B3"]))
        assert_allclose(patches["B3"]["seconds"], mark["seconds"] + cut["seconds"])

    def test_the_same_setting_may_vary_in_two_steps_and_along_one_direction(self):
        document = card()
        document["axes"] = [
            along("speed_mm_s", "x", [100, 150, 200], "mark"),
            along("speed_mm_s", "x", [10, 15, 20], "cut"),
        ]
        del document["steps"][0]["hold"]["speed_mm_s"]
        document["steps"][0]["hold"]["power_pct"] = 30
        plate = planned(document)
        self.assertEqual(len(plate.elements), 3)
        both = [(a, b) for a, b in zip(*(step.settings["speed_mm_s"].tolist() for step in plate.steps), strict=True)]
        self.assertEqual(both, [(100, 10), (150, 15), (200, 20)])

    def test_what_is_set_by_hand_belongs_to_a_step(self):
        document = card()
        document["steps"][1]["overrides"] = {"A2": {"speed_mm_s": 12}}
        plate = planned(document)
        mark, cut = plate.steps
        index = plate.elements.ids.index("A2")
        self.assertEqual((mark.settings["speed_mm_s"][index], cut.settings["speed_mm_s"][index]), (200, 12))
        steps = plate.document()["patches"][index]["steps"]
        self.assertEqual([step["set_by_hand"] for step in steps], [[], ["speed_mm_s"]])

    def test_limits_of_dose_of_one_step_leave_the_patch_out(self):
        document = card()
        document["steps"][0]["dose_ceiling_j_mm2"] = 0.7
        plate = planned(document)
        self.assertEqual([name for name, burns in zip(plate.elements.ids, plate.elements.burn, strict=True) if burns],
                         ["A1", "A2", "B1", "B2"])  # fmt: skip
        self.assertEqual(len(plate.order), 8)

    def test_the_hot_end_is_that_of_each_step(self):
        document = card()
        document["steps"][1] |= {"starting_dose_j_mm": 1.0}
        warned = {
            warning.sentence.partition(":")[0]
            for warnings in planned(document).patch_warnings
            for warning in warnings
            if warning.kind == "hot_end"
        }
        # 36 W at 10 mm/s is 3.6 J/mm, more than 2.2 times what is expected; the marks span no more than 4 : 1.
        self.assertEqual(warned, {"A1/2", "A2/2", "A3/2"})

    def test_lines_laid_over_one_another_add_up(self):
        sets = [{"line_spacing_mm": 0.5}, {"line_spacing_mm": 1.0, "hatch_angle_deg": 90}]
        document = step_document(
            {"name": "mark", "process": "area", "hold": {"power_pct": 20, "passes": 2}, "hatch": sets},
            axes=[{"parameter": "speed_mm_s", "along": "x", "values": [100, 200]}],
            patch={"width_mm": 10, "height_mm": 8},
        )
        plate = planned(document)
        # 12 W at 100 mm/s, twice: 0.48 J/mm2 with lines 0.5 mm apart and 0.24 with 1 mm.
        assert_allclose(plate.judged.dose, [0.72, 0.36])
        burned = read_gcode(write_gcode(plate)).burning("patch A1")
        level = sum(move.length for move in burned if move.start[1] == move.end[1])
        upright = sum(move.length for move in burned if move.start[0] == move.end[0])
        # 16 rows of 10 mm and 10 of 8 mm, each pass.
        assert_allclose((level, upright), (2 * 16 * 10, 2 * 10 * 8), atol=1e-6)
        again = read_trial(json.loads(json.dumps(plate.trial.document())))
        self.assertEqual(plan(again).document(), plate.document())

    def test_one_way_goes_forward_only_and_takes_the_way_back(self):
        def with_way(one_way):
            return planned(
                step_document(
                    {"name": "mark", "process": "area", "hold": {"power_pct": 20, **FILL}, "one_way": one_way},
                    axes=[{"parameter": "passes", "along": "x", "values": [1]}],
                    patch={"width_mm": 10, "height_mm": 8},
                )
            )

        there, to_and_fro = with_way(True), with_way(False)
        self.assertEqual({move.end[0] > move.start[0] for move in read_gcode(write_gcode(there)).burning("patch")},
                         {True})  # fmt: skip
        # 40 rows of 10 mm at 200 mm/s with a run-up of v/2a = 5 mm at 4000 mm/s2: v/a = 0.05 s before and after each.
        row = 10 / 200 + 2 * 200 / 4000 / 2 * 2
        back = math.hypot(20, 0.2)
        self.assertLess(back, 400**2 / 4000)
        moves = 39 * 2 * math.sqrt(back / 4000)
        assert_allclose(there.judged.seconds, 40 * row + moves)
        turns = 39 * 2 * math.sqrt(0.2 / 4000)
        assert_allclose(to_and_fro.judged.seconds, 40 * row + turns)

    def test_both_fills_and_then_follows_the_outline(self):
        plate = planned(
            step_document(
                {"name": "mark", "process": "surface", "part": "both", "hold": {"power_pct": 20, **FILL}},
                axes=[{"parameter": "passes", "along": "x", "values": [1, 3]}],
                patch={"width_mm": 10, "height_mm": 8},
            )
        )
        burned = read_gcode(write_gcode(plate)).burning("patch A2")
        assert_allclose(sum(move.length for move in burned), 3 * (40 * 10 + 36), atol=1e-6)
        # What comes last goes along the rim.
        box = plate.elements.boxes[1]
        rim = shapely.box(box[0], box[1], box[0] + 10, box[1] + 8).exterior
        self.assertTrue(all(rim.distance(shapely.Point(move.end)) < 1e-3 for move in burned[-12:]))

    def test_a_step_may_stay_inside_the_figure(self):
        for shape, width, height in (("rectangle", 10, 8), ("disc", 9, 9), ("coupon", 12, 10)):
            with self.subTest(shape):
                document = card()
                document["patch"] = {"shape": shape, "width_mm": width, "height_mm": height}
                plate = planned(document)
                figures = {one["id"]: one["ways"] for one in plate.document()["figures"]}
                whole, mark = polygon(figures["patch"]), polygon(figures["patch-2"])
                wanted = whole.buffer(-1.0, quad_segs=64)
                self.assertLess(mark.symmetric_difference(wanted).area, 0.01 * wanted.length)
                self.assertLess(shapely.hausdorff_distance(mark.boundary, wanted.boundary), 0.01)
        document["steps"][0]["inset_mm"] = 7
        with self.assertRaises(InvalidInput) as raised:
            planned(document)
        self.assertEqual(raised.exception.path, "steps[0].inset_mm")

    def test_lettering_may_be_drawn_inside_what_is_cut(self):
        document = step_document(
            {"name": "name", "process": "line", "hold": {"power_pct": 20, "speed_mm_s": 100}, "text": "AB",
             "inset_mm": 2},
            {"name": "cut", "process": "cut", "hold": {"power_pct": 60}},
            axes=[along("speed_mm_s", "x", [10, 20], "cut")],
            patch={"width_mm": 10, "height_mm": 8},
        )  # fmt: skip
        plate = planned(document)
        x, y = plate.elements.boxes[0, :2]
        points = np.array([move.end for move in read_gcode(write_gcode(plate)).burning("patch A1/1")]) - (x, y)
        self.assertGreaterEqual(points.min(), 2 - 1e-3)
        self.assertTrue((points.max(axis=0) <= np.array([8.0, 6.0]) + 1e-3).all())


class OrderTest(unittest.TestCase):
    def test_all_fills_come_before_all_cuts(self):
        plate = planned(card())
        ids = ["A1", "A2", "A3", "B1", "B2", "B3"]
        self.assertEqual(plate.document()["order"], [*(f"{name}/1" for name in ids), *(f"{name}/2" for name in ids)])
        self.assertEqual(sections(plate), plate.document()["order"])
        # Though the cut is named first.
        turned = card()
        turned["steps"].reverse()
        self.assertEqual(planned(turned).document()["order"][0], "A1/2")

    def test_patch_by_patch(self):
        plate = planned(card(steps_order="patch"))
        self.assertEqual(sections(plate)[:4], ["A1/1", "A1/2", "A2/1", "A2/2"])

    def test_weakest_first_holds_within_each(self):
        plate = planned(card(order="weakest_first"))
        for number in (0, 1):
            doses = [plate.steps[step].dose[index] for index, step, _ in plate.parts() if step == number]
            self.assertEqual(doses, sorted(doses))

    def test_scattered_lets_neighbours_cool_in_each(self):
        document = card(order="scattered")
        document["axes"][0]["values"] = [20, 30, 40, 50, 60]
        document["axes"][1]["values"] = [10, 12, 14, 16, 18]
        plate = planned(document)
        for number in (0, 1):
            order = [index for index, step, _ in plate.parts() if step == number]
            places = {index: place for place, index in enumerate(order)}
            beside = [(i, i + 1) for i in range(25) if i % 5 < 4] + [(i, i + 5) for i in range(20)]
            self.assertGreaterEqual(min(abs(places[a] - places[b]) for a, b in beside), 8)
        self.assertGreaterEqual(plate.cooling.least_apart, 8)

    def test_rounds_are_not_passes(self):
        plate = planned(cleaning(rounds=3))
        self.assertEqual(plate.document()["order"], [f"A{i}/{n}" for n in range(1, 7) for i in (1, 2)])
        lengths = [sum(move.length for move in read_gcode(write_gcode(plate)).burning(f"patch A1/{n}"))
                   for n in range(1, 7)]  # fmt: skip
        # Four passes of 30 rows, and two of 15, again and again.
        assert_allclose(lengths, [4 * 30 * 6, 2 * 15 * 6] * 3, atol=1e-6)
        # A round is 36 W at 100 mm/s with lines of 0.2 mm, four times; all three of them are 21.6 J/mm2.
        assert_allclose(plate.steps[0].dose[0], 7.2)
        assert_allclose(plate.judged.dose[0], 21.6)
        assert_allclose(plate.of_step(1).judged.dose, 3 * 2 * 9 / 400 / 0.4)
        patch = planned(cleaning(rounds=2, steps_order="patch"))
        self.assertEqual(sections(patch)[:5], ["A1/1", "A1/2", "A1/3", "A1/4", "A2/1"])

    def test_limits_count_all_rounds(self):
        document = cleaning(rounds=3)
        document["steps"][0]["dose_ceiling_j_mm2"] = 15.0
        self.assertEqual(planned(document).elements.burn.tolist(), [False, True])


class DocumentTest(unittest.TestCase):
    def test_a_plate_is_read_as_it_was_written(self):
        for document in (card(), cleaning(3), card(steps_order="patch", order="scattered")):
            plate = planned(document)
            again = read_plate(json.loads(json.dumps(plate.document())))
            self.assertEqual(again.document(), plate.document())
            self.assertEqual(write_gcode(again), write_gcode(plate))

    def test_a_completed_trial_plans_the_same_plate(self):
        for document in (card(), cleaning(2)):
            plate = planned(document)
            self.assertEqual(planned(json.loads(json.dumps(plate.trial.document()))).document(), plate.document())

    def test_one_plain_step_is_a_process_and_what_it_holds(self):
        plain = step_document({"process": "cut"}, axes=trial_document()["axes"])
        self.assertEqual(planned(plain).document()["patches"], planned(trial_document()).document()["patches"])
        said = planned(plain).trial.document()
        self.assertEqual(said["process"], "cut")
        self.assertNotIn("steps", said)

    def test_what_it_is_judged_by_is_one_of_its_steps(self):
        plate = planned(card())
        self.assertEqual((plate.judged.process.key, plate.of_step(1).judged.process.key), ("area", "cut"))
        self.assertEqual(plate.of_step(1).trial.varied, ["speed_mm_s"])
        self.assertEqual(plate.of_step(0).elements.figure_of(0).box[0].tolist(), [1.0, 1.0])
        self.assertEqual(plate.of_step(1).elements.figure_of(0).box[0].tolist(), [0.0, 0.0])

    def test_documents_that_contradict_themselves(self):
        def spoiled(change):
            document = planned(card()).document()
            change(document["patches"][3], document)
            return document

        cases = {
            "process its trial says": lambda patch, document: [
                one["steps"][0].update(process="surface") for one in document["patches"]
            ],
            "the steps of its trial": lambda patch, document: [one["steps"].pop() for one in document["patches"]],
            "no such figure": lambda patch, _: patch["steps"][0].update(figure="star"),
            "set by hand": lambda patch, _: patch["steps"][0].update(set_by_hand=["power_pct"]),
        }
        for words, change in cases.items():
            with self.subTest(words), self.assertRaisesRegex(InvalidInput, words):
                read_plate(spoiled(change))


class RefusedTest(unittest.TestCase):
    def path_of(self, change, base=card):
        document = base()
        change(document)
        with self.assertRaises(InvalidInput) as raised:
            planned(document)
        return raised.exception.path

    def test_each_with_its_path(self):
        def step(number, **said):
            return lambda document: document["steps"][number].update(said)

        def axis(number, **said):
            return lambda document: document["axes"][number].update(said)

        cases = {
            "steps": lambda document: document.update(steps=[]),
            "steps[1].process": step(1, process="carve"),
            "steps[1].name": step(1, name="mark"),
            "steps[0].part": step(0, part="outline"),
            "steps[1].part": step(1, part="both"),
            "steps[1].one_way": step(1, one_way=True),
            "steps[1].hatch": step(1, hatch=[{"line_spacing_mm": 1}]),
            "steps[0].hatch[1].line_spacing_mm": step(0, hatch=[{}, {"hatch_angle_deg": 3}]),
            "steps[0].hatch[0].line_spacing_mm": step(0, hatch=[{"line_spacing_mm": 0.3}]),
            "steps[1].hold.power_pct": step(1, hold={}),
            "steps[0].hold.pierce_dwell_ms": step(0, hold={**FILL, "pierce_dwell_ms": 3}),
            "steps[0].inset_mm": step(0, inset_mm=-1),
            "steps[0].text": step(0, text="木"),
            "steps[0].letters": step(0, text="A", letters="strokes"),
            "steps[1].letters": step(1, letters="outlines"),
            "steps[0].overrides.Z9": step(0, overrides={"Z9": {"speed_mm_s": 100}}),
            "steps[0].dose_ceiling_j_mm2": step(0, dose_ceiling_j_mm2=0.001),
            "steps[0].dose_ceiling_j_mm": step(0, dose_ceiling_j_mm=1),
            "axes[0].step": axis(0, step="fold"),
            "axes[1].step": lambda document: document["axes"][1].pop("step"),
            "axes[1].count": lambda document: document["axes"].__setitem__(
                1, along("speed_mm_s", "x", [10, 20], "cut")
            ),
            "axes[2].along": lambda document: document["axes"].append(along("passes", "x", [1, 2, 3], "mark")),
            "axes[2].parameter": lambda document: document["axes"].append(
                along("power_pct", "block_x", [1, 2, 3], "mark")
            ),
            "rounds": lambda document: document.update(rounds=0),
            "steps_order": lambda document: document.update(steps_order="somehow"),
            "listed": lambda document: document.update(axes=[], listed={"settings": [{"speed_mm_s": 10}]}),
            "process": lambda document: document.update(process="cut") or document.pop("steps"),
        }
        cases.pop("process")
        for path, change in cases.items():
            with self.subTest(path):
                self.assertEqual(self.path_of(change), path)

    def test_rounds_need_steps(self):
        with self.assertRaisesRegex(InvalidInput, "goes with steps"):
            planned(trial_document(rounds=2))
        with self.assertRaisesRegex(InvalidInput, "not both"):
            planned(trial_document(steps=[{"process": "cut"}]))

    def test_too_many_parts(self):
        document = cleaning(rounds=20)
        document["axes"] = [along("speed_mm_s", "x", list(range(100, 700)), "bulk")]
        with self.assertRaisesRegex(InvalidInput, "24000 parts"):
            planned(document)


class RandomStepsTest(unittest.TestCase):
    """What a program burns in each part is what the plan says of it, by an interpreter and a polygon library."""

    def test_programs_are_the_plan(self):
        written = parts = 0
        for seed in range(400):
            document = random_steps_trial(seed)
            plate = planned(document)
            if gate(plate, own_facts(plate), "program"):
                continue
            written += 1
            self.assertEqual(violations(write_gcode(plate).splitlines(), document["machine"]), [], seed)
            program = read_gcode(write_gcode(plate))
            said = json.loads(json.dumps(plate.document()))
            figures = {one["id"]: one["ways"] for one in said["figures"]}
            trial, full = said["trial"], document["machine"]["s_at_full_power"]
            by_section = {}
            for move in program.burning("patch"):
                by_section.setdefault(move.section.removeprefix("patch "), []).append(move)
            self.assertEqual(list(by_section), said["order"], seed)
            patches = {patch["id"]: patch for patch in said["patches"]}
            chosen = Random(seed).sample(list(by_section), min(3, len(by_section)))
            for name in chosen:
                parts += 1
                patch, _, number = name.partition("/")
                several = len(patches[patch]["steps"]) > 1
                step = patches[patch]["steps"][int(number or 1) - 1]
                self.assertEqual(bool(number), several)
                settings = step["settings"]
                moves = by_section[name]
                self.assertEqual({round(move.feed / 60, 4) for move in moves}, {round(settings["speed_mm_s"], 4)})
                for beam in {move.beam for move in moves}:
                    self.assertAlmostEqual(beam, settings["power_pct"] / 100 * full, delta=1e-3 * full)
                ways = figures[step.get("figure", patches[patch]["figure"])]
                planned_step = trial["steps"][(int(number or 1) - 1) % len(trial["steps"])]
                wanted = self.length_of(planned_step, settings, ways)
                # A thousandth of a millimetre at either end of each move.
                self.assertAlmostEqual(
                    sum(move.length for move in moves), wanted, delta=2e-3 * len(moves) + 1e-6, msg=(seed, name)
                )
        self.assertGreaterEqual(written, 300)
        self.assertGreater(parts, 800)

    def length_of(self, step, settings, ways):
        passes, total = int(settings["passes"]), 0.0
        if step["part"] != "fill":
            total += passes * sum(shapely.LineString(way).length for way in ways)
        if step["part"] != "outline":
            first = {key: settings[key] for key in ("line_spacing_mm", "hatch_angle_deg")}
            sets = [first, *step.get("hatch", [])[1:]]
            turn = settings["hatch_turn_deg"]
            inside = polygon(ways)
            total += sum(
                length(inside, one["line_spacing_mm"], one["hatch_angle_deg"] + k * turn)
                for k in range(passes)
                for one in sets
            )
        return total


class WordsTest(unittest.TestCase):
    def test_a_plate_says_its_steps(self):
        plate = planned(cleaning(2, labels={"on": True, "settings": {"speed_mm_s": 100, "power_pct": 20}}))
        words = " ".join(title_words(plate.trial))
        self.assertIn("Deep engrave, Engrave", words)
        self.assertIn("bulk: power 60% 4 passes", words)
        self.assertIn("clean: speed 400 mm/s power 15% 2 passes", words)
        self.assertIn("2 rounds", words)
        self.assertEqual(axis_words(plate.trial), ["bulk speed mm/s >"])

    def test_values_of_two_steps_stand_beside_one_another(self):
        document = card()
        document["axes"] = [
            along("speed_mm_s", "x", [100, 150, 200], "mark"),
            along("speed_mm_s", "x", [10, 12.25, 15], "cut"),
        ]
        document["steps"][0]["hold"] = {"power_pct": 30, "line_spacing_mm": 0.2}
        trial = planned(document).trial
        self.assertEqual(step_words(trial, "x"), ["100 / 10", "150 / 12.25", "200 / 15"])
        self.assertEqual(shortened(step_words(trial, "x")), ["100 / 10", "150 / 12", "200 / 15"])
        self.assertEqual(axis_words(trial), ["mark speed mm/s / cut speed mm/s >"])

    def test_the_sheet_names_the_step_of_each_setting(self):
        rows = list(csv.DictReader(io.StringIO(write_sheet(planned(card())).decode())))
        self.assertEqual([row["step"] for row in rows], ["1 mark"] * 3 + ["2 cut"] * 2)
        self.assertEqual([row["dose"] for row in rows[::4]], ["0.3 J/mm2", "1.8 J/mm"])
        self.assertEqual([row["line spacing mm"] for row in rows], ["0.2"] * 3 + [""] * 2)
        self.assertEqual([row["power %"] for row in rows], ["20", "40", "60", "60", "60"])


class UnchangedTest(unittest.TestCase):
    def test_a_trial_of_one_process_says_nothing_of_steps(self):
        document = planned(trial_document()).document()
        self.assertNotIn("steps", document["trial"])
        self.assertEqual(copy.deepcopy(document["patches"][0]["steps"]),
                         [{"process": "cut", "settings": document["patches"][0]["settings"]}])  # fmt: skip


if __name__ == "__main__":
    unittest.main()
