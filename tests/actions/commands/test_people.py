"""Members, roles, and the demo that becomes a shop of one's own."""

import tempfile
import unittest
from pathlib import Path

from rezept.actions.commands import clearing, people
from rezept.actions.members import ROLES, Member, NotAllowed
from rezept.actions.open_shop import open_shop
from rezept.core.errors import InvalidInput, NotFound, Refused
from rezept.store.errors import Stale
from tests.demo_copy import copy_demo
from tests.made import ShopCase


class RoleTest(unittest.TestCase):
    def test_each_may_what_those_before_may(self):
        for i, role in enumerate(ROLES):
            member = Member(1, "Ann", role)
            self.assertEqual([member.may(least) for least in ROLES], [j <= i for j in range(len(ROLES))])


class MemberTest(ShopCase):
    def test_who_may(self):
        self.assertEqual(people.who_may(self.shop, "technician"), ["Kay", "Tess"])
        self.assertEqual(people.who_may(self.shop, "keeper"), ["Kay"])

    def test_names_are_names(self):
        for name in ("", "  ", "x" * 81, "Ann\x07", "Kay"):
            with self.subTest(name[:5]), self.assertRaises(InvalidInput):
                people.add_member(self.shop, self.keeper, name, "member")
        added = people.add_member(self.shop, self.keeper, "  Ann   Marie ", "member")
        self.assertEqual(added.name, "Ann Marie")

    def test_renaming_and_another_role(self):
        row = people.change_member(self.shop, self.keeper, self.member.id, 1, "Moss Green", "technician", False)
        self.assertEqual((row["name"], row["role"], row["edit"]), ("Moss Green", "technician", 2))
        with self.assertRaises(Stale):
            people.change_member(self.shop, self.keeper, self.member.id, 1, "Moss", "member", False)
        with self.assertRaises(InvalidInput):
            people.change_member(self.shop, self.keeper, self.member.id, 2, "Tess", "member", False)
        with self.assertRaises(InvalidInput):
            people.change_member(self.shop, self.keeper, self.member.id, 2, "Moss", "boss", False)
        with self.assertRaises(NotAllowed):
            people.change_member(self.shop, self.technician, self.member.id, 2, "Moss", "keeper", False)

    def test_whoever_left_keeps_their_name_on_what_they_did_and_may_come_back(self):
        people.change_member(self.shop, self.keeper, self.technician.id, 1, "Tess", "technician", True)
        self.assertEqual(people.who_may(self.shop, "technician"), ["Kay"])
        with self.assertRaises(NotFound):
            people.member_named(self.shop, "Tess")
        self.assertEqual(people.member_by_id(self.shop, self.technician.id).name, "Tess")
        people.change_member(self.shop, self.keeper, self.technician.id, 2, "Tess", "technician", False)
        self.assertEqual(people.member_named(self.shop, "Tess").id, self.technician.id)

    def test_with_two_keepers_one_may_go(self):
        people.change_member(self.shop, self.keeper, self.technician.id, 1, "Tess", "keeper", False)
        people.change_member(self.shop, self.keeper, self.keeper.id, 1, "Kay", "guest", False)
        self.assertEqual(people.first_keeper(self.shop).name, "Tess")


class ClearingTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "shop"
        copy_demo(self.folder)
        (self.folder / clearing.DEMO_BEGUN).touch()
        (self.folder / clearing.DEMO_COMPLETE).touch()
        self.shop = open_shop(self.folder)
        self.addCleanup(self.shop.close)

    def test_nothing_of_the_demo_stays_but_its_copy(self):
        keeper = people.first_keeper(self.shop)
        clearing.clear_demo(self.shop, keeper)
        with self.shop.database.reading() as db:
            tables = [
                row[0]
                for row in db.execute(
                    "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%'"
                    " AND name NOT LIKE 'recipe_text%'"
                )
            ]
            counts = {table: db.execute(f"SELECT count(*) FROM {table}").fetchone()[0] for table in tables}
        self.assertGreater(len(tables), 15)
        self.assertEqual({table: count for table, count in counts.items() if count}, {})
        self.assertEqual(list((self.folder / "photos").glob("*/*")), [])
        self.assertTrue((self.folder / clearing.COPY).exists())
        # `rezept demo --fresh` must never throw away what is founded here next.
        self.assertFalse(clearing.belongs_to_demo(self.folder))
        self.assertIsNone(people.shop_name(self.shop))
        self.assertEqual(people.found_shop(self.shop, "Ours", "0RSH", "Ann").role, "keeper")

    def test_nothing_is_cleared_while_it_burns(self):
        keeper = people.first_keeper(self.shop)

        class Going:
            over, title = False, "T-006"

        with self.assertRaisesRegex(Refused, "T-006 is being burned"):
            clearing.clear_demo(self.shop, keeper, [Going()])
        self.assertEqual(people.shop_name(self.shop), "Lantern Walk Workshop")
        Going.over = True
        clearing.clear_demo(self.shop, keeper, [Going()])

    def test_members_do_not_clear_and_a_real_shop_is_never_cleared(self):
        member = people.member_named(self.shop, "Moss Sample")
        with self.assertRaises(NotAllowed):
            clearing.clear_demo(self.shop, member)
        with self.shop.database.writing() as db:
            db.execute("UPDATE shop SET demo = 0")
        with self.assertRaises(Refused):
            clearing.clear_demo(self.shop, people.first_keeper(self.shop))
        self.assertEqual(people.shop_name(self.shop), "Lantern Walk Workshop")


if __name__ == "__main__":
    unittest.main()
