"""Streaming a program part by part; see `docs/formats/stream.md`.

A part is what is burned between two barriers: a patch, or the labels. It is done when its barrier was acknowledged,
uncertain when something of it was sent and the barrier was not, and not sent otherwise. No line of a part is sent
before the part before it is done, so at most one part is ever uncertain.
"""

from __future__ import annotations

import queue
import re
import time
from collections import deque
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from rezept.core.errors import Refused
from rezept.link.port import LinkError, Port

HOLD, GO_ON, STOP, ASK = b"\x13", b"\x11", b"\x18", b"\x05"  # DC3, DC1, CAN, ENQ of ISO/IEC 646
CORRECTION_BASE = {"power": 0x80, "speed": 0xA0, "focus": 0xC0}
# One step of a correction: per cent of the power or speed, mm of the focus.
CORRECTION_STEP = {"power": 2.0, "speed": 2.0, "focus": 0.1}
CORRECTION_UNIT = {"power": "%", "speed": "%", "focus": "mm"}
MOST_STEPS = 15

BARRIER = (b"M5S0", b"G4P0.02")
GREETING_S, GREET_AGAIN_S = 6.0, 2.0
ASK_EVERY_S = 0.25
SILENT_S = 4.0
# A controller that has done everything and still owes an acknowledgement: it was lost on the way.
LOST_OK_S = 4.0
_GREETING = re.compile(r"rezept-stream 1 buffer (\d+) corrections ([a-z ]+)")
_STATUS = re.compile(
    r"= (idle|run|hold|alarm) x(-?[\d.]+) y(-?[\d.]+) z(-?[\d.]+) line \d+ clock ([\d.]+)"
    r" power (-?\d+) speed (-?\d+) focus (-?\d+)"
)

End = Literal["done", "stopped", "interrupted"]


def in_force(corrections: Mapping[str, int]) -> dict[str, float]:
    """What so many steps of each correction come to: power and speed as factors of the program's, the focus in mm."""
    return {
        "power": 1 + corrections["power"] * CORRECTION_STEP["power"] / 100,
        "speed": 1 + corrections["speed"] * CORRECTION_STEP["speed"] / 100,
        "focus_mm": round(corrections["focus"] * CORRECTION_STEP["focus"], 6),
    }


@dataclass(frozen=True)
class Part:
    """What is burned between two barriers. `key` comes back in every report; `lines` have no line ends; `waits`:
    somebody turns something by hand first; `again_for_s`: it is gone through again and again for so long, or until
    the stop."""

    key: str
    lines: tuple[bytes, ...]
    waits: bool = False
    again_for_s: float = 0.0


@dataclass(frozen=True)
class Status:
    """What the controller said of itself: corrections in steps, the head in program coordinates."""

    state: str
    x_mm: float
    y_mm: float
    z_mm: float
    clock_s: float
    corrections: dict[str, int]


def read_status(line: str) -> Status | None:
    """What a status line says; None where it is none."""
    found = _STATUS.fullmatch(line)
    if not found:
        return None
    state, x, y, z, clock, *steps = found.groups()
    said = dict(zip(("power", "speed", "focus"), map(int, steps), strict=True))
    return Status(state, float(x), float(y), float(z), float(clock), said)


@dataclass(frozen=True)
class Ending:
    """How a stream ended. `uncertain` is the part of which nobody knows whether it was burned whole."""

    state: End
    reason: str
    uncertain: str | None


class Reports:
    """What the stream tells of itself; each method may be overridden."""

    def connected(self, corrections: Sequence[str]) -> None:
        """The controller has greeted; it takes these corrections."""

    def waits(self, key: str) -> None:
        """Nothing of a part is sent before somebody says that what belongs to it is turned."""

    def began(self, key: str) -> None:
        """The first line of a part is about to be sent."""

    def finished(self, key: str, mixed: bool, corrections: dict[str, int]) -> None:
        """The barrier of a part was acknowledged; `mixed`: a correction changed while it burned."""

    def status(self, status: Status) -> None:
        """The controller answered a question."""


class _Broken(Exception):
    """The controller did something after which nothing can be known. The sentence is for people."""


class _StopAsked(Exception):
    """Somebody asked for the stop."""


def _raise_at_the_end(what: str, value: object) -> None:
    """What ends a stream, whoever asks for it."""
    if what == "stop":
        raise _StopAsked(str(value))
    if what == "break":
        raise _Broken(str(value))


