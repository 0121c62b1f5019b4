"""Planning in a shop: typed designs, drafts, revisions, files."""

import tempfile
import unittest
from pathlib import Path
from unittest import mock

from rezept.actions.commands import burning, equipment, exporting, keeping, planning, reading
from rezept.actions.members import NotAllowed
from rezept.actions.queries import asking, following, previews, views
from rezept.actions.queries.first_axes import first_axis_of
from rezept.actions.typed import resolved, split_list
from rezept.core.errors import InvalidInput, NotFound, Refused, SeveralErrors, UnknownKey
from rezept.demo.builder import founded
from rezept.demo.stock import MATERIALS
from rezept.store.errors import Stale
from tests.made import ShopCase, own_facts, planned, trial_document


class TypedTest(unittest.TestCase):
    """`resolved`: what people typed, as numbers."""

    def design(self, **axis):
        return {
            "axes": [{"parameter": "speed_mm_s", "along": "x", "from": 8, "to": 32, "count": 4, **axis}],
            "hold": {"power_pct": "40 %"},
            "patch": {"width_mm": "1 cm"},
            "labels": {"settings": {"speed_mm_s": "100"}, "height_mm": 2},
        }

    def test_texts_become_numbers_in_inside_units(self):
        plain = resolved(self.design(**{"from": "600 mm/min", "to": "1.1 in/s", "count": "5"}), {"speed": "mm/min"})
        axis = plain["axes"][0]
        self.assertAlmostEqual(axis["from"], 10.0)
        self.assertAlmostEqual(axis["to"], 27.94)
        self.assertEqual(axis["count"], 5.0)
        self.assertEqual(plain["hold"]["power_pct"], 40.0)
        self.assertEqual(plain["patch"]["width_mm"], 10.0)
        self.assertAlmostEqual(plain["labels"]["settings"]["speed_mm_s"], 100 / 60)

    def test_the_design_itself_is_left_alone(self):
        design = self.design(**{"from": "9"})
        resolved(design, {})
        self.assertEqual(design["axes"][0]["from"], "9")

    def test_every_unreadable_text_is_reported(self):
        with self.assertRaises(SeveralErrors) as caught:
            resolved({**self.design(**{"from": "quick"}), "patch": {"width_mm": "wide"}}, {})
        self.assertEqual({error.path for error in caught.exception.errors}, {"axes[0].from", "patch.width_mm"})

    def test_lists(self):
        for text, parts in [
            ("8 12 20", ["8", "12", "20"]),
            ("8, 12, 20", ["8", "12", "20"]),
            ("8;12 ; 20", ["8", "12", "20"]),
            ("8,12,20", ["8", "12", "20"]),
            ("0,5 1,5", ["0,5", "1,5"]),
            ("0,5", ["0,5"]),
            ("600 mm/min; 800 mm/min", ["600 mm/min", "800 mm/min"]),
        ]:
            with self.subTest(text):
                self.assertEqual(split_list(text), parts)


