"""Trials of several steps in the shop: burned, read step by step, decided, kept together or each for itself."""

import json
import unittest
from pathlib import Path

import jsonschema

from rezept.actions.commands import burning, equipment, keeping, planning, reading
from rezept.actions.queries import asking, deciding, views, wall
from rezept.actions.queries.readings_file import readings_file
from rezept.core.errors import InvalidInput, NotFound, Refused
from rezept.core.findings.from_readings import read_readings
from rezept.core.process import PROCESSES
from rezept.store import book as book_table
from rezept.store import trials as trial_table
from tests.made import BLANK, ShopCase

READINGS = json.loads((Path(__file__).parents[3] / "docs/formats/readings.schema.json").read_text())
MARK = {"name": "mark", "process": "area", "hold": {"power_pct": 20.0, "line_spacing_mm": 0.2}, "inset_mm": 1.0}
CUT = {"name": "cut", "process": "cut", "hold": {"power_pct": 70.0, "air_level": 1.0}}
CARD_AXES = [
    {"parameter": "speed_mm_s", "along": "x", "step": "mark", "values": [100.0, 200.0, 300.0]},
    {"parameter": "speed_mm_s", "along": "y", "step": "cut", "values": [30.0, 20.0, 10.0]},
]
BULK = {
    "name": "bulk",
    "process": "deep",
    "hold": {"power_pct": 60.0, "passes": 4.0},
    "hatch": [{"line_spacing_mm": 0.1, "hatch_angle_deg": 0.0}, {"line_spacing_mm": 0.2, "hatch_angle_deg": 90.0}],
}
CLEAN = {
    "name": "clean",
    "process": "surface",
    "one_way": True,
    "hold": {"speed_mm_s": 400.0, "power_pct": 20.0, "passes": 2.0, "line_spacing_mm": 0.1},
}


class StepsCase(ShopCase):
    def begun(self, process, material, head, **said):
        trial = planning.new_trial(self.shop, self.member, process, material, head)
        page = views.trial_page(self.shop, trial)
        plain = {key: value for key, value in page["design"].items() if not key.startswith("starting")}
        planning.change_draft(self.shop, self.member, trial, page["edit"], {**plain, "hold": {}, **said}, {})
        return trial

    def burned(self, trial):
        edit = views.trial_page(self.shop, trial)["edit"]
        return burning.mark_burned(self.shop, self.member, trial, edit, {})

    def score(self, burn, step, **came):
        for patch, value in came.items():
            page = views.trial_page(self.shop, views.burn_page(self.shop, burn)["trial"]["id"], burn, step)
            process = PROCESSES[next(one for one in page["steps"] if one["shown"])["process"]]
            reading.score(self.shop, self.member, burn, patch, 0, {"values": {process.outcome: value}}, step)