@dataclass
class _Flight:
    """Lines sent and not acknowledged yet: how long each is, and whether it ends a part."""

    sizes: deque[int] = field(default_factory=deque)
    bytes: int = 0

    def add(self, size: int) -> None:
        self.sizes.append(size)
        self.bytes += size

    def landed(self) -> None:
        self.bytes -= self.sizes.popleft()


class Commands:
    """What people ask of a stream, from any thread; they may ask before there is one."""

    def __init__(self) -> None:
        self._asked: queue.SimpleQueue[tuple[str, object]] = queue.SimpleQueue()

    def hold(self) -> None:
        self._asked.put(("hold", None))

    def go_on(self) -> None:
        self._asked.put(("go_on", None))

    def turned(self, key: str) -> None:
        """What had to be turned by hand before a part is turned."""
        self._asked.put(("turned", key))

    def instead(self, key: str, lines: Sequence[bytes]) -> None:
        """From its next round on a part that goes round sends these lines."""
        self._asked.put(("instead", (key, tuple(lines))))

    def stop(self, reason: str = "", by_hand: bool = True) -> None:
        """End it: by hand it is stopped, else interrupted."""
        self._asked.put(("stop" if by_hand else "break", reason))

    def correct(self, what: str, steps: int) -> None:
        """Set a correction to so many steps from what the program says."""
        if what not in CORRECTION_BASE or not -MOST_STEPS <= steps <= MOST_STEPS:
            raise Refused(f"A correction is power, speed or focus, {MOST_STEPS} steps at most.", "correction", steps)
        self._asked.put((what, steps))

    def put_back(self, asked: tuple[str, object]) -> None:
        self._asked.put(asked)

    def next(self) -> tuple[str, object] | None:
        try:
            return self._asked.get_nowait()
        except queue.Empty:
            return None