class DraftTest(ShopCase):
    def new(self, process="cut", sheet=None, head=None):
        trial = planning.new_trial(self.shop, self.member, process, sheet or self.poplar, head or self.wren)
        return trial, views.trial_page(self.shop, trial)

    def changed(self, page, **design):
        full = {**page["design"], **design}
        planning.change_draft(self.shop, self.member, page["id"], page["edit"], full, {})
        return views.trial_page(self.shop, page["id"])

    def test_blind_start_is_a_plate_one_can_burn(self):
        _, page = self.new()
        self.assertEqual(page["stage"], "plan")
        self.assertEqual(len(page["plate"]["patches"]), 25)
        self.assertIn("Nothing is known", page["reason"])
        self.assertFalse(page["design"]["labels"]["on"])
        self.assertEqual(page["code"], "T3ST-T001.1")

    def test_preview_stores_nothing(self):
        trial, page = self.new()
        axes = [{**page["design"]["axes"][0], "count": "3"}, page["design"]["axes"][1]]
        plate, *_ = previews.preview(self.shop, trial, {**page["design"], "axes": axes}, {})
        self.assertEqual(len(plate.elements.ids), 15)
        self.assertEqual(views.trial_page(self.shop, trial)["design"], page["design"])

    def test_a_draft_is_edited_in_place(self):
        _, page = self.new()
        after = self.changed(page, title="Sides")
        self.assertEqual((after["revision"], after["edit"], after["design"]["title"]), (1, 2, "Sides"))

    def test_nonsense_is_not_stored(self):
        trial, page = self.new()
        for design, kind in [
            ({**page["design"], "axes": []}, InvalidInput),
            ({**page["design"], "colour": "red"}, UnknownKey),
            ({**page["design"], "machine": {}}, UnknownKey),
            ({**page["design"], "hold": {"frequency_khz": 20}}, InvalidInput),
        ]:
            with self.assertRaises(kind):
                planning.change_draft(self.shop, self.member, trial, page["edit"], design, {})
        self.assertEqual(views.trial_page(self.shop, trial)["edit"], page["edit"])

    def test_stale_edit_shows_both_versions(self):
        trial, page = self.new()
        self.changed(page, title="first")
        with self.assertRaises(Stale) as caught:
            planning.change_draft(
                self.shop, self.member, trial, page["edit"], {**page["design"], "title": "second"}, {}
            )
        self.assertEqual(caught.exception.current["design"]["title"], "first")
        self.assertEqual(caught.exception.yours["design"]["title"], "second")

    def test_first_edit_after_export_begins_a_revision(self):
        trial, page = self.new()
        self.assertEqual(exporting.freeze_latest(self.shop, self.member, trial, page["edit"]), 1)
        frozen = views.trial_page(self.shop, trial)
        self.assertEqual((frozen["stage"], frozen["frozen"]), ("burn", True))
        after = self.changed(frozen, title="Again")
        self.assertEqual((after["revision"], after["frozen"], after["stage"]), (2, False, "plan"))
        self.assertEqual(after["code"], "T3ST-T001.2")
        name, _, data = exporting.file_of(self.shop, trial, 1, "json")
        self.assertEqual(name, "T3ST-T001.1-poplar-plywood-4-mm.plate.json")
        self.assertNotIn(b"Again", data)

    def test_getting_the_files_twice_is_one_revision(self):
        trial, page = self.new()
        for _ in range(2):
            self.assertEqual(exporting.freeze_latest(self.shop, self.member, trial, page["edit"]), 1)

    def test_files_of_a_draft_are_not_there(self):
        trial, _ = self.new()
        with self.assertRaisesRegex(NotFound, "draft"):
            exporting.file_of(self.shop, trial, 1, "svg")
        with self.assertRaisesRegex(NotFound, "kind 'xlsx'"):
            exporting.file_of(self.shop, trial, 1, "xlsx")

    def test_refusal_keeps_the_files_back(self):
        trial, page = self.new()
        axis = {"parameter": "speed_mm_s", "along": "x", "values": [20, 900]}
        after = self.changed(page, axes=[axis, page["design"]["axes"][1]])
        self.assertTrue(all(file["refused"] for file in after["files"] if file["kind"] != "json"))
        with self.assertRaisesRegex(Refused, "faster than Wren"):
            exporting.freeze_latest(self.shop, self.member, trial, after["edit"])
        self.assertFalse(views.trial_page(self.shop, trial)["frozen"])

    def test_what_gcode_cannot_say_is_offered_as_other_files(self):
        trial, page = self.new("surface", self.blank, self.heron)
        exporting.freeze_latest(self.shop, self.member, trial, page["edit"])
        refused = {file["kind"]: file["refused"] for file in page["files"]}
        self.assertIn("frequency", refused["gcode"])
        self.assertIsNone(refused["svg"])
        with self.assertRaisesRegex(Refused, "frequency"):
            exporting.file_of(self.shop, trial, 1, "gcode")

    def test_only_what_the_material_is_meant_for(self):
        with self.assertRaisesRegex(InvalidInput, "not meant for"):
            self.new("cut", self.blank)

    def test_guests_read(self):
        with self.assertRaisesRegex(NotAllowed, "ask a member"):
            planning.new_trial(self.shop, self.guest, "cut", self.poplar, self.wren)

    def test_a_machine_that_changed_leaves_frozen_plates_alone(self):
        trial, page = self.new()
        exporting.freeze_latest(self.shop, self.member, trial, page["edit"])
        before = exporting.file_of(self.shop, trial, 1, "gcode")[2]
        self.change_wren("$.acceleration_mm_s2", 1500.0)
        self.assertEqual(exporting.file_of(self.shop, trial, 1, "gcode")[2], before)

    def test_a_program_in_other_words_than_the_machine_has_now_stays_in_the_house(self):
        """S850 was 85 % of 1000; where 255 is full power it would be three times what the source bears."""
        trial, page = self.new()
        exporting.freeze_latest(self.shop, self.member, trial, page["edit"])
        drawing = exporting.file_of(self.shop, trial, 1, "svg")[2]
        exporting.file_of(self.shop, trial, 1, "gcode")
        self.change_wren("$.s_at_full_power", 255.0)
        with self.assertRaisesRegex(Refused, "S at full power was 1000 and is 255"):
            exporting.file_of(self.shop, trial, 1, "gcode")
        self.assertEqual(exporting.file_of(self.shop, trial, 1, "svg")[2], drawing)

    def change_wren(self, path, value):
        with self.shop.database.writing() as db:
            db.execute("UPDATE machine SET facts = json_set(facts, ?, ?) WHERE name = 'Wren'", (path, value))

    def test_numbers_count_up(self):
        self.assertEqual([self.new()[1]["number"] for _ in range(3)], [1, 2, 3])