class EachForItselfTest(StepsCase):
    """A panel that is engraved and a rim that is cut: two settings on one coupon, each judged by its own."""

    def setUp(self):
        super().setUp()
        self.trial = self.begun("cut", self.poplar, self.wren, steps=[MARK, CUT], axes=CARD_AXES)
        self.burn = self.burned(self.trial)
        # Through below 20 mm/s, dark below 200.
        cut = {f"{row}{column}": came for row, came in zip("ABC", (0, 2, 3), strict=True) for column in (1, 2, 3)}
        mark = {f"{row}{column}": came for row in "ABC" for column, came in ((1, 5), (2, 3), (3, 1))}
        self.score(self.burn, 2, **cut)
        self.score(self.burn, 1, **mark)

    def test_each_step_is_read_by_itself(self):
        page = views.trial_page(self.shop, self.trial, self.burn, 1)
        self.assertEqual([(one["name"], one["read_as"], one["shown"]) for one in page["steps"]],
                         [("mark", 1, True), ("cut", 2, False)])  # fmt: skip
        self.assertEqual({row["patch"]: row["values"] for row in page["readings"]}["B1"], {"darkness": 5})
        self.assertEqual(page["face"], "front")
        own = views.trial_page(self.shop, self.trial, self.burn)
        self.assertEqual({row["patch"]: row["values"] for row in own["readings"]}["B1"], {"through": 2})
        # What the trial set out to do says how far it is.
        self.assertEqual((own["scored"], own["patches"], own["stage"]), (9, 9, "decide"))
        b1 = next(patch for patch in page["burned"]["patches"] if patch["id"] == "B1")
        self.assertEqual((b1["settings"]["speed_mm_s"], b1["dose_j_mm2"]), (100, 0.6))
        b1 = next(patch for patch in own["burned"]["patches"] if patch["id"] == "B1")
        self.assertEqual((b1["settings"]["speed_mm_s"], b1["dose_j_mm"]), (20, 2.1))
        picture = wall.trial_list(self.shop, None, None)[0]["picture"]
        self.assertEqual(next(one for one in picture["patches"] if one["id"] == "B1")["outcome"], 2)

    def test_each_step_is_decided_by_its_own_outcome(self):
        by_cut = deciding.decision(self.shop, self.burn)
        self.assertEqual(sorted(by_cut["nothing_to_work_by"]), ["A1", "A2", "A3"])
        self.assertEqual({one["parameter"] for one in by_cut["margins"]["C1"]}, {"speed_mm_s"})
        # Of patches with the same cut, three came out, whatever else was done to them.
        self.assertIn("3 of 3", by_cut["repeated"]["C1"])
        by_mark = deciding.decision(self.shop, self.burn, 1)
        self.assertEqual(by_mark["nothing_to_work_by"], [])
        from rezept.actions.queries.finding import finding

        found = finding(self.shop, self.burn, {})
        fastest = next(one for one in found["candidates"] if one["aim"] == "fastest")
        self.assertTrue(9 < fastest["settings"]["speed_mm_s"] < 31, fastest["settings"])
        darker = finding(self.shop, self.burn, {"lightness": 40.0}, step=1)
        [wanted] = [one for one in darker["candidates"] if one["aim"] == "darkness"]
        self.assertTrue(90 < wanted["settings"]["speed_mm_s"] < 320, wanted["settings"])

    def test_each_is_kept_for_itself(self):
        with self.assertRaisesRegex(Refused, "no setting to work by"):
            keeping.keep_recipe(self.shop, self.member, self.burn, "A1", {})
        cut = keeping.keep_recipe(self.shop, self.member, self.burn, "C1", {})
        mark = keeping.keep_recipe(self.shop, self.member, self.burn, "C1", {}, 1)
        with self.assertRaisesRegex(Refused, "in the book already"):
            keeping.keep_recipe(self.shop, self.member, self.burn, "C1", {}, 1)
        failed = keeping.keep_failed(self.shop, self.member, self.burn, "A1")
        # The mark on the same patch did not fail.
        keeping.keep_recipe(self.shop, self.member, self.burn, "A1", {}, 1)
        with self.shop.database.reading() as db:
            kept = [book_table.recipe(db, one) for one in (cut, mark)]
            best = {one["id"]: one["outcome"] for key in ("cut", "area") for one in book_table.best_of_each(db, key)}
        self.assertEqual([(one["process"], one["steps"][0]["settings"]["speed_mm_s"]) for one in kept],
                         [("cut", 10), ("area", 100)])  # fmt: skip
        self.assertEqual([len(one["steps"]) for one in kept], [1, 1])
        self.assertEqual(best[cut], 3)
        self.assertIn(5, best.values())
        self.assertGreater(failed, 0)

    def test_what_is_read_of_one_says_nothing_of_the_other(self):
        # Read as not through after all: the recipe of the cut falls, that of the mark stands.
        cut = keeping.keep_recipe(self.shop, self.member, self.burn, "C2", {})
        mark = keeping.keep_recipe(self.shop, self.member, self.burn, "C2", {}, 1)
        reading.score(self.shop, self.member, self.burn, "C2", 1, {"values": {"through": 0}}, 2)
        with self.shop.database.reading() as db:
            known = {one["id"] for one in book_table.known_recipes(db)}
        self.assertNotIn(cut, known)
        self.assertIn(mark, known)

    def test_plates_of_one_step_stand_beside_it(self):
        """A plain cut of the same sheet tells more of the cut, and nothing of the mark."""
        from rezept.actions.queries.finding import finding

        trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        page = views.trial_page(self.shop, trial)
        plain = self.burned(trial)
        patch = page["plate"]["patches"][0]["id"]
        reading.score(self.shop, self.member, plain, patch, 0, {"values": {"through": 3}})
        self.assertEqual(len(finding(self.shop, self.burn, {})["plates"]), 2)
        self.assertEqual(len(finding(self.shop, self.burn, {}, step=1)["plates"]), 1)
        self.assertEqual(len(finding(self.shop, plain, {})["plates"]), 2)

    def test_around_a_patch_and_finer_between_two(self):
        around = planning.trial_around(self.shop, self.member, self.burn, "B2", 1)
        page = views.trial_page(self.shop, around)
        self.assertEqual((page["process"], page["design"].get("steps")), ("area", None))
        finer = planning.finer_trial(self.shop, self.member, self.burn, "A1", "C1")
        page = views.trial_page(self.shop, finer)
        self.assertEqual((page["process"], page["design"]["axes"][0]["parameter"]), ("cut", "speed_mm_s"))
        self.assertEqual((page["design"]["axes"][0]["from"], page["design"]["axes"][0]["to"]), (30, 10))
        # The mark stays inside the rim, as it was on the plate.
        again = planning.finer_trial(self.shop, self.member, self.burn, "A1", "A2", 1)
        page = views.trial_page(self.shop, again)
        self.assertEqual(page["process"], "area")
        self.assertEqual(page["design"]["steps"][0]["inset_mm"], 1.0)
        self.assertIsNone(page["problem"])

    def test_its_file_says_which_step_was_read(self):
        for step, outcome, name in ((1, "darkness", "mark"), (2, "through", "cut")):
            document = readings_file(self.shop, self.burn, step)[1]
            self.assertEqual(document["step"], name)
            jsonschema.validate(document, READINGS)
            read = read_readings(document, 1)
            self.assertEqual(read.seen.process.outcome, outcome)
            self.assertEqual(read.seen.outcome[read.seen.element.index("C1")], {1: 5, 2: 3}[step])
        with self.assertRaises(InvalidInput):
            read_readings({**document, "step": "fold"}, 1)

    def test_there_is_no_third_step(self):
        for asks in (views.burn_page, deciding.decision):
            with self.assertRaises(NotFound):
                asks(self.shop, self.burn, 3)

    def test_the_step_of_its_own_process_stays(self):
        page = views.trial_page(self.shop, self.trial)
        with self.assertRaisesRegex(InvalidInput, "set out to do this: cut"):
            planning.change_draft(
                self.shop,
                self.member,
                self.trial,
                page["edit"],
                {**page["design"], "steps": [MARK, {**CUT, "process": "line"}]},
                {},
            )


