"""Arrays of more than two settings: blocks, ladders, steps as the machine shows them, order, fit, marks, cautions."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose

from rezept.core.errors import InvalidInput
from rezept.core.plan import read_trial
from rezept.core.plan.distinct import split
from rezept.core.plan.order import best_apart, burn_order, least_apart, scattered
from rezept.core.plan.place import beyond_piece, to_piece
from tests.made import BLANK, HERON, POWER, SPEED, WREN, area_document, planned, token_document, trial_document

LABELS = {"on": True, "height_mm": 2.0, "settings": {"speed_mm_s": 100, "power_pct": 20}}
FREQUENCY = {"parameter": "frequency_khz", "along": "block_x", "values": [60, 100, 200]}
WIDTH = {"parameter": "pulse_width_ns", "along": "block_y", "values": [20, 200]}
MARK = [
    {"parameter": "speed_mm_s", "along": "x", "values": [200, 400]},
    {"parameter": "power_pct", "along": "y", "values": [20, 40, 60]},
]


def ladder(count, wrap=None, **more):
    axis = {"parameter": "speed_mm_s", "along": "x", "from": 10, "to": 10 + count - 1, "count": count}
    return {**axis, "spacing": "linear", **({} if wrap is None else {"wrap": wrap}), **more}


def overlapping(plate):
    """Pairs of patches that share ground."""
    width, height = plate.trial.patch.width_mm, plate.trial.patch.height_mm
    dx = np.abs(plate.elements.x_mm[:, None] - plate.elements.x_mm) < width - 1e-9
    dy = np.abs(plate.elements.y_mm[:, None] - plate.elements.y_mm) < height - 1e-9
    return int((dx & dy).sum()) - len(plate.elements.ids)


class BlockTest(unittest.TestCase):
    def test_four_settings_at_once(self):
        """3 x 2 blocks of 2 x 3 patches: block 5 is the middle one of the upper line: 100 kHz, 200 ns."""
        plate = planned(token_document(axes=[*MARK, FREQUENCY, WIDTH], hold={}))
        self.assertEqual(len(plate.elements.ids), 36)
        i = plate.elements.ids.index("5-C2")
        chosen = {key: values[i] for key, values in plate.judged.settings.items() if key in
                  ("speed_mm_s", "power_pct", "frequency_khz", "pulse_width_ns")}  # fmt: skip
        self.assertEqual(chosen, {"speed_mm_s": 400, "power_pct": 60, "frequency_khz": 100, "pulse_width_ns": 200})
        self.assertEqual((plate.elements.row[i], plate.elements.column[i], plate.elements.block[i]), (3, 2, 5))
        self.assertEqual(plate.document()["patches"][i]["block"], 5)
        self.assertEqual(overlapping(plate), 0)
        first = plate.elements.ids.index("2-A1")
        self.assertGreater(plate.elements.x_mm[first], plate.elements.x_mm[0])
        self.assertGreater(plate.elements.y_mm[plate.elements.ids.index("4-A1")], plate.elements.y_mm[0])

    def test_every_combination_once(self):
        plate = planned(token_document(axes=[*MARK, FREQUENCY, WIDTH], hold={}))
        keys = ("speed_mm_s", "power_pct", "frequency_khz", "pulse_width_ns")
        self.assertEqual(len({tuple(plate.judged.settings[key][i] for key in keys) for i in range(36)}), 36)

    def test_blocks_wrap(self):
        """Five blocks, two in a line: the fifth stands alone in the third line."""
        five = {**FREQUENCY, "values": [60, 80, 100, 150, 200], "wrap": 2}
        plate = planned(token_document(axes=[*MARK, five], hold={}, labels=LABELS))
        corner = {
            plate.elements.ids[i]: (plate.elements.x_mm[i], plate.elements.y_mm[i])
            for i in range(len(plate.elements.ids))
        }
        self.assertEqual(corner["1-A1"][0], corner["5-A1"][0])
        self.assertEqual(corner["3-A1"][1], corner["4-A1"][1])
        self.assertLess(corner["3-A1"][1], corner["5-A1"][1])
        self.assertEqual(overlapping(plate), 0)
        said = {text.text for text in plate.texts if text.kind == "block"}
        self.assertEqual(said, {f"{value} kHz" for value in (60, 80, 100, 150, 200)})

    def test_a_ladder_wraps_and_every_patch_says_its_value(self):
        plate = planned(trial_document(axes=[ladder(7, wrap=3)], hold={"power_pct": 60}, labels=LABELS))
        self.assertEqual(plate.elements.ids, ("A1", "A2", "A3", "B1", "B2", "B3", "C1"))
        self.assertEqual(plate.judged.settings["speed_mm_s"].tolist(), [10, 11, 12, 13, 14, 15, 16])
        values = {text.text: text for text in plate.texts if text.kind == "column"}
        self.assertEqual(sorted(values), [str(value) for value in range(10, 17)])
        for i, speed in enumerate(plate.judged.settings["speed_mm_s"]):
            text = values[f"{speed:g}"]
            self.assertLess(text.y_mm + text.height_mm, plate.elements.y_mm[i])
            self.assertGreater(text.y_mm, plate.elements.y_mm[i] - 2 * text.height_mm)

    @settings(max_examples=25, deadline=None)
    @given(st.integers(1, 4), st.integers(1, 3), st.integers(1, 5), st.integers(1, 3), st.booleans(), st.booleans())
    def test_nothing_drawn_touches_a_patch(self, columns, rows, across, up, marks, code):
        axes = [
            {"parameter": "speed_mm_s", "along": "x", "values": [200 + 10 * i for i in range(columns)]},
            {"parameter": "power_pct", "along": "y", "values": [20 + i for i in range(rows)]},
            {"parameter": "frequency_khz", "along": "block_x", "values": [100 + i for i in range(across)]},
            {"parameter": "passes", "along": "block_y", "values": [1 + i for i in range(up)]},
        ]
        document = token_document(
            axes=axes, hold={}, labels={**LABELS, "marks": marks, "qr": code}, code="7K3Q-T014.2",
            cut_out=True, hang_hole_mm=4, cut_settings={"speed_mm_s": 50, "power_pct": 80},
        )  # fmt: skip
        plate = planned(document)
        self.assertEqual(overlapping(plate), 0)
        width, height = plate.trial.patch.width_mm, plate.trial.patch.height_mm
        for part in plate.drawn:
            points = np.concatenate([part.points, part.lines.reshape(-1, 2)])
            self.assertTrue(
                (points >= -1e-6).all() and (points <= [plate.width_mm + 1e-6, plate.height_mm + 1e-6]).all()
            )
            if part.role == "cut-out":
                continue
            for x, y in zip(plate.elements.x_mm, plate.elements.y_mm, strict=True):
                inside = ((points > [x, y]) & (points < [x + width, y + height])).all(axis=1)
                self.assertFalse(inside.any(), f"{part.name} runs over a patch")
        boxes = [(m.x_mm, m.y_mm, m.size_mm / 2) for m in plate.marks]
        for i, (x, y, r) in enumerate(boxes):
            for other_x, other_y, other in boxes[i + 1 :]:
                self.assertTrue(abs(x - other_x) >= r + other - 1e-6 or abs(y - other_y) >= r + other - 1e-6)


class ShownStepsTest(unittest.TestCase):
    def test_steps_are_rounded_to_what_the_machine_shows_and_it_says_so(self):
        """30 to 80 % in four steps is 46.67 and 63.33; in whole per cent 47 and 63."""
        machine = {**WREN, "shows": {"power_pct": 1}}
        plate = planned(trial_document(machine=machine, axes=[SPEED, {**POWER, "count": 4}]))
        self.assertEqual(sorted(set(plate.judged.settings["power_pct"].tolist())), [30, 47, 63, 80])
        note = next(w for w in plate.warnings if w.kind == "rounded")
        self.assertEqual((note.level, note.path, round(note.value, 2), note.limit), ("note", "axes[1]", 46.67, 47))
        again = read_trial(plate.trial.document())
        self.assertEqual(again.axes, plate.trial.axes)
        self.assertEqual(plate.trial.document()["axes"][1]["to"], 80)

    def test_steps_that_become_one_are_pointed_out(self):
        machine = {**WREN, "shows": {"speed_mm_s": 10}}
        plate = planned(trial_document(machine=machine))
        note = next(w for w in plate.warnings if w.kind == "rounded")
        self.assertEqual((note.level, note.path), ("warning", "axes[0].count"))

    def test_a_list_is_burned_as_typed_and_what_cannot_be_set_is_named(self):
        machine = {**WREN, "shows": {"power_pct": 5}}
        axes = [{"parameter": "power_pct", "along": "x", "values": [40, 42]}]
        plate = planned(trial_document(machine=machine, axes=axes, hold={"speed_mm_s": 20}))
        self.assertEqual(plate.judged.settings["power_pct"].tolist(), [40, 42])
        kinds = [[w.kind for w in warnings] for warnings in plate.patch_warnings]
        self.assertNotIn("unshown", kinds[0])
        self.assertIn("unshown", kinds[1])


class SinglePatchTest(unittest.TestCase):
    def test_set_by_hand_and_visibly_so(self):
        plate = planned(trial_document(overrides={"B2": {"power_pct": 33}}, labels=LABELS))
        i = plate.elements.ids.index("B2")
        self.assertEqual(plate.judged.settings["power_pct"][i], 33)
        self.assertAlmostEqual(plate.judged.dose[i], 60 * 0.33 / 16)
        self.assertEqual(plate.document()["patches"][i]["set_by_hand"], ["power_pct"])
        self.assertIn("B2: power 33%", " ".join(text.text for text in plate.texts))
        with self.assertRaisesRegex(InvalidInput, "no patch Z9"):
            planned(trial_document(overrides={"Z9": {"power_pct": 33}}))

    def test_extremes_are_dropped_by_dose(self):
        """Doses go from 18/32 = 0.56 to 48/8 = 6 J/mm; what lies outside 1 to 3 stays bare, and says why."""
        plate = planned(trial_document(dose_floor_j_mm=1, dose_ceiling_j_mm=3))
        inside = (plate.judged.dose >= 1) & (plate.judged.dose <= 3)
        self.assertEqual(plate.elements.burn.tolist(), inside.tolist())
        self.assertTrue(0 < inside.sum() < len(inside))
        self.assertEqual(sorted(plate.order[:, 0].tolist()), np.flatnonzero(inside).tolist())
        for kept, warnings in zip(inside, plate.patch_warnings, strict=True):
            self.assertEqual("dropped" in [warning.kind for warning in warnings], not kept)
        with self.assertRaisesRegex(InvalidInput, "no patch to burn"):
            planned(trial_document(dose_floor_j_mm=50))


class OrderTest(unittest.TestCase):
    def test_scattered_reaches_nine_tenths_of_what_is_possible(self):
        for rows in range(1, 25):
            for columns in range(1, 25):
                line, place = (index.ravel() for index in np.indices((rows, columns)))
                order = scattered(line, place)
                self.assertEqual(sorted(order.tolist()), list(range(rows * columns)))
                if rows * columns > 1:
                    self.assertGreaterEqual(least_apart(order, line, place), 0.9 * best_apart(rows, columns))

    def test_an_eight_by_eight_is_scattered_as_well_as_can_be(self):
        axes = [{**SPEED, "count": 8}, {**POWER, "count": 8}]
        cooling = planned(trial_document(axes=axes, order="scattered")).cooling
        self.assertEqual((cooling.least_apart, cooling.best_apart), (28, 28))

    def test_small_arrays_against_every_order_there_is(self):
        """The formula for the best possible, by trying all orders of 2 x 3 and 2 x 4."""
        from itertools import permutations

        for rows, columns in ((2, 3), (2, 4)):
            line, place = (index.ravel() for index in np.indices((rows, columns)))
            pairs = [(a, b) for a in range(rows * columns) for b in range(a)
                     if abs(line[a] - line[b]) + abs(place[a] - place[b]) == 1]  # fmt: skip
            best = 0
            for turn in permutations(range(rows * columns)):
                best = max(best, min(abs(turn[a] - turn[b]) for a, b in pairs))
            self.assertEqual(best, best_apart(rows, columns))

    @given(st.integers(2, 7), st.integers(2, 7), st.data())
    def test_gaps_and_the_figures_of_an_order(self, rows, columns, data):
        line, place = (index.ravel() for index in np.indices((rows, columns)))
        burn = np.array(data.draw(st.lists(st.booleans(), min_size=len(line), max_size=len(line))))
        burn[0] = True
        for name in ("rows", "weakest_first", "scattered"):
            order = burn_order(name, line, place, np.arange(len(line), 0, -1.0), burn)
            self.assertEqual(sorted(order.tolist()), np.flatnonzero(burn).tolist())
            position = {patch: i for i, patch in enumerate(order.tolist())}
            apart = [abs(position[a] - position[b]) for a in position for b in position
                     if abs(line[a] - line[b]) + abs(place[a] - place[b]) == 1]  # fmt: skip
            self.assertEqual(least_apart(order, line, place), min(apart, default=None))

    def test_waiting_and_travel(self):
        """Scattered waits longer between neighbours than row by row, and travels farther."""
        axes = [{**SPEED, "count": 6}, {**POWER, "count": 6}]
        rows, scattered_plate = (planned(trial_document(axes=axes, order=order)) for order in ("rows", "scattered"))
        self.assertGreater(scattered_plate.cooling.shortest_wait_s, 10 * rows.cooling.shortest_wait_s)
        self.assertGreater(scattered_plate.travel_seconds, rows.travel_seconds)
        self.assertEqual(rows.cooling.least_apart, 1)
        # Row by row the next patch begins after one hop of the gap and the patch itself.
        self.assertGreaterEqual(rows.cooling.shortest_wait_s, 0)


class FitTest(unittest.TestCase):
    def test_as_many_as_there_is_room_for(self):
        """On 100 x 60 mm with 10 mm patches and 3 mm gaps there is room for 7 x 4, and not for one line more."""
        piece = {"shape": "rectangle", "width_mm": 100, "height_mm": 60, "margin_mm": 2}
        place = {"at": "corner", "x_mm": 2, "y_mm": 2}
        plate = planned(trial_document(piece=piece, place=place, fit="more_patches"))
        self.assertEqual((plate.elements.column.max(), plate.elements.row.max()), (7, 4))
        self.assertEqual(
            (plate.judged.settings["speed_mm_s"].min(), plate.judged.settings["speed_mm_s"].max()), (8, 32)
        )
        self.assertFalse([w for w in plate.warnings if w.kind == "piece"])
        again = planned(plate.trial.document())
        self.assertEqual(again.elements.ids, plate.elements.ids)

    def test_patches_shrink_for_their_count(self):
        piece = {"shape": "disc", "width_mm": 40, "margin_mm": 1}
        plate = planned(trial_document(piece=piece, place={"at": "centre"}, fit="smaller_patches"))
        self.assertEqual(len(plate.elements.ids), 12)
        self.assertLess(plate.trial.patch.width_mm, 10)
        self.assertLessEqual(beyond_piece(plate.trial, plate.width_mm, plate.height_mm), 1e-6)
        corners = to_piece(
            np.array([(0, 0), (plate.width_mm, plate.height_mm)]), plate.trial.place, plate.trial.piece,
            plate.width_mm, plate.height_mm,
        )  # fmt: skip
        self.assertTrue((np.linalg.norm(corners - 20, axis=1) <= 19 + 1e-6).all())

    def test_what_cannot_fit_says_so(self):
        piece = {"shape": "rectangle", "width_mm": 12, "height_mm": 12}
        for fit in ("more_patches", "smaller_patches"):
            with self.assertRaises(InvalidInput) as caught:
                planned(trial_document(piece=piece, fit=fit, labels=LABELS))
            self.assertEqual(caught.exception.path, "fit")


class MarksTest(unittest.TestCase):
    def test_marks_and_code_are_listed_and_drawn_with_the_label_settings(self):
        plate = planned(token_document(labels={**LABELS, "marks": True, "qr": True}, code="7K3Q-T014.2"))
        marks = plate.document()["marks"]
        self.assertEqual(sorted(mark["kind"] for mark in marks), ["corner", "corner", "corner", "distinct", "qr"])
        distinct = next(mark for mark in marks if mark["kind"] == "distinct")
        self.assertLess(max(distinct["x_mm"], distinct["y_mm"]), 4)
        for part in plate.drawn:
            self.assertEqual(part.settings["speed_mm_s"], 100)
        with self.assertRaisesRegex(InvalidInput, "code"):
            planned(token_document(labels={**LABELS, "qr": True}))
        with self.assertRaisesRegex(InvalidInput, "does not fit"):
            planned(token_document(labels={**LABELS, "qr": True}, code="a-code-that-is-too-long.12"))

    def test_a_module_is_half_a_millimetre_and_three_spots(self):
        for spot, module in ((0.05, 0.5), (0.3, 0.9)):
            head = {**HERON, "head": {"spot_mm": spot}}
            plate = planned(token_document(machine=head, labels={**LABELS, "qr": True}, code="7K3Q-T014.2"))
            self.assertAlmostEqual(plate.marks[0].size_mm, 29 * module)

    def test_cut_out_comes_last_and_the_hole_lies_off_the_middle(self):
        plate = planned(
            trial_document(
                cut_out=True, hang_hole_mm=4, cut_settings={"speed_mm_s": 12, "power_pct": 80}, labels=LABELS
            )
        )
        self.assertEqual([part.role for part in plate.drawn if part.last], ["hang-hole", "cut-out"])
        hole = next(part for part in plate.drawn if part.role == "hang-hole").points
        self.assertGreater(abs(hole[:, 0].mean() - plate.width_mm / 2), plate.width_mm / 4)
        self.assertAlmostEqual(np.ptp(hole[:, 0]), 4, delta=0.05)


class CautionTest(unittest.TestCase):
    def kinds(self, plate, patch):
        return {warning.kind for warning in plate.patch_warnings[plate.elements.ids.index(patch)]}

    def test_burned_ground_is_no_fair_test(self):
        """Ground from (0, 0) to (20, 20) on the piece: the patches of the first two columns and rows lie on it."""
        piece = {"shape": "rectangle", "width_mm": 200, "height_mm": 100}
        ground = [[[0, 0], [20, 0], [20, 20], [0, 20]]]
        plate = planned(trial_document(piece=piece, burned_ground=ground))
        hit = {patch for patch in plate.elements.ids if "burned_ground" in self.kinds(plate, patch)}
        self.assertEqual(hit, {"A1", "A2", "B1", "B2"})
        moved = planned(trial_document(piece=piece, burned_ground=ground, place={"x_mm": 18.1, "y_mm": 0}))
        self.assertFalse([w for warnings in moved.patch_warnings for w in warnings if w.kind == "burned_ground"])

    def test_clear_ground_is_found(self):
        """The lowest clear place, then the leftmost; turned plates and discs, too; a sentence where there is none."""
        piece = {"shape": "rectangle", "width_mm": 200, "height_mm": 100, "margin_mm": 2}
        ground = [[[0, 0], [60, 0], [60, 50], [0, 50]], [[80, 0], [90, 0], [90, 10], [80, 10]]]
        clear = {"piece": piece, "burned_ground": ground, "place": {"at": "clear"}}
        plate = planned(trial_document(**clear))
        place = plate.trial.place
        self.assertEqual((place.at, place.x_mm, place.y_mm), ("corner", 90.0, 2.0))
        for more in ({}, {"place": {"at": "clear", "turn_deg": 90}}, {"place": {"at": "clear", "turn_deg": 30}}):
            plate = planned(trial_document(**{**clear, **more}))
            self.assertFalse([w for found in plate.patch_warnings for w in found if w.kind == "burned_ground"])
            self.assertNotIn("piece", {w.kind for w in plate.warnings})
        disc = {"shape": "disc", "width_mm": 130, "margin_mm": 1}
        half = [[[0, 0], [130, 0], [130, 62], [0, 62]]]
        plate = planned(trial_document(piece=disc, burned_ground=half, place={"at": "clear"}))
        self.assertGreaterEqual(plate.trial.place.y_mm, 62)
        self.assertNotIn("piece", {w.kind for w in plate.warnings})
        again = planned(plate.trial.document())
        self.assertEqual(again.trial.place, plate.trial.place)
        with self.assertRaisesRegex(InvalidInput, "no clear place") as caught:
            planned(trial_document(**{**clear, "burned_ground": [[[0, 0], [200, 0], [200, 80], [0, 80]]]}))
        self.assertEqual(caught.exception.path, "place.at")

    def test_as_many_as_fit_on_clear_ground(self):
        piece = {"shape": "rectangle", "width_mm": 120, "height_mm": 60, "margin_mm": 1}
        ground = [[[0, 0], [60, 0], [60, 60], [0, 60]]]
        plate = planned(trial_document(piece=piece, burned_ground=ground, place={"at": "clear"}, fit="more_patches"))
        self.assertGreaterEqual(plate.trial.place.x_mm, 60)
        self.assertLess(plate.width_mm, 59)
        self.assertGreater(plate.width_mm, 59 - 13)

    def test_the_codes_lines_need_room_to_gain_speed(self):
        """At 400 mm/s and 4000 mm/s2 the head needs 20 mm before and after each line of the code."""
        machine = {**WREN, "field_width_mm": 60}
        fast = {**LABELS, "on": False, "qr": True, "settings": {"speed_mm_s": 400, "power_pct": 20}}
        slow = {**fast, "settings": {"speed_mm_s": 100, "power_pct": 20}}
        for labels, refused in ((fast, True), (slow, False)):
            plate = planned(trial_document(machine=machine, labels=labels, code="7K3Q-T014.2"))
            self.assertEqual(["The labels"] if refused else [], [w.sentence[:10] for w in plate.refusals()])

    def test_burn_through_by_what_cuts_it(self):
        """At 12 W, 100 mm/s, 0.1 mm lines and a 0.2 mm spot a line gives 0.12 x 2 J/mm."""
        machine = {**WREN, "head": {"spot_mm": 0.2}}
        for cuts_at, expected in ((0.23, True), (0.25, False)):
            plate = planned(area_document(machine=machine, cuts_through_j_mm=cuts_at))
            self.assertEqual("burn_through" in self.kinds(plate, "A1"), expected)

    def test_stripes_between_far_lines(self):
        machine = {**WREN, "head": {"spot_mm": 0.1}}
        axes = [{"parameter": "line_spacing_mm", "along": "x", "values": [0.1, 0.15, 0.2]}]
        plate = planned(area_document(machine=machine, axes=axes, hold={"speed_mm_s": 100, "power_pct": 20}))
        self.assertEqual(["stripes" in self.kinds(plate, patch) for patch in ("A1", "A2", "A3")], [False, False, True])

    def test_corners_of_fast_cuts_get_more(self):
        machine = {**WREN, "head": {"spot_mm": 0.2}}
        plate = planned(trial_document(machine=machine, axes=[{**SPEED, "to": 128}, POWER]))
        self.assertTrue((np.diff(plate.judged.corner_rise[:4]) > 0).all())
        self.assertIn("corner_heat", self.kinds(plate, "A4"))
        follows = planned(trial_document(machine={**machine, "power_mode": "follows_speed"}))
        assert_allclose(follows.judged.corner_rise, 1)

    def test_more_settings_than_a_file_holds(self):
        plate = planned(trial_document(machine={**WREN, "distinct_settings": 5}))
        warning = next(w for w in plate.warnings if w.kind == "distinct_settings")
        self.assertIn("3 numbered files", warning.sentence)

    @given(
        most=st.integers(1, 14), labels=st.booleans(), hole=st.booleans(),
        off=st.sets(st.sampled_from([f"{r}{c}" for r in "ABC" for c in range(1, 5)]), max_size=11),
    )  # fmt: skip
    @settings(max_examples=60, deadline=None)
    def test_what_is_said_of_numbered_files_is_what_comes(self, most, labels, hole, off):
        """Every patch that burns is in one file, none holds more settings than it may, and the sentence counts them."""
        cut = {"hang_hole_mm": 3, "cut_settings": {"speed_mm_s": 12, "power_pct": 80}} if hole else {}
        document = trial_document(machine={**WREN, "distinct_settings": most}, off=sorted(off), **cut)
        plate = planned({**document, **({"labels": LABELS} if labels else {})})
        parts = split(plate, most)
        said = [w.sentence for w in plate.warnings if w.kind == "distinct_settings"]
        self.assertEqual(len(said), int(len(parts) > 1))
        for sentence in said:
            self.assertIn(f"{len(parts)} numbered files", sentence)
        burned = [plate.elements.ids[i] for part in parts for i in part.order[:, 0].tolist()]
        self.assertEqual(sorted(burned), sorted(set(plate.elements.ids) - off))
        for part in parts:
            drawn = {frozenset(one.settings.items()) for one in part.drawn}
            patches = {frozenset(part.judged.settings_of(i).items()) for i in part.order[:, 0].tolist()}
            self.assertLessEqual(len(drawn) + len(patches), most)

    def test_letters_too_small_for_the_spot(self):
        machine = {**WREN, "head": {"spot_mm": 0.3}}
        plate = planned(trial_document(machine=machine, labels=LABELS))
        self.assertIn("2.4 mm or more", " ".join(w.sentence for w in plate.warnings))


class ShapeTest(unittest.TestCase):
    def test_lettering_fills_its_patch(self):
        plate = planned(trial_document(patch={"shape": "lettering", "width_mm": 20, "height_mm": 6, "text": "Ag 5"}))
        self.assertTrue((plate.seconds > 0).all())
        # What fills fills outlines of letters, of the same text.
        filled = planned(area_document(patch={"shape": "lettering"}))
        self.assertEqual((filled.trial.patch.text, filled.trial.patch.letters), ("Ag5", "outlines"))

    def test_filled_shapes_take_as_long_as_their_area(self):
        """A disc has pi/4 of its square's lines to burn; at a galvo jumps are what stays the same."""
        square, disc_plate = (
            planned(token_document(patch={"shape": shape, "width_mm": 8, "height_mm": 8}, material=BLANK))
            for shape in ("rectangle", "disc")
        )
        self.assertLess(disc_plate.seconds[0], square.seconds[0])
        self.assertGreater(disc_plate.seconds[0], 0.7 * square.seconds[0])


if __name__ == "__main__":
    unittest.main()
