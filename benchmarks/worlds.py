"""Materials and machines that are drawn, to judge decisions by: several forms of law, none of them what is fitted.

A world knows what really happens at a setting; nothing of `rezept.core` is in it.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
HOLDS = 0.99
NOISES = ("normal", "logistic", "heavy")


def _dose_law(chance: np.random.Generator) -> Callable[[Floats, Floats], Floats]:
    """P^a / v^b, both near 1."""
    a, b = chance.uniform(0.8, 1.25), chance.uniform(0.8, 1.25)
    return lambda speed, power: a * np.log(power) - b * np.log(speed)


def _threshold_law(chance: np.random.Generator) -> Callable[[Floats, Floats], Floats]:
    """The speed grows with what the source gives beyond a part that is lost."""
    lost = chance.uniform(2, 12)
    return lambda speed, power: np.log(np.maximum(power - lost, 0.05)) - np.log(speed)


def _conducting_law(chance: np.random.Generator) -> Callable[[Floats, Floats], Floats]:
    """Slow moves lose heat into the sheet."""
    still = chance.uniform(0.5, 4)
    return lambda speed, power: np.log(power) - np.log(speed + still)


def _kerf_law(chance: np.random.Generator) -> Callable[[Floats, Floats], Floats]:
    """Depth goes with the square root of the dose once it is deep, and fast moves lose some."""
    bend, fast = chance.uniform(0.0, 0.8), chance.uniform(100, 800)
    return lambda speed, power: np.log(np.expm1(np.minimum((1 + bend) * np.log1p(power / speed), 30))) - speed / fast


LAWS = (_dose_law, _threshold_law, _conducting_law, _kerf_law)


@dataclass(frozen=True)
class CutWorld:
    """What a sheet does under a machine.

    reach : log dose of settings as the material counts it; threshold : where half of the middle sheet drops out
    adds : how much of another pass adds up to the first
    """

    law: str
    reach: Callable[[Floats, Floats], Floats]
    threshold: float
    gaps: tuple[float, float]
    patch: float
    noise: str
    sheets: float
    slips: float
    floor_pct: float
    top_pct: float
    top_speed: float
    char_from: float
    rated_w: float
    adds: float = 1.0

    def margin(self, speed: Any, power: Any, passes: Any = 1.0) -> Floats:
        """Log dose beyond the threshold on the middle sheet."""
        speed, power = np.asarray(speed, float), np.asarray(power, float)
        more = self.adds * np.log(np.asarray(passes, float))
        return np.where(power >= self.floor_pct, self.reach(speed, power) + more - self.threshold, -9.0)

    def scatter(self, size: int, chance: np.random.Generator) -> Floats:
        if self.noise == "normal":
            return self.patch * chance.standard_normal(size)
        if self.noise == "logistic":
            return self.patch * chance.logistic(0, np.sqrt(3) / np.pi, size)
        return self.patch * chance.standard_t(4, size) / np.sqrt(2)

    def sheet(self, chance: np.random.Generator) -> float:
        return float(self.sheets * chance.standard_normal())

    def burn(
        self, speed: Floats, power: Floats, sheet: float, chance: np.random.Generator, passes: Any = 1.0
    ) -> NDArray[np.int64]:
        """``(n,)`` how patches come out on a sheet, as somebody scores them."""
        got = self.margin(speed, power, passes) + sheet + self.scatter(len(speed), chance)
        lower, upper = self.gaps
        outcome = (got > -lower - upper).astype(int) + (got > -upper) + (got > 0)
        slipped = chance.random(len(speed)) < self.slips
        return np.where(slipped, chance.integers(0, 4, len(speed)), outcome).astype(np.int64)

    def share(self, speed: Any, power: Any, passes: Any = 1.0, draws: int = 4000) -> Floats:
        """The share of patches on fresh sheets that drop out."""
        chance = np.random.default_rng(5)
        luck = np.sort(self.scatter(draws, chance) + self.sheets * chance.standard_normal(draws))
        return 1 - np.searchsorted(luck, -self.margin(speed, power, passes)) / draws

    @property
    def held_margin(self) -> float:
        """Log dose beyond the threshold from which 99 in 100 fresh patches drop out."""
        chance = np.random.default_rng(6)
        luck = self.scatter(40_000, chance) + self.sheets * chance.standard_normal(40_000)
        return float(-np.quantile(luck, 1 - HOLDS))

    def holding_speed(self, power: float, margin: float | None = None, passes: float = 1.0) -> float:
        """The fastest at which it holds at a power; 0 where it never does."""
        wanted = self.held_margin if margin is None else margin
        speeds = np.geomspace(0.05, self.top_speed, 4000)
        held = self.margin(speeds, np.full(4000, float(power)), passes) >= wanted
        return float(speeds[np.flatnonzero(held)[-1]]) if held.any() else 0.0

    def char(self, speed: Any, power: Any) -> Floats:
        """How badly it chars, 0 to 3 and in between: by how much more it gets than it needs, and by slowness."""
        over = self.margin(speed, power) - self.char_from
        return np.asarray(np.clip(1.6 * over + 0.15 * np.log(10 / np.asarray(speed, float)), 0, 3))


def cut_world(chance: np.random.Generator) -> CutWorld:
    kind = LAWS[chance.integers(len(LAWS))]
    reach = kind(chance)
    top_pct, floor = float(chance.choice([80, 90, 100])), float(chance.choice([5, 8, 10]))
    # At most of its power such a sheet drops out somewhere between slow and quick.
    at = float(np.exp(chance.uniform(np.log(5), np.log(60))))
    threshold = float(reach(np.array([at]), np.array([0.8 * top_pct]))[0])
    return CutWorld(
        law=kind.__name__.strip("_"),
        reach=reach,
        threshold=threshold,
        gaps=(float(chance.uniform(0.05, 0.3)), float(chance.uniform(0.03, 0.15))),
        patch=float(chance.uniform(0.02, 0.07)),
        noise=str(chance.choice(NOISES)),
        sheets=float(chance.uniform(0.03, 0.12)),
        slips=float(chance.choice([0, 0.01, 0.02])),
        floor_pct=floor,
        top_pct=top_pct,
        top_speed=400.0,
        char_from=float(chance.uniform(0.2, 0.6)),
        rated_w=60.0,
        adds=float(chance.spawn(1)[0].uniform(0.75, 1.05)),
    )


def first_array(world: CutWorld, chance: np.random.Generator, columns: int = 5, rows: int = 5) -> tuple[Floats, Floats]:
    """Speeds and powers of a first array around a guess that is off by a quarter, either way."""
    middle_pct = 0.72 * world.top_pct
    guess = world.holding_speed(middle_pct, 0.0) * float(np.exp(0.22 * chance.standard_normal()))
    speeds = np.round(np.geomspace(guess / 2, min(guess * 2, world.top_speed), columns), 1)
    powers = np.round(np.linspace(0.45 * world.top_pct, world.top_pct, rows))
    speed, power = np.meshgrid(speeds, powers)
    return speed.ravel(), power.ravel()


@dataclass(frozen=True)
class MarkWorld:
    """What a mark looks like: L* by log dose, on one sheet and another."""

    lightness: Callable[[Floats, Floats], Floats]
    ground: float
    sheets: float
    patch: float


def mark_world(chance: np.random.Generator) -> MarkWorld:
    """A mark that darkens with the dose: along an S, as what is left of the ground, to ash that is paler, or evenly."""
    form = int(chance.integers(4))
    middle, width = chance.uniform(-0.6, 0.6), chance.uniform(0.2, 0.5)
    ground, dark = chance.uniform(60, 90), chance.uniform(12, 35)
    weight, slow, ash = chance.uniform(0.85, 1.2), chance.uniform(0.0, 0.15), chance.uniform(0.8, 2.0)

    def lightness(dose: Floats, speed: Floats) -> Floats:
        got = weight * dose + slow * speed
        along_s = ground - (ground - dark) / (1 + np.exp(-(got - middle) / width))
        if form == 1:
            return np.asarray(ground - (ground - dark) * (1 - np.exp(-np.exp((got - middle) * 1.2))))
        if form == 2:
            return np.asarray(along_s + 0.6 * (60 - dark) / (1 + np.exp(-(got - middle - ash) / 0.2)))
        if form == 3:
            return np.asarray(ground - (ground - dark) * np.clip(0.5 + (got - middle) / 3, 0, 1))
        return np.asarray(along_s)

    return MarkWorld(lightness, ground, float(chance.uniform(0.03, 0.12)), float(chance.uniform(0.5, 2.0)))


@dataclass(frozen=True)
class StockWorld:
    """A shop's cuts: what dose the sheets of some materials take on its machines, by thickness; J/mm.

    Each material has its own law in thickness, evenly growing or bent, and each machine gives a little more or less
    than its papers say.
    """

    materials: tuple[Callable[[float], float], ...]
    densities: tuple[float, ...]
    machines: tuple[float, ...]
    watts: tuple[float, ...]
    scatter: float

    def speed(self, material: int, machine: int, thickness: float, power_pct: float) -> float:
        """mm/s at which such a sheet just holds."""
        dose = self.materials[material](thickness) * self.machines[machine]
        return self.watts[machine] * power_pct / 100 / dose


def _thickness_law(chance: np.random.Generator, density: float) -> Callable[[float], float]:
    """Dose by thickness: a power of it, or in proportion beyond an entry that every cut takes, or bent where the beam
    widens below its focus."""
    form, per_mm = int(chance.integers(3)), 0.9 * density / 700 * float(np.exp(0.5 * chance.standard_normal()))
    power, entry, widens = chance.uniform(0.95, 1.6), chance.uniform(0.0, 0.8), chance.uniform(0.0, 0.06)
    if form == 0:
        return lambda t: per_mm * 3 * (t / 3) ** power
    if form == 1:
        return lambda t: per_mm * (t + entry)
    return lambda t: per_mm * t * (1 + widens * t)


def stock_world(chance: np.random.Generator, materials: int = 4, machines: int = 2) -> StockWorld:
    densities = tuple(float(one) for one in chance.uniform(350, 900, materials))
    return StockWorld(
        materials=tuple(_thickness_law(chance, density) for density in densities),
        densities=densities,
        machines=tuple(float(np.exp(0.12 * chance.standard_normal())) for _ in range(machines)),
        watts=tuple(float(chance.choice([40, 60, 80, 120])) for _ in range(machines)),
        scatter=float(chance.uniform(0.02, 0.1)),
    )