class TogetherTest(StepsCase):
    """Bulk and clean over one ground: one look says what came of both."""

    def setUp(self):
        super().setUp()
        axes = [{"parameter": "speed_mm_s", "along": "x", "step": "bulk", "values": [200.0, 400.0, 800.0]}]
        patch = {"shape": "disc", "width_mm": 6.0, "height_mm": 6.0, "gap_mm": 2.0}
        self.trial = self.begun("deep", self.blank, self.heron, steps=[BULK, CLEAN], rounds=2.0, axes=axes, patch=patch)
        self.burn = self.burned(self.trial)

    def test_they_are_read_as_one(self):
        self.assertEqual([one["read_as"] for one in views.trial_page(self.shop, self.trial)["steps"]], [2, 2])
        self.score(self.burn, 1, A1=4)
        for step in (None, 1, 2):
            [row] = views.trial_page(self.shop, self.trial, self.burn, step)["readings"]
            self.assertEqual((row["patch"], row["values"]), ("A1", {"darkness": 4}))
        revision = views.trial_page(self.shop, self.trial)["burn"]["revision_id"]
        with self.shop.database.reading() as db:
            self.assertEqual([one["alone"] for one in trial_table.steps_of(db, revision)], [False, False])

    def test_a_recipe_holds_all_of_them_with_their_rounds(self):
        self.score(self.burn, None, A2=4)
        kept = keeping.keep_recipe(self.shop, self.member, self.burn, "A2", {})
        with self.shop.database.reading() as db:
            recipe = book_table.recipe(db, kept)
        self.assertEqual((recipe["process"], recipe["rounds"]), ("deep", 2))
        bulk, clean = recipe["steps"]
        self.assertEqual((bulk["name"], bulk["process"], clean["name"], clean["process"]),
                         ("bulk", "deep", "clean", "surface"))  # fmt: skip
        self.assertEqual((bulk["settings"]["speed_mm_s"], bulk["settings"]["line_spacing_mm"]), (400, 0.1))
        self.assertEqual(bulk["way"], {"hatch": [{"line_spacing_mm": 0.2, "hatch_angle_deg": 90.0}]})
        self.assertEqual(clean["way"], {"one_way": True})
        with self.assertRaisesRegex(Refused, "kept from a patch"):
            keeping.keep_candidate(self.shop, self.member, self.burn, "darkness", {}, {})

    def goes_on_with_all(self, trial):
        """A trial of the bulk about 400 mm/s and 60 %, with its second set of lines, the cleaning and the rounds."""
        page = views.trial_page(self.shop, trial)
        self.assertIsNone(page["problem"])
        design = page["design"]
        bulk, clean = design["steps"]
        self.assertEqual((bulk["name"], clean["name"], design["rounds"], design["hold"]), ("bulk", "clean", 2, {}))
        self.assertEqual({axis["step"] for axis in design["axes"]}, {"bulk"})
        for parameter, at in (("speed_mm_s", 400), ("power_pct", 60)):
            [axis] = [axis for axis in design["axes"] if axis["parameter"] == parameter]
            self.assertTrue(axis["from"] < at < axis["to"], axis)
        self.assertEqual((bulk["hold"]["passes"], bulk["hold"]["line_spacing_mm"]), (4, 0.1))
        self.assertEqual(bulk["hatch"], [{}, {"line_spacing_mm": 0.2, "hatch_angle_deg": 90.0}])
        self.assertEqual((clean["hold"]["speed_mm_s"], clean["hold"]["passes"], clean["one_way"]), (400, 2, True))
        # It begins at the dose of all lines of both rounds, as the plate counts it; over its own lie half as many.
        power = page["plate"]["trial"]["machine"]["rated_power_w"] * 0.6
        dose = power * 4 / (400 * 0.1) * 1.5 * 2
        self.assertAlmostEqual(bulk["starting_dose_j_mm2"], dose, delta=0.001 * dose)
        patch = page["plate"]["patches"][0]
        settings = patch["steps"][0]["settings"]
        got = sum(one["dose_j_mm2"] for one in patch["steps"][::2])
        share = settings["power_pct"] / 60 * 400 / settings["speed_mm_s"]
        self.assertAlmostEqual(got, bulk["starting_dose_j_mm2"] * share, delta=0.01 * got)

    def test_a_trial_around_its_recipe_goes_on_with_all_of_them(self):
        self.score(self.burn, None, A2=4)
        keeping.keep_recipe(self.shop, self.member, self.burn, "A2", {})
        trial = planning.new_trial(self.shop, self.member, "deep", self.blank, self.heron)
        self.goes_on_with_all(trial)
        self.assertIn("Around", views.trial_page(self.shop, trial)["reason"])
        # One coupon after the other takes one plain step; there the recipe says nothing.
        coupons = planning.new_trial(self.shop, self.member, "deep", self.blank, self.heron, "coupons")
        self.assertIsNone(views.trial_page(self.shop, coupons)["design"].get("steps"))

    def test_a_trial_around_a_patch_goes_on_with_all_of_them(self):
        self.goes_on_with_all(planning.trial_around(self.shop, self.member, self.burn, "A2"))


