"""The bench's controller: lines in, answers and motion out. Knows no socket and no wall clock.

It reads the words and structured comments of a program, plans ahead over `PLANNER` blocks, and moves on its own
clock: `advance(to)` lets it work until then. What it did stands in `stretches`. The beam is on only while the head
moves; it drops by itself whenever motion ends.
"""

from __future__ import annotations

import re
from collections import deque
from dataclasses import dataclass, field, replace
from random import Random

from rezept.bench.motion import Block, Mechanics, Point, Stretch, braked, exit_speed, gone_along

PLANNER = 32
HOLD, GO_ON, STOP, ASK = 0x13, 0x11, 0x18, 0x05  # DC3, DC1, CAN, ENQ of ISO/IEC 646
POWER, SPEED, FOCUS = 0x80, 0xA0, 0xC0  # a correction: one of these and 16 + the step
_WORD = re.compile(r"([A-Z])([-+]?\d+\.?\d*|[-+]?\.\d+)")
_KNOWN_G = {"G0", "G1", "G4", "G21", "G90", "G94"}
_KNOWN_M = {"M2", "M3", "M4", "M5", "M8", "M9"}


class Alarm(Exception):
    """Something after which the machine stands until it is reset."""


class BadLine(Exception):
    """A line the controller does not take; nothing was moved by it."""


@dataclass(frozen=True)
class Setup:
    """The bench's machine as its controller knows it.

    origin_mm : where the piece's corner lies in the field; a galvo's work zero is its middle
    jitter : relative scatter of the time a block takes
    """

    mechanics: Mechanics = field(default_factory=Mechanics)
    s_at_full_power: float = 1000.0
    hears_settings: bool = True
    focus_by_z: bool = False
    origin_mm: Point = (40.0, 40.0)
    corrections: tuple[str, ...] = ("power", "speed", "focus")
    buffer_bytes: int = 1024
    jitter: float = 0.0
    seed: int = 1

    @property
    def low(self) -> Point:
        width, height = self.mechanics.field_mm
        return (-width / 2, -height / 2) if self.mechanics.galvo else (-self.origin_mm[0], -self.origin_mm[1])

    @property
    def high(self) -> Point:
        width, height = self.mechanics.field_mm
        return self.low[0] + width, self.low[1] + height


@dataclass
class _Dwell:
    seconds: float
    ends_s: float | None = None


