"""Every key of a design survives whatever is done with designs: one property over the whole table."""

from unittest import mock

from rezept.actions.commands import arrays, burning, equipment, exporting, planning
from rezept.actions.queries import arrays as arrays_seen
from rezept.actions.queries import previews, views
from rezept.actions.typed import resolved
from rezept.core.errors import UnknownKey
from rezept.core.plan import read_trial
from rezept.core.plan.design import DESIGN
from rezept.core.plan.trial import Trial
from tests.made import ShopCase

AXES = [
    {"parameter": "speed_mm_s", "along": "x", "from": 10.0, "to": 30.0, "count": 3, "spacing": "linear"},
    {"parameter": "power_pct", "along": "y", "values": [40.0, 60.0]},
]
LINE = {"speed_mm_s": 120.0, "power_pct": 20.0, "passes": 1.0}
# A value of every key that is not its default, and for which process it means something.
SAMPLES = {
    "title": ("Lid", None),
    "axes": (AXES, None),
    "listed": (
        {"settings": [{"speed_mm_s": 12.0, "power_pct": 60.0}, {"speed_mm_s": 9.0, "power_pct": 60.0}], "wrap": 4.0},
        None,
    ),
    # Only beside what was burned (test_growing).
    "added": (None, None),
    "repeats": (2.0, None),
    "hold": ({"passes": 2.0, "focus_offset_mm": -0.5}, None),
    "steps": (
        [
            {
                "name": "mark",
                "process": "area",
                "hold": {"speed_mm_s": 200.0, "power_pct": 20.0},
                "hatch": [
                    {"line_spacing_mm": 0.2, "hatch_angle_deg": 45.0},
                    {"line_spacing_mm": 0.4, "hatch_angle_deg": 90.0},
                ],
                "inset_mm": 1.5,
                "overrides": {"A1": {"power_pct": 25.0}},
                "dose_ceiling_j_mm2": 90.0,
            },
            {"name": "cut", "process": "cut", "hold": {"passes": 2.0}, "dose_floor_j_mm": 0.25},
        ],
        None,
    ),
    "rounds": (2.0, None),
    "steps_order": ("patch", None),
    "patch": ({"shape": "disc", "width_mm": 7.0, "height_mm": 7.0, "gap_mm": 2.0, "block_gap_mm": 8.0}, None),
    "labels": ({"on": True, "height_mm": 2.5, "qr": True, "marks": True, "settings": LINE}, None),
    "order": ("scattered", None),
    "fit": ("smaller_patches", None),
    "piece": ({"shape": "rectangle", "width_mm": 200.0, "height_mm": 150.0, "margin_mm": 3.0}, None),
    "piece_id": (None, None),
    # Of pieces from the shelf only (test_pieces).
    "piece_face": (None, None),
    "zero": ({"at": "middle", "x_mm": 3.0, "y_mm": -1.0}, None),
    "place": ({"at": "centre", "x_mm": 1.0, "y_mm": -2.0, "turn_deg": 90.0}, None),
    "off": (["A1"], None),
    "overrides": ({"B2": {"power_pct": 55.0}}, None),
    "cut_out": (True, None),
    "hang_hole_mm": (4.0, None),
    "cut_settings": ({"speed_mm_s": 12.0, "power_pct": 80.0, "passes": 1.0}, None),
    "dose_floor_j_mm": (0.5, "cut"),
    "dose_floor_j_mm2": (0.1, "area"),
    "dose_ceiling_j_mm": (9.0, "cut"),
    "dose_ceiling_j_mm2": (90.0, "area"),
    "starting_dose_j_mm": (1.5, "cut"),
    "starting_dose_j_mm2": (2.5, "area"),
    "accepted_hazards": (["chlorine"], None),
}
# What must stand beside a key so that a plate can be planned with it.
BESIDE = {
    "listed": {"axes": []},
    **{
        key: {"steps": SAMPLES["steps"][0], "axes": [{**axis, "step": "cut"} for axis in AXES]}
        for key in ("steps", "rounds", "steps_order")
    },
    "cut_out": {"cut_settings": SAMPLES["cut_settings"][0]},
    "hang_hole_mm": {"cut_settings": SAMPLES["cut_settings"][0]},
    "place": {"piece": SAMPLES["piece"][0]},
    "fit": {"piece": SAMPLES["piece"][0], "place": SAMPLES["place"][0]},
    "accepted_hazards": {},
}
# What the next trial of a series has of its own, or of the array it refines.
_NOT_CARRIED = ("accepted_hazards", "axes", "listed", "hold", "overrides", "steps", "rounds", "steps_order")


