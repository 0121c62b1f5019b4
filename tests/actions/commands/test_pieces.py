"""Pieces on the shelf: of any shape by their typed corners, with holes, and blanks by number."""

import io
import unittest

import numpy as np
from PIL import Image

from rezept.actions.commands import burning, equipment, growing, photos, planning
from rezept.actions.members import NotAllowed
from rezept.actions.queries import shop_facts, views
from rezept.actions.typed import read_rows
from rezept.core.errors import InvalidInput
from tests.made import ShopCase


class PiecesTest(ShopCase):
    def add(self, **facts):
        document = {"material_id": self.poplar, "name": "offcut", "margin_mm": 2.0, **facts}
        return equipment.add(self.shop, self.technician, "piece", document, {})

    def on_shelf(self, piece):
        return next(one for one in shop_facts.inventory(self.shop)["pieces"] if one["id"] == piece)

    def on_piece(self, piece, begun_as="array", process="cut", **more):
        """A new trial on a piece; its page."""
        trial = planning.new_trial(self.shop, self.technician, process, self.poplar, self.wren, begun_as)
        design = {**views.trial_page(self.shop, trial)["design"], "piece_id": piece, "place": {"at": "clear"}, **more}
        planning.change_draft(self.shop, self.technician, trial, 1, design, {})
        return views.trial_page(self.shop, trial)

    def test_an_outline_is_typed_corner_by_corner(self):
        piece = self.add(shape="outline", outline="0; 0\n300 mm; 0\n300; 0.1 m\n120; 100\n\n120; 220\n0, 220",
                         holes="20 20 8", width_mm="", height_mm="")  # fmt: skip
        row = self.on_shelf(piece)
        self.assertEqual((row["shape"], row["width_mm"], row["height_mm"]), ("outline", 300, 220))
        self.assertEqual(row["outline"][2:4], [[300, 100], [120, 100]])
        self.assertEqual(row["holes"], [[20, 20, 8]])
        laid = self.on_piece(piece)["plate"]["trial"]["piece"]
        self.assertEqual((laid["outline"], laid["holes"]), (row["outline"], row["holes"]))
        # What was taken back stands as it was.
        changed = equipment.change(self.shop, self.technician, "piece", piece, 1,
                                   {"name": "offcut", "shape": "disc", "width_mm": 90.0}, {}, False)  # fmt: skip
        self.assertEqual((changed["shape"], changed["outline"], changed["height_mm"]), ("disc", [], 90))

    def test_what_is_no_row_is_said_with_its_line(self):
        self.assertEqual(read_rows("1,5; 2,5", 2, "outline"), [[1.5, 2.5]])
        self.assertEqual(read_rows("10,20", 2, "outline"), [[10, 20]])
        for text, path in (("0; 0\n5", "outline"), ("0; wide", "outline[0]")):
            with self.subTest(text), self.assertRaises(InvalidInput) as caught:
                read_rows(text, 2, "outline")
            self.assertEqual(caught.exception.path, path)

    def test_a_photo_of_a_piece_is_gone_once_it_is_read(self):
        data = io.BytesIO()
        Image.new("RGB", (640, 480), "tan").save(data, "JPEG")
        task = photos.take_in_piece(self.shop, self.member, data.getvalue())
        self.assertTrue(self.shop.photos.path(task["sha256"]).exists())
        with self.assertRaisesRegex(InvalidInput, "reference card is not to be seen"):
            photos.outline_in_kept(self.shop, task["sha256"])
        self.assertFalse(self.shop.photos.path(task["sha256"]).exists())
        with self.assertRaises(NotAllowed):
            photos.take_in_piece(self.shop, self.guest, data.getvalue())

    def test_blanks_are_counted_and_each_is_bare(self):
        piece = self.add(shape="rectangle", width_mm=120.0, height_mm=100.0, count=2)
        self.assertEqual((self.on_shelf(piece)["count"], self.on_shelf(piece)["left"]), (2, 2))
        first = self.on_piece(piece)
        burn = burning.mark_burned(self.shop, self.technician, first["id"], first["edit"], {})
        self.assertEqual(self.on_shelf(piece)["left"], 1)
        second = self.on_piece(piece)
        self.assertEqual(second["plate"]["trial"]["burned_ground"], [])
        self.assertEqual(second["plate"]["trial"]["place"], first["plate"]["trial"]["place"])
        burning.mark_burned(self.shop, self.technician, second["id"], second["edit"], {})
        self.assertEqual(self.on_shelf(piece)["left"], 0)
        with self.assertRaisesRegex(InvalidInput, "All 2 of offcut are burned"):
            self.on_piece(piece)
        burning.take_back_burn(self.shop, self.technician, burn)
        self.assertEqual(self.on_shelf(piece)["left"], 1)
        self.on_piece(piece)

    def test_each_face_of_a_blank_is_burned_once(self):
        piece = self.add(shape="rectangle", width_mm=120.0, height_mm=100.0, count=1 + 1)
        for face, left in (("front", (1, 2)), ("back", (1, 1)), ("back", (1, 0))):
            page = self.on_piece(piece, piece_face=face)
            burning.mark_burned(self.shop, self.technician, page["id"], page["edit"], {})
            row = self.on_shelf(piece)
            self.assertEqual((row["left"], row["left_back"]), left)
        with self.assertRaisesRegex(InvalidInput, "All 2 of offcut on the back are burned"):
            self.on_piece(piece, piece_face="back")
        self.on_piece(piece)

    def test_turned_over_a_piece_shows_its_other_face(self):
        """An offcut with its slant on the right and a hole on the left, seen from behind: only what went through is
        burned ground there, too, and lies where a mirror shows it."""
        corners = "0; 0\n300; 0\n200; 200\n0; 200"
        piece = self.add(shape="outline", outline=corners, holes="30 150 10", width_mm="", height_mm="")
        place = {"at": "corner", "x_mm": 20, "y_mm": 10, "turn_deg": 0}
        cut = self.on_piece(piece, place=place)
        burning.mark_burned(self.shop, self.technician, cut["id"], cut["edit"], {})
        marked = self.on_piece(piece, process="area", place={**place, "y_mm": 110})
        burning.mark_burned(self.shop, self.technician, marked["id"], marked["edit"], {})
        front = self.on_piece(piece, place=place)["plate"]["trial"]
        self.assertEqual(len(front["burned_ground"]), 2)
        back = self.on_piece(piece, place=place, piece_face="back")["plate"]["trial"]
        self.assertEqual(sorted(back["piece"]["outline"]), [[0, 0], [100, 200], [300, 0], [300, 200]])
        self.assertEqual(back["piece"]["holes"], [[270, 150, 10]])
        [ground] = back["burned_ground"]
        width, height = cut["plate"]["plate"]["width_mm"], cut["plate"]["plate"]["height_mm"]
        low, high = np.min(ground, axis=0), np.max(ground, axis=0)
        np.testing.assert_allclose((low, high), [(280 - width, 10), (280, 10 + height)], atol=1e-6)
        with self.assertRaisesRegex(InvalidInput, "front or back"):
            self.on_piece(piece, piece_face="edge")

    def test_coupon_by_coupon_it_is_one_blank(self):
        piece = self.add(shape="rectangle", width_mm=120.0, height_mm=100.0, count=2)
        page = self.on_piece(piece, "coupons")
        for speed in (10, 12, 14):
            growing.set_coupon(self.shop, self.technician, page["id"],
                               views.trial_page(self.shop, page["id"])["edit"],
                               {"speed_mm_s": speed, "power_pct": 60}, {})  # fmt: skip
            edit = views.trial_page(self.shop, page["id"])["edit"]
            burning.mark_burned(self.shop, self.technician, page["id"], edit, {})
        self.assertEqual(self.on_shelf(piece)["left"], 1)


if __name__ == "__main__":
    unittest.main()