class StartTest(ShopCase):
    """What the book knows shapes the next plan."""

    def test_the_plates_own_cuts_begin_as_the_book_has_proven_them(self):
        """All settings of the cut, air among them; where nothing is proven they stay empty."""
        self.keep(self.poplar, "cut", "tried")
        trial = planning.new_trial(self.shop, self.member, "area", self.poplar, self.wren)
        page = views.trial_page(self.shop, trial)
        self.assertEqual((page["proven_cut"], page["design"].get("cut_settings")), (None, None))
        self.keep(self.poplar, "cut", "proven")
        trial = planning.new_trial(self.shop, self.member, "area", self.poplar, self.wren)
        page = views.trial_page(self.shop, trial)
        settings = page["design"]["cut_settings"]
        self.assertEqual(settings, page["proven_cut"]["settings"])
        self.assertLessEqual({"speed_mm_s", "power_pct", "passes", "air_level"}, set(settings))
        plate, *_ = previews.preview(self.shop, trial, {**page["design"], "cut_out": True}, {})
        self.assertEqual(plate.refusals(), [])
        [cut] = [part for part in plate.drawn if part.last]
        self.assertEqual(dict(cut.settings), settings)

    def keep(self, sheet, process, standing="tried", column=3, by=None):
        by = by or self.technician
        trial = planning.new_trial(self.shop, by, process, sheet, self.wren)
        page = views.trial_page(self.shop, trial)
        burn = burning.mark_burned(self.shop, by, trial, page["edit"], {})
        score = {"values": {"through": 3} if process == "cut" else {"darkness": 4}}
        reading.score(self.shop, by, burn, f"C{column}", 0, score)
        return keeping.keep_recipe(self.shop, by, burn, f"C{column}", {"standing": standing})

    def known(self, sheet, process="cut"):
        trial = planning.new_trial(self.shop, self.member, process, sheet, self.wren)
        return views.trial_page(self.shop, trial)

    def test_starts_around_the_recipe(self):
        self.keep(self.poplar, "cut")
        settings = asking.book(self.shop)["recipes"][0]["steps"][0]["settings"]
        page = self.known(self.poplar)
        self.assertEqual(page["reason"], "Around Poplar plywood 4 mm on Wren.")
        dose = 60 * settings["power_pct"] / 100 / settings["speed_mm_s"]
        self.assertAlmostEqual(page["design"]["starting_dose_j_mm"], dose, places=2)

    def test_other_thickness_is_a_guess_with_its_source(self):
        self.keep(self.poplar, "cut")
        reason = self.known(self.thick)["reason"]
        self.assertIn("Reckoned from Poplar plywood 4 mm on Wren (", reason)
        self.assertIn("with 80 in 100 between", reason)

    def test_nearest_thickness_wins_over_better_standing(self):
        self.keep(self.poplar, "cut", "proven")
        self.keep(self.thick, "cut", "tried", column=4)
        self.assertEqual(self.known(self.thick)["reason"], "Around Poplar plywood 6 mm on Wren.")

    def test_doubtful_recipes_do_not_count(self):
        recipe = self.keep(self.poplar, "cut")
        keeping.change_recipe(self.shop, self.technician, recipe, 1, {"standing": "doubtful"})
        self.assertIn("Nothing is known", self.known(self.poplar)["reason"])

    def test_labels_come_from_a_line_mark(self):
        self.keep(self.poplar, "line")
        labels = self.known(self.poplar)["design"]["labels"]
        self.assertTrue(labels["on"])
        settings = asking.book(self.shop)["recipes"][0]["steps"][0]["settings"]
        self.assertEqual(labels["settings"]["speed_mm_s"], settings["speed_mm_s"])


