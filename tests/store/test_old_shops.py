"""Shops written by every released version of the records, opened by this one."""

import gzip
import hashlib
import json
import sqlite3
import tempfile
import unittest
from contextlib import closing
from importlib import resources
from pathlib import Path

import numpy as np

from rezept.actions.commands import exporting, planning
from rezept.actions.commands.people import first_keeper
from rezept.actions.open_shop import DATABASE_NAME, open_shop
from rezept.actions.queries import views, wall
from rezept.actions.queries.as_burned import plate_as_burned
from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.shop_facts import machine_of, material_of
from rezept.actions.queries.today import today_of
from rezept.core.plan import read_plate
from rezept.core.plan.gate import gate
from rezept.core.process import PROCESSES
from rezept.formats.gcode import write_gcode
from rezept.formats.svg import write_svg
from rezept.store import book as book_table
from rezept.store import burns as burn_table
from rezept.store import equipment as equipment_table
from rezept.store import failed as failed_table
from rezept.store import findings as finding_table
from rezept.store import readings as reading_table
from rezept.store import trials as trial_table
from rezept.store import wall as wall_table
from rezept.store.database import migrations
from rezept.store.plates_before import ways_as_planned
from tests.made import planned, trial_document

GOLDEN = Path(__file__).parents[1] / "golden"
# What has gone out to shops is never edited again: a new migration is a new file, and a new line here.
RELEASED = {
    "0001_shop.sql": "7fc737fb46d6167e",
    "0002_people.sql": "7e3b9b2e6fcafb2f",
    "0003_equipment.sql": "86975a47cc925bda",
    "0004_book.sql": "a42add3580d16481",
    "0005_arrays.sql": "db8ee07d260e0c08",
    "0006_live.sql": "b2a93baa4b5bbcc2",
    "0007_photos.sql": "cf1e317181d043b4",
    "0008_plates.sql": "f4c06df4a63957f0",
    "0009_door.sql": "009ecbda7b0ece62",
    "0010_jobs.sql": "f65e0d5a3f8f0842",
    "0011_readings.sql": "a0a593070d9e523a",
    "0012_rules.sql": "93fbe16030e7bb2e",
    "0013_failed.sql": "e80081d3a99f04eb",
    "0014_evidence.sql": "60d760a69f885aa1",
    "0015_findings.sql": "a8542f33f24c29c3",
    "0016_pinned.sql": "65d389198f4a9cab",
    "0017_read_off.sql": "215de0dfdb23a990",
    "0018_clock.sql": "67d90567d03527d0",
    "0019_lay.sql": "f46a9b8f57ae19ff",
    "0020_pushed.sql": "c68f91b4b29aeb9d",
    "0021_put_back.sql": "055e979b9c7e7461",
    "0022_sheet_facts.sql": "dc2cd40bc83f1d34",
    "0023_treatment.sql": "2045d672814a3339",
    "0024_pieces.sql": "069732b161badcbc",
    "0025_stacks_and_tabs.sql": "3d1b7f1e8865b061",
    "0026_part_photos.sql": "f3cd5e04c8a79203",
    "0027_steps.sql": "d9e4166a3730f384",
    "0028_figures.sql": "f657c7d1765714b0",
    "0029_proofs.sql": "f0177f95cb78a2f5",
    "0030_kerf.sql": "33d40276ef94eccd",
    "0031_stand_off.sql": "d1fa19bf073935b2",
}
# Of these there is a shop as it was.
VERSIONS = (1, 3, 4, 5, 6, 7, 8, 10, 11, 13, 15)
# Up to then a recipe was one patch, in columns of its own.
ONE_PATCH = 13
COUNTED = ("member", "machine", "head", "material", "lot", "trial", "revision", "burn", "reading", "recipe")


class ReleasedTest(unittest.TestCase):
    def test_released_migrations_are_as_they_were(self):
        folder = resources.files("rezept.store") / "migrations"
        files = {file.name: file.read_bytes() for file in folder.iterdir() if file.name.endswith(".sql")}
        self.assertEqual({name: hashlib.sha256(data).hexdigest()[:16] for name, data in files.items()}, RELEASED)


