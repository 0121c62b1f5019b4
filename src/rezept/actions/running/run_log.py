"""The log of one run, in a file beside the records, for which there is room before the first move.

The job writes what became of each part here and nowhere else, so that a full disk, locked records or a server that
dies cost nothing that is known. `recording.fold` takes it into the records as soon as they can be written.
"""

from __future__ import annotations

import errno
import json
import os
import time
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from rezept.core.errors import Refused
from rezept.link.file_lock import INHERITED, try_hold

FOLDER = "runs"
# The longest two lines of a part, and what is said of the run as a whole.
BYTES_A_PART, BYTES_A_RUN = 768, 16_384


class NoRoom(Refused):
    """There is no room to keep what is about to be burned."""


def log_path(folder: Path, name: str) -> Path:
    return folder / FOLDER / f"{name}.log"


def reserve(path: Path, parts: int) -> None:
    """Make the file of a run's log as large as it can become, and see that it is on the disk.

    Raises
    ------
    NoRoom : the disk is full, or cannot be written
    """
    size = BYTES_A_RUN + BYTES_A_PART * parts
    try:
        path.parent.mkdir(0o700, exist_ok=True)
        file = os.open(path, os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o600)
        try:
            # Written, not only set aside: not every file system keeps its word about room.
            os.write(file, b"\0" * size)
            os.fsync(file)
            if os.fstat(file).st_size < size:
                raise OSError(errno.ENOSPC, "too few bytes were written")
        finally:
            os.close(file)
    except OSError as error:
        path.unlink(missing_ok=True)
        raise NoRoom(
            f"Nothing is burned: what becomes of it could not be kept ({error.strerror}). Make room on the disk first."
        ) from error


def left_alone(path: Path, seconds: float) -> bool:
    """Whether nobody writes a log any more, after waiting so long for it."""
    if not INHERITED:  # pragma: no cover
        # The job on such a system holds no log: after so long it has stopped its machine.
        time.sleep(seconds)
        return path.exists()
    try:
        file = os.open(path, os.O_RDONLY)
    except FileNotFoundError:
        return False
    try:
        until = time.monotonic() + seconds
        while not try_hold(file):
            if time.monotonic() > until:
                return False
            time.sleep(0.05)
        return True
    finally:
        os.close(file)


class RunLog:
    """The writing end, in the job."""

    def __init__(self, path: Path) -> None:
        self._file = os.open(path, os.O_RDWR)
        while INHERITED and not try_hold(self._file):
            time.sleep(0.01)
        self._size = os.fstat(self._file).st_size
        self._at = 0

    def write(self, event: Mapping[str, Any]) -> None:
        """Keep one event; it is on the disk when this returns."""
        line = (json.dumps(event, separators=(",", ":")) + "\n").encode()
        if self._at + len(line) > self._size:
            raise OSError(errno.ENOSPC, "the log of this run is full")
        os.pwrite(self._file, line, self._at)
        os.fdatasync(self._file)
        self._at += len(line)

    def close(self) -> None:
        os.close(self._file)


def events_in(path: Path) -> list[dict[str, Any]]:
    """The events of a log so far; a line that was being written when its process died is left out."""
    try:
        data = path.read_bytes()
    except FileNotFoundError:
        return []
    *whole, _torn = data.partition(b"\0")[0].split(b"\n")
    return [json.loads(line) for line in whole]
