"""How the bench's machine moves: blocks in a planner, joined at the speed its corners allow.

A gantry has one acceleration for everything and takes a corner so that its velocity jumps by no more than
`corner_jump_mm_s`. A galvo goes at constant speed, waits after every jump and a little at every corner. A block's
profile is fixed when it begins; until then later blocks may let it end faster.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import Any

Point = tuple[float, float]


@dataclass(frozen=True)
class Mechanics:
    """What carries the beam."""

    galvo: bool = False
    acceleration_mm_s2: float = 4000.0
    corner_jump_mm_s: float = 10.0
    travel_speed_mm_s: float = 400.0
    max_speed_mm_s: float = 500.0
    jump_delay_s: float = 0.0
    settle_s: float = 0.0
    polygon_delay_s: float = 0.0
    field_mm: tuple[float, float] = (600.0, 400.0)


@dataclass(frozen=True, kw_only=True)
class Move:
    """One straight move. `beam` is the S it names, 0 where it must not burn; `part` counts how often the beam was armed
    before."""

    start: Point
    end: Point
    beam: float
    follows_speed: bool
    z_mm: float
    air: bool
    told: tuple[tuple[str, float], ...]
    line: int
    part: int

    @cached_property
    def length_mm(self) -> float:
        return math.dist(self.start, self.end)


@dataclass(frozen=True, kw_only=True)
class Block(Move):
    """A move as it was asked for."""

    speed_mm_s: float
    rapid: bool

    @cached_property
    def heading(self) -> Point:
        length = self.length_mm
        return ((self.end[0] - self.start[0]) / length, (self.end[1] - self.start[1]) / length)


@dataclass(frozen=True, kw_only=True)
class Stretch(Move):
    """A move as it was really made: from `v0` over `v` to `v1`, beginning at `begins_s` of the bench's clock.

    `beam`, `z_mm` are what was in force, corrections included; `asked_mm_s` the speed at full rate.
    """

    v0: float
    v: float
    v1: float
    asked_mm_s: float
    acceleration: float
    begins_s: float
    seconds: float

    def way_after(self, seconds: float) -> float:
        """How far along the block the head is so many seconds after its begin."""
        if seconds >= self.seconds:
            return self.length_mm
        if math.isinf(self.acceleration):
            return min(self.length_mm, self.v * seconds)
        a = self.acceleration
        gaining = (self.v - self.v0) / a
        if seconds < gaining:
            return self.v0 * seconds + a * seconds**2 / 2
        way = (self.v**2 - self.v0**2) / (2 * a)
        slowing_way = (self.v**2 - self.v1**2) / (2 * a)
        cruise = max(0.0, self.length_mm - way - slowing_way) / self.v
        if seconds < gaining + cruise:
            return way + self.v * (seconds - gaining)
        rest = seconds - gaining - cruise
        return min(self.length_mm, self.length_mm - slowing_way + self.v * rest - a * rest**2 / 2)

    def until(self, seconds: float) -> Stretch:
        """The part of it gone along in its first seconds, the beam having dropped then."""
        length = self.length_mm
        share = self.way_after(seconds) / length if length else 1.0
        end = tuple(a + share * (b - a) for a, b in zip(self.start, self.end, strict=True))
        return replace(self, end=(end[0], end[1]), seconds=min(seconds, self.seconds))


def corner_speed(before: Block, after: Block, mechanics: Mechanics) -> float:
    """The speed at which the head may pass from one block to the next. A travel begins and ends at rest, so that no
    line begins while the head still swings."""
    if before.rapid or after.rapid:
        return 0.0
    slower = min(before.speed_mm_s, after.speed_mm_s)
    (ax, ay), (bx, by) = before.heading, after.heading
    turn = math.hypot(bx - ax, by - ay)
    return slower if turn < 1e-9 else min(slower, mechanics.corner_jump_mm_s / turn)


def exit_speed(queue: Sequence[Block], mechanics: Mechanics) -> float:
    """How fast the first block of the queue may end, so that whatever comes can still be taken, the last one ending at
    rest."""
    if len(queue) < 2:
        return 0.0
    square = corner_speed(queue[0], queue[1], mechanics) ** 2
    gained = 0.0
    for i in range(1, len(queue)):
        gained += 2 * mechanics.acceleration_mm_s2 * queue[i].length_mm
        if gained >= square:
            break
        ends = corner_speed(queue[i], queue[i + 1], mechanics) if i + 1 < len(queue) else 0.0
        square = min(square, ends**2 + gained)
    return math.sqrt(square)


def gone_along(
    block: Block, v0: float, v1: float, begins_s: float, mechanics: Mechanics, before: Block | None
) -> Stretch:
    """A block with the profile it gets: as fast as asked where its way allows."""
    length, asked = block.length_mm, block.speed_mm_s
    common: dict[str, Any] = {field.name: getattr(block, field.name) for field in fields(Move)}
    common |= {"asked_mm_s": asked, "begins_s": begins_s}
    if mechanics.galvo:
        seconds = length / asked
        if block.rapid:
            seconds += mechanics.jump_delay_s + mechanics.settle_s
        elif before is not None and not before.rapid:
            (ax, ay), (bx, by) = before.heading, block.heading
            cosine = max(-1.0, min(1.0, ax * bx + ay * by))
            seconds += mechanics.polygon_delay_s * math.acos(cosine) / math.pi
        return Stretch(v0=asked, v=asked, v1=asked, acceleration=math.inf, seconds=seconds, **common)
    a = mechanics.acceleration_mm_s2
    v1 = min(v1, math.sqrt(v0**2 + 2 * a * length))
    peak = max(v0, v1, min(asked, math.sqrt(a * length + (v0**2 + v1**2) / 2)))
    cruise = max(0.0, length - (2 * peak**2 - v0**2 - v1**2) / (2 * a))
    seconds = (2 * peak - v0 - v1) / a + (cruise / peak if peak else 0.0)
    return Stretch(v0=v0, v=peak, v1=v1, acceleration=a, seconds=seconds, **common)


def braked(block: Block, v0: float, begins_s: float, mechanics: Mechanics) -> tuple[Stretch, Block | None]:
    """A block in which the head slows as hard as it can; what is left of it where it comes to rest within."""
    a, length = mechanics.acceleration_mm_s2, block.length_mm
    way = 0.0 if mechanics.galvo else v0**2 / (2 * a)
    if way >= length:
        v1 = math.sqrt(max(0.0, v0**2 - 2 * a * length))
        return gone_along(replace(block, speed_mm_s=v0), v0, v1, begins_s, mechanics, None), None
    share = way / length
    stop = (
        block.start[0] + share * (block.end[0] - block.start[0]),
        block.start[1] + share * (block.end[1] - block.start[1]),
    )
    slowed = replace(block, end=stop, speed_mm_s=max(v0, 1e-6))
    return gone_along(slowed, v0, 0.0, begins_s, mechanics, None), replace(block, start=stop)