class OldShopCase(unittest.TestCase):
    def opened(self, version):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        file = Path(folder.name) / DATABASE_NAME
        file.write_bytes(gzip.decompress((GOLDEN / "shops" / f"version-{version}.sqlite3.gz").read_bytes()))
        with closing(sqlite3.connect(file)) as db:
            self.assertEqual(db.execute("PRAGMA user_version").fetchone(), (version,))
            counted = {table: db.execute(f"SELECT count(*) FROM {table}").fetchone()[0] for table in COUNTED}
            plates = dict(db.execute("SELECT id, plate FROM revision WHERE plate IS NOT NULL").fetchall())
        shop = open_shop(Path(folder.name))
        self.addCleanup(shop.close)
        return shop, counted, plates


class OldShopTest(OldShopCase):
    def test_everything_is_there_and_can_be_shown(self):
        for version in VERSIONS:
            with self.subTest(version=version):
                shop, counted, _ = self.opened(version)
                with shop.database.reading() as db:
                    after = {table: db.execute(f"SELECT count(*) FROM {table}").fetchone()[0] for table in COUNTED}
                    version_now = db.execute("PRAGMA user_version").fetchone()[0]
                    trials = [row["id"] for row in trial_table.trials(db)]
                self.assertEqual((after, version_now), (counted, migrations()[-1][0]))
                for trial in trials:
                    page = views.trial_page(shop, trial)
                    self.assertEqual((page["problem"], page["id"]), (None, trial))

    def test_frozen_plates_stay_where_they_were_and_leave_the_house(self):
        """Their documents untouched, their ways added, places and settings read; the gate has nothing against them."""
        for version in VERSIONS:
            with self.subTest(version=version):
                shop, _, plates = self.opened(version)
                self.assertGreater(len(plates), 5)
                with shop.database.reading() as db:
                    for revision, text in plates.items():
                        kept, ways, _ = trial_table.frozen(db, revision)
                        self.assertEqual(kept, text)
                        self.assertIsNotNone(ways)
                        plate, document = frozen_plate(db, revision), json.loads(text)
                        places = [(patch["x_mm"], patch["y_mm"]) for patch in document["patches"]]
                        np.testing.assert_array_equal(
                            np.column_stack([plate.elements.x_mm, plate.elements.y_mm]), places
                        )
                        for i, patch in enumerate(document["patches"]):
                            self.assertEqual(plate.judged.settings_of(i), patch["settings"])
                        trial = trial_table.trial(db, trial_table.plate_of_revision(db, revision)["trial_id"])
                        # The galvo of before version 5 was told its pulses by hand.
                        via = "drawing" if version < 5 and plate.trial.machine.motion == "galvo" else "program"
                        self.assertEqual(gate(plate, today_of(db, trial), via), [])

    def test_what_failed_then_is_shown_as_that_now(self):
        shop, _, _ = self.opened(13)
        with shop.database.reading() as db:
            [failed] = failed_table.failed_settings(db)
        self.assertEqual(failed["note"], "only scorched")
        with shop.database.reading() as db:
            assumed = {head["machine"]: head["machine_assumed"] for head in equipment_table.heads(db)}
        self.assertEqual(assumed["Finch"], ["acceleration_mm_s2"])

    def test_a_burn_of_then_is_decided_now(self):
        shop, _, _ = self.opened(1)
        with shop.database.reading() as db:
            for row in db.execute("SELECT id FROM burn").fetchall():
                self.assertEqual(plate_as_burned(db, row["id"]).mixed, frozenset())
        keeper = first_keeper(shop)
        before = wall.trial_list(shop, None, None)[-1]
        trial = planning.new_trial(shop, keeper, before["process"], before["material_id"], before["head_id"])
        page = views.trial_page(shop, trial)
        revision = exporting.freeze_latest(shop, keeper, page["id"], page["edit"])
        self.assertIn(b"G21", exporting.file_of(shop, page["id"], revision, "gcode")[2])


