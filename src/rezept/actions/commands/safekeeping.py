"""Backup, restore and check: one archive that holds the whole shop, and what is missing or left over.

A backup is a ZIP archive (documented in `docs/formats/backup.md`): `rezept-backup.json` says what it is, with the
SHA-256 of every file; `rezept.sqlite3` are the records; `photos/` holds the photos that stand in them.
"""

from __future__ import annotations

import hashlib
import json
import os
import re
import secrets
import shutil
import sqlite3
import struct
import zipfile
import zlib
from collections.abc import Callable, Iterator, Mapping
from contextlib import closing, contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from rezept.actions.open_shop import (
    DATABASE_NAME,
    PHOTOS_NAME,
    PRIVATE_FILE,
    PRIVATE_FOLDER,
    Clock,
    FolderTrouble,
    Shop,
    stamp,
    wall_clock,
)
from rezept.core.errors import InvalidInput, RezeptError, quoted
from rezept.formats.strict_json import read_json
from rezept.store.database import migrations
from rezept.store.photo_files import PhotoFiles

FORMAT, VERSION = "rezept-backup", 1
MANIFEST = "rezept-backup.json"
_PHOTO = re.compile(r"photos/[0-9a-f]{2}/([0-9a-f]{64})")
# So far ahead a clock may run and still be believed.
AHEAD = timedelta(days=1)
# What an archive may hold at most: more is no shop's.
MOST_FILES, MOST_BYTES, MOST_MANIFEST = 200_000, 500 * 2**30, 64 * 2**20
_NAME = re.compile(r"rezept-(\d{8}T\d{6}Z)\.zip")


class BadBackup(RezeptError):
    """An archive that is no backup, is damaged, or comes from a newer Rezept."""


@dataclass(frozen=True)
class Damage:
    """Something a check found; `serious` where records or photos are lost."""

    sentence: str
    serious: bool


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _read_only(database: Path) -> sqlite3.Connection:
    """Records that are looked at and not touched, whatever signs there are in the name of their folder."""
    return sqlite3.connect(f"{database.resolve().as_uri()}?mode=ro", uri=True)


def _photo_rows(database: Path) -> list[str]:
    with closing(_read_only(database)) as db:
        return [row[0] for row in db.execute("SELECT sha256 FROM photo ORDER BY sha256")]


# --- backup -----------------------------------------------------------------------------------------------


def not_whole(missing: int) -> str:
    what = "One photo is" if missing == 1 else f"{missing} photos are"
    return (
        f"{what} missing in this backup: the data folder has lost {'it' if missing == 1 else 'them'}. rezept check says"
        " which; an earlier backup may hold what is lost, and stays."
    )


@dataclass(frozen=True)
class Backup:
    """Where an archive lies, and how many photos that stand in the records could not be put into it."""

    path: Path
    missing: int

    @property
    def sentence(self) -> str:
        """What has to be said of one that is not whole; empty for one that is."""
        if self.missing == 0:
            return ""
        return not_whole(self.missing)


@contextmanager
def _working_folder(folder: Path) -> Iterator[Path]:
    """A new folder for a while. Its name is known before it is there: whoever is ended as it is made still takes it
    away."""
    try:
        folder.mkdir(PRIVATE_FOLDER)
        yield folder
    finally:
        if folder.exists():
            shutil.rmtree(folder)


