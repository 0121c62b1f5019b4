"""Opening the shop's SQLite file, snapshots for readers, one writer at a time."""

from __future__ import annotations

import os
import sqlite3
import threading
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from importlib import resources
from pathlib import Path

from rezept.store.errors import NotSaved, TooNew, Unreadable
from rezept.store.names_before import fill_keys
from rezept.store.plates_before import fill_ways

BUSY_MS = 15_000
CLOSE_WAIT_S = 10.0
# What a migration does beyond its SQL, in the same transaction.
_BEYOND_SQL: dict[int, Callable[[sqlite3.Connection], None]] = {8: fill_ways, 9: fill_keys}


def migrations() -> list[tuple[int, str]]:
    """Number and SQL of every migration, in order."""
    folder = resources.files("rezept.store") / "migrations"
    found = [(int(file.name[:4]), file.read_text("utf-8")) for file in folder.iterdir() if file.name.endswith(".sql")]
    return sorted(found)


def _statements(script: str) -> Iterator[str]:
    """The statements of a script one by one; `executescript` would commit behind our back."""
    statement = ""
    for line in script.splitlines(keepends=True):
        statement += line
        if sqlite3.complete_statement(statement):
            yield statement
            statement = ""


def _make_private(path: Path) -> None:
    """Make a file for records that is its owner's alone; SQLite gives those it makes beside it the same rights."""
    try:
        os.close(os.open(path, os.O_CREAT | os.O_RDWR, 0o600))
    except OSError as error:
        raise sqlite3.OperationalError(error.strerror) from error


def _connect(path: Path) -> sqlite3.Connection:
    db = sqlite3.connect(path, isolation_level=None, check_same_thread=False, timeout=BUSY_MS / 1000)
    db.row_factory = sqlite3.Row
    db.execute("PRAGMA foreign_keys = ON")
    db.execute("PRAGMA synchronous = FULL")
    # What is deleted is overwritten, not only forgotten.
    db.execute("PRAGMA secure_delete = ON")
    return db


