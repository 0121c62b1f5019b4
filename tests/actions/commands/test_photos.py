"""Photographs in a shop: kept untouched, led to their plate, read, put right, overruled."""

import functools
import hashlib
import io
import json
import unittest
from unittest import mock

import numpy as np
import pillow_heif
from PIL import Image

from rezept.actions.commands import burning, keeping, photos, planning, reading, reading_photos
from rezept.actions.members import NotAllowed
from rezept.actions.queries import deciding, views
from rezept.actions.queries import photos as photos_seen
from rezept.core.errors import InvalidInput, NotFound
from rezept.core.photo.pose import Pose
from rezept.core.plan import plan, read_trial
from rezept.core.reading import RULE
from rezept.store.errors import Stale
from tests.made import ShopCase
from tests.photographed import burned_plate, taken, true_through

CODE = "T3ST-T001.1"
AXES = [
    {"parameter": "speed_mm_s", "along": "x", "values": [8, 14, 24]},
    {"parameter": "power_pct", "along": "y", "values": [30, 50, 80]},
]
LABELS = {"on": True, "qr": True, "marks": True, "height_mm": 2.5, "settings": {"speed_mm_s": 80, "power_pct": 30}}


def picture(kind="JPEG", size=(64, 48)):
    data = io.BytesIO()
    if kind == "HEIF":
        pillow_heif.register_heif_opener()
    Image.new("RGB", size, (180, 140, 90)).save(data, kind)
    return data.getvalue()


@functools.cache
def burned_once(plate_text):
    """The plate that these tests burn, on the bench: its sheet and what each patch became."""
    plate = plan(read_trial(json.loads(plate_text)))
    burned = burned_plate(plate)
    return burned, true_through(plate, burned)


@functools.cache
def photo_of(plate_text, face, seed):
    return taken(burned_once(plate_text)[0], face, seed)[0].jpeg


class PhotoCase(ShopCase):
    """A trial of 3 x 3 cuts with code and marks, burned."""

    def setUp(self):
        super().setUp()
        self.trial, self.burn = self.plan_and_burn()
        document = views.trial_page(self.shop, self.trial)["burned"]["trial"]
        # The bench's plate is the same whatever else the shop knows; it is burned once for all tests.
        self.text = json.dumps({key: value for key, value in document.items() if key != "defaulted"}, sort_keys=True)
        self.truth = burned_once(self.text)[1]

    def plan_and_burn(self):
        trial = planning.new_trial(self.shop, self.member, "cut", self.poplar, self.wren)
        page = views.trial_page(self.shop, trial)
        design = {**page["design"], "axes": AXES, "labels": LABELS, "off": [],
                  "patch": {**page["design"]["patch"], "width_mm": 8, "height_mm": 8, "gap_mm": 3}}  # fmt: skip
        planning.change_draft(self.shop, self.member, trial, page["edit"], design, {})
        page = views.trial_page(self.shop, trial)
        return trial, burning.mark_burned(self.shop, self.member, trial, page["edit"], {})

    def photo(self, face, seed=31):
        return photo_of(self.text, face, seed)

    def bring(self, data, burn=None, face=None):
        return photos.bring_in(self.shop, self.member, data, burn, face)

    def page(self):
        return views.trial_page(self.shop, self.trial)

    def said(self):
        return {row["patch"]: row for row in self.page()["readings"]}