def backup(shop: Shop, target: Path) -> Backup:
    """Write one consistent archive while the shop goes on being used.

    `target` is a file to write, or a folder, in which it is named by the time. It comes under its name only when it
    is whole. Photos are never changed, and each is stored before the row that names it: a copy of the records taken
    first finds all of its photos.
    """
    if target.is_dir():
        target = target / f"rezept-{shop.now().replace('-', '').replace(':', '')}.zip"
    # Its name is known before it is there: whoever is ended in between still takes it away.
    temporary = target.parent / f".rezept-{secrets.token_hex(6)}.zip"
    try:
        try:
            os.close(os.open(temporary, os.O_CREAT | os.O_EXCL | os.O_WRONLY, 0o600))
        except OSError as error:
            raise FolderTrouble(f"{target.parent} cannot take a backup: {error.strerror}.") from error
        with _working_folder(temporary.with_suffix("")) as folder:
            records = folder / DATABASE_NAME
            shop.database.copy_to(records)
            missing = _write_archive(temporary, records, shop)
        os.replace(temporary, target)
    except (OSError, sqlite3.Error) as error:
        temporary.unlink(missing_ok=True)
        reason = getattr(error, "strerror", None) or str(error)
        raise FolderTrouble(f"The backup could not be written: {reason}. Nothing was left behind.") from error
    except BaseException:
        temporary.unlink(missing_ok=True)
        raise
    return Backup(target, missing)


def _write_archive(path: Path, records: Path, shop: Shop) -> int:
    """Returns how many photos are missing."""
    files = {DATABASE_NAME: records}
    for sha256 in _photo_rows(records):
        files[f"{PHOTOS_NAME}/{sha256[:2]}/{sha256}"] = shop.photos.path(sha256)
    missing = [name for name, file in files.items() if not file.exists()]
    manifest: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "at": shop.now(),
        "records_version": migrations()[-1][0],
        "files": {name: _sha256(file) for name, file in files.items() if name not in missing},
        "missing": missing,
    }
    with path.open("wb") as out:
        with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED, allowZip64=True) as archive:
            archive.writestr(MANIFEST, json.dumps(manifest, indent=1))
            for name in manifest["files"]:
                archive.write(files[name], name)
        out.flush()
        os.fsync(out.fileno())
    return len(missing)


def _made_at(file: Path) -> datetime | None:
    """When a backup was made, by its name; None for what is no dated backup."""
    match = _NAME.fullmatch(file.name)
    if match is None:
        return None
    try:
        return datetime.strptime(match.group(1), "%Y%m%dT%H%M%SZ").replace(tzinfo=UTC)
    except ValueError:
        return None


def _dated(folder: Path, now: datetime) -> list[tuple[datetime, Path]]:
    """The dated backups of a folder, the oldest first; those from a time that has not come are no witnesses."""
    if not folder.is_dir():
        return []
    made = ((_made_at(file), file) for file in folder.iterdir())
    return sorted((at, file) for at, file in made if at is not None and at <= now + AHEAD)


def rotate(folder: Path, keep: int, now: datetime) -> list[Path]:
    """Delete all but the `keep` newest backups that were named by their time; returns what went.

    Those that are not whole are counted for themselves, so that none pushes a whole one out. What a clock that ran
    ahead has dated into the future is left alone, and takes nobody's place.
    """
    dated = [file for _, file in _dated(folder, now)]
    whole = [file for file in dated if not missing_in(file)]
    others = [file for file in dated if file not in whole]
    gone = [*whole[:-keep], *others[:-keep]] if keep > 0 else []
    for file in gone:
        file.unlink()
    return gone


def missing_in(file: Path) -> int:
    """How many photos a backup lacks; one that cannot be read lacks everything."""
    try:
        with zipfile.ZipFile(file) as archive:
            return len(_manifest(archive).get("missing", ()))
    except (OSError, zipfile.BadZipFile, RezeptError):
        return 1


def latest_backup(folder: Path, now: datetime) -> tuple[str | None, str]:
    """When the newest dated backup in a folder was made, as `YYYYmmddTHHMMSSZ`, and what is to be said of it."""
    dated = _dated(folder, now)
    if not dated:
        return None, ""
    made, file = dated[-1]
    missing = missing_in(file)
    return made.strftime("%Y%m%dT%H%M%SZ"), not_whole(missing) if missing else ""


# --- restore ----------------------------------------------------------------------------------------------


