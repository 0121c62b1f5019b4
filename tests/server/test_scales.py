"""A scale is one row, and so is a remark: told, stored and given back without anything else knowing of it."""

from unittest import mock

from rezept.core.remark import REMARKS, RemarkKind
from rezept.core.scales import SCALES, Scale
from tests.server.api_case import ApiCase

BOW = Scale("bow_mm", "bow", "length", "typed", 0, 50, ("cut",), unit="mm", question="Bow of the sheet")
STICKS = Scale("sticks", "sticks", "yes", "letter", 0, 1, ("cut",), letter="y")


class NewScaleTest(ApiCase):
    def test_a_row_is_all_it_takes(self):
        with mock.patch.dict(SCALES, {BOW.key: BOW, STICKS.key: STICKS}):
            told = {row["key"]: row for row in self.call("GET", "/api/shop")["scales"]}
            self.assertEqual((told["bow_mm"]["entry"], told["sticks"]["letter"]), ("typed", "y"))
            page, burn = self.burned_trial()
            said = {"edit": 0, "values": {"through": 3, "bow_mm": "1,2 mm", "sticks": 1}}
            stored = self.call("PUT", f"/api/burns/{burn}/patches/A1/reading", json=said)
            self.assertEqual(stored["values"], {"through": 3, "bow_mm": 1.2, "sticks": 1})
            again = self.call("GET", f"/api/trials/{page['id']}")["readings"]
            self.assertEqual([row["values"] for row in again], [stored["values"]])
            problem = self.call(
                "PUT", f"/api/burns/{burn}/patches/A2/reading", 400, json={"edit": 0, "values": {"bow_mm": 51}}
            )
            self.assertEqual(problem["errors"][0]["path"], "values.bow_mm")

    def test_what_is_no_row_is_refused(self):
        _, burn = self.burned_trial()
        said = {"edit": 0, "values": {"bow_mm": 1}}
        problem = self.call("PUT", f"/api/burns/{burn}/patches/A1/reading", 400, json=said)
        self.assertIn("nothing that is read", problem["detail"])


class NewRemarkTest(ApiCase):
    def test_a_row_is_all_it_takes(self):
        ash = RemarkKind("ash", "ash", "a")
        _, burn = self.burned_trial()
        with mock.patch.dict(REMARKS, {ash.key: ash}):
            self.assertIn({"key": "ash", "name": "ash", "letter": "a"}, self.call("GET", "/api/shop")["remarks"])
            noted = self.call("POST", f"/api/burns/{burn}/remarks", 201, json={"kind": "ash", "patch": "A1"})
            self.assertEqual(noted["kind"], "ash")
        self.call("POST", f"/api/burns/{burn}/remarks", 400, json={"kind": "ash", "patch": "A1"})

    def test_no_two_have_one_letter(self):
        letters = [one.letter for one in REMARKS.values() if one.letter]
        self.assertEqual(len(set(letters)), len(letters))


class OfferedTest(ApiCase):
    def test_what_cannot_be_done_yet_is_named_but_not_offered(self):
        told = {row["key"]: row["offered"] for row in self.call("GET", "/api/shop")["processes"]}
        self.assertEqual([key for key, offered in told.items() if not offered], ["photo"])
