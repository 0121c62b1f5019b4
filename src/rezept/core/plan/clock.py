"""Which part of a plate burns by the planned order and time, while a machine burns a file that nobody hears of."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any, Literal

from rezept.core.errors import InvalidInput, quoted
from rezept.core.plan.by_hand import HandStop, hand_stops, stretches
from rezept.core.plan.moves import PART_OF
from rezept.core.plan.plate import Plate

EventKey = Literal["pause", "go_on", "shift", "at", "turned"]

# Sums of seconds that are off by less are the same moment.
_DUST_S = 1e-6


@dataclass(frozen=True)
class Slot:
    """A part of a run in its turn: what it is, how long it should take, s, with its share of the ways between, what is
    turned by hand before it, and its passes."""

    name: str
    kind: str
    seconds: float
    stop: HandStop | None = None
    passes: int = 1

    @property
    def row(self) -> dict[str, Any]:
        """As the records of a run begin with it."""
        return {"name": self.name, "kind": self.kind, "passes": self.passes}


@dataclass(frozen=True)
class ClockEvent:
    """What somebody said while it burned, so many seconds after the begin.

    pause, go_on : the machine rests, and moves again; shift : the plan is `by_s` seconds farther than the clock says
    at : `part` begins just now; turned : what is turned by hand before `part` is turned
    """

    after_s: float
    what: EventKey
    by_s: float = 0.0
    part: str = ""


@dataclass(frozen=True)
class ByTheClock:
    """Where a run is by the clock: what is done, what burns, or what it waits for; seconds of the plan behind and left.

    over : by the plan everything has burned
    """

    done: tuple[str, ...]
    current: str | None
    stop: HandStop | None
    paused: bool
    gone_s: float
    left_s: float

    @property
    def over(self) -> bool:
        return self.current is None and self.stop is None


def timetable(plate: Plate) -> list[Slot]:
    """The parts of a run in their order."""
    seconds = {name: float(plate.steps[step].seconds[index]) for index, step, name in plate.parts()}
    passes = {name: int(plate.steps[step].settings["passes"][index]) for index, step, name in plate.parts()}
    own = {"labels": plate.label_seconds, "outline": plate.cut_seconds}
    names = [name for name, _ in stretches(plate)]
    between = plate.travel_seconds / max(1, len(names))
    stops = {stop.parts[0]: stop for stop in hand_stops(plate)}
    drawn = set(PART_OF.values())
    return [
        Slot(
            name,
            name if name in drawn else "patch",
            seconds.get(name, own.get(name, 1.0)) + between,
            stops.get(name),
            passes.get(name, 1),
        )
        for name in names
    ]


def by_the_clock(slots: Sequence[Slot], events: Iterable[ClockEvent], now_s: float) -> ByTheClock:
    """Where a run is `now_s` seconds after it began, as the planned times and what was said meanwhile have it.

    The plan goes on with the clock, rests while it is paused, and waits before every part for which somebody turns
    something, until that is said.

    Raises
    ------
    InvalidInput : an event names a part that is not burned
    """
    begins = [0.0]
    for slot in slots:
        begins.append(begins[-1] + slot.seconds)
    order = {slot.name: place for place, slot in enumerate(slots)}
    turned: set[str] = set()
    progress, clock, paused = 0.0, 0.0, False

    def gate() -> float:
        """How far the plan can have come: to the next thing that is not turned yet."""
        waits = (begins[i] for i, slot in enumerate(slots) if slot.stop is not None and slot.name not in turned)
        return next(waits, begins[-1])

    def moved(by_s: float) -> float:
        return min(max(progress + by_s, 0.0), gate())

    for event in sorted((one for one in events if one.after_s <= now_s), key=lambda one: one.after_s):
        progress, clock = moved(0.0 if paused else event.after_s - clock), event.after_s
        if event.part and event.part not in order:
            raise InvalidInput(f"{quoted(event.part)} is not burned here.", "part", event.part)
        if event.what in ("pause", "go_on"):
            paused = event.what == "pause"
        elif event.what == "shift":
            progress = moved(event.by_s)
        elif event.what == "turned":
            turned.add(event.part)
        else:
            # What burns now was turned to.
            turned |= {slot.name for slot in slots[: order[event.part] + 1]}
            progress, paused = begins[order[event.part]], False
    progress = moved(0.0 if paused else now_s - clock)
    # A part has begun with its first moment; what waits for a hand has not.
    reached = [i for i in range(len(slots)) if begins[i] <= progress + _DUST_S]
    at = reached[-1] if reached and progress < begins[-1] - _DUST_S else None
    waits = slots[at].stop if at is not None and slots[at].name not in turned else None
    done = tuple(slot.name for slot in slots[: len(slots) if at is None else at])
    return ByTheClock(
        done,
        None if at is None or waits is not None else slots[at].name,
        waits,
        paused,
        progress,
        begins[-1] - progress,
    )
