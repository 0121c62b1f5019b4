"""Pictures that were made from photographs and can be made again: kept while there is room, the least looked at go."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

MOST_BYTES = 300 * 2**20


class MadeFiles:
    """A folder of files by name, together no larger than `most_bytes`."""

    def __init__(self, folder: Path, most_bytes: int = MOST_BYTES) -> None:
        self.folder, self.most_bytes = folder, most_bytes

    def get(self, name: str) -> bytes | None:
        try:
            data = (self.folder / name).read_bytes()
            os.utime(self.folder / name)
        except OSError:
            return None
        return data

    def put(self, name: str, data: bytes) -> None:
        self.folder.mkdir(0o700, exist_ok=True)
        handle, temporary = tempfile.mkstemp(dir=self.folder, prefix=".coming-")
        try:
            with os.fdopen(handle, "wb") as file:
                file.write(data)
            os.replace(temporary, self.folder / name)
        except BaseException:
            Path(temporary).unlink(missing_ok=True)
            raise
        self._make_room()

    def _make_room(self) -> None:
        files = [(entry.stat(), Path(entry.path)) for entry in os.scandir(self.folder)]
        room = self.most_bytes - sum(about.st_size for about, _ in files)
        for about, path in sorted(files, key=lambda one: one[0].st_mtime_ns):
            if room >= 0:
                return
            path.unlink(missing_ok=True)
            room += about.st_size

    def clear(self) -> None:
        for entry in os.scandir(self.folder) if self.folder.exists() else ():
            Path(entry.path).unlink(missing_ok=True)