def _manifest(archive: zipfile.ZipFile) -> dict[str, Any]:
    no_backup = BadBackup("This archive is no backup of Rezept.")
    try:
        about = archive.getinfo(MANIFEST)
        if about.file_size > MOST_MANIFEST:
            raise BadBackup("The list of files in this backup is larger than any shop's.")
        manifest = read_json(archive.read(MANIFEST), MANIFEST)
        files, version, records = manifest["files"], manifest["version"], manifest["records_version"]
        good = manifest["format"] == FORMAT and isinstance(files, dict)
    except (
        KeyError,
        TypeError,
        InvalidInput,
        zipfile.BadZipFile,
        zlib.error,
        NotImplementedError,
        RuntimeError,
    ) as error:
        raise no_backup from error
    if not good or not all(isinstance(one, int) for one in (version, records)):
        raise no_backup
    if version > VERSION or records > migrations()[-1][0]:
        raise BadBackup("This backup was made by a newer Rezept. Please update Rezept first.")
    for name, sha256 in files.items():
        if (name != DATABASE_NAME and not _PHOTO.fullmatch(name)) or not isinstance(sha256, str):
            raise BadBackup(f"This backup holds a file that does not belong in it: {quoted(name)}.")
    if DATABASE_NAME not in files:
        raise BadBackup("This backup holds no records.")
    _refuse_too_large(archive, files)
    return dict(manifest)


def _refuse_too_large(archive: zipfile.ZipFile, files: Mapping[str, str]) -> None:
    """A backup is not compressed: what would grow when it is unpacked was not made by Rezept."""
    packed = {info.filename: info for info in archive.infolist()}
    if len(packed) > MOST_FILES or len(packed) != len(archive.infolist()):
        raise BadBackup("This archive holds more files than a backup of Rezept, or one twice.")
    infos = [packed[name] for name in files if name in packed]
    if sum(info.file_size for info in infos) > MOST_BYTES:
        raise BadBackup(f"This backup would take more than {MOST_BYTES // 2**30} GiB.")
    if any(info.compress_type != zipfile.ZIP_STORED or info.flag_bits & 1 for info in infos):
        raise BadBackup("This archive was packed anew: a backup of Rezept is neither compressed nor locked.")


def restore(source: Path, folder: Path, clock: Clock = wall_clock) -> None:
    """Put the shop of a backup into `folder`, which must be empty or not there yet.

    Every file is held against its SHA-256 before the folder gets its name: either the whole shop is there, or
    nothing.
    """
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise InvalidInput(f"{folder} is not empty; restore into a new folder and look at it before you use it.")
    try:
        with zipfile.ZipFile(source) as archive:
            manifest = _manifest(archive)
            folder.parent.mkdir(parents=True, exist_ok=True)
            with _working_folder(folder.parent / f".rezept-restore-{secrets.token_hex(6)}") as staged:
                for name, sha256 in manifest["files"].items():
                    _extract(archive, name, sha256, staged / name)
                _as_another_shop(staged / DATABASE_NAME, stamp(clock()))
                if folder.exists():
                    folder.rmdir()
                os.replace(staged, folder)
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, struct.error) as error:
        raise BadBackup(f"{source} is damaged or no backup: {error}.") from error
    except sqlite3.DatabaseError as error:
        raise BadBackup(f"The records in {source} are damaged: {error}.") from error
    except OSError as error:
        raise FolderTrouble(f"The backup could not be restored: {error.strerror or error}.") from error


def _private(name: str, flags: int) -> int:
    return os.open(name, flags, PRIVATE_FILE)


def _as_another_shop(records: Path, at: str) -> None:
    """Nobody is signed in to a restored shop, and its cookies are not those of the shop it was copied from."""
    with closing(sqlite3.connect(records)) as db, db:
        tables = {row[0] for row in db.execute("SELECT name FROM sqlite_schema WHERE type = 'table'")}
        if "session" in tables:
            db.execute("UPDATE session SET ended_at = ? WHERE ended_at IS NULL", (at,))
        if any(row[1] == "key" for row in db.execute("PRAGMA table_info(shop)")):
            db.execute("UPDATE shop SET key = lower(hex(randomblob(6)))")


