"""The wall of trials: what it says of each is what the trial's own page says, and its cost does not grow with them."""

import unittest
from unittest import mock

from rezept.actions.commands import burning, exporting, people, planning, reading
from rezept.actions.queries import views, wall
from rezept.core.process import PROCESSES
from tests.demo_copy import open_demo


class WallTest(unittest.TestCase):
    def setUp(self):
        self.shop = open_demo(self.addCleanup)
        self.kay = people.first_keeper(self.shop)

    def agrees(self):
        """Every card of the wall against the page of its trial, which goes another way to the same."""
        listed = wall.trial_list(self.shop, None, None)
        self.assertGreater(len(listed), 10)
        for card in listed:
            page = views.trial_page(self.shop, card["id"])
            with self.subTest(trial=card["number"]):
                for key in ("stage", "patches", "scored"):
                    self.assertEqual(card[key], page[key], key)
                self.assertEqual(card["kept"], len(page["recipes"]))
                self.assertEqual(card["burned_at"], page["burn"] and page["burn"]["at"])
                plate = page["burned"] or page["plate"]
                key = PROCESSES[card["process"]].outcome
                scores = {row["patch"]: row["values"].get(key) for row in page["readings"]}
                dose = PROCESSES[card["process"]].dose_key
                self.assertEqual(
                    [(one["id"], one["burn"], one["dose"], one["outcome"]) for one in card["picture"]["patches"]],
                    [
                        (one["id"], one["burn"], one[dose],
                         None if one["id"] in page["not_burned"] else scores.get(one["id"]))
                        for one in plate["patches"]
                    ],
                )  # fmt: skip
        return listed

    def test_found_by_words_named_and_put_away(self):
        def found(text="", **more):
            return [card["number"] for card in wall.trial_list(self.shop, None, None, text=text, **more)]

        self.assertEqual(found("t-004"), [4])
        self.assertEqual(found("FELT wren cut"), [4])
        self.assertEqual(found("felt finch"), [])
        trial = next(card["id"] for card in wall.trial_list(self.shop, None, None) if card["number"] == 4)
        planning.shelve(self.shop, self.kay, trial, "  lantern   tassels ", None)
        self.assertEqual(found("tassels"), [4])
        self.assertEqual(views.trial_page(self.shop, trial)["name"], "lantern tassels")
        planning.shelve(self.shop, self.kay, trial, None, True)
        self.assertNotIn(4, found())
        self.assertEqual((found(away=True), 4 in found(away=None)), ([4], True))
        self.assertIsNotNone(views.trial_page(self.shop, trial)["put_away_at"])
        planning.shelve(self.shop, self.kay, trial, "", False)
        self.assertIn(4, found())
        self.assertEqual(views.trial_page(self.shop, trial)["name"], "")

    def test_photos_of_fronts(self):
        cards = wall.trial_list(self.shop, None, None)
        for card in cards:
            page = views.trial_page(self.shop, card["id"])
            fronts = [photo for photo in page["photos"] if photo["face"] == "front" and not photo["removed"]]
            with self.subTest(card["number"]):
                self.assertEqual(card["photo"] is None, fronts == [])
                if fronts:
                    self.assertIn(card["photo"]["id"], [photo["id"] for photo in fronts])
                    self.assertTrue(card["photo"]["laid"])
        self.assertTrue(any(card["photo"] for card in cards))

    def test_every_card_says_what_its_page_says(self):
        stages = {card["stage"] for card in self.agrees()}
        self.assertGreaterEqual(len(stages), 3, stages)

    def test_and_goes_on_doing_so_while_they_change(self):
        before = wall.trial_list(self.shop, None, None)[0]
        trial = planning.new_trial(self.shop, self.kay, before["process"], before["material_id"], before["head_id"])
        self.agrees()
        page = views.trial_page(self.shop, trial)
        design = {**page["design"], "axes": [{**page["design"]["axes"][0]}, {**page["design"]["axes"][1]}]}
        design["axes"][0] = {**design["axes"][0], "count": 3}
        planning.change_draft(self.shop, self.kay, trial, page["edit"], design, {})
        first = self.agrees()[0]
        self.assertEqual((first["id"], first["stage"]), (trial, "plan"))
        edit = views.trial_page(self.shop, trial)["edit"]
        exporting.freeze_latest(self.shop, self.kay, trial, edit)
        self.assertEqual(self.agrees()[0]["stage"], "burn")
        burn = burning.mark_burned(self.shop, self.kay, trial, edit, {})
        page = views.trial_page(self.shop, trial)
        patches = [patch["id"] for patch in page["burned"]["patches"] if patch["burn"]]
        burning.mark_not_burned(self.shop, self.kay, burn, patches[0], True)
        key = PROCESSES[page["process"]].outcome
        for patch in patches[1:]:
            self.assertEqual(self.agrees()[0]["stage"], "read")
            reading.score(self.shop, self.kay, burn, patch, 0, {"values": {key: 1}})
        self.assertEqual(self.agrees()[0]["stage"], "decide")
        # A machine that changes changes the drafts planned for it.
        with self.shop.database.writing() as db:
            db.execute("UPDATE machine SET facts = json_set(facts, '$.rated_power_w', 77.0), edit = edit + 1")
        self.agrees()

    def test_stages_burned_and_pages(self):
        everything = wall.trial_list(self.shop, None, None)
        for stages in (("plan",), ("burn", "read", "decide"), ("kept",)):
            self.assertEqual(
                [card["id"] for card in wall.trial_list(self.shop, None, None, stages)],
                [card["id"] for card in everything if card["stage"] in stages],
            )
        burned = [card["id"] for card in everything if card["burned_at"]]
        pages = [wall.trial_list(self.shop, None, None, burned=True, skip=skip, most=4) for skip in range(0, 20, 4)]
        self.assertEqual([card["id"] for page in pages for card in page], burned)

    def test_pictures_of_drafts_take_no_more_room_than_they_may(self):
        with mock.patch.object(wall, "MOST_DRAWN", 60):
            before = wall.trial_list(self.shop, None, None)[0]
            for _ in range(5):
                planning.new_trial(self.shop, self.kay, before["process"], before["material_id"], before["head_id"])
            self.agrees()
            held = [len(picture["patches"]) for picture in wall.drafts_drawn.values() if picture]
        self.assertLessEqual(sum(held[:-1]), 60)

    def test_no_question_to_the_records_for_each_trial(self):
        wall.trial_list(self.shop, None, None)
        counts = []
        for most in (6, 1000):
            asked = []
            with self.shop.database.reading() as db:
                db.set_trace_callback(asked.append)
            wall.trial_list(self.shop, None, None, most=most)
            with self.shop.database.reading() as db:
                db.set_trace_callback(None)
            counts.append(len(asked))
        self.assertGreater(counts[0], 5)
        # One more at most, where a page holds processes with two outcomes.
        self.assertLessEqual(counts[1], counts[0] + 2)


if __name__ == "__main__":
    unittest.main()
