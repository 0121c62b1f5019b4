"""Backup, restore and check: one archive that holds the whole shop, and what is missing or left over.

A backup is a ZIP archive (documented in `docs/formats/backup.md`): `rezept-backup.json` says what it is, with the
SHA-256 of every file; `rezept.sqlite3` are the records; `photos/` holds the photos that stand in them.
"""

from __future__ import annotations

import hashlib
import json
import os
import re
import shutil
import sqlite3
import tempfile
import zipfile
from collections.abc import Callable
from contextlib import closing
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
from rezept.core.errors import InvalidInput, RezeptError
from rezept.store.database import migrations
from rezept.store.photo_files import PhotoFiles

FORMAT, VERSION = "rezept-backup", 1
MANIFEST = "rezept-backup.json"
_PHOTO = re.compile(r"photos/[0-9a-f]{2}/([0-9a-f]{64})")
_NAME = re.compile(r"rezept-(\d{8}T\d{6}Z)\.zip")


class BadBackup(RezeptError):
    """An archive that is no backup, is damaged, or comes from a newer Rezept."""


@dataclass(frozen=True)
class Finding:
    """Something a check found; `serious` where records or photos are lost."""

    sentence: str
    serious: bool


def _sha256(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _photo_rows(database: Path) -> list[str]:
    with closing(sqlite3.connect(f"file:{database}?mode=ro", uri=True)) as db:
        return [row[0] for row in db.execute("SELECT sha256 FROM photo ORDER BY sha256")]


# --- backup -----------------------------------------------------------------------------------------------


def backup(shop: Shop, target: Path) -> Path:
    """Write one consistent archive while the shop goes on being used; returns where it lies.

    `target` is a file to write, or a folder, in which it is named by the time. It comes under its name only when it
    is whole. Photos are never changed, and each is stored before the row that names it: a copy of the records taken
    first finds all of its photos.
    """
    if target.is_dir():
        target = target / f"rezept-{shop.now().replace('-', '').replace(':', '')}.zip"
    try:
        handle, temporary = tempfile.mkstemp(dir=target.parent, prefix=".rezept-", suffix=".zip")
    except OSError as error:
        raise FolderTrouble(f"{target.parent} cannot take a backup: {error.strerror}.") from error
    os.close(handle)
    try:
        with tempfile.TemporaryDirectory(dir=target.parent, prefix=".rezept-") as folder:
            records = Path(folder) / DATABASE_NAME
            shop.database.copy_to(records)
            _write_archive(Path(temporary), records, shop)
        os.replace(temporary, target)
    except (OSError, sqlite3.Error) as error:
        Path(temporary).unlink(missing_ok=True)
        reason = getattr(error, "strerror", None) or str(error)
        raise FolderTrouble(f"The backup could not be written: {reason}. Nothing was left behind.") from error
    except BaseException:
        Path(temporary).unlink(missing_ok=True)
        raise
    return target


def _write_archive(path: Path, records: Path, shop: Shop) -> None:
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


def rotate(folder: Path, keep: int) -> list[Path]:
    """Delete all but the `keep` newest backups that were named by their time; returns what went."""
    dated = sorted((file for file in folder.iterdir() if _NAME.fullmatch(file.name)), key=lambda file: file.name)
    gone = dated[:-keep] if keep > 0 else []
    for file in gone:
        file.unlink()
    return gone


def latest_backup(folder: Path) -> str | None:
    """When the newest dated backup in a folder was made, as `YYYYmmddTHHMMSSZ`."""
    if not folder.is_dir():
        return None
    stamps = [match.group(1) for file in folder.iterdir() if (match := _NAME.fullmatch(file.name))]
    return max(stamps, default=None)


# --- restore ----------------------------------------------------------------------------------------------


def _manifest(archive: zipfile.ZipFile) -> dict[str, Any]:
    try:
        manifest = json.loads(archive.read(MANIFEST))
        files = manifest["files"]
        good = manifest["format"] == FORMAT and isinstance(files, dict)
    except (KeyError, ValueError, TypeError) as error:
        raise BadBackup("This archive is no backup of Rezept.") from error
    if not good:
        raise BadBackup("This archive is no backup of Rezept.")
    if manifest["version"] > VERSION or manifest["records_version"] > migrations()[-1][0]:
        raise BadBackup("This backup was made by a newer Rezept. Please update Rezept first.")
    for name in files:
        if name != DATABASE_NAME and not _PHOTO.fullmatch(name):
            raise BadBackup(f"This backup holds a file that does not belong in it: {name[:80]!r}.")
    return dict(manifest)


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
            staged = Path(tempfile.mkdtemp(dir=folder.parent, prefix=".rezept-restore-"))
            try:
                for name, sha256 in manifest["files"].items():
                    _extract(archive, name, sha256, staged / name)
                _as_another_shop(staged / DATABASE_NAME, stamp(clock()))
                if folder.exists():
                    folder.rmdir()
                os.replace(staged, folder)
            finally:
                shutil.rmtree(staged, ignore_errors=True)
    except (zipfile.BadZipFile, EOFError) as error:
        raise BadBackup(f"{source} is damaged or no backup: {error}.") from error
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
            shutil.copyfileobj(packed, file, 2**20)
            file.flush()
            os.fsync(file.fileno())
    except KeyError as error:
        raise BadBackup(f"The backup is damaged: {name} is missing in it.") from error
    if _sha256(target) != sha256:
        raise BadBackup(f"The backup is damaged: {name} is not what was put in.")


# --- check ------------------------------------------------------------------------------------------------


def check(folder: Path) -> list[Finding]:
    """What is wrong with a shop's folder; nothing is changed. Empty: all is well."""
    records = folder / DATABASE_NAME
    if not records.exists():
        return [Finding(f"There are no records in {folder}.", True)]
    try:
        findings = _check_records(records)
        rows = set(_photo_rows(records))
    except sqlite3.DatabaseError as error:
        return [Finding(f"The records cannot be read: {error}. Restore the latest backup.", True)]
    photos = PhotoFiles(folder / PHOTOS_NAME)
    for sha256 in sorted(rows):
        file = photos.path(sha256)
        if not file.exists():
            findings.append(Finding(f"A photo is missing: {sha256}.", True))
        elif _sha256(file) != sha256:
            findings.append(Finding(f"A photo is damaged: {sha256}.", True))
    for file in sorted(photos.folder.glob("*/*")) if photos.folder.exists() else []:
        if file.name.startswith(".coming-"):
            findings.append(Finding(f"A photo that was never finished lies in {file}.", False))
        elif file.name not in rows:
            findings.append(Finding(f"A photo that no plate refers to lies in {file}.", False))
    return findings


def _check_records(records: Path) -> list[Finding]:
    with closing(sqlite3.connect(f"file:{records}?mode=ro", uri=True)) as db:
        findings = [
            Finding(f"The records are damaged: {line[0]}.", True)
            for line in db.execute("PRAGMA integrity_check")
            if line[0] != "ok"
        ]
        findings += [
            Finding(f"A row of {row[0]} refers to one of {row[2]} that is not there.", True)
            for row in db.execute("PRAGMA foreign_key_check")
        ]
        (version,) = db.execute("PRAGMA user_version").fetchone()
        if version > migrations()[-1][0]:
            findings.append(Finding("The records were written by a newer Rezept. Please update Rezept.", True))
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
    latest = latest_backup(schedule.folder)
    if latest is None:
        return True
    made = datetime.strptime(latest, "%Y%m%dT%H%M%SZ").replace(tzinfo=UTC)
    return shop.clock() - made >= timedelta(hours=schedule.hours)


def backup_now(shop: Shop, schedule: Schedule) -> Path:
    """A backup into the schedule's folder; the oldest beyond those to keep goes."""
    try:
        schedule.folder.mkdir(PRIVATE_FOLDER, parents=True, exist_ok=True)
    except OSError as error:
        raise FolderTrouble(f"{schedule.folder} cannot take backups: {error.strerror}.") from error
    made = backup(shop, schedule.folder)
    rotate(schedule.folder, schedule.keep)
    return made


def run_if_due(shop: Shop, schedule: Schedule, say: Callable[[str], None]) -> Path | None:
    """One turn of the schedule; a failure is said and tried again at the next turn."""
    try:
        if not due(shop, schedule):
            return None
        made = backup_now(shop, schedule)
        say(f"Backup: {made}")
        return made
    except (RezeptError, OSError) as error:
        say(f"The backup failed: {error}")
        return None