class PushedTest(PhotoCase):
    def test_what_is_missing_says_nothing_after_parts_had_been_pushed_out(self):
        self.bring(self.photo("front"))
        back = self.bring(self.photo("back"), self.burn, "back")
        self.assertIsNone(back["pushed"])
        before = {patch: row["values"].get("through") for patch, row in self.said().items()}
        fell = {patch for patch, through in before.items() if through == 3}
        self.assertGreater(min(len(fell), len(before) - len(fell)), 0)
        changed = photos.change(self.shop, self.member, back["id"], back["edit"], {"pushed": True})
        self.assertTrue(changed["pushed"])
        after = {patch: row["values"].get("through") for patch, row in self.said().items()}
        self.assertEqual({patch for patch in fell if after.get(patch) is not None}, set())
        # What is still in its place was not through, whoever pushed at it.
        still = {patch: through for patch, through in before.items() if patch not in fell and through in (0, 1)}
        self.assertEqual({patch: after.get(patch) for patch in still}, still)
        again = photos.change(self.shop, self.member, back["id"], changed["edit"], {"pushed": False})
        self.assertIs(again["pushed"], False)
        self.assertEqual({patch: row["values"].get("through") for patch, row in self.said().items()}, before)

    def test_what_a_person_says_outranks_it(self):
        self.bring(self.photo("front"))
        back = self.bring(self.photo("back"), self.burn, "back")
        fell = next(patch for patch, row in self.said().items() if row["values"].get("through") == 3)
        edit = self.said()[fell]["edit"]
        reading.score(self.shop, self.member, self.burn, fell, edit, {"values": {"through": 2}})
        photos.change(self.shop, self.member, back["id"], back["edit"], {"pushed": True})
        self.assertEqual(self.said()[fell]["values"]["through"], 2)


