"""Schemathesis against our OpenAPI document and a real server: whatever comes, never a 5xx."""

import re
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from tests.demo_copy import copy_demo
from tests.server.real_server import Server

DOCUMENT = Path(__file__).parents[2] / "web/src/api/openapi.json"
# Without an end, and the one that takes away what the others are tried on.
LEFT_OUT = ("/api/changes/stream", "/api/door/clear-demo")


class SchemaTest(unittest.TestCase):
    def test_no_request_makes_the_server_fail(self):
        with tempfile.TemporaryDirectory() as folder:
            copy_demo(Path(folder) / "shop")
            server = Server(Path(folder) / "shop")
            self.addCleanup(server.stop)
            command = [str(Path(sys.executable).with_name("st")), "run", str(DOCUMENT), "--url", server.base]
            command += ["--checks", "not_a_server_error", "--phases", "coverage,fuzzing", "--max-examples", "6"]
            command += ["--seed", "20261123", "--request-timeout", "20", "--generation-database", "none"]
            for path in LEFT_OUT:
                command += ["--exclude-path", path]
            done = subprocess.run(command, cwd=folder, capture_output=True, text=True, timeout=900, check=False)
        self.assertEqual(done.returncode, 0, done.stdout[-4000:] + done.stderr[-2000:])
        tried = re.search(r"(\d+) generated, (\d+) passed", done.stdout)
        assert tried, done.stdout[-2000:]
        self.assertEqual(tried.group(1), tried.group(2))
        self.assertGreater(int(tried.group(1)), 1000)


if __name__ == "__main__":
    unittest.main()
