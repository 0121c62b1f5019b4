"""Photos of the part in the hand: kept with the patch it was cut as, taken away, brought back."""

import io
import unittest

from PIL import Image

from rezept.actions.commands import burning, part_photos, planning
from rezept.actions.members import NotAllowed
from rezept.actions.queries import views
from rezept.core.errors import InvalidInput, Refused
from tests.made import ShopCase


def picture(colour):
    data = io.BytesIO()
    Image.new("RGB", (64, 48), colour).save(data, "JPEG")
    return data.getvalue()


class PartPhotosTest(ShopCase):
    def burned(self, process="cut"):
        trial = planning.new_trial(self.shop, self.member, process, self.poplar, self.wren)
        edit = views.trial_page(self.shop, trial)["edit"]
        return trial, burning.mark_burned(self.shop, self.member, trial, edit, {})

    def shown(self, trial):
        return [(one["patch"], one["by_name"]) for one in views.trial_page(self.shop, trial)["part_photos"]]

    def test_it_stands_with_its_patch_until_it_is_taken_away(self):
        trial, burn = self.burned()
        first = part_photos.add_part_photo(self.shop, self.member, burn, "B2", picture("tan"))
        part_photos.add_part_photo(self.shop, self.technician, burn, "A1", picture("brown"))
        # The same picture twice is one.
        self.assertEqual(part_photos.add_part_photo(self.shop, self.member, burn, "B2", picture("tan")), first)
        self.assertEqual(self.shown(trial), [("B2", "Moss"), ("A1", "Tess")])
        sha256 = views.trial_page(self.shop, trial)["part_photos"][0]["sha256"]
        self.assertEqual(self.shop.photos.path(sha256).read_bytes(), picture("tan"))
        part_photos.remove_part_photo(self.shop, self.member, first, True)
        self.assertEqual(self.shown(trial), [("A1", "Tess")])
        part_photos.remove_part_photo(self.shop, self.member, first, False)
        self.assertEqual(self.shown(trial), [("B2", "Moss"), ("A1", "Tess")])

    def test_what_is_no_part_has_none(self):
        trial, burn = self.burned()
        with self.assertRaisesRegex(InvalidInput, "no patch Z9"):
            part_photos.add_part_photo(self.shop, self.member, burn, "Z9", picture("tan"))
        with self.assertRaises(InvalidInput):
            part_photos.add_part_photo(self.shop, self.member, burn, "A1", b"not a photo")
        cut_short = picture("tan")[:200]
        with self.assertRaises(InvalidInput):
            part_photos.add_part_photo(self.shop, self.member, burn, "A1", cut_short)
        with self.assertRaises(NotAllowed):
            part_photos.add_part_photo(self.shop, self.guest, burn, "A1", picture("tan"))
        self.assertEqual(self.shown(trial), [])
        # Nothing of what was refused stays on the disk.
        self.assertEqual([file for file in self.shop.photos.folder.rglob("*") if file.is_file()], [])
        _, marked = self.burned("area")
        with self.assertRaisesRegex(Refused, "Only what is cut through"):
            part_photos.add_part_photo(self.shop, self.member, marked, "A1", picture("tan"))


if __name__ == "__main__":
    unittest.main()
