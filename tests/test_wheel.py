"""The one file that is given to others: installed where there is neither Node nor make, and served."""

import os
import re
import subprocess
import sys
import tempfile
import unittest
import urllib.request
import zipfile
from pathlib import Path

from rezept.store.database import migrations

ROOT = Path(__file__).parents[1]


class WheelTest(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def run_quietly(self, *command, **more):
        done = subprocess.run([str(one) for one in command], capture_output=True, text=True, check=False, **more)
        self.assertEqual(done.returncode, 0, done.stdout + done.stderr)
        return done.stdout

    def made(self):
        if not (ROOT / "src/rezept/server/static/index.html").exists():
            self.skipTest("the web app is not built")
        self.run_quietly("make", "wheel", f"WHEELS={self.folder / 'wheels'}", cwd=ROOT)
        (wheel,) = (self.folder / "wheels").glob("rezept-*.whl")
        return wheel

    def test_it_serves_a_shop_from_a_fresh_environment(self):
        wheel = self.made()
        with zipfile.ZipFile(wheel) as archive:
            names = archive.namelist()
        # The web app of this tree and nothing of an earlier build; every migration, and the words no secret may be.
        built = {path.name for path in (ROOT / "src/rezept/server/static/assets").iterdir()}
        self.assertEqual({Path(name).name for name in names if "/static/assets/" in name}, built)
        self.assertEqual(sum(name.endswith(".sql") for name in names), len(migrations()))
        self.assertTrue(any(name.endswith("weakest_secrets.txt") for name in names))
        fresh = self.folder / "fresh"
        self.run_quietly(sys.executable, "-m", "venv", "--without-pip", fresh)
        python = fresh / "bin/python"
        # What it needs has been fetched once for these tests; the versions are those that are tested.
        pins = self.folder / "pins.txt"
        pins.write_text(
            "\n".join(re.findall(r"^[\w.-]+==[^\\\n]+", (ROOT / "requirements.lock").read_text(), re.MULTILINE))
        )
        uv = ROOT / ".venv/bin/uv"
        self.run_quietly(uv, "pip", "install", "--quiet", "--python", python, "-c", pins, wheel)
        self.assertServes(fresh / "bin")

    def assertServes(self, bin_folder):
        # Neither Node nor make, nor anything of this tree.
        alone = {key: value for key, value in os.environ.items() if not key.startswith(("PYTHON", "VIRTUAL_ENV"))}
        server = subprocess.Popen(
            [bin_folder / "rezept", "serve", "--data", self.folder / "shop", "--port", "0"],
            stdout=subprocess.PIPE,
            text=True,
            cwd=self.folder,
            env={**alone, "PATH": str(bin_folder), "PYTHONUNBUFFERED": "1"},
        )
        try:
            base = re.search(r"http://[^ ]+?(?=/ )", server.stdout.readline()).group()
            page = self.fetched(base + "/")
            script = re.search(rb'src="(/assets/[^"]+)"', page).group(1).decode()
            self.assertGreater(len(self.fetched(base + script)), 10_000)
            self.assertIn(b"empty", self.fetched(base + "/api/door"))
        finally:
            server.terminate()
            server.stdout.close()
            self.assertEqual(server.wait(20), 0)

    def fetched(self, url):
        with urllib.request.urlopen(url, timeout=20) as answer:
            self.assertEqual(answer.status, 200)
            return answer.read()


if __name__ == "__main__":
    unittest.main()