class AroundTest(ShopCase):
    """A plan around a burned patch, and where a setting begins to vary."""

    def setUp(self):
        super().setUp()
        self.trial = planning.new_trial(self.shop, self.member, "area", self.poplar, self.wren)
        page = views.trial_page(self.shop, self.trial)
        self.burn = burning.mark_burned(self.shop, self.member, self.trial, page["edit"], {})
        self.patches = {one["id"]: one for one in page["plate"]["patches"]}

    def test_it_lies_around_what_the_patch_got(self):
        other = planning.trial_around(self.shop, self.member, self.burn, "C4")
        page = views.trial_page(self.shop, other)
        settings = self.patches["C4"]["settings"]
        for axis in page["design"]["axes"]:
            with self.subTest(axis["parameter"]):
                self.assertLess(axis["from"], settings[axis["parameter"]])
                self.assertGreater(axis["to"], settings[axis["parameter"]])
        self.assertEqual(page["reason"], "Around C4 of T-001.")
        held = page["planned"].trial.hold
        self.assertEqual(held, {key: value for key, value in settings.items() if key in held})
        with self.assertRaises(InvalidInput):
            planning.trial_around(self.shop, self.member, self.burn, "Z9")
        with self.assertRaises(NotAllowed):
            planning.trial_around(self.shop, self.guest, self.burn, "C4")

    def test_a_setting_that_stops_varying_is_held_at_what_is_known(self):
        reading.score(self.shop, self.member, self.burn, "C3", 0, {"values": {"darkness": 4}})
        keeping.keep_recipe(self.shop, self.member, self.burn, "C3", {})
        settings = self.patches["C3"]["settings"]
        for key in ("speed_mm_s", "power_pct"):
            found = first_axis_of(self.shop, self.trial, key, None, "x", None)
            self.assertEqual(found["held"], settings[key])
            self.assertTrue(found["from"] < settings[key] < found["to"])
        self.assertEqual(first_axis_of(self.shop, self.trial, "passes", None, "x", None)["held"], 1.0)
        with self.assertRaises(UnknownKey):
            first_axis_of(self.shop, self.trial, "colour", None, "x", None)


class NewcomerTest(unittest.TestCase):
    """A shop that knows nothing yet, asked for everything it could burn."""

    def test_every_machine_and_process_begins_with_a_plate_of_five_by_five(self):
        with tempfile.TemporaryDirectory() as folder:
            shop = founded(Path(folder) / "shop")
            asked = [
                (process, material, head)
                for (name, thickness), material in shop.materials.items()
                for stocked in MATERIALS
                if (stocked.name, stocked.thickness_mm) == (name, thickness) and "chlorine" not in stocked.hazards
                for process in stocked.processes
                for head in shop.heads.values()
            ]
            self.assertGreater(len(asked), 100)
            for process, material, head in asked:
                trial = planning.new_trial(shop.shop, shop.people["Moss"], process, material, head)
                page = views.trial_page(shop.shop, trial)
                plate = page["planned"]
                with self.subTest(page["material"], process=process, head=page["head"]):
                    self.assertEqual(len(plate.order), 25)
                    self.assertEqual(plate.refusals(), [])
                    found = {warning.kind for patch in plate.patch_warnings for warning in patch}
                    self.assertEqual(found - {"hot_end", "corner_heat"}, set(), page["reason"])
                    self.assertIsNone(next(file for file in page["files"] if file["kind"] == "gcode")["refused"])
                    widths = {width.ns: width for width in plate.trial.machine.pulse_widths or ()}
                    if widths:
                        held = plate.trial.hold
                        self.assertGreaterEqual(
                            held["frequency_khz"], widths[held["pulse_width_ns"]].full_power_from_khz
                        )