class EvidenceTest(OldShopCase):
    def test_what_a_recipe_was_kept_from_is_its_evidence(self):
        for version in [one for one in VERSIONS if one <= ONE_PATCH]:
            with self.subTest(version=version):
                file = gzip.decompress((GOLDEN / "shops" / f"version-{version}.sqlite3.gz").read_bytes())
                with closing(sqlite3.connect(":memory:")) as db:
                    # Bytes 18 and 19 say whether it was written with a journal beside it; in memory there is none.
                    db.deserialize(file.replace(b"\x02\x02", b"\x01\x01", 1))
                    then = db.execute("SELECT id, burn_id, patch FROM recipe ORDER BY id").fetchall()
                shop, _, _ = self.opened(version)
                with shop.database.reading() as db:
                    now = [book_table.recipe(db, recipe) for recipe, _, _ in then]
                self.assertGreater(sum(burn is not None for _, burn, _ in then), 0)
                self.assertEqual([(one["id"], one["burn_id"], one["patch"]) for one in now], then)

    def test_a_finding_of_then_is_explained_now(self):
        shop, _, _ = self.opened(15)
        with shop.database.reading() as db:
            [recipe] = [one for one in book_table.known_recipes(db) if one["finding_id"] is not None]
            kept = finding_table.one(db, recipe["finding_id"])
        self.assertEqual((recipe["standing"], recipe["patch"], kept["aim"]), ("estimate", None, "forgiving"))
        self.assertEqual(kept["wish"], {"power_at_most_pct": 80.0})
        self.assertEqual(kept["settings"], recipe["steps"][0]["settings"])


class ReadingsTest(OldShopCase):
    """Readings in columns, as versions before 11 kept them, count as they did: the records' own view was the rule."""

    DEGREES = ("through", "darkness", "evenness", "char", "soot", "kerf_mm", "depth_mm")

    def as_it_counted(self, version):
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "old.sqlite3"
            file.write_bytes(gzip.decompress((GOLDEN / "shops" / f"version-{version}.sqlite3.gz").read_bytes()))
            with closing(sqlite3.connect(file)) as db:
                db.row_factory = sqlite3.Row
                rows = db.execute("SELECT * FROM reading_now").fetchall()
        return {
            (row["burn_id"], row["patch"], row["face"]): (
                {key: row[key] for key in self.DEGREES if row[key] is not None}
                | dict.fromkeys(json.loads(row["tags"]), 1),
                (bool(row["cannot_tell"]), row["note"], row["edit"], row["at"], row["said_by"]),
            )
            for row in rows
        }

    def test_they_count_as_they_did(self):
        for version, least, photographed in ((7, 50, False), (8, 100, False), (10, 200, True)):
            before = self.as_it_counted(version)
            shop, _, _ = self.opened(version)
            with shop.database.reading() as db:
                burns = [row["id"] for row in db.execute("SELECT id FROM burn")]
                found = reading_table.readings_of(db, burns)
                counted = {burn: burn_table.counted(db, burn)["scored"] for burn in burns}
            now = {
                (burn, row["patch"], row["face"]): (
                    row["values"],
                    (row["cannot_tell"], row["note"], row["edit"], row["at"], row["said_by"]),
                )
                for burn, rows in found.items()
                for row in rows
            }
            with self.subTest(version=version):
                self.assertGreater(len(before), least)
                self.assertEqual(now, before)
                said_by = {said[-1] for _, said in before.values()}
                self.assertEqual(said_by, {"person", "photo"} if photographed else {"person"})
                for burn in burns:
                    self.assertEqual(counted[burn], len({patch for one, patch, _ in before if one == burn}))

    def test_counting_many_agrees_with_the_rule(self):
        shop, _, _ = self.opened(10)
        with shop.database.reading() as db:
            for outcome in ("through", "darkness"):
                rows = db.execute(
                    "SELECT burn.id, trial.process FROM burn JOIN revision ON revision.id = burn.revision_id"
                    " JOIN trial ON trial.id = revision.trial_id"
                )
                burns = [row["id"] for row in rows if PROCESSES[row["process"]].outcome == outcome]
                bare = burn_table.bare_patches(db, burns)
                found = reading_table.readings_of(db, burns)
                for burn, (read, left) in wall_table.scored(db, burns, outcome).items():
                    by_rule = {
                        row["patch"]
                        for row in found.get(burn, [])
                        if (outcome in row["values"] or row["cannot_tell"]) and row["patch"] not in bare.get(burn, [])
                    }
                    self.assertEqual((read, left), (len(by_rule), len(bare.get(burn, []))))


