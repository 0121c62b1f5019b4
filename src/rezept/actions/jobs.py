"""Work in a process of its own, spoken to line by line; it ends when the server does."""

from __future__ import annotations

import json
import subprocess
import sys
import threading
from collections.abc import Callable, Mapping
from typing import Any


class Job:
    """A Python module run as a process: an order in, events out, commands in between.

    `on_event` and, once, `on_end` are called from a thread of the job's own.
    """

    def __init__(
        self,
        module: str,
        order: Mapping[str, Any],
        on_event: Callable[[str, Any], None],
        on_end: Callable[[], None],
    ) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", module],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
            encoding="utf-8",
            # Ctrl+C ends the server, which then tells its jobs; it must not kill them at the same moment.
            start_new_session=True,
        )
        self._writing = threading.Lock()
        self._on_event, self._on_end = on_event, on_end
        self._thread = threading.Thread(target=self._follow, args=(json.dumps(order),), daemon=True)
        self._thread.start()

    @property
    def pid(self) -> int:
        return self._process.pid

    def send(self, command: Mapping[str, Any]) -> None:
        """Give it a command; one that is over hears nothing any more."""
        self._write(json.dumps(command))

    def _write(self, line: str) -> None:
        assert self._process.stdin is not None
        with self._writing:
            try:
                self._process.stdin.write(line + "\n")
                self._process.stdin.flush()
            except (BrokenPipeError, ValueError):
                return

    def _follow(self, order: str) -> None:
        assert self._process.stdout is not None and self._process.stdin is not None
        self._write(order)
        for line in self._process.stdout:
            for event, said in json.loads(line).items():
                self._on_event(event, said)
        self._process.wait()
        self._process.stdout.close()
        with self._writing:
            try:
                self._process.stdin.close()
            except BrokenPipeError:
                return
            finally:
                self._on_end()

    def close(self, seconds: float = 5.0) -> None:
        """Let it end by the end of its input."""
        assert self._process.stdin is not None
        with self._writing:
            try:
                self._process.stdin.close()
            except BrokenPipeError:
                return
        self.join(seconds)

    def join(self, seconds: float) -> None:
        self._thread.join(seconds)
