"""A shop on disk: its records, its photo files and the clock everything is stamped with."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path

from rezept.core.errors import RezeptError
from rezept.formats.photo_file import LastDecoded
from rezept.link.file_lock import try_hold
from rezept.store import search
from rezept.store.database import Database
from rezept.store.made_files import MadeFiles
from rezept.store.photo_files import PhotoFiles

DATABASE_NAME = "rezept.sqlite3"
PHOTOS_NAME = "photos"
MADE_NAME = "made"
PRIVATE_FOLDER, PRIVATE_FILE = 0o700, 0o600

Clock = Callable[[], datetime]


def wall_clock() -> datetime:
    return datetime.now(UTC)


def stamp(moment: datetime) -> str:
    """A moment as it stands in the records: UTC, ISO 8601, whole seconds."""
    return moment.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")


class FolderTrouble(RezeptError):
    """The data folder cannot be made or written to."""


@dataclass(frozen=True)
class Shop:
    """What every action works on."""

    folder: Path
    database: Database
    photos: PhotoFiles
    made: MadeFiles
    clock: Clock
    decoded: LastDecoded = field(default_factory=LastDecoded)

    def now(self) -> str:
        return stamp(self.clock())

    def today(self) -> str:
        return self.now()[:10]

    def close(self) -> None:
        self.database.close()


SERVING = "serving.lock"


class Served(RezeptError):
    """Another server works on this folder."""


@contextmanager
def served_here(folder: Path) -> Iterator[None]:
    """Be the one server of a data folder for as long as this lasts; what only reads or adds may run beside it.

    Raises
    ------
    Served : there is one already
    """
    folder.mkdir(PRIVATE_FOLDER, parents=True, exist_ok=True)
    file = os.open(folder / SERVING, os.O_RDWR | os.O_CREAT, 0o600)
    try:
        if not try_hold(file):
            raise Served(
                f"{folder} is served by another Rezept already, which burns and keeps for everybody. Use that one,"
                " or end it first."
            )
        yield
    finally:
        os.close(file)


def keep_private(folder: Path) -> None:
    """Make a data folder and all in it its owner's alone, where the system knows owners. Whatever is written there
    later is private from its beginning; this puts right what an earlier version wrote."""
    if os.name != "posix" or folder.stat().st_mode & 0o777 == PRIVATE_FOLDER:
        return
    # A folder on a stick, or somebody else's, stays as it is.
    with suppress(OSError, NotImplementedError):
        for place, folders, files in os.walk(folder):
            for name in folders:
                Path(place, name).chmod(PRIVATE_FOLDER)
            for name in files:
                Path(place, name).chmod(PRIVATE_FILE)
        folder.chmod(PRIVATE_FOLDER)


def open_shop(folder: Path, clock: Clock = wall_clock) -> Shop:
    """Open the shop in `folder`, making the folder and an empty database where there is none."""
    try:
        folder.mkdir(PRIVATE_FOLDER, parents=True, exist_ok=True)
        keep_private(folder)
    except OSError as error:
        raise FolderTrouble(f"{folder} cannot be used as a data folder: {error.strerror}.") from error
    database = Database(folder / DATABASE_NAME)
    with database.reading() as db:
        unfound = search.without_words(db)
    if unfound:
        with database.writing() as db:
            for recipe_id in unfound:
                search.index(db, "recipe", recipe_id)
    return Shop(folder, database, PhotoFiles(folder / PHOTOS_NAME), MadeFiles(folder / MADE_NAME), clock)
