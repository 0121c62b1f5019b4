"""What Rezept is installed from: every version named and hashed, every licence listed."""

import json
import re
import unittest
from pathlib import Path

ROOT = Path(__file__).parents[1]
LOCKS = ("requirements.lock", "requirements-dev.lock", "requirements-build.lock")


class LocksTest(unittest.TestCase):
    def test_every_wheel_is_pinned_and_hashed(self):
        for name in LOCKS:
            entries = re.split(r"^(?=[A-Za-z0-9])", (ROOT / name).read_text(), flags=re.MULTILINE)[1:]
            self.assertGreater(len(entries), 1)
            for entry in entries:
                with self.subTest(lock=name, entry=entry[:40]):
                    self.assertRegex(entry, r"^[A-Za-z0-9_.-]+==[0-9][^ ]*")
                    self.assertRegex(entry, r"--hash=sha256:[0-9a-f]{64}")

    def test_every_package_of_the_web_is_pinned_as_it_is_locked(self):
        package = json.loads((ROOT / "web/package.json").read_text())
        lock = json.loads((ROOT / "web/package-lock.json").read_text())["packages"]
        for group in ("dependencies", "devDependencies"):
            for name, version in package[group].items():
                with self.subTest(name):
                    self.assertEqual(version, lock[f"node_modules/{name}"]["version"])
        for path, about in lock.items():
            if path:
                with self.subTest(path):
                    self.assertTrue(about.get("integrity", "").startswith("sha512-"))

    def test_nothing_is_installed_by_another_way(self):
        makefile = (ROOT / "Makefile").read_text()
        installs = [line for line in makefile.splitlines() if re.search(r"pip install|npm (ci|install)", line)]
        self.assertEqual(len(installs), 5)
        for line in installs:
            self.assertRegex(line, r"--require-hashes -r|--no-deps --no-build-isolation -e \.|npm ci --ignore-scripts")

    def test_every_licence_is_listed(self):
        listed = {
            (name, version): licence
            for name, version, licence in re.findall(
                r"^\| (\S+) \| (\S+) \| ([^|]*) \|", (ROOT / "docs/licences.md").read_text(), flags=re.MULTILINE
            )
        }
        wanted = re.findall(r"^([A-Za-z0-9_.-]+)==([^ ;\\]+)", (ROOT / "requirements.lock").read_text(), re.MULTILINE)
        lock = json.loads((ROOT / "web/package-lock.json").read_text())["packages"]
        wanted += [
            (path.rpartition("node_modules/")[2], about["version"])
            for path, about in lock.items()
            if path and not about.get("dev") and not about.get("optional")
        ]
        self.assertGreater(len(wanted), 100)
        for one in wanted:
            with self.subTest(one):
                self.assertRegex(listed.get(one, ""), r"[A-Za-z]{2}")


if __name__ == "__main__":
    unittest.main()
