"""The bench's controller on a TCP port: one client at a time, on a clock as fast as one likes, with faults on request.

Sped up, the clock stands while the controller waits for bytes: the link is not faster than it is.
"""

from __future__ import annotations

import contextlib
import select
import socket
import threading
import time
from collections.abc import Callable, Iterable
from dataclasses import dataclass

from rezept.bench.controller import Controller

FAULTS = ("error", "alarm", "reset", "silent", "garbage", "drop", "lost_ok")
# So long without a byte, and the controller takes it that nothing more comes for now.
IDLE_S = 0.25
SHORTEST_WAIT_S, LONGEST_WAIT_S = 0.0005, 0.02


@dataclass(frozen=True)
class Fault:
    """Something that goes wrong once, after so many lines were taken since the client came."""

    kind: str
    line: int

    @classmethod
    def read(cls, text: str) -> Fault:
        """From ``alarm@200``."""
        kind, _, line = text.partition("@")
        if kind not in FAULTS or not line.isdecimal():
            raise ValueError(f"{text!r} is not a fault; they are written like alarm@200, of {', '.join(FAULTS)}")
        return cls(kind, int(line))


class _Gone(Exception):
    """The client went, or is made to go."""


class BenchServer:
    """Listens from the moment it is made; `run` serves until `close` is called from another thread."""

    def __init__(
        self,
        controller: Controller,
        host: str = "127.0.0.1",
        port: int = 0,
        speed_up: float = 60.0,
        faults: Iterable[Fault] = (),
        on_idle: Callable[[], None] = lambda: None,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self.controller = controller
        self.speed_up = speed_up
        self.faults = list(faults)
        self._on_idle = on_idle
        self._clock = clock
        self._listening = socket.create_server((host, port))
        self.port: int = self._listening.getsockname()[1]
        self._over = threading.Event()
        self.bytes_in = 0

    @property
    def url(self) -> str:
        return f"socket://127.0.0.1:{self.port}"

    def close(self) -> None:
        self._over.set()

    def run(self) -> None:
        self._listening.settimeout(0.05)
        with self._listening:
            while not self._over.is_set():
                try:
                    client, _ = self._listening.accept()
                except TimeoutError:
                    continue
                with client:
                    client.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
                    client.setblocking(False)
                    with contextlib.suppress(_Gone, OSError):
                        self._serve(client)
                # What is planned is still gone along, to the rest at its end; then the beam is off by itself.
                while self.controller.advance(self.controller.clock + 3600.0, drain=True):
                    pass
                self._on_idle()

    def _serve(self, client: socket.socket) -> None:
        controller = self.controller
        controller.answers.clear()
        controller.stop()
        begin = controller.taken
        pending = {fault: fault.line + begin for fault in self.faults}
        silent = False
        lose = 0
        last = heard = self._clock()
        out = bytearray()
        while not self._over.is_set():
            ends = controller.next_event_s()
            wait = LONGEST_WAIT_S if ends is None else (ends - controller.clock) / self.speed_up
            wait = min(max(wait, SHORTEST_WAIT_S), LONGEST_WAIT_S)
            readable, _, _ = select.select([client], [client] if out else [], [], 0 if controller.answers else wait)
            now = self._clock()
            if readable:
                data = client.recv(4096)
                if not data:
                    raise _Gone
                self.bytes_in += len(data)
                heard = now
                controller.take(data)
            moving_to = controller.clock + (now - last) * self.speed_up if ends is not None else controller.clock
            last = now
            controller.advance(moving_to, drain=now - heard > IDLE_S)
            for fault, line in list(pending.items()):
                if controller.taken >= line:
                    del pending[fault]
                    self.faults.remove(fault)
                    silent |= fault.kind == "silent"
                    lose += fault.kind == "lost_ok"
                    self._go_wrong(fault.kind)
            for answer in controller.answers:
                if answer == "ok" and lose:
                    lose -= 1
                else:
                    out += answer.encode() + b"\n"
            controller.answers.clear()
            if silent:
                out.clear()
            if out:
                with contextlib.suppress(BlockingIOError):
                    del out[: client.send(out)]

    def _go_wrong(self, kind: str) -> None:
        controller = self.controller
        if kind == "drop":
            raise _Gone
        if kind == "error":
            controller.answers = [
                "error: made up by the bench" if answer == "ok" else answer for answer in controller.answers
            ]
            if not any(answer.startswith("error") for answer in controller.answers):
                controller.answers.append("error: made up by the bench")
        elif kind == "alarm":
            controller.trip("the lid was opened")
        elif kind == "reset":
            controller.stop()
        elif kind == "garbage":
            controller.answers.append("o\x7fk%%")
