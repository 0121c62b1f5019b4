"""A real server in a process of its own, for tests that need one."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import urllib.request
from pathlib import Path

from tests.demo_names import with_ids


class Server:
    """A real `rezept serve` on a free port of this machine."""

    def __init__(self, folder: Path, *options: str) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-m", "rezept.cli", "serve", "--data", str(folder), "--port", "0", *options],
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
            text=True,
            env={**os.environ, "PYTHONUNBUFFERED": "1"},
        )
        assert self.process.stdout is not None
        line = self.process.stdout.readline()
        self.base = line.split("at ")[1].split("/  ")[0]

    def path(self, path: str) -> str:
        """A path with the numbers of what it names, such as ``/trials/{trial: Wool felt, cut}/read``."""
        return with_ids(lambda asked: self.ask("GET", asked), path)

    def ask(self, method: str, path: str, body: object = None) -> dict:
        data = None if body is None else json.dumps(body).encode()
        request = urllib.request.Request(
            self.base + self.path(path), data=data, method=method, headers={"Content-Type": "application/json"}
        )
        with urllib.request.urlopen(request, timeout=10) as response:
            return json.load(response)

    def kill(self) -> None:
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()
        assert self.process.stdout is not None
        self.process.stdout.close()

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(timeout=20)
        assert self.process.stdout is not None
        self.process.stdout.close()