class WriteAllTest(unittest.TestCase):
    """`write_all`: of two files either both are written or none."""

    def setUp(self):
        import tempfile

        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def listing(self):
        return sorted(path.name for path in self.folder.iterdir())

    def test_both(self):
        exporting.write_all({self.folder / "a": b"1", self.folder / "b": b"2"})
        self.assertEqual((self.folder / "b").read_bytes(), b"2")
        self.assertEqual(self.listing(), ["a", "b"])

    def test_second_cannot_be_written(self):
        (self.folder / "a").write_bytes(b"before")
        for bad in (self.folder / "missing" / "b", self.folder):
            with self.subTest(bad=bad.name), self.assertRaises(exporting.CannotWrite):
                exporting.write_all({self.folder / "a": b"1", bad: b"2"})
            self.assertEqual((self.folder / "a").read_bytes(), b"before")
            self.assertEqual(self.listing(), ["a"])

    def test_rename_fails_half_way(self):
        """The first file is already in place when the second cannot be: what was there comes back."""
        import os

        (self.folder / "a").write_bytes(b"before")
        real, calls = os.replace, []

        def failing(source, target):
            calls.append(target)
            if Path(target).name == "b":
                raise OSError(28, "No space left on device", str(target))
            real(source, target)

        with mock.patch("os.replace", failing), self.assertRaisesRegex(exporting.CannotWrite, "No space left"):
            exporting.write_all({self.folder / "a": b"1", self.folder / "b": b"2"})
        self.assertEqual((self.folder / "a").read_bytes(), b"before")
        self.assertEqual(self.listing(), ["a"])

    def test_a_plate_that_cannot_be_one_kind_is_none(self):
        plate = planned(trial_document(hold={"focus_offset_mm": 1}))
        with self.assertRaisesRegex(Refused, "focus offset"):
            exporting.written_files(plate, ["svg", "gcode"], own_facts(plate))
        self.assertEqual(set(exporting.written_files(plate, ["svg", "csv"], own_facts(plate))), {"svg", "csv"})


class HazardTest(ShopCase):
    def test_a_technician_may_answer_for_it_and_the_log_says_so(self):
        facts = {"name": "Vinyl", "family": "plastic", "thickness_mm": 1, "hazards": ["chlorine"]}
        vinyl = equipment.add_material(self.shop, self.keeper, facts, ["cut"])
        with self.assertRaisesRegex(Refused, "never burned here"):
            planning.new_trial(self.shop, self.member, "cut", vinyl, self.wren)
        trial = planning.new_trial(self.shop, self.technician, "cut", vinyl, self.wren)
        page = views.trial_page(self.shop, trial)
        self.assertTrue(all(file["refused"] for file in page["files"] if file["kind"] != "json"))
        answered = {**page["design"], "accepted_hazards": ["chlorine"]}
        with self.assertRaisesRegex(NotAllowed, "answer for chlorine"):
            planning.change_draft(self.shop, self.member, trial, page["edit"], answered, {})
        plate = planning.change_draft(self.shop, self.technician, trial, page["edit"], answered, {})
        self.assertEqual(plate.refusals(), [])
        self.assertIn("A technician answers for it", plate.warnings[0].sentence)
        verbs = [line["verb"] for line in following.log(self.shop, "trial", trial, None, 10)]
        self.assertIn("answers for chlorine on", verbs)
        # Once answered for, a member may go on with it.
        edit = views.trial_page(self.shop, trial)["edit"]
        planning.change_draft(self.shop, self.member, trial, edit, {**answered, "title": "tags"}, {})
        with self.assertRaisesRegex(InvalidInput, "chlorine or cyanide"):
            previews.preview(self.shop, trial, {**answered, "accepted_hazards": ["noise"]}, {})


