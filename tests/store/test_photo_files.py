"""Photo files: named by content, whole or not there."""

import hashlib
import os
import tempfile
import threading
import unittest
from pathlib import Path
from unittest import mock

from rezept.store.photo_files import PhotoFiles


class PhotoFilesTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.files = PhotoFiles(Path(folder.name) / "photos")

    def listing(self):
        return sorted(path for path in self.files.folder.rglob("*") if path.is_file())

    def test_named_by_its_sha256(self):
        name = self.files.add(b"plate")
        self.assertEqual(name, hashlib.sha256(b"plate").hexdigest())
        self.assertEqual(self.files.path(name).read_bytes(), b"plate")
        self.assertEqual(self.files.path(name).parent.name, name[:2])

    def test_the_same_picture_twice_is_one_file(self):
        self.assertEqual(self.files.add(b"plate"), self.files.add(b"plate"))
        self.assertEqual(len(self.listing()), 1)

    def test_a_failing_disk_leaves_nothing_behind(self):
        for call in ("os.fsync", "os.replace"):
            with self.subTest(call), mock.patch(call, side_effect=OSError(28, "No space left on device")):
                with self.assertRaisesRegex(OSError, "No space left"):
                    self.files.add(b"a plate that does not fit")
                self.assertEqual(self.listing(), [])

    def test_the_name_appears_only_when_all_bytes_are_on_disk(self):
        """At the moment of the rename the temporary file is complete and synced."""
        seen = []
        real = os.replace

        def watching(source, target):
            seen.append(Path(source).read_bytes())
            real(source, target)

        with mock.patch("os.replace", watching):
            self.files.add(b"whole")
        self.assertEqual(seen, [b"whole"])

    def test_many_at_once(self):
        threads = [threading.Thread(target=self.files.add, args=(b"x" * (i % 4 + 1),)) for i in range(24)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(path.stat().st_size for path in self.listing()), [1, 2, 3, 4])


if __name__ == "__main__":
    unittest.main()