class BoardTest(StepsCase):
    """A starter board of an unknown sheet: three recipes come off it."""

    def test_line_engraving_and_cut_on_one_board(self):
        trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren, "board")
        page = views.trial_page(self.shop, trial)
        self.assertIsNone(page["problem"])
        self.assertEqual([one["process"] for one in page["steps"]], ["line", "area", "cut"])
        # None lies on the ground of another: each is read for itself.
        self.assertEqual([one["read_as"] for one in page["steps"]], [1, 2, 3])
        plate = page["planned"]
        self.assertEqual(len(plate.elements), 25)
        speeds = [step.settings["speed_mm_s"] for step in plate.steps]
        for column in (1, 2):
            same = plate.elements.column == column
            self.assertEqual([len(set(one[same].tolist())) for one in speeds], [1, 1, 5])
        # The cuts come last, and the order goes from the weakest on.
        self.assertEqual([plate.trial.steps[step].process.key for _, step, _ in plate.parts()[::25]],
                         ["line", "area", "cut"])  # fmt: skip
        burn = self.burned(trial)
        kept = []
        for step, came in ((1, 4), (2, 3), (3, 3)):
            self.score(burn, step, C3=came)
            kept.append(keeping.keep_recipe(self.shop, self.member, burn, "C3", {}, step))
        with self.shop.database.reading() as db:
            self.assertEqual([book_table.recipe(db, one)["process"] for one in kept], ["line", "area", "cut"])
        for process, recipe in zip(("line", "area", "cut"), kept, strict=True):
            answer = asking.ask(self.shop, process, self.poplar, self.wren)
            self.assertEqual(answer["recipes"][0]["id"], recipe)

    def test_a_blank_that_nothing_cuts(self):
        both = equipment.add_material(self.shop, self.keeper, {**BLANK, "name": "Tag"}, ["line", "surface"])
        trial = planning.new_trial(self.shop, self.member, "surface", both, self.heron, "board")
        page = views.trial_page(self.shop, trial)
        self.assertIsNone(page["problem"])
        self.assertEqual([one["process"] for one in page["steps"]], ["line", "surface"])
        with self.assertRaisesRegex(InvalidInput, "another work: deep engrave"):
            planning.new_trial(self.shop, self.member, "deep", self.blank, self.heron, "board")
        alone = equipment.add_material(self.shop, self.keeper, {**BLANK, "name": "Coin"}, ["surface", "deep"])
        with self.assertRaisesRegex(InvalidInput, "one kind of work only"):
            planning.new_trial(self.shop, self.member, "surface", alone, self.heron, "board")

    def test_one_more_step_begins_at_what_is_known(self):
        trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        first = planning.first_step(self.shop, trial, "area")
        self.assertEqual((first["step"]["process"], first["step"]["name"]), ("area", "engrave"))
        self.assertLessEqual({"speed_mm_s", "power_pct", "line_spacing_mm"}, set(first["step"]["hold"]))
        self.assertTrue(first["reason"])


if __name__ == "__main__":
    unittest.main()