class PieceTest(ShopCase):
    """Plates on a piece from the shelf: its size, and what was burned on it before."""

    def setUp(self):
        super().setUp()
        facts = {"material_id": self.poplar, "name": "sampler", "shape": "rectangle", "width_mm": 300, "height_mm": 200}
        self.piece = equipment.add(self.shop, self.member, "piece", facts, {})

    def on_the_piece(self, head, x, process="cut"):
        trial = planning.new_trial(self.shop, self.member, process, self.poplar, head)
        page = views.trial_page(self.shop, trial)
        design = {**page["design"], "piece_id": self.piece, "place": {"at": "corner", "x_mm": x, "y_mm": 5}}
        return trial, design, previews.preview(self.shop, trial, design, {})[0]

    def burned(self, trial, design):
        edit = views.trial_page(self.shop, trial)["edit"]
        planning.change_draft(self.shop, self.member, trial, edit, design, {})
        edit = views.trial_page(self.shop, trial)["edit"]
        burning.mark_burned(self.shop, self.member, trial, edit, {})

    def on_burned_ground(self, plate):
        return [
            patch
            for patch, warnings in zip(plate.elements.ids, plate.patch_warnings, strict=True)
            if "burned_ground" in {warning.kind for warning in warnings}
        ]

    def test_the_next_plate_on_a_piece_knows_what_was_burned(self):
        first, design, plate = self.on_the_piece(self.wren, 5)
        self.assertEqual((plate.trial.piece.width_mm, plate.trial.burned_ground), (300, ()))
        self.burned(first, design)
        _, _, same_place = self.on_the_piece(self.wren, 5)
        self.assertEqual(self.on_burned_ground(same_place), list(same_place.elements.ids))
        ground = same_place.trial.burned_ground
        self.assertEqual([max(x for x, _ in polygon) for polygon in ground], [5 + plate.width_mm])
        _, _, beside = self.on_the_piece(self.wren, 5 + plate.width_mm + 1)
        self.assertEqual(self.on_burned_ground(beside), [])
        # Its own burned revision is history; planned anew it would lie on its own ground.
        again = previews.preview(self.shop, first, design, {})[0]
        self.assertEqual(self.on_burned_ground(again), list(again.elements.ids))
        burned = views.trial_page(self.shop, first)["planned_burned"]
        self.assertEqual((burned.elements.ids, self.on_burned_ground(burned)), (plate.elements.ids, []))

    def test_a_piece_that_is_not_there(self):
        trial, design, _ = self.on_the_piece(self.wren, 5)
        with self.assertRaises(NotFound):
            previews.preview(self.shop, trial, {**design, "piece_id": 999}, {})
        with self.assertRaises(InvalidInput):
            previews.preview(self.shop, trial, {**design, "piece_id": "sampler"}, {})

    def test_an_engraving_knows_what_cuts_its_material(self):
        """A cut at 16 mm/s and 60 % of 60 W is 2.25 J/mm; an engraving that puts as much into a line is warned of."""
        place = {"process": "cut", "material": self.poplar, "head": self.wren}
        heard = {"speed_mm_s": 16, "power_pct": 60}
        recipe = keeping.write_down(self.shop, self.technician, place, heard, {})
        trial = planning.new_trial(self.shop, self.member, "area", self.poplar, self.wren)
        self.assertIsNone(views.trial_page(self.shop, trial)["plate"]["trial"]["cuts_through_j_mm"])
        edit = asking.recipe_page(self.shop, self.member, recipe)["edit"]
        keeping.change_recipe(self.shop, self.technician, recipe, edit, {"standing": "tried"})
        self.assertAlmostEqual(views.trial_page(self.shop, trial)["plate"]["trial"]["cuts_through_j_mm"], 2.25)


if __name__ == "__main__":
    unittest.main()
