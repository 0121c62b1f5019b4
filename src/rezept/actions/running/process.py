"""Work in a process of its own, spoken to line by line; it ends when the server does."""

from __future__ import annotations

import json
import subprocess
import sys
import threading
from collections.abc import Callable, Mapping, Sequence
from typing import Any


class Process:
    """A Python module run as a process: an order in, events out, commands in between.

    It does nothing before `begin`; one that is closed before has done nothing. `on_event` and, once, `on_end` are
    called from a thread of the job's own.

    files : open files the process holds on to
    """

    def __init__(
        self,
        module: str,
        on_event: Callable[[str, Any], None],
        on_end: Callable[[], None],
        files: Sequence[int] = (),
    ) -> None:
        self._process = subprocess.Popen(
            [sys.executable, "-m", module],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            text=True,
            encoding="utf-8",
            # Ctrl+C ends the server, which then tells its jobs; it must not kill them at the same moment.
            start_new_session=True,
            pass_fds=tuple(files),
        )
        self._writing = threading.Lock()
        self._begun = False
        self._early: list[str] = []
        self._on_event, self._on_end = on_event, on_end
        self._thread = threading.Thread(target=self._follow, daemon=True)
        self._thread.start()

    @property
    def pid(self) -> int:
        return self._process.pid

    def begin(self, order: Mapping[str, Any]) -> None:
        """Give it its order, and what it was told already."""
        with self._writing:
            self._begun = True
            self._put("\n".join([json.dumps(order), *self._early]))

    def send(self, command: Mapping[str, Any]) -> None:
        """Give it a command, at once or behind its order; one that is over hears nothing any more."""
        with self._writing:
            if self._begun:
                self._put(json.dumps(command))
            else:
                self._early.append(json.dumps(command))

    def _put(self, text: str) -> None:
        assert self._process.stdin is not None
        try:
            self._process.stdin.write(text + "\n")
            self._process.stdin.flush()
        except (BrokenPipeError, ValueError):
            return

    def _follow(self) -> None:
        assert self._process.stdout is not None and self._process.stdin is not None
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

    def kill(self) -> None:
        """End it at once, whatever it does."""
        self._process.kill()

    def join(self, seconds: float) -> None:
        self._thread.join(seconds)