class Database:
    """One shop's records.

    `reading()` gives a connection with a snapshot that never waits for a writer; `writing()` gives the one
    writing connection inside a transaction that is committed at the end or rolled back on any error.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self._write_lock = threading.Lock()
        # Connections nobody reads through; the one that was used last is taken first, it has the records at hand.
        self._idle: list[sqlite3.Connection] = []
        # How many read just now; none more once it is closed.
        self._reading = 0
        self._left = threading.Condition()
        self._closed = False
        self._committed = threading.Condition()
        self._commits = 0
        try:
            _make_private(path)
            self._writer = _connect(path)
            self._writer.execute("PRAGMA journal_mode = WAL")
            self._migrate()
        except sqlite3.OperationalError as error:
            raise Unreadable(
                f"{path} cannot be opened for writing: {error}. Is the folder read-only, or the disk full?"
            ) from error
        except sqlite3.DatabaseError as error:
            raise Unreadable(
                f"{path} cannot be used as a shop's records: {error}. Keep it aside and restore the latest backup:"
                " rezept restore"
            ) from error

    def _migrate(self) -> None:
        """Bring the file up to date, each migration and its number in one transaction."""
        (version,) = self._writer.execute("PRAGMA user_version").fetchone()
        known = migrations()
        if version > known[-1][0]:
            raise TooNew(f"{self.path} was written by a newer Rezept (version {version}). Please update Rezept.")
        if 0 < version < known[-1][0]:
            # Whatever an update does, the records as they were before it stay.
            self._copy(self._writer, self.path.with_name(f"before-update-{version}.sqlite3"))
        # A table others refer to can be rebuilt only while SQLite does not watch; what refers to nothing is counted.
        self._writer.execute("PRAGMA foreign_keys = OFF")
        for number, script in known:
            if number > version:
                with self.writing() as db:
                    astray = len(db.execute("PRAGMA foreign_key_check").fetchall())
                    for statement in _statements(script):
                        db.execute(statement)
                    if number in _BEYOND_SQL:
                        _BEYOND_SQL[number](db)
                    if len(db.execute("PRAGMA foreign_key_check").fetchall()) > astray:
                        raise sqlite3.DatabaseError(f"update {number} would leave rows that refer to nothing")
                    db.execute(f"PRAGMA user_version = {number:d}")
        self._writer.execute("PRAGMA foreign_keys = ON")

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        with self._left:
            self._must_be_open()
            self._reading += 1
            db = self._idle.pop() if self._idle else None
        try:
            if db is None:
                db = _connect(self.path)
                db.execute("PRAGMA query_only = ON")
            db.execute("BEGIN")
            try:
                yield db
            finally:
                db.execute("ROLLBACK")
        finally:
            with self._left:
                self._reading -= 1
                if db is not None:
                    self._give_back(db)
                self._left.notify_all()

    def _give_back(self, db: sqlite3.Connection) -> None:
        """One whose snapshot could not be ended is not read through again."""
        if self._closed or db.in_transaction:
            db.close()
        else:
            self._idle.append(db)

    @contextmanager
    def writing(self, patience_s: float = BUSY_MS / 1000) -> Iterator[sqlite3.Connection]:
        """The writing connection in a transaction; `patience_s` is how long others may be waited for.

        Raises
        ------
        NotSaved : somebody else is writing, or what was written cannot be kept
        """
        if not self._write_lock.acquire(timeout=patience_s):
            raise NotSaved("This could not be saved (somebody else is writing). Nothing was changed.")
        try:
            self._must_be_open()
            with self._transaction(patience_s) as db:
                yield db
        finally:
            self._write_lock.release()
        self.announce()

    @contextmanager
    def _transaction(self, patience_s: float) -> Iterator[sqlite3.Connection]:
        db = self._writer
        try:
            db.execute(f"PRAGMA busy_timeout = {int(patience_s * 1000)}")
            db.execute("BEGIN IMMEDIATE")
        except sqlite3.OperationalError as error:
            raise NotSaved(f"This could not be saved ({error}). Nothing was changed.") from error
        try:
            yield db
            db.execute("COMMIT")
        except BaseException as error:
            # SQLite ends the transaction itself when the disk is full; a commit that failed may leave it open.
            if db.in_transaction:
                db.execute("ROLLBACK")
            if isinstance(error, sqlite3.OperationalError):
                raise NotSaved(f"This could not be saved ({error}). Nothing was changed.") from error
            raise

    def announce(self) -> None:
        """Wake those who wait for news: something was committed, or happens without a line in the records."""
        with self._committed:
            self._commits += 1
            self._committed.notify_all()

    def wait_for_commit(self, seen: int, seconds: float) -> int:
        """Wait until there is news here after the `seen`-th time; the count of news now."""
        with self._committed:
            self._committed.wait_for(lambda: self._commits != seen, seconds)
            return self._commits

    def sweep(self) -> None:
        """Write the log of changes into the records and empty it, so that nothing deleted can be read there."""
        with self._write_lock:
            self._must_be_open()
            self._writer.execute("PRAGMA wal_checkpoint(TRUNCATE)")

    def copy_to(self, path: Path) -> None:
        """A consistent copy of the records, made while they go on being used."""
        with self.reading() as db:
            self._copy(db, path)

    @staticmethod
    def _copy(db: sqlite3.Connection, path: Path) -> None:
        _make_private(path)
        with closing(sqlite3.connect(path)) as copy:
            db.backup(copy)

    def _must_be_open(self) -> None:
        if self._closed:
            raise sqlite3.ProgrammingError("The shop's records are closed.")

    def close(self) -> None:
        """Close once those who read or write have done: a connection closed under a thread takes the process with it.

        Whoever has not done within `CLOSE_WAIT_S` closes the connection when done.
        """
        with self._left:
            self._closed = True
            self._left.wait_for(lambda: self._reading == 0, CLOSE_WAIT_S)
            idle, self._idle = self._idle, []
        if self._write_lock.acquire(timeout=CLOSE_WAIT_S):
            try:
                self._writer.close()
            finally:
                self._write_lock.release()
        for db in idle:
            db.close()