class Stream:
    """One program on its way to one machine. `run` blocks; `commands` come from other threads.

    clock : seconds that only go forward; the link's own time, by which everything is waited for
    """

    def __init__(
        self,
        port: Port,
        parts: Sequence[Part],
        reports: Reports | None = None,
        commands: Commands | None = None,
        clock: Callable[[], float] = time.monotonic,
    ) -> None:
        self._port = port
        self._parts = parts
        self._reports = reports or Reports()
        self.commands = commands or Commands()
        self._clock = clock
        self._text = bytearray()
        self._flight = _Flight()
        self._window = 0
        self._part: str | None = None
        self._mixed = False
        self._wanted: dict[str, int] = {"power": 0, "speed": 0, "focus": 0}
        self._confirmed: dict[str, int] = dict(self._wanted)
        self._corrections: tuple[str, ...] = ()
        self._held = False
        # The part that waits for somebody's hand.
        self._waiting: str | None = None
        # What a part that goes round sends from its next round on.
        self._instead: dict[str, tuple[bytes, ...]] = {}
        self._heard = self._asked = 0.0
        # Since when the controller says it has nothing to do although not everything was acknowledged.
        self._owing: float | None = None

    def run(self) -> Ending:
        """Greet the controller, send everything, and tell how it ended."""
        try:
            self._greet()
            for part in self._parts:
                self._obey()
                if part.waits:
                    self._wait_for_the_hand(part)
                until = self._clock() + part.again_for_s
                self._send(part)
                while part.again_for_s and self._clock() < until:
                    self._obey()
                    self._send(replace(part, lines=self._instead.get(part.key, part.lines)))
        except _StopAsked as asked:
            return self._give_up("stopped", str(asked))
        except _Broken as broken:
            return self._give_up("interrupted", str(broken))
        except LinkError as error:
            return Ending("interrupted", error.sentence, self._part)
        return Ending("done", "", None)

    def _give_up(self, state: End, reason: str) -> Ending:
        """Stop the machine, if it still listens; nothing depends on it."""
        try:
            self._port.write(STOP)
        except LinkError as error:
            reason = f"{reason} {error.sentence}".strip()
        return Ending(state, reason, self._part)

    def _greet(self) -> None:
        """A reset brings every controller into a known state and makes it say what it is; the answer to a question
        asked right behind it tells that no other greeting is on its way."""
        deadline = self._clock() + GREETING_S
        asked_again = -1
        settled = False
        while not settled:
            if self._clock() > deadline:
                raise _Broken("The machine does not answer as a controller of this stream would.")
            self._port.write(STOP + ASK)
            asked_again += 1
            patience = self._clock() + GREET_AGAIN_S
            while not settled and self._clock() < patience:
                self._refuse_to_begin()
                for line in self._lines(0.05):
                    found = _GREETING.fullmatch(line)
                    if found:
                        self._window = int(found[1])
                        self._corrections = tuple(word for word in found[2].split() if word in CORRECTION_BASE)
                    settled = self._window > 0 and read_status(line) is not None
        while asked_again and self._lines(0.3):
            """What a machine that was slow to wake still answers to the first questions."""
        self._heard = self._clock()
        self._reports.connected(self._corrections)

    def _refuse_to_begin(self) -> None:
        """Somebody asks for the stop before the machine has answered; all else can wait until it has."""
        waiting = []
        while (asked := self.commands.next()) is not None:
            _raise_at_the_end(*asked)
            waiting.append(asked)
        for asked in waiting:
            self.commands.put_back(asked)

    def _wait_for_the_hand(self, part: Part) -> None:
        """Until somebody says that what belongs to a part is turned; the machine rests, and is asked whether it is
        there."""
        self._waiting = part.key
        self._reports.waits(part.key)
        while self._waiting is not None:
            self._attend(0.05)

    def _send(self, part: Part) -> None:
        lines = [line + b"\n" for line in (*part.lines, *BARRIER)]
        longest = max(map(len, lines))
        if longest > self._window:
            raise _Broken(f"A line of {part.key} is longer than the machine can take ({longest} bytes).")
        self._reports.began(part.key)
        self._part = part.key
        self._mixed = self._wanted != self._confirmed
        for line in lines:
            while self._flight.bytes + len(line) > self._window:
                self._attend(0.05)
            self._port.write(line)
            self._flight.add(len(line))
            if self._flight.bytes > self._window // 2:
                self._attend(0.0)
        while self._flight.sizes:
            self._attend(0.05)
        self._part = None
        self._reports.finished(part.key, self._mixed or self._wanted != self._confirmed, dict(self._confirmed))

    def _attend(self, wait_s: float) -> None:
        """Read what has come, do what was asked for, and see that the machine is still there."""
        for line in self._lines(wait_s):
            self._answer(line)
        self._obey()
        now = self._clock()
        if now - self._asked > ASK_EVERY_S:
            self._asked = now
            self._port.write(ASK)
        if now - self._heard > SILENT_S:
            raise _Broken("The machine has not answered any more.")
        if self._owing is not None and now - self._owing > LOST_OK_S:
            raise _Broken("The machine has done everything, and an acknowledgement is missing: it was lost on the way.")

    def _lines(self, wait_s: float) -> list[str]:
        data = self._port.read(wait_s)
        if data:
            self._heard = self._clock()
            self._text += data
        *whole, rest = self._text.split(b"\n")
        self._text = bytearray(rest)
        return [line.decode("ascii", "replace").strip() for line in whole if line.strip()]

    def _answer(self, line: str) -> None:
        if line == "ok":
            if not self._flight.sizes:
                raise _Broken("The machine acknowledged more than it was sent.")
            self._flight.landed()
            self._owing = None
        elif line.startswith("error:"):
            raise _Broken(f"The machine refused a line: {line[6:].strip()}.")
        elif line.startswith("alarm:"):
            raise _Broken(f"The machine stopped itself: {line[6:].strip()}.")
        elif _GREETING.fullmatch(line):
            raise _Broken("The machine was reset.")
        else:
            self._take_status(line)

    def _take_status(self, line: str) -> None:
        status = read_status(line)
        if status is None:
            raise _Broken("The machine answered something that makes no sense; the line may be disturbed.")
        if status.state != "idle" or not self._flight.sizes:
            self._owing = None
        elif self._owing is None:
            self._owing = self._clock()
        if status.corrections != self._confirmed:
            self._mixed = True
            self._confirmed = status.corrections
        self._reports.status(status)

    def _obey(self) -> None:
        while (asked := self.commands.next()) is not None:
            what, value = asked
            _raise_at_the_end(what, value)
            if what in ("hold", "go_on"):
                self._held = what == "hold"
                self._port.write(HOLD if self._held else GO_ON)
            elif what == "instead" and isinstance(value, tuple):
                key, lines = value
                self._instead[key] = lines
            elif what == "turned":
                # Said twice, it was about a part that has begun meanwhile.
                self._waiting = None if value == self._waiting else self._waiting
            elif what in self._corrections and isinstance(value, int):
                self._wanted[what] = value
                self._mixed = True
                self._port.write(bytes([CORRECTION_BASE[what] + 16 + value]))
            self._asked = 0.0