class DesignKeysTest(ShopCase):
    def setUp(self):
        super().setUp()
        facts = {"name": "Vinyl", "family": "plastic", "thickness_mm": 1.0, "hazards": ["chlorine"]}
        self.vinyl = equipment.add_material(self.shop, self.keeper, facts, ["cut", "area"])

    def begun(self, key):
        process = SAMPLES[key][1] or "cut"
        material = self.vinyl if key == "accepted_hazards" else self.poplar
        trial = planning.new_trial(self.shop, self.technician, process, material, self.wren)
        return trial, views.trial_page(self.shop, trial)

    def with_key(self, key):
        """A trial whose draft has a key, and the design that was kept."""
        trial, page = self.begun(key)
        plain = {one: value for one, value in page["design"].items() if not one.startswith("starting_dose")}
        design = {**plain, "axes": AXES, "hold": {"passes": 1.0}, **BESIDE.get(key, {}), key: SAMPLES[key][0]}
        planning.change_draft(self.shop, self.technician, trial, page["edit"], design, {})
        return trial, design

    def test_the_samples_are_of_every_key(self):
        self.assertEqual(set(SAMPLES), set(DESIGN))

    def test_a_key_is_kept_planned_and_written_as_it_was_said(self):
        """Kept as it was said; taken back and said again (undo); in the trial, its document, and the frozen plate."""
        for key, (value, _) in SAMPLES.items():
            if value is None:
                continue
            with self.subTest(key):
                trial, design = self.with_key(key)
                page = views.trial_page(self.shop, trial)
                self.assertIsNone(page["problem"])
                self.assertEqual(page["design"][key], value)
                without = {one: said for one, said in design.items() if one != key or key in ("axes", "hold", "patch")}
                if key in ("listed", "steps"):
                    without["axes"] = AXES
                for said in (without, design):
                    edit = views.trial_page(self.shop, trial)["edit"]
                    planning.change_draft(self.shop, self.technician, trial, edit, said, {})
                page = views.trial_page(self.shop, trial)
                self.assertEqual(page["design"], design)
                exporting.freeze_latest(self.shop, self.technician, trial, page["edit"])
                frozen = views.trial_page(self.shop, trial)["plate"]["trial"]
                again = read_trial(frozen).document()
                for document in (frozen, again):
                    if key == "axes":
                        self.assertEqual([axis["parameter"] for axis in document[key]], ["speed_mm_s", "power_pct"])
                    elif key == "steps":
                        for said, one in zip(document[key], value, strict=True):
                            held = one["hold"]
                            self.assertEqual({name: said[name] for name in one}, {**one, "hold": said["hold"]})
                            self.assertLessEqual(held.items(), said["hold"].items())
                    elif key == "patch":
                        self.assertEqual({**value, "text": None}, document[key])
                    elif key in ("hold", "labels"):
                        self.assertLessEqual(set(value), set(document[key]))
                        for one in value:
                            self.assertEqual(document[key][one], value[one])
                    else:
                        self.assertEqual(document[key], value)

    def test_typed_texts_are_read_wherever_a_number_may_be_typed(self):
        for key, row in DESIGN.items():
            value = SAMPLES[key][0]
            if row.quantity is None and not row.parts and row.kind not in ("settings", "by_patch", "rows", "steps"):
                continue
            with self.subTest(key):

                def typed(one):
                    if isinstance(one, dict):
                        return {name: typed(inner) for name, inner in one.items()}
                    if isinstance(one, list):
                        return [typed(inner) for inner in one]
                    return str(one) if isinstance(one, float) else one

                self.assertEqual(resolved({key: typed(value)}, {}), {key: value})

    def test_a_kept_array_holds_what_the_table_says_and_nothing_else(self):
        trial, design = self.with_key("patch")
        design |= {"order": "scattered", "hold": {"passes": 2.0}, "cut_out": False, "hang_hole_mm": 0.0}
        kept = arrays.keep_array(self.shop, self.technician, trial, "Discs", design, {})
        document = arrays_seen.array_file(self.shop, kept)
        said = {key for key, row in DESIGN.items() if row.in_arrays}
        self.assertEqual(set(document) - {"format", "version", "name", "process"}, said)
        self.assertEqual((document["patch"]["shape"], document["order"]), ("disc", "scattered"))
        laid = arrays_seen.design_from(self.shop, kept, trial)
        self.assertEqual(set(laid) - {"notes"}, said)
        self.assertEqual((laid["patch"]["width_mm"], laid["hold"]["passes"]), (7.0, 2.0))

    def test_the_next_trial_begins_with_what_is_carried(self):
        for key, row in DESIGN.items():
            value = SAMPLES[key][0]
            if value is None or SAMPLES[key][1] or key in _NOT_CARRIED:
                continue
            with self.subTest(key):
                trial, _ = self.with_key(key)
                page = views.trial_page(self.shop, trial)
                burn = burning.mark_burned(self.shop, self.technician, trial, page["edit"], {})
                block = "1-" if key == "repeats" else ""
                finer = planning.finer_trial(self.shop, self.technician, burn, f"{block}B3", f"{block}A2")
                begun = views.trial_page(self.shop, finer)["design"]
                if row.carried:
                    self.assertEqual({**begun[key], "text": None} if key == "patch" else begun[key],
                                     {**value, "text": None} if key == "patch" else value)  # fmt: skip
                else:
                    self.assertNotEqual(begun.get(key), value)

    def test_another_array_forgets_what_named_patches_of_this_one(self):
        trial = mock.Mock(spec=Trial)
        trial.document.return_value = {key: value for key, (value, _) in SAMPLES.items()}
        document = Trial.with_array(trial, [], {})
        for key, row in DESIGN.items():
            if row.of_array:
                self.assertFalse(document[key], key)
        self.assertEqual(document["title"], "Lid")

    def test_nothing_else_is_part_of_a_design(self):
        trial, page = self.begun("title")
        with self.assertRaises(UnknownKey):
            previews.preview(self.shop, trial, {**page["design"], "colour": "red"}, {})