class Controller:
    """Feed it with `take`, let it work with `advance`, and send on what `answers` holds."""

    def __init__(self, setup: Setup) -> None:
        self.setup = setup
        self.clock = 0.0
        self.stretches: list[Stretch] = []
        self.answers: list[str] = []
        self.taken = 0
        self._part = 0
        self._random = Random(setup.seed)
        self.reset()

    def reset(self) -> None:
        """As after switching on, but for the head's place, its clock and what it has burned."""
        self._received: deque[str] = deque()
        self._bytes = 0
        self._partial = bytearray()
        self._blocks: deque[Block] = deque()
        self._now: Stretch | None = None
        self._dwell: _Dwell | None = None
        self._before: Block | None = None
        self._speed = 0.0
        self._mode, self._armed, self._follows = "G0", False, False
        self._feed, self._beam, self._z, self._air = 0.0, 0.0, getattr(self, "_z", 0.0), False
        self._told: dict[str, float] = {}
        self._target: Point = self.head if self.taken else (0.0, 0.0)
        self._at: Point = self._target
        self.holding = False
        self.alarmed = False
        self.corrections = {"power": 0, "speed": 0, "focus": 0}
        self.done = 0
        self.answers.append(
            f"rezept-stream 1 buffer {self.setup.buffer_bytes} corrections {' '.join(self.setup.corrections) or 'none'}"
        )

    # --- what comes in ----------------------------------------------------------------------------------

    def take(self, data: bytes) -> None:
        """Bytes as they arrive; the ones that act at once are acted on at once."""
        for byte in data:
            if byte in (HOLD, GO_ON, STOP, ASK) or byte >= POWER:
                self._at_once(byte)
            elif byte == 0x0A:
                self._received.append(self._partial.decode("ascii", "replace"))
                self._partial.clear()
                self._bytes += 1
            else:
                self._partial.append(byte)
                self._bytes += 1
        if self._bytes > self.setup.buffer_bytes and not self.alarmed:
            self.trip("the receive buffer ran over")

    def _at_once(self, byte: int) -> None:
        if byte == ASK:
            self.answers.append(self.status())
        elif byte == HOLD:
            self.holding = True
        elif byte == GO_ON:
            self.holding = False
        elif byte == STOP:
            self.stop()
        else:
            what, base = next(
                (name, base) for name, base in (("focus", FOCUS), ("speed", SPEED), ("power", POWER)) if byte >= base
            )
            if what in self.setup.corrections and byte < base + 32:
                self.corrections[what] = byte - base - 16

    def stop(self) -> None:
        """At once: the beam drops where the head is, and everything waiting is forgotten."""
        self._cut_short()
        self.reset()

    def _cut_short(self) -> None:
        if self._now is not None:
            self.stretches.append(self._now.until(self.clock - self._now.begins_s))
            self._at = self.stretches[-1].end
            self._now = None
        self._speed = 0.0

    def trip(self, why: str) -> None:
        """Stand at once, with the beam off, until somebody resets it."""
        self._cut_short()
        self._blocks.clear()
        self._dwell = None
        self.alarmed = True
        self.answers.append(f"alarm: {why}")

    @property
    def head(self) -> Point:
        if self._now is None:
            return self._at
        return self._now.until(self.clock - self._now.begins_s).end

    @property
    def state(self) -> str:
        if self.alarmed:
            return "alarm"
        if self.holding:
            return "hold"
        return "run" if self._now or self._blocks or self._dwell or self._received else "idle"

    def status(self) -> str:
        x, y = self.head
        fix = self.corrections
        return (
            f"= {self.state} x{x:.3f} y{y:.3f} z{self._z:.3f} line {self.done} clock {self.clock:.3f}"
            f" power {fix['power']} speed {fix['speed']} focus {fix['focus']}"
        )

    # --- working ----------------------------------------------------------------------------------------

    @property
    def starved(self) -> bool:
        """It could plan further ahead if only more lines came."""
        return not self._received and len(self._blocks) < PLANNER and self._dwell is None

    def next_event_s(self) -> float | None:
        """When something ends by itself; None where it stands and waits."""
        if self._now is not None:
            return self._now.begins_s + self._now.seconds
        if self._dwell is not None and self._dwell.ends_s is not None:
            return self._dwell.ends_s
        return None

    def advance(self, to: float, drain: bool = False) -> bool:
        """Work until the clock says `to`, or until it waits for bytes; whether it is still moving then.

        While it is starved it does not begin another block, unless `drain` says that no more is coming for now.
        """
        while True:
            self._read_lines()
            ends = self.next_event_s()
            if ends is not None:
                if ends > to:
                    self.clock = max(self.clock, to)
                    return True
                self.clock = max(self.clock, ends)
                self._end_now()
                continue
            if not self._begin(drain):
                return False

    def _end_now(self) -> None:
        if self._now is not None:
            self.stretches.append(self._now)
            self._at, self._speed, self.done = self._now.end, self._now.v1, self._now.line
            self._now = None
        elif self._dwell is not None:
            self._dwell = None
            self._speed = 0.0
            self.answers.append("ok")

    def _begin(self, drain: bool) -> bool:
        if self.holding and self.setup.mechanics.galvo:
            # A mirror has nothing to slow: it stands at the end of the line it is in.
            self._speed = 0.0
        if self.alarmed or (self.holding and self._speed == 0.0):
            return False
        if self._blocks:
            if self.starved and not drain:
                return False
            mechanics = self.setup.mechanics
            asked = self._blocks.popleft()
            block = self._corrected(asked)
            if self.holding:
                self._now, rest = braked(block, self._speed, self.clock, mechanics)
                if rest is not None:
                    self._blocks.appendleft(replace(asked, start=rest.start))
            else:
                v1 = 0.0 if mechanics.galvo else exit_speed([block, *self._blocks], mechanics)
                self._now = gone_along(block, self._speed, v1, self.clock, mechanics, self._before)
            if self.setup.jitter:
                shaken = self._now.seconds * (1 + self.setup.jitter * self._random.gauss(0, 1))
                self._now = replace(self._now, seconds=max(0.0, shaken))
            self._before = block
            return True
        self._before = None
        self._speed = 0.0
        if self._dwell is not None and self._dwell.ends_s is None:
            self._dwell.ends_s = self.clock + self._dwell.seconds
            return True
        return False

    def _corrected(self, block: Block) -> Block:
        fix = self.corrections
        if not any(fix.values()) or block.rapid:
            return block
        return replace(
            block,
            speed_mm_s=block.speed_mm_s * (1 + fix["speed"] / 50),
            beam=block.beam * (1 + fix["power"] / 50),
            z_mm=block.z_mm + fix["focus"] / 10,
        )

    def _read_lines(self) -> None:
        while self._received and self._dwell is None and len(self._blocks) < PLANNER:
            line = self._received.popleft()
            self._bytes -= len(line) + 1
            self.taken += 1
            if self.alarmed:
                self.answers.append("error: alarm; stop first")
                continue
            try:
                answered = self._line(line.strip())
            except BadLine as error:
                self.answers.append(f"error: {error}")
            except Alarm as error:
                self.answers.append(f"error: {error}")
                self.trip(str(error))
            else:
                if not answered:
                    self.answers.append("ok")

    def _line(self, line: str) -> bool:
        """Act on one line; whether its answer comes later."""
        if line.startswith(";"):
            if line.startswith(";REZEPT ") and self.setup.hears_settings:
                pairs = (pair.partition("=") for pair in line.split()[1:])
                self._told = {key: _number(value) for key, _, value in pairs}
            return False
        words = _words(line.partition(";")[0])
        codes = [f"{letter}{number:g}" for letter, number in words if letter in "GM"]
        for code in codes:
            if code not in _KNOWN_G | _KNOWN_M:
                raise BadLine(f"{code} is not known")
        for code in codes:
            if code in ("G0", "G1"):
                self._mode = code
            elif code in ("M3", "M4"):
                self._part += not self._armed
                self._armed, self._follows = True, code == "M4"
            elif code in ("M5", "M2"):
                self._armed = False
            elif code in ("M8", "M9"):
                self._air = code == "M8"
        numbers = dict(words)
        self._feed = numbers.get("F", self._feed)
        self._beam = numbers.get("S", self._beam)
        if "G4" in codes:
            self._dwell = _Dwell(numbers.get("P", 0.0))
            return True
        if "Z" in numbers and self.setup.focus_by_z:
            self._z = numbers["Z"]
        if "X" in numbers or "Y" in numbers:
            self._move((numbers.get("X", self._target[0]), numbers.get("Y", self._target[1])))
        return False

    def _move(self, to: Point) -> None:
        low, high = self.setup.low, self.setup.high
        if not all(a - 1e-6 <= value <= b + 1e-6 for a, value, b in zip(low, to, high, strict=True)):
            raise Alarm(f"X{to[0]:.3f} Y{to[1]:.3f} lies outside the field")
        rapid = self._mode == "G0"
        if not rapid and self._feed <= 0:
            raise BadLine("G1 without a feed")
        start, self._target = self._target, to
        if start == to:
            return
        mechanics = self.setup.mechanics
        speed = mechanics.travel_speed_mm_s if rapid else min(self._feed / 60, mechanics.max_speed_mm_s)
        self._blocks.append(
            Block(
                start=start,
                end=to,
                speed_mm_s=speed,
                rapid=rapid,
                beam=self._beam if self._armed and not rapid else 0.0,
                follows_speed=self._follows,
                z_mm=self._z,
                air=self._air,
                told=tuple(self._told.items()),
                line=self.taken,
                part=self._part,
            )
        )


def _number(text: str) -> float:
    try:
        return float(text)
    except ValueError as error:
        raise BadLine(f"{text[:20]} is not a number") from error


def _words(code: str) -> list[tuple[str, float]]:
    words = [(letter, float(number)) for letter, number in _WORD.findall(code)]
    if _WORD.sub("", code).strip():
        raise BadLine(f"cannot read {code[:40]}")
    return words
