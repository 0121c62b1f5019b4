"""What may be chosen: settings a machine can show and do, near what was burned, within what somebody allows."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from rezept.core.curve import Way
from rezept.core.findings.coding import ALWAYS, columns_of
from rezept.core.findings.observations import Observations
from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.holding import limits_of

Floats = NDArray[np.float64]

# So far beyond what was burned may be chosen: the models say how unsure they are there, and farther nothing is known.
POWER_BEYOND, SPEED_BEYOND = 1.25, 2.0
# A piece is neither shorter nor longer than this, in mm (of what is filled, mm2).
LEAST_PIECE, MOST_PIECE = 0.1, 1e7
MOST_POWERS, MOST_HELD, SPEEDS = 11, 6, 40
# So many settings somebody types for an array, and no more.
MOST_TYPED = 6


@dataclass(frozen=True)
class Wish:
    """What somebody wants to keep to.

    at_most : of settings; outcome_bounds : of what is read, no more of it; of what is better the more there is, no less
    piece_mm : length of the outline (area in mm2 for what fills) seconds are said for; None: 100
    most : so many patches the next array may have
    """

    at_most: Mapping[str, float] = field(default_factory=dict)
    outcome_bounds: Mapping[str, float] = field(default_factory=dict)
    piece_mm: float | None = None
    most: int = 16

    @property
    def length(self) -> float:
        return 100.0 if self.piece_mm is None else self.piece_mm


@dataclass(frozen=True)
class Wanted:
    """What a mark shall be, None of what nobody said.

    lightness : L*
    depth_mm, depth_off_mm : how deep, and by how much it may be off either way; None: as near as may be
    lab : colour in CIELAB
    """

    lightness: float | None = None
    depth_mm: float | None = None
    depth_off_mm: float | None = None
    lab: tuple[float, float, float] | None = None


NOTHING_WANTED = Wanted()


@dataclass(frozen=True)
class Choices:
    """What one may choose from.

    held : other settings, as they were burned, the most burned first; each goes with every power and speed
    powers : ``(p,)`` that can be shown; speeds : ``(v,)`` from slow to fast, evenly spread, to look along
    """

    machine: Machine
    held: tuple[dict[str, float], ...]
    powers: Floats
    speeds: Floats

    @property
    def any(self) -> bool:
        """Whether there is anything: what somebody keeps to may lie beside all that was burned."""
        return len(self.held) > 0 and len(self.powers) > 0

    def columns(self, held: Mapping[str, float], power: Floats, speed: Floats) -> dict[str, Floats]:
        """``(n,)`` columns of settings."""
        return {**columns_of(held, len(power)), "power_pct": power, "speed_mm_s": speed}

    def grid(self, held: Mapping[str, float]) -> dict[str, Floats]:
        """All powers with all speeds, ``(p * v,)``, the speeds running first."""
        power, speed = np.meshgrid(self.powers, self.speeds, indexing="ij")
        return self.columns(held, power.ravel(), speed.ravel())

    def slower(self, speed: float) -> float:
        """The next speed at or below that the control can show."""
        return shown(self.machine, "speed_mm_s", speed, "down")

    def stronger(self, power: float) -> float:
        """The next power at or above that the control can show, at most what the machine should give."""
        return min(shown(self.machine, "power_pct", power, "up"), self.machine.max_power_pct)


def is_typed(machine: Machine) -> bool:
    """Whether every setting of a plate is typed into the machine's control by hand."""
    return machine.takes == ("sheet",)


def patches_worth(machine: Machine, most: int) -> int:
    """How many patches the next array may have: no more distinct settings than one file of the machine holds beside its
    lettering, and fewer where each has to be typed."""
    if machine.distinct_settings is not None:
        most = min(most, max(machine.distinct_settings - 1, 1))
    return min(most, MOST_TYPED) if is_typed(machine) else most


def finest(machine: Machine, key: str) -> float:
    """The finest difference worth typing on a machine."""
    return machine.finest(key) or PARAMETERS[key].step


def shown(machine: Machine, key: str, value: float, way: Way = "near") -> float:
    """A value as the control can show it and a person would type it: three digits, and nothing finer than the
    control's own steps."""
    curve = machine.curve(key)
    if curve is not None:
        return float(f"{float(curve.nearest(np.array(value), way)):.10g}")
    step = finest(machine, key)
    if value > 0:
        step *= max(round(10.0 ** (math.floor(math.log10(value) + 1e-9) - 2) / step), 1)
    # A value that is a step already stays one, whatever the last bit says.
    steps = {"down": math.floor(value / step + 1e-9), "near": round(value / step), "up": math.ceil(value / step - 1e-9)}
    return float(f"{steps[way] * step:.10g}")


def choices_of(seen: Observations, rows: NDArray[np.bool_], machine: Machine, wish: Wish) -> Choices:
    """What may be chosen after what was burned: at least one row, each with power and speed."""
    held = _held(seen, rows, wish)
    powers, speeds = (seen.settings[key][rows] for key in ALWAYS)
    low, high = limits_of(machine, "power_pct")
    high = min(high, wish.at_most.get("power_pct", high))
    if np.ptp(powers) > 0:
        low, high = max(low, powers.min() / POWER_BEYOND), min(high, powers.max() * POWER_BEYOND)
        count = max(int((high - low) / finest(machine, "power_pct") + 1e-9), 0) + 1
        shares = np.linspace(0, 1, min(count, MOST_POWERS))
        shown_powers = np.unique([shown(machine, "power_pct", low + share * (high - low)) for share in shares])
    else:
        # Of one power nothing tells what another one does: somebody held it, and walked the speed.
        shown_powers = np.array([shown(machine, "power_pct", float(powers[0]))])
    shown_powers = shown_powers[(shown_powers >= low - 1e-9) & (shown_powers <= high + 1e-9)]
    top = min(machine.of_head("max_speed_mm_s"), wish.at_most.get("speed_mm_s", np.inf), speeds.max() * SPEED_BEYOND)
    least = min(max(speeds.min() / SPEED_BEYOND, finest(machine, "speed_mm_s")), top)
    return Choices(machine, held, shown_powers, np.geomspace(least, top, SPEEDS))


def _held(seen: Observations, rows: NDArray[np.bool_], wish: Wish) -> tuple[dict[str, float], ...]:
    """The other settings of what counts, each set once, the most burned first; what is not allowed stays out."""
    keys = [key for key in seen.settings if key not in ALWAYS]
    table = np.column_stack([np.zeros(int(rows.sum())), *(seen.settings[key][rows] for key in keys)])
    unique, counts = np.unique(np.nan_to_num(table, nan=np.inf), axis=0, return_counts=True)
    found = []
    for row in unique[np.argsort(-counts, kind="stable")]:
        held = {key: float(value) for key, value in zip(keys, row[1:], strict=True) if np.isfinite(value)}
        if all(held.get(key, -np.inf) <= most for key, most in wish.at_most.items() if key not in ALWAYS):
            found.append(held)
    return tuple(found[:MOST_HELD])
