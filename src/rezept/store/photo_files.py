"""Photo files, named by their SHA-256, below the data folder."""

from __future__ import annotations

import hashlib
import os
import tempfile
from pathlib import Path


class PhotoFiles:
    """A folder of files that are written once and never changed."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def path(self, sha256: str) -> Path:
        return self.folder / sha256[:2] / sha256

    def add(self, data: bytes) -> str:
        """Store `data` and return its SHA-256.

        Written to a temporary name, fsynced, renamed, and the folder fsynced: a name that exists holds all its
        bytes, whatever happens. The row that refers to it is committed afterwards.
        """
        sha256 = hashlib.sha256(data).hexdigest()
        target = self.path(sha256)
        if target.exists():
            return sha256
        self.folder.mkdir(0o700, exist_ok=True)
        target.parent.mkdir(0o700, exist_ok=True)
        handle, temporary = tempfile.mkstemp(dir=target.parent, prefix=".coming-")
        try:
            with os.fdopen(handle, "wb") as file:
                file.write(data)
                file.flush()
                os.fsync(file.fileno())
            os.replace(temporary, target)
        except BaseException:
            Path(temporary).unlink(missing_ok=True)
            raise
        # Windows keeps the names of files by itself, and opens no folder.
        if os.name == "posix":
            folder = os.open(target.parent, os.O_RDONLY)
            try:
                os.fsync(folder)
            finally:
                os.close(folder)
        return sha256

    def remove(self, sha256: str) -> None:
        """Take a photo away that no row refers to any more."""
        self.path(sha256).unlink(missing_ok=True)
