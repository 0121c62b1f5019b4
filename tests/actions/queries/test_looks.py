"""By look: from a colour to the patches of the shop that show it."""

import unittest

import numpy as np

from rezept.actions.commands import burning, people, photos
from rezept.actions.queries import looks, shop_facts, views
from rezept.core.colour_difference import ciede2000
from tests.demo_copy import open_demo


class LooksTest(unittest.TestCase):
    """In the demo shop, whose plates are photographed and read."""

    @classmethod
    def setUpClass(cls):
        cls.shop = open_demo(cls.addClassCleanup)
        cls.keeper = people.first_keeper(cls.shop)

    def test_a_patchs_own_colour_finds_it_first_with_the_burned_settings(self):
        shade = looks.looks(self.shop)["shades"][30]
        found = looks.looks(self.shop, shade["lab"])["nearest"]
        self.assertEqual((found[0]["trial_id"], found[0]["patch"], found[0]["difference"]),
                         (shade["trial_id"], shade["patch"], 0.0))  # fmt: skip
        plate = views.trial_page(self.shop, shade["trial_id"])["burned"]
        burned = next(patch for patch in plate["patches"] if patch["id"] == shade["patch"])
        self.assertEqual(found[0]["settings"], burned["settings"])

    def test_the_nearest_come_first_and_none_nearer_is_left_out(self):
        wanted = (45.0, 8.0, 18.0)
        answer = looks.looks(self.shop, wanted, most=10)
        away = [one["difference"] for one in answer["nearest"]]
        self.assertEqual(away, sorted(away))
        every = ciede2000(wanted, np.array([shade["lab"] for shade in answer["shades"]]))
        self.assertEqual(answer["total"], len(answer["shades"]))
        np.testing.assert_allclose(away, np.sort(every)[:10], atol=0.006)

    def test_darkness_alone_whatever_the_hue(self):
        for wanted in (30.0, 60.0):
            answers = [
                looks.looks(self.shop, (wanted, *hue), most=10, darkness_only=True) for hue in ((0, 0), (40, -30))
            ]
            found = [[(one["trial_id"], one["patch"]) for one in answer["nearest"]] for answer in answers]
            self.assertEqual(*found)
            off = [abs(one["lab"][0] - wanted) for one in answers[0]["nearest"]]
            every = sorted(abs(shade["lab"][0] - wanted) for shade in answers[0]["shades"])
            # Weighed by lightness both ways, nearly the order of the plain difference.
            np.testing.assert_allclose(sorted(off), every[:10], atol=0.5)

    def test_narrowed_to_a_material_and_never_a_cut(self):
        leather = next(one for one in shop_facts.inventory(self.shop)["materials"] if "leather" in one["name"])
        answer = looks.looks(self.shop, (40, 10, 20), material_id=leather["id"])
        self.assertEqual({one["material_id"] for one in answer["nearest"]}, {leather["id"]})
        processes = {one["process"] for one in looks.looks(self.shop, (20, 0, 0), most=60)["nearest"]}
        self.assertNotIn("cut", processes)

    def test_what_was_not_burned_or_whose_photo_is_gone_has_no_look(self):
        shade = looks.looks(self.shop)["shades"][-1]
        page = views.trial_page(self.shop, shade["trial_id"])
        burn = page["burns"][0]["id"]
        before = looks.looks(self.shop)["total"]
        burning.mark_not_burned(self.shop, self.keeper, burn, shade["patch"], True)
        self.assertEqual(looks.looks(self.shop)["total"], before - 1)
        burning.mark_not_burned(self.shop, self.keeper, burn, shade["patch"], False)
        photo = page["photos"][0]
        gone = photos.change(self.shop, self.keeper, photo["id"], photo["edit"], {"removed": True})
        left = {one["trial_id"] for one in looks.looks(self.shop)["shades"]}
        self.assertNotIn(shade["trial_id"], left)
        photos.change(self.shop, self.keeper, photo["id"], gone["edit"], {"removed": False})
        self.assertEqual(looks.looks(self.shop)["total"], before)


if __name__ == "__main__":
    unittest.main()
