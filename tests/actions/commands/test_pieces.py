"""Pieces on the shelf: of any shape by their typed corners, with holes, and blanks by number."""

import unittest

from rezept.actions.commands import burning, equipment, growing, planning
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

    def on_piece(self, piece, begun_as="array"):
        """A new trial on a piece; its page."""
        trial = planning.new_trial(self.shop, self.technician, "cut", self.poplar, self.wren, begun_as)
        design = {**views.trial_page(self.shop, trial)["design"], "piece_id": piece, "place": {"at": "clear"}}
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
