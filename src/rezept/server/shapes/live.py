"""Burning live: what is ordered, what is watched, what became of it."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from rezept.core.plan.traced import Outline
from rezept.core.put_back import PutBackKey
from rezept.server.shapes.burns import Burned
from rezept.server.shapes.common import Shape

How = Literal["whole", "rest", "again", "dark", "outline"]
State = Literal["connecting", "running", "waiting", "held", "done", "stopped", "interrupted"]
PatchId = str


Turned = Literal["power", "speed", "focus"]


class KeyPath(Shape):
    key: str = Field(max_length=32)


class AtMachine(Shape):
    """Whoever asks stands at the machine."""

    at_machine: bool = False


class Mounted(AtMachine):
    mounted: int | None = Field(None, description="The head that is on the machine, where it has several.")


class StartLive(Burned, Mounted):
    """Start the plate, its outline, or a dry run."""

    how: Literal["whole", "dark", "outline"] = "whole"
    outline: Outline = "frame"


class RestLive(Mounted):
    """Carry on with what was not reached. `uncertain`: what somebody saw of the patch that was burning then."""

    uncertain: Literal["burned", "bare", "unknown"]


class AgainLive(Mounted):
    """Some patches again in place; by hand it is only logged. `settings`: what they get otherwise than planned, as
    somebody typed it."""

    patches: list[PatchId] = Field(max_length=5000)
    passes: int
    settings: dict[str, float | str] = {}
    units: dict[str, str] = {}
    put_back: PutBackKey = "still"
    by_hand: bool = False


class Correction(Shape):
    what: Turned
    steps: int = Field(ge=-15, le=15)


class Nudge(Shape):
    """The outline that goes round is moved by so much."""

    right_mm: float
    up_mm: float


class ZeroHere(Mounted):
    edit: int


class HandTurned(AtMachine):
    """What had to be turned before a part is turned; `shown`: by setting what its control shows, where that is
    another than planned, in the
    control's own unit."""

    part: str = Field(max_length=32)
    shown: dict[str, float | str] = {}


class ClockSaid(Shape):
    """What somebody says of a run by the clock: it rests, goes on, is so many seconds from the clock, or which part
    begins just now."""

    what: Literal["pause", "go_on", "shift", "at"]
    by_s: float = 0.0
    part: str = Field("", max_length=32)


class ClockTurned(Shape):
    """What had to be turned before a part is turned; `shown` as for a run over the link."""

    part: str = Field(max_length=32)
    shown: dict[str, float | str] = {}


class ClockCorrected(Shape):
    """A setting somebody turned at the machine: what its control shows now, or which way, nobody knows how far."""

    key: str = Field(max_length=40)
    shown: float | str | None = None
    way: Literal["lower", "higher", ""] = ""


class ClockEnded(Shape):
    """It is over; `whole`: to its end."""

    whole: bool


class HandSetting(Shape):
    """A setting to turn: `value` inside, `shown` as its control shows it, in its `unit`."""

    key: str
    name: str
    value: float
    shown: str
    unit: str


class HandStopOut(Shape):
    """What somebody has to turn before these parts burn."""

    sentence: str
    parts: list[str]
    settings: list[HandSetting]


class Remark(Shape):
    kind: str = Field(max_length=20)
    patch: str | None = Field(None, max_length=12)
    note: str = ""


class Holder(Shape):
    id: int
    name: str


class LogLine(Shape):
    at: str
    sentence: str


class LiveOut(Shape):
    """A run as it is now. `share` and `done` grow, `seconds_left` is corrected by the pace so far. `head`: where it is
    on the plate, x and y in mm. `settled`: it is over, and what became of it stands in the records.
    """

    key: str
    version: int
    trial_id: int
    machine_id: int
    title: str
    how: How
    by_clock: bool = Field(description="Nobody hears of it: the planned order and time say where it is.")
    burn_id: int | None
    state: State
    reason: str
    settled: bool
    parts: list[str]
    done: list[str]
    mixed: list[str]
    current: str | None
    stop: HandStopOut | None
    uncertain: str | None
    share: float
    seconds_left: float
    seconds_gone: float
    takes: list[Turned]
    corrections: dict[Turned, int]
    nudged: list[float] = Field(description="So far to the right and up its outline goes round now, mm.")
    head: list[float] | None
    holder: Holder | None
    log: list[LogLine]


class LiveRuns(Shape):
    runs: list[LiveOut]


class RunPartOut(Shape):
    name: str
    kind: Literal["labels", "patch", "outline"]
    state: Literal["waiting", "burning", "done", "uncertain", "bare"]
    passes: int
    power: float
    speed: float
    focus_mm: float
    mixed: bool
    read_off: dict[str, float | None]


class RunOut(Shape):
    """One time the machine worked on a plate."""

    id: int
    burn_id: int
    kind: Literal["whole", "rest", "again"]
    via: Literal["link", "hand"]
    state: Literal["running", "done", "stopped", "interrupted"]
    reason: str
    at: str
    ended_at: str | None
    by_clock: bool
    put_back: PutBackKey
    doubtful: bool
    by_name: str
    lines: list[LogLine]
    parts: list[RunPartOut]


class RemarkOut(Shape):
    id: int
    kind: str
    patch: str | None
    note: str
    by_clock: bool
    at: str
    by_name: str


class CheckOut(Shape):
    """Something to see to before a burn."""

    key: str
    sentence: str
    grave: bool