def _extract(archive: zipfile.ZipFile, name: str, sha256: str, target: Path) -> None:
    target.parent.parent.mkdir(PRIVATE_FOLDER, exist_ok=True)
    target.parent.mkdir(PRIVATE_FOLDER, exist_ok=True)
    try:
        with archive.open(name) as packed, open(target, "wb", opener=_private) as file:
            shutil.copyfileobj(packed, file, 2**20)  # no more than the archive has: it is not compressed
            file.flush()
            os.fsync(file.fileno())
    except KeyError as error:
        raise BadBackup(f"The backup is damaged: {name} is missing in it.") from error
    if _sha256(target) != sha256:
        raise BadBackup(f"The backup is damaged: {name} is not what was put in.")


# --- check ------------------------------------------------------------------------------------------------


def check(folder: Path) -> list[Damage]:
    """What is wrong with a shop's folder; nothing is changed. Empty: all is well."""
    records = folder / DATABASE_NAME
    if not records.exists():
        return [Damage(f"There are no records in {folder}.", True)]
    try:
        findings = _check_records(records)
        rows = set(_photo_rows(records))
    except sqlite3.DatabaseError as error:
        return [Damage(f"The records cannot be read: {error}. Restore the latest backup.", True)]
    photos = PhotoFiles(folder / PHOTOS_NAME)
    for sha256 in sorted(rows):
        file = photos.path(sha256)
        if not file.exists():
            findings.append(Damage(f"A photo is missing: {sha256}.", True))
        elif _sha256(file) != sha256:
            findings.append(Damage(f"A photo is damaged: {sha256}.", True))
    for file in sorted(photos.folder.glob("*/*")) if photos.folder.exists() else []:
        if file.name.startswith(".coming-"):
            findings.append(Damage(f"A photo that was never finished lies in {file}.", False))
        elif file.name not in rows:
            findings.append(Damage(f"A photo that no plate refers to lies in {file}.", False))
    return findings


def _check_records(records: Path) -> list[Damage]:
    with closing(_read_only(records)) as db:
        findings = [
            Damage(f"The records are damaged: {line[0]}.", True)
            for line in db.execute("PRAGMA integrity_check")
            if line[0] != "ok"
        ]
        findings += [
            Damage(f"A row of {row[0]} refers to one of {row[2]} that is not there.", True)
            for row in db.execute("PRAGMA foreign_key_check")
        ]
        (version,) = db.execute("PRAGMA user_version").fetchone()
        if version > migrations()[-1][0]:
            findings.append(Damage("The records were written by a newer Rezept. Please update Rezept.", True))
        return findings


# --- scheduled --------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Schedule:
    """A backup into `folder` every `hours`; the `keep` newest stay."""

    folder: Path
    hours: float
    keep: int


def due(shop: Shop, schedule: Schedule) -> bool:
    """Whether the newest backup is older than the schedule allows."""
    dated = _dated(schedule.folder, shop.clock())
    return not dated or shop.clock() - dated[-1][0] >= timedelta(hours=schedule.hours)


def backup_now(shop: Shop, schedule: Schedule) -> Backup:
    """A backup into the schedule's folder; the oldest beyond those to keep goes."""
    try:
        schedule.folder.mkdir(PRIVATE_FOLDER, parents=True, exist_ok=True)
    except OSError as error:
        raise FolderTrouble(f"{schedule.folder} cannot take backups: {error.strerror}.") from error
    made = backup(shop, schedule.folder)
    rotate(schedule.folder, schedule.keep, shop.clock())
    return made


def run_if_due(shop: Shop, schedule: Schedule, say: Callable[[str], None]) -> Path | None:
    """One turn of the schedule; a failure is said and tried again at the next turn."""
    try:
        if not due(shop, schedule):
            return None
        made = backup_now(shop, schedule)
        say(f"Backup: {made.path}. {made.sentence}".strip())
        return made.path
    except (RezeptError, OSError) as error:
        say(f"The backup failed: {error}")
        return None
