"""A run while it goes on, as everybody who watches it sees it."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from rezept.actions.members import Member
from rezept.core.machine import Machine
from rezept.core.plan.by_hand import HandStop
from rezept.core.plan.clock import Slot
from rezept.core.plan.traced import Outline

ANNOUNCE_EVERY_S = 0.3
# Which setting a correction turns, where a hand can turn it as well: then no program does.
_CORRECTS = {"power": "power_pct", "focus": "focus_offset_mm"}


@dataclass
class Placing:
    """An outline that goes round, and of which design.

    edit : of the design as it was when the outline began
    """

    edit: int
    design: Mapping[str, Any]
    outline: Outline
    lock: threading.Lock = field(default_factory=threading.Lock)


@dataclass
class LiveRun:
    """What is known of a run now. Changed by the job's thread and by requests; `snapshot` is safe from any thread.

    how : whole, rest, again, dark or outline
    on_plate : where on the plate a place of the program lies, both as x and y in mm
    stop : what has to be turned by hand before it goes on
    nudged : how far to the right and up its outline goes round from where it was planned
    to_keep : called once, before anybody is told that it is over
    settled : it is over, its process gone, and all of it that is kept stands in the records
    """

    key: str
    trial_id: int
    machine: Machine
    machine_id: int
    title: str
    how: str
    burn_id: int | None
    parts: Sequence[Slot]
    holder: Member | None
    announce: Callable[[], None]
    now: Callable[[], str]
    on_plate: Callable[[float, float], tuple[float, float]]
    clock: Callable[[], float] = time.monotonic
    keep: Callable[[dict[str, Any]], None] = lambda line: None
    state: str = "connecting"
    reason: str = ""
    done: list[str] = field(default_factory=list)
    mixed: list[str] = field(default_factory=list)
    current: str | None = None
    uncertain: str | None = None
    stop: HandStop | None = None
    takes: list[str] = field(default_factory=list)
    corrections: dict[str, int] = field(default_factory=lambda: {"power": 0, "speed": 0, "focus": 0})
    head: tuple[float, float] | None = None
    placing: Placing | None = None
    nudged: tuple[float, float] = (0.0, 0.0)
    to_keep: Callable[[], None] | None = None
    log: list[dict[str, str]] = field(default_factory=list)
    settled: bool = False
    version: int = 0
    _lock: threading.RLock = field(default_factory=threading.RLock)
    _announced: float = 0.0
    _began: float = 0.0
    _part_began: float = 0.0
    _still: float = 0.0
    _held_at: float | None = None
    _told: tuple[int, str] | None = None

    @property
    def over(self) -> bool:
        return self.state in ("done", "stopped", "interrupted")

    def say(self, sentence: str) -> None:
        """A line of the run's own log, shown and kept."""
        with self._lock:
            line = {"at": self.now(), "sentence": sentence}
            self.log = [*self.log, line]
            self.keep({"event": "said", "number": len(self.log), **line})
            self._changed(at_once=True)

    def event(self, what: str, said: Any) -> None:
        """Something the job told."""
        with self._lock:
            self._take(what, said)
            self._changed(at_once=what in ("ended", "connected", "waits"))

    def _take(self, what: str, said: Any) -> None:
        clock = self.clock()
        if what == "connected":
            self.takes = [what for what in said if _CORRECTS.get(what) not in self.machine.by_hand]
            self.state, self._began, self._part_began = "running", clock, clock
            self.say("the machine answers, the program begins")
        elif what == "waits":
            self.stop = next(part.stop for part in self.parts if part.name == said["name"])
            self.state, self._held_at = "waiting", clock
        elif what == "began":
            self.current, self._part_began = said["name"], clock
            if self.stop is not None:
                self.stop, self.state = None, "running"
                self._moves_again(clock)
        elif what == "finished":
            # The outline goes round more than once.
            if said["name"] not in self.done:
                self.done.append(said["name"])
            self.current = None
            if said["received"]["mixed"]:
                self.mixed.append(said["name"])
        elif what == "status":
            self.head = (said["x_mm"], said["y_mm"])
            held = said["state"] == "hold"
            if self.state in ("running", "held"):
                if held and self._held_at is None:
                    self._held_at = clock
                elif not held:
                    self._moves_again(clock)
                self.state = "held" if held else "running"
            self.corrections = dict(said["corrections"])
        elif what == "ended":
            self.end(said["state"], said["reason"], said["uncertain"])

    def _moves_again(self, clock: float) -> None:
        if self._held_at is not None:
            self._still, self._held_at = self._still + clock - self._held_at, None

    def end(self, state: str, reason: str, uncertain: str | None) -> None:
        with self._lock:
            if self.over:
                return
            self.state, self.reason, self.uncertain, self.current, self.stop = state, reason, uncertain, None, None
            words = {"done": "finished", "stopped": "stopped", "interrupted": "interrupted"}[state]
            self.say(f"{words}{': ' + reason if reason else ''}")

    def nudge(self, nudged: tuple[float, float], on_plate: Callable[[float, float], tuple[float, float]]) -> None:
        """Its outline goes round elsewhere from its next round on."""
        with self._lock:
            self.nudged, self.on_plate = nudged, on_plate
            self._changed(at_once=True)

    def keep_what_is_left(self) -> None:
        """Keep what is to be kept of it, so that whoever sees it over finds that in the records."""
        with self._lock:
            keep, self.to_keep = self.to_keep, None
        if keep is not None:
            keep()

    def settle(self) -> None:
        """A new version, so that whoever fetched the records between the end and this looks again."""
        with self._lock:
            self.settled = True
            self._changed(at_once=True)

    def hand_to(self, member: Member | None) -> None:
        with self._lock:
            self.holder = member
            self._changed(at_once=True)

    def _changed(self, at_once: bool) -> None:
        self.version += 1
        clock = self.clock()
        if at_once or clock - self._announced > ANNOUNCE_EVERY_S:
            self._announced = clock
            self.announce()

    def _time(self) -> tuple[float, float, float]:
        """Share done, seconds left, seconds gone: what is planned for the rest, at the pace so far."""
        planned = {part.name: part.seconds for part in self.parts}
        whole = sum(planned.values()) or 1.0
        behind = sum(planned[name] for name in self.done)
        clock = self._held_at if self._held_at is not None else self.clock()
        gone = max(0.0, clock - self._began - self._still) if self._began else 0.0
        before = max(0.0, self._part_began - self._began - self._still)
        pace = before / behind if behind > 0 and before > 0 else 1.0
        here = 0.0
        if self.current in planned:
            here = min(planned[self.current], max(0.0, gone - before) / pace)
        return (behind + here) / whole, max(0.0, whole - behind - here) * pace, gone

    def snapshot(self) -> dict[str, Any]:
        """The run as it goes over the wire."""
        with self._lock:
            share, left, gone = (1.0, 0.0, 0.0) if self.state == "done" else self._time()
            return {
                "key": self.key,
                "version": self.version,
                "trial_id": self.trial_id,
                "machine_id": self.machine_id,
                "title": self.title,
                "how": self.how,
                "by_clock": False,
                "burn_id": self.burn_id,
                "state": self.state,
                "reason": self.reason,
                "settled": self.settled,
                "parts": [part.name for part in self.parts],
                "done": list(self.done),
                "mixed": list(self.mixed),
                "current": self.current,
                "stop": None if self.stop is None else self.stop.document(self.machine),
                "uncertain": self.uncertain,
                "share": share,
                "seconds_left": left,
                "seconds_gone": gone,
                "takes": list(self.takes),
                "corrections": dict(self.corrections),
                "head": None if self.head is None else list(self.on_plate(*self.head)),
                "nudged": list(self.nudged),
                "holder": None if self.holder is None else {"id": self.holder.id, "name": self.holder.name},
                "log": list(self.log),
            }

    def news(self) -> tuple[int, str]:
        """Its version and the snapshot as JSON, made once for all who watch."""
        with self._lock:
            if self._told is None or self._told[0] != self.version:
                self._told = (self.version, json.dumps(self.snapshot()))
            return self._told