class NamesTest(OldShopCase):
    def test_members_who_are_read_as_the_same_get_a_number(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        file = Path(folder.name) / DATABASE_NAME
        file.write_bytes(gzip.decompress((GOLDEN / "shops" / "version-7.sqlite3.gz").read_bytes()))
        with closing(sqlite3.connect(file)) as db, db:
            (most,) = db.execute("SELECT max(id) FROM member").fetchone()
            for name in ("Robin", "ROBIN", "robin 2", "ｒobin"):
                db.execute("INSERT INTO member (name, role, at) VALUES (?, 'member', '')", (name,))
            referring = db.execute("SELECT count(*) FROM change WHERE by_member = 1").fetchone()
        shop = open_shop(Path(folder.name))
        self.addCleanup(shop.close)
        with shop.database.reading() as db:
            names = db.execute("SELECT name, name_key FROM member WHERE id > ? ORDER BY id", (most,)).fetchall()
            self.assertEqual(
                [tuple(row) for row in names],
                [("Robin", "robin"), ("ROBIN 2", "robin 2"), ("robin 2 2", "robin 2 2"), ("ｒobin 3", "robin 3")],
            )
            self.assertEqual(tuple(db.execute("SELECT count(*) FROM change WHERE by_member = 1").fetchone()), referring)
            self.assertEqual(db.execute("PRAGMA foreign_key_check").fetchall(), [])
        with self.assertRaises(sqlite3.IntegrityError), shop.database.writing() as db:
            db.execute(
                "INSERT INTO session (token_sha256, member_id, device, started_at, seen_at)"
                " VALUES (?, 999, '', '', '')",
                ("0" * 64,),
            )


class ProvenTest(OldShopCase):
    """What a shop has proven is no fire to Rezept; ten times as much is."""

    def fire(self, db, recipe, settings):
        head, material = (
            equipment_table.head(db, recipe["head_id"]),
            equipment_table.material(db, recipe["material_id"]),
        )
        document = trial_document(
            machine=machine_of(head).document(),
            material=material_of(material).document(),
            process=recipe["process"],
            hold={key: value for key, value in settings.items() if key != "speed_mm_s"},
            axes=[{"parameter": "speed_mm_s", "along": "x", "values": [settings["speed_mm_s"]]}],
        )
        return "fire" in {warning.kind for warning in planned(document).patch_warnings[0]}

    def test_proven_recipes(self):
        shop, _, _ = self.opened(7)
        with shop.database.reading() as db:
            proven = [recipe for recipe in book_table.known_recipes(db) if recipe["standing"] == "proven"]
            self.assertGreaterEqual(len(proven), 5)
            for recipe in proven:
                settings = recipe["steps"][0]["settings"]
                self.assertFalse(self.fire(db, recipe, settings), recipe["purpose"])
                slow = {**settings, "speed_mm_s": settings["speed_mm_s"] / 10}
                self.assertTrue(self.fire(db, recipe, slow), recipe["purpose"])


class GoldenPlatesTest(unittest.TestCase):
    """Plates as the released Rezept wrote them: read, not planned, they give the same files to the byte."""

    def test_to_the_byte(self):
        golden = json.loads(gzip.decompress((GOLDEN / "plates.json.gz").read_bytes()))
        self.assertGreaterEqual(len(golden), 9)
        for name, one in golden.items():
            with self.subTest(name):
                plate = read_plate({**one["plate"], **ways_as_planned(one["plate"])})
                for kind, write in (("gcode", write_gcode), ("svg", write_svg)):
                    if kind in one["sha256"]:
                        self.assertEqual(hashlib.sha256(write(plate)).hexdigest(), one["sha256"][kind], kind)


if __name__ == "__main__":
    unittest.main()
