"""Backup, restore and check: whole or not at all; what is lost is found."""

import gzip
import hashlib
import json
import os
import random
import sqlite3
import tempfile
import unittest
import warnings
import zipfile
from contextlib import closing
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import mock

from rezept.actions.commands import people, safekeeping, signing_in
from rezept.actions.open_shop import FolderTrouble, open_shop
from rezept.actions.running.run_log import log_path, reserve
from rezept.core.errors import InvalidInput, RezeptError
from rezept.store import database as database_module
from rezept.store import photos as photo_table
from rezept.store.errors import TooNew, Unreadable
from tests.demo_copy import copy_demo
from tests.made import ShopCase


class BackupCase(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        copy_demo(self.folder / "shop")
        self.shop = open_shop(self.folder / "shop")
        self.addCleanup(self.shop.close)
        self.archive = safekeeping.backup(self.shop, self.folder / "backup.zip").path

    def dump(self, folder: Path) -> str:
        db = sqlite3.connect(folder / "rezept.sqlite3")
        try:
            return "\n".join(db.iterdump())
        finally:
            db.close()


@unittest.skipUnless(os.name == "posix", "owners and rights as POSIX has them")
class PrivateTest(BackupCase):
    """What a shop holds is its owner's alone."""

    def rights(self, folder: Path) -> set[str]:
        paths = [folder, *folder.rglob("*")]
        return {f"{'d' if path.is_dir() else 'f'}{path.stat().st_mode & 0o777:o}" for path in paths}

    def test_whatever_is_written_is_private_from_its_beginning(self):
        before = os.umask(0o000)
        self.addCleanup(os.umask, before)
        shop = open_shop(self.folder / "new" / "shop")
        self.addCleanup(shop.close)
        people.found_shop(shop, "Ours", "0RSH", "Kay")
        with shop.database.writing() as db:
            sha256 = shop.photos.add(b"a photo")
            row = {"sha256": sha256, "media_type": "image/png", "bytes": 7, "width": 1, "height": 1}
            photo_table.add_file(db, row, 1, shop.now())
        reserve(log_path(shop.folder, "0" * 16), 3)
        schedule = safekeeping.Schedule(shop.folder / "backups", 1, 2)
        made = safekeeping.backup_now(shop, schedule).path
        shop.database.copy_to(shop.folder / "copy.sqlite3")
        self.assertEqual(self.rights(shop.folder), {"d700", "f600"})
        safekeeping.restore(made, self.folder / "again")
        self.assertEqual(self.rights(self.folder / "again"), {"d700", "f600"})

    def test_what_an_earlier_version_left_open_is_closed(self):
        self.shop.close()
        folder = self.folder / "shop"
        for path in [folder, *folder.rglob("*")]:
            path.chmod(0o755 if path.is_dir() else 0o644)
        again = open_shop(folder)
        self.addCleanup(again.close)
        self.assertEqual(self.rights(folder), {"d700", "f600"})


class FolderNamesTest(unittest.TestCase):
    def test_whatever_a_data_folder_is_called(self):
        for name in ("Shop #1", "What?", "50 %", "%41", "Küche & Söhne", "a;b", "tab\there", "file:x", "-data"):
            with self.subTest(name), tempfile.TemporaryDirectory() as folder:
                shop = open_shop(Path(folder) / name)
                try:
                    people.found_shop(shop, "Ours", "0RSH", "Kay")
                    made = safekeeping.backup(shop, Path(folder) / "kept.zip")
                finally:
                    shop.close()
                self.assertEqual(made.missing, 0)
                self.assertEqual(safekeeping.check(Path(folder) / name), [])
                safekeeping.restore(made.path, Path(folder) / f"{name} again")
                self.assertEqual(safekeeping.check(Path(folder) / f"{name} again"), [])


class MissingTest(BackupCase):
    """A backup that lacks a photo says so, and pushes no whole one out."""

    def setUp(self):
        super().setUp()
        self.now = [datetime(2026, 11, 27, 12, tzinfo=UTC)]
        object.__setattr__(self.shop, "clock", lambda: self.now[0])
        self.schedule = safekeeping.Schedule(self.folder / "backups", 24, 2)

    def back_up(self):
        self.now[0] += timedelta(hours=1)
        return safekeeping.backup_now(self.shop, self.schedule)

    def test_it_says_so_and_whole_ones_stay(self):
        whole = [self.back_up().path for _ in range(3)][1:]
        lost = next(path for path in (self.folder / "shop/photos").glob("*/*"))
        data = lost.read_bytes()
        lost.unlink()
        lacking = [self.back_up() for _ in range(4)]
        self.assertEqual({made.missing for made in lacking}, {1})
        self.assertIn("One photo is missing", lacking[0].sentence)
        self.assertEqual(sorted(self.schedule.folder.iterdir()), sorted([*whole, *(m.path for m in lacking[-2:])]))
        latest, warning = safekeeping.latest_backup(self.schedule.folder, self.now[0])
        self.assertEqual((latest, warning), (lacking[-1].path.stem.removeprefix("rezept-"), lacking[-1].sentence))
        # Put back, everything is as it was.
        lost.write_bytes(data)
        self.assertEqual(self.back_up().missing, 0)
        said = []
        self.now[0] += timedelta(days=2)
        self.assertIsNotNone(safekeeping.run_if_due(self.shop, self.schedule, said.append))
        self.assertNotIn("missing", said[0])

    def test_a_clock_that_ran_ahead_stops_no_backup_and_takes_no_place(self):
        self.now[0] = datetime(2037, 1, 1, tzinfo=UTC)
        ahead = self.back_up().path
        self.now[0] = datetime(2026, 11, 27, 12, tzinfo=UTC)
        self.assertTrue(safekeeping.due(self.shop, self.schedule))
        made = [self.back_up().path for _ in range(3)]
        self.assertFalse(safekeeping.due(self.shop, self.schedule))
        self.assertEqual(sorted(self.schedule.folder.iterdir()), sorted([*made[-2:], ahead]))
        self.assertEqual(safekeeping.latest_backup(self.schedule.folder, self.now[0])[0], made[-1].stem[7:])
        # Set back by a year, the next one is due at once.
        self.now[0] -= timedelta(days=365)
        self.assertTrue(safekeeping.due(self.shop, self.schedule))
        (self.schedule.folder / "rezept-20261399T250000Z.zip").write_bytes(b"no date at all")
        self.back_up()


class HostileArchiveTest(BackupCase):
    """Archives nobody should make: a sentence, and nothing left behind."""

    def made(self, manifest=None, entries=(), **how):
        path = self.folder / "bad.zip"
        with zipfile.ZipFile(path, "w", **how) as archive:
            if manifest is not None:
                archive.writestr("rezept-backup.json", manifest if isinstance(manifest, str) else json.dumps(manifest))
            for name, data in entries:
                archive.writestr(name, data)
        return path

    def refused(self, path, words):
        with self.assertRaisesRegex(safekeeping.BadBackup, words):
            safekeeping.restore(path, self.folder / "bad")
        self.assertFalse((self.folder / "bad").exists())
        self.assertEqual([p.name for p in self.folder.iterdir() if p.name.startswith(".rezept")], [])

    def test_what_is_refused(self):
        good = {"format": "rezept-backup", "version": 1, "records_version": 1, "files": {"rezept.sqlite3": "0" * 64}}
        records = [("rezept.sqlite3", b"x" * 100)]
        for manifest, entries, words in (
            ("[]", records, "no backup"),
            ("{" * 4000, records, "no backup"),
            ('{"format": "\\ud800"}', records, "no backup"),
            ({**good, "files": []}, records, "no backup"),
            ({**good, "files": {"rezept.sqlite3": 5}}, records, "does not belong"),
            ({**good, "files": {"../out": "0" * 64, **good["files"]}}, records, "does not belong"),
            ({**good, "files": {}}, records, "holds no records"),
            ({**good, "version": "1"}, records, "no backup"),
            ({**good, "version": 99}, records, "newer Rezept"),
            (good, records, "not what was put in"),
            (good, [], "missing in it"),
            (good, [*records, *records], "one twice"),
        ):
            with self.subTest(str(manifest)[:40], words=words), warnings.catch_warnings(action="ignore"):
                self.refused(self.made(manifest, entries), words)

    def test_what_would_grow_is_not_unpacked(self):
        data = b"\0" * 50_000_000
        files = {"rezept.sqlite3": hashlib.sha256(data).hexdigest()}
        manifest = {"format": "rezept-backup", "version": 1, "records_version": 1, "files": files}
        path = self.made(manifest, [("rezept.sqlite3", data)], compression=zipfile.ZIP_DEFLATED)
        self.assertLess(path.stat().st_size, 100_000)
        self.refused(path, "neither compressed")
        with mock.patch.object(safekeeping, "MOST_BYTES", 1000):
            self.refused(self.made(manifest, [("rezept.sqlite3", data)]), "would take more")

    def test_records_that_are_none_are_refused(self):
        data = b"no records at all" * 100
        files = {"rezept.sqlite3": hashlib.sha256(data).hexdigest()}
        manifest = {"format": "rezept-backup", "version": 1, "records_version": 1, "files": files}
        self.refused(self.made(manifest, [("rezept.sqlite3", data)]), "records in .* are damaged")

    def test_two_hundred_damaged_ones(self):
        good = self.archive.read_bytes()
        chance = random.Random(20261127)
        for number in range(200):
            damaged = bytearray(good)
            for _ in range(chance.randint(1, 8)):
                # Where the lists of the archive stand, and anywhere.
                at = chance.randrange(len(good)) if chance.random() < 0.4 else -chance.randrange(1, 4000)
                damaged[at] = chance.randrange(256)
            (self.folder / "damaged.zip").write_bytes(damaged)
            target = self.folder / f"restored-{number}"
            try:
                safekeeping.restore(self.folder / "damaged.zip", target)
            except (RezeptError, FolderTrouble):
                self.assertFalse(target.exists())


class RestoreTest(BackupCase):
    def test_nobody_is_signed_in_to_a_restored_shop(self):
        kay = people.first_keeper(self.shop)
        session = signing_in.start_session(self.shop, kay.id, "bench PC")
        archive = safekeeping.backup(self.shop, self.folder / "later.zip").path
        safekeeping.restore(archive, self.folder / "again")
        again = open_shop(self.folder / "again")
        self.addCleanup(again.close)
        self.assertIsNotNone(signing_in.session_of(self.shop, session.token))
        self.assertIsNone(signing_in.session_of(again, session.token))
        # Looked at beside the other on the same machine: neither may use the other's cookie.
        keys = []
        for shop in (self.shop, again):
            with shop.database.reading() as db:
                keys.append(db.execute("SELECT key FROM shop").fetchone()[0])
        self.assertNotEqual(*keys)

    def test_what_was_backed_up_comes_back(self):
        safekeeping.restore(self.archive, self.folder / "again")
        # All but the key by which a browser tells the two apart.
        lines = [self.dump(self.folder / name).splitlines() for name in ("again", "shop")]
        differing = [one for one, other in zip(*lines, strict=True) if one != other]
        self.assertEqual([line.split(" VALUES")[0] for line in differing], ['INSERT INTO "shop"'])
        photos = sorted(p.relative_to(self.folder / "shop") for p in (self.folder / "shop/photos").glob("*/*"))
        again = sorted(p.relative_to(self.folder / "again") for p in (self.folder / "again/photos").glob("*/*"))
        self.assertGreater(len(photos), 5)
        self.assertEqual(again, photos)
        self.assertEqual(safekeeping.check(self.folder / "again"), [])

    def test_any_zip_reader_opens_it(self):
        with zipfile.ZipFile(self.archive) as archive:
            self.assertIsNone(archive.testzip())
            manifest = json.loads(archive.read("rezept-backup.json"))
            self.assertEqual(set(archive.namelist()), {"rezept-backup.json", *manifest["files"]})

    def test_ended_just_as_a_folder_is_made_nothing_is_left(self):
        make = os.mkdir

        def made_and_ended(path, *mode, **at):
            make(path, *mode, **at)
            raise SystemExit(143)

        there = sorted(self.folder.iterdir())
        for work in (
            lambda: safekeeping.backup(self.shop, self.folder / "next.zip"),
            lambda: safekeeping.restore(self.archive, self.folder / "again"),
        ):
            with mock.patch("os.mkdir", made_and_ended), self.assertRaises(SystemExit):
                work()
            self.assertEqual(sorted(self.folder.iterdir()), there)

    def test_a_folder_in_use_is_left_alone(self):
        for target in (self.folder / "shop", self.archive):
            with self.assertRaises(InvalidInput):
                safekeeping.restore(self.archive, target)
        (self.folder / "empty").mkdir()
        safekeeping.restore(self.archive, self.folder / "empty")

    def assertNothingLeft(self, target: str) -> None:
        self.assertFalse((self.folder / target).exists())
        self.assertEqual([p.name for p in self.folder.iterdir() if p.name.startswith(".rezept")], [])

    def test_a_damaged_archive_restores_nothing(self):
        data = bytearray(self.archive.read_bytes())
        for where in (len(data) // 3, len(data) // 2):
            torn = bytearray(data)
            torn[where] ^= 0xFF
            (self.folder / "torn.zip").write_bytes(torn)
            with self.subTest(where), self.assertRaises(safekeeping.BadBackup):
                safekeeping.restore(self.folder / "torn.zip", self.folder / "torn")
            self.assertNothingLeft("torn")
        (self.folder / "short.zip").write_bytes(data[: len(data) // 2])
        with self.assertRaises(safekeeping.BadBackup):
            safekeeping.restore(self.folder / "short.zip", self.folder / "torn")
        self.assertNothingLeft("torn")

    def changed(self, change):
        """The archive with another manifest and one more file."""
        with zipfile.ZipFile(self.archive) as old, zipfile.ZipFile(self.folder / "other.zip", "w") as new:
            manifest = json.loads(old.read("rezept-backup.json"))
            change(manifest)
            new.writestr("rezept-backup.json", json.dumps(manifest))
            new.writestr("../evil", b"x")
            for name in old.namelist()[1:]:
                new.writestr(name, old.read(name))
        return self.folder / "other.zip"

    def test_foreign_and_newer_archives_are_refused(self):
        cases = [
            (lambda m: m.update(format="other"), "no backup"),
            (lambda m: m.update(version=2), "newer Rezept"),
            (lambda m: m.update(records_version=999), "newer Rezept"),
            (lambda m: m["files"].update({"../evil": "0" * 64}), "does not belong"),
            (lambda m: m["files"].update({"photos/00/" + "0" * 64: "0" * 64}), "missing in it"),
            (lambda m: m["files"].update({"rezept.sqlite3": "0" * 64}), "not what was put in"),
        ]
        for change, words in cases:
            with self.subTest(words), self.assertRaisesRegex(safekeeping.BadBackup, words):
                safekeeping.restore(self.changed(change), self.folder / "bad")
            self.assertNothingLeft("bad")
        self.assertFalse((self.folder / "evil").exists())

    def test_a_backup_that_cannot_be_written_leaves_nothing(self):
        full = mock.patch("os.fsync", side_effect=OSError(28, "No space left on device"))
        with full, self.assertRaisesRegex(FolderTrouble, "No space left"):
            safekeeping.backup(self.shop, self.folder / "full.zip")
        self.assertNothingLeft("full.zip")
        with self.assertRaises(FolderTrouble):
            safekeeping.backup(self.shop, self.folder / "no" / "such" / "backup.zip")


class CheckTest(BackupCase):
    def sentences(self) -> list[str]:
        return [finding.sentence for finding in safekeeping.check(self.folder / "shop")]

    def test_all_is_well(self):
        self.assertEqual(self.sentences(), [])

    def test_photos_missing_damaged_and_left_over(self):
        one, two = sorted((self.folder / "shop/photos").glob("*/*"))[:2]
        one.unlink()
        two.write_bytes(b"other")
        (two.parent / ("f" * 64)).write_bytes(b"orphan")
        (two.parent / ".coming-x").write_bytes(b"torn")
        found = safekeeping.check(self.folder / "shop")
        self.assertEqual([finding.serious for finding in found], [True, True, False, False])
        self.assertIn(one.name, found[0].sentence)
        self.assertIn(two.name, found[1].sentence)

    def test_damaged_records(self):
        self.shop.close()
        records = self.folder / "shop/rezept.sqlite3"
        data = bytearray(records.read_bytes())
        data[4096 * 3 : 4096 * 30] = b"\xaa" * (4096 * 27)
        records.write_bytes(data)
        self.assertTrue(any(finding.serious for finding in safekeeping.check(self.folder / "shop")))
        records.write_bytes(b"this is no database" * 100)
        self.assertRegex(self.sentences()[0], "cannot be read.*backup")
        with self.assertRaisesRegex(Unreadable, "restore the latest backup"):
            open_shop(self.folder / "shop")
        self.assertRegex(safekeeping.check(self.folder / "nothing")[0].sentence, "no records")

    def test_records_of_a_newer_rezept(self):
        with self.shop.database.writing() as db:
            db.execute("PRAGMA user_version = 999")
        self.assertRegex(self.sentences()[0], "newer Rezept")
        self.shop.close()
        with self.assertRaisesRegex(TooNew, "update Rezept"):
            open_shop(self.folder / "shop")

    def test_a_folder_that_cannot_be_written(self):
        def read_only(path):
            db = sqlite3.connect(f"file:{path}?mode=ro", uri=True)
            db.row_factory = sqlite3.Row
            return db

        with (
            mock.patch.object(database_module, "_connect", read_only),
            self.assertRaisesRegex(Unreadable, "read-only"),
        ):
            database_module.Database(self.folder / "new.sqlite3")


class ScheduleTest(ShopCase):
    def test_backups_are_made_when_due_and_the_oldest_go(self):
        now = [datetime(2026, 11, 1, tzinfo=UTC)]
        object.__setattr__(self.shop, "clock", lambda: now[0])
        schedule = safekeeping.Schedule(self.folder / "backups", 24, 3)
        said: list[str] = []
        (self.folder / "backups").mkdir()
        (self.folder / "backups" / "my own copy.zip").write_bytes(b"mine")
        made = 0
        for _ in range(40):
            made += safekeeping.run_if_due(self.shop, schedule, said.append) is not None
            now[0] += timedelta(hours=6)
        self.assertEqual(made, 10)
        names = sorted(file.name for file in schedule.folder.iterdir())
        self.assertEqual(len(names), 4)
        self.assertEqual(names[0], "my own copy.zip")
        self.assertEqual(names[-1], "rezept-20261110T000000Z.zip")

    def test_a_failure_is_said_and_tried_again(self):
        (self.folder / "file").write_text("in the way")
        said: list[str] = []
        schedule = safekeeping.Schedule(self.folder / "file" / "backups", 24, 3)
        self.assertIsNone(safekeeping.run_if_due(self.shop, schedule, said.append))
        self.assertRegex(said[0], "backup failed")

    def test_an_update_keeps_the_records_as_they_were(self):
        """A shop of two versions ago: its records as they were stay beside it, and its photos are there to be read."""
        golden = Path(__file__).parents[2] / "golden" / "shops" / "version-6.sqlite3.gz"
        folder = self.folder / "old"
        folder.mkdir()
        (folder / "rezept.sqlite3").write_bytes(gzip.decompress(golden.read_bytes()))
        after = open_shop(folder)
        self.addCleanup(after.close)
        with closing(sqlite3.connect(folder / "before-update-6.sqlite3")) as copy:
            before = copy.execute("SELECT burn_id, face, sha256 FROM face_photo ORDER BY 1, 2").fetchall()
        self.assertGreater(len(before), 5)
        with after.database.reading() as db:
            rows = db.execute("SELECT burn_id, face, sha256, matrix, trouble FROM plate_photo ORDER BY 1, 2").fetchall()
        self.assertEqual([(row["burn_id"], row["face"], row["sha256"]) for row in rows], before)
        self.assertEqual({(row["matrix"], row["trouble"]) for row in rows}, {(None, "")})


if __name__ == "__main__":
    unittest.main()