class BringInTest(PhotoCase):
    def test_kept_untouched_under_its_hash(self):
        data = self.photo("front")
        brought = self.bring(data, self.burn, "front")
        self.assertEqual(brought["sha256"], hashlib.sha256(data).hexdigest())
        kept = photos_seen.handed_out(self.shop, self.keeper, brought["sha256"], untouched=True)
        self.assertEqual(kept, ("image/jpeg", data))
        with self.assertRaises(NotAllowed):
            photos_seen.handed_out(self.shop, self.technician, brought["sha256"], untouched=True)

    def test_its_code_leads_it_to_its_trial_and_face(self):
        brought = self.bring(self.photo("front"))
        self.assertEqual((brought["trial_id"], brought["burn_id"], brought["face"]), (self.trial, self.burn, "front"))
        self.assertEqual((brought["found_by"], brought["doubts"], brought["moved"]), ("marks", [], False))
        self.assertLess(brought["residual_mm"], 0.15)

    def test_dropped_on_another_trial_it_goes_where_its_code_says(self):
        trial, burn = self.plan_and_burn()
        brought = self.bring(self.photo("front"), burn)
        self.assertEqual((brought["trial_id"], brought["moved"]), (self.trial, True))
        self.assertEqual(views.trial_page(self.shop, trial)["photos"], [])

    def test_without_a_code_it_needs_a_plate_and_is_taken_for_the_back(self):
        with self.assertRaisesRegex(InvalidInput, "No plate's code is to be seen"):
            self.bring(self.photo("back"))
        self.bring(self.photo("front"))
        brought = self.bring(self.photo("back"), self.burn)
        self.assertEqual((brought["face"], brought["found_by"], brought["trouble"]), ("back", "outline", ""))

    def test_a_front_said_to_be_the_back_is_not_read_as_one(self):
        """Its code is seen, so nobody is believed who says otherwise."""
        brought = self.bring(self.photo("front"), self.burn, "back")
        self.assertIsNone(brought["matrix"])
        self.assertIn("This is the front", brought["trouble"])

    def test_a_plate_of_another_shop_is_none_of_ours(self):
        with self.shop.database.writing() as db:
            db.execute("UPDATE shop SET tag = 'ZZZZ'")
        with self.assertRaisesRegex(InvalidInput, f"shows {CODE}, a plate of another shop"):
            self.bring(self.photo("front"))

    def test_several_a_face_the_last_that_was_found_counts(self):
        first = self.bring(self.photo("front"), self.burn, "front")
        second = self.bring(self.photo("front", 32), self.burn, "front")
        bad = self.bring(picture(size=(800, 600)), self.burn, "front")
        self.assertIn("No whole sheet", bad["trouble"])
        small = self.bring(picture(), self.burn, "back")
        self.assertIn("too small to measure", small["trouble"])
        self.assertEqual(
            [one["id"] for one in self.page()["photos"] if one["face"] == "front"],
            [bad["id"], second["id"], first["id"]],
        )
        self.assertEqual(len(photos_seen.measured(self.shop, self.burn)["front"]), 9)
        chosen = photos.change(self.shop, self.member, first["id"], first["edit"], {"picked": True})
        self.assertEqual(self.page()["photos"][0]["id"], chosen["id"])

    def test_another_photo_of_a_face_is_measured_by_itself(self):
        """As before cleaning, which is not what counts."""
        photos.bring_in(self.shop, self.member, photo_of(self.text, "back", 72), self.burn, "back")
        before = photos.bring_in(self.shop, self.member, photo_of(self.text, "front", 71))
        after = photos.bring_in(self.shop, self.member, photo_of(self.text, "front", 73))
        picked = photos_seen.measured(self.shop, self.burn)
        self.assertEqual(photos_seen.measured(self.shop, self.burn, after["id"]), picked)
        other = photos_seen.measured(self.shop, self.burn, before["id"])
        self.assertEqual(other["back"], picked["back"])
        self.assertNotEqual(other["front"], picked["front"])
        self.assertEqual(len(other["front"]), len(picked["front"]))
        with self.assertRaises(NotFound):
            photos_seen.measured(self.shop, self.burn, 999)

    def test_what_is_no_photo_is_refused_and_leaves_nothing(self):
        whole = picture(size=(640, 480))
        gif = io.BytesIO()
        Image.new("P", (9, 9)).save(gif, "GIF")
        for data, words in [
            (b"", "empty"),
            (b"hello", "no photo"),
            (whole[: len(whole) // 2], "damaged or cut short"),
            (gif.getvalue(), "no photo"),
        ]:
            with self.subTest(words), self.assertRaisesRegex(InvalidInput, words):
                self.bring(data, self.burn, "front")
        self.assertEqual(self.page()["photos"], [])
        self.assertEqual([path for path in self.shop.photos.folder.rglob("*") if path.is_file()], [])
        with self.assertRaises(NotAllowed):
            photos.bring_in(self.shop, self.guest, whole, self.burn, "front")

    def test_webp_and_heic_are_photos_too(self):
        for kind, media_type in (("WEBP", "image/webp"), ("HEIF", "image/heic")):
            with self.subTest(kind):
                brought = self.bring(picture(kind, (640, 480)), self.burn, "front")
                kept = photos_seen.handed_out(self.shop, self.keeper, brought["sha256"], untouched=True)
                self.assertEqual(kept[0], media_type)
                # What no browser shows is not handed out as it is.
                shown = photos_seen.handed_out(self.shop, self.member, brought["sha256"])
                self.assertEqual(shown and shown[0], None if kind == "HEIF" else media_type)
                upright = Image.open(io.BytesIO(photos_seen.upright(self.shop, brought["sha256"])))
                self.assertEqual((upright.format, upright.size), ("JPEG", (640, 480)))

    def test_one_that_waits_is_read_later(self):
        photos.bring_in(self.shop, self.member, self.photo("front"), self.burn, "front", read=False)
        self.assertIsNone(self.page()["photos"][0]["matrix"])
        [waiting] = photos.unread(self.shop)
        reading_photos.read_photo_of(self.shop, waiting)
        self.assertEqual(self.page()["photos"][0]["found_by"], "marks")
        self.assertEqual(photos.unread(self.shop), [])

    def test_what_another_rule_has_scored_is_read_again_unless_a_recipe_rests_on_it(self):
        photo = self.bring(self.photo("back"), self.burn, "back")
        self.assertEqual((photo["rule"], photo["other_rule"]), (RULE, False))
        with self.shop.database.writing() as db:
            db.execute("UPDATE plate_photo SET rule = '', found_by = 'corners'")
        self.assertTrue(self.page()["photos"][0]["other_rule"])
        self.assertEqual(photos.by_another_rule(self.shop), [photo["id"]])
        # One over which that failed is not tried at every start.
        with self.shop.database.writing() as db:
            db.execute("UPDATE plate_photo SET trouble = 'torn'")
        self.assertEqual(photos.by_another_rule(self.shop), [])
        reading_photos.read_photo_of(self.shop, photo["id"], again=True)
        again = self.page()["photos"][0]
        # Where somebody has laid it, there it lies.
        self.assertEqual((again["rule"], again["found_by"]), (RULE, "corners"))
        np.testing.assert_allclose(np.array(again["handles"]["at_px"]), np.array(photo["handles"]["at_px"]), atol=2.0)
        self.assertEqual(photos.by_another_rule(self.shop), [])

    def test_scores_a_recipe_rests_on_stay(self):
        for face in ("front", "back"):
            self.bring(self.photo(face), self.burn, face)
        dropped = next(patch for patch, through in self.truth.items() if through == 3)
        keeping.keep_recipe(self.shop, self.member, self.burn, dropped, {"purpose": ""})
        with self.shop.database.writing() as db:
            db.execute("UPDATE plate_photo SET rule = ''")
        self.assertEqual(photos.by_another_rule(self.shop), [])
        self.assertEqual([one["other_rule"] for one in self.page()["photos"]], [True, True])


class ScoresTest(PhotoCase):
    def setUp(self):
        super().setUp()
        for face in ("front", "back"):
            self.bring(self.photo(face), self.burn, face)

    def test_what_the_photos_are_sure_of_counts_without_typing(self):
        said = self.said()
        self.assertGreaterEqual(len(said), 6)
        for patch, row in said.items():
            self.assertEqual(
                (row["said_by"], row["values"]["through"], row["edit"]), ("photo", self.truth[patch], 0), patch
            )
        self.assertEqual(self.page()["scored"], len(said))
        self.assertEqual(set(deciding.decision(self.shop, self.burn)["margins"]), set(said))
        dropped = next(patch for patch, through in self.truth.items() if through == 3)
        self.assertGreater(keeping.keep_recipe(self.shop, self.technician, self.burn, dropped, {"purpose": ""}), 0)

    def test_a_person_overrules_and_both_are_kept(self):
        patch = next(iter(self.said()))
        seen = self.said()[patch]["values"]["through"]
        stored = reading.score(self.shop, self.member, self.burn, patch, 0, {"values": {"through": (seen + 1) % 4}})
        self.assertEqual(
            (stored["said_by"], stored["values"]["through"], stored["by_name"]), ("person", (seen + 1) % 4, "Moss")
        )
        scores = {row["patch"]: row for row in photos_seen.measured(self.shop, self.burn)["scores"]}
        self.assertEqual(scores[patch]["values"]["through"], seen)
        # Another photo does not take a person's word away; taking it back lets the photos speak again.
        self.bring(self.photo("back", 33), self.burn, "back")
        self.assertEqual(self.said()[patch]["said_by"], "person")
        cleared = reading.score(self.shop, self.member, self.burn, patch, stored["edit"], {"values": {"flame": 1}})
        self.assertEqual(
            (cleared["said_by"], cleared["values"]["through"], cleared["values"]["flame"]), ("photo", seen, 1)
        )

    def test_without_the_back_no_cut_is_decided(self):
        back = next(one for one in self.page()["photos"] if one["face"] == "back")
        gone = photos.change(self.shop, self.member, back["id"], back["edit"], {"removed": True})
        self.assertEqual(self.said(), {})
        photos.change(self.shop, self.member, back["id"], gone["edit"], {"removed": False})
        self.assertGreaterEqual(len(self.said()), 6)

    def test_several_patches_at_one_stroke_or_none(self):
        rows = [("A1", 0, {"values": {"through": 0}}), ("B2", 0, {"values": {"through": 1, "kerf_mm": "0,21 mm"}})]
        stored = reading.score_several(self.shop, self.member, self.burn, rows)
        self.assertEqual([row["values"] for row in stored], [{"through": 0}, {"through": 1, "kerf_mm": 0.21}])
        with self.assertRaises(Stale):
            reading.score_several(self.shop, self.member, self.burn, [("C3", 0, {"values": {"through": 2}}), *rows])
        self.assertNotEqual(self.said().get("C3", {}).get("said_by"), "person")
        with self.assertRaisesRegex(InvalidInput, "Depth is not read of this process: cut"):
            reading.score(self.shop, self.member, self.burn, "A1", 1, {"values": {"depth_mm": 0.4}})


class ByHandTest(PhotoCase):
    def corners(self, photo, off_px=0.0):
        """The corner patches' outer corners, as the photo was found to have them."""
        pose = Pose(np.array(photo["matrix"]), photo["k1"], (photo["width"], photo["height"]))
        mm = [[3.0, 3.0], [40.0, 3.0], [40.0, 40.0], [3.0, 40.0]]
        pixels = pose.to_pixels(np.array(mm)) + off_px
        return [{"x_mm": x, "y_mm": y, "x_px": px, "y_px": py} for (x, y), (px, py) in zip(mm, pixels, strict=True)]

    def test_laid_by_hand_it_is_drawn_to_the_patches_again(self):
        photo = self.bring(self.photo("front"))
        document = {"corners": self.corners(photo, off_px=4.0)}
        laid = photos.point(self.shop, self.member, photo["id"], photo["edit"], document)
        self.assertEqual(laid["found_by"], "corners")
        # Each corner was pointed at 4 pixels beside its mark.
        self.assertLess(laid["residual_mm"], 0.4)
        anew = photos.point(self.shop, self.member, photo["id"], laid["edit"], {"corners": []})
        self.assertEqual(anew["found_by"], "marks")

    def test_what_is_laid_by_hand_while_it_is_being_read_stays(self):
        photo = self.bring(self.photo("front"))
        document = {"corners": self.corners(photo)}
        read = reading_photos._found

        for ends in ("found", "nothing found"):
            with self.subTest(ends):
                begun = photos.point(self.shop, self.member, photo["id"], self.edit(photo), {"corners": []})
                self.assertEqual(begun["found_by"], "marks")

                def slowly(*arguments, ends=ends, begun=begun):
                    with mock.patch.object(reading_photos, "_found", read):
                        photos.point(self.shop, self.member, photo["id"], begun["edit"], document)
                    if ends == "nothing found":
                        raise InvalidInput("No plate is found on this photo.", "photo")
                    return read(*arguments)

                with mock.patch.object(reading_photos, "_found", slowly):
                    reading_photos.read_photo_of(self.shop, photo["id"])
                after = self.page()["photos"][0]
                self.assertEqual((after["found_by"], after["trouble"]), ("corners", ""))

    def edit(self, photo):
        return photos_seen.photo(self.shop, photo["id"])["edit"]

    def test_nonsense_is_refused_and_changes_nothing(self):
        photo = self.bring(self.photo("front"))
        good = self.corners(photo)
        crossed = [{**a, "x_px": b["x_px"], "y_px": b["y_px"]} for a, b in zip(good, [good[i] for i in (0, 2, 1, 3)],
                                                                               strict=True)]  # fmt: skip
        flat = [{**corner, "x_px": 100.0, "y_px": 100.0} for corner in good]
        for corners in (good[:3], crossed, flat):
            with self.subTest(len(corners)), self.assertRaises(InvalidInput):
                photos.point(self.shop, self.member, photo["id"], photo["edit"], {"corners": corners})
        self.assertEqual(self.page()["photos"][0]["matrix"], photo["matrix"])
        with self.assertRaises(Stale):
            photos.point(self.shop, self.member, photo["id"], photo["edit"] - 1, {"corners": good})

    def test_the_flat_picture_shows_the_plate_alone(self):
        photo = self.bring(self.photo("front"))
        flat = Image.open(io.BytesIO(photos_seen.flat(self.shop, photo["id"])))
        size = self.page()["burned"]["plate"]
        self.assertAlmostEqual(flat.width / flat.height, size["width_mm"] / size["height_mm"], delta=0.01)
        self.assertLessEqual(flat.width * flat.height, 4_100_000)
        # Its rim is bare wood, not the dark table.
        self.assertGreater(min(flat.convert("L").getpixel(at) for at in ((3, 3), (flat.width - 4, 3))), 100)


if __name__ == "__main__":
    unittest.main()
