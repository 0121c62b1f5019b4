"""A starting point from all that is known nearby: what such work usually takes, drawn towards every recipe by how much
it says of this sheet on this machine.

The log of the dose is taken to be a Gaussian field over sheets and machines (kriging; N. A. C. Cressie, Statistics for
Spatial Data, 1993, ch. 3): the prior is `core.typical`, a power law in thickness, in density and in the spot whose
exponents are known only roughly, and offsets that a family, a kind, a material and a machine have in common. Where the
book holds several thicknesses of a material its own power law comes out; where it holds nothing the prior does.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from copy import copy
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import linalg

from rezept.core.begin.known import Known, Sheet, like_wavelength, why_it_counts
from rezept.core.begin.start import Start, dose_of, rounded, usual_hold
from rezept.core.dose import power_w
from rezept.core.findings.candidates import EIGHTY
from rezept.core.machine import USUAL_SPOT_MM, Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.chosen import Span, span_on
from rezept.core.plan.holding import limits_of, why_not
from rezept.core.process import Process
from rezept.core.typical import typical_dose

Floats = NDArray[np.float64]

# Standard deviations in the log of the dose: of what is usual; of what a family, a kind, a material and a machine have
# of their own; of a recipe, by how sure the shop is of it.
_USUAL, _FAMILY, _KIND, _MATERIAL, _MACHINE, _HEAD = 0.6, 0.25, 0.15, 0.4, 0.15, 0.08
_BY_STANDING = {"proven": 0.06, "tried": 0.1, "heard": 0.35, "estimate": 0.4, "doubtful": 0.6}
# Exponents, mean and standard deviation: of thickness beyond the one a cut has anyway, the same of one material; of
# density; of the spot, for lines and for what is filled; and what a step of hardness does.
_THICKNESS, _THICKNESS_OF_ONE = (0.2, 0.12), 0.12
_DENSITY, _HARDNESS = (0.9, 0.4), (0.05, 0.08)
_SPOT_LINE, _SPOT_FILL = (0.5, 0.3), (2.0, 0.4)
# What those are counted from.
_THICK_MM, _DENSE_KG_M3, _SPOT_MM = 3.0, 700.0, 0.15
_BY_THICKNESS = 0
# Grounds this far apart in CIELAB are unlike for marks.
_UNLIKE_LAB, _COLOUR = 30.0, 0.25
# No closer than this to what is right, however much is known.
_LEAST_SPREAD = 0.05
# A source below this share is not worth naming; of a large book those are asked that have most in common.
LEAST_WEIGHT, MOST_SOURCES = 0.02, 60
# Where no source says otherwise a cut is tried at so much of the power, a mark at less.
_POWER_SHARE = {True: 0.8, False: 0.4}


@dataclass(frozen=True)
class Source:
    """A recipe that told something: its place in what was known, its share, and why it counts."""

    index: int
    weight: float
    reasons: tuple[str, ...]

    def document(self) -> dict[str, Any]:
        return {"index": self.index, "weight": round(self.weight, 3), "reason": ", ".join(self.reasons)}


@dataclass(frozen=True)
class Estimate:
    """A starting point, never more than an estimate.

    settings : to begin with; low, high : speeds at that power between which it lies with 80 in 100
    speed, power : the range to test; dose : J/mm, of what is filled J/mm2
    sources : what it rests on, the heaviest first; none where it is only what is usual
    """

    settings: dict[str, float]
    low: float
    high: float
    speed: Span
    power: Span
    dose: float
    sources: tuple[Source, ...]

    def start(self, reason: str) -> Start:
        """The range to test around it."""
        return Start(self.speed, self.power, self.settings, self.dose, reason)

    def document(self) -> dict[str, Any]:
        return {
            "settings": self.settings,
            "low": self.low,
            "high": self.high,
            "range": {
                "speed_mm_s": [self.speed.start, self.speed.end],
                "power_pct": [self.power.start, self.power.end],
            },
            "sources": [one.document() for one in self.sources],
        }


def _priors(process: Process) -> Floats:
    """``(k, 2)`` mean and standard deviation of the exponents of `_logs`."""
    spot = _SPOT_FILL if process.fills else _SPOT_LINE
    return np.array([_THICKNESS, _DENSITY, spot, _HARDNESS] if process.passes_through else [spot, _HARDNESS])


def _logs(process: Process, sheet: Sheet, machine: Machine) -> list[float]:
    """What has an exponent, over what is usual; 0 where it is not known."""
    spot = machine.head.spot_mm
    logs = [math.log(spot / _SPOT_MM) if spot else 0.0, float(sheet.hardness - 3) if sheet.hardness else 0.0]
    if not process.passes_through:
        return logs
    thick = math.log(sheet.thickness_mm / _THICK_MM) if sheet.thickness_mm else 0.0
    dense = math.log(sheet.density_kg_m3 / _DENSE_KG_M3) if sheet.density_kg_m3 else 0.0
    return [thick, dense, *logs]


def _usual(process: Process, sheet: Sheet) -> float:
    """Log of the dose that such work usually takes."""
    dose = typical_dose(process, sheet.family, sheet.thickness_mm) or typical_dose(process, "other", _THICK_MM) or 1.0
    return math.log(dose)


class _Places:
    """Sheets under machines, as the field sees them; `(n,)` of each.

    logs : ``(n, k)`` what has an exponent, 0 where it is not known; `_priors` says what the exponents are thought to be
    """

    def __init__(self, process: Process, places: Sequence[tuple[Sheet, Machine]]) -> None:
        self.process = process
        self.logs = np.array([_logs(process, sheet, machine) for sheet, machine in places])
        self.usual = np.array([_usual(process, sheet) for sheet, _ in places]) + self.logs @ _priors(process)[:, 0]
        self.family = np.array([sheet.family for sheet, _ in places])
        self.kind = np.array([sheet.kind for sheet, _ in places])
        self.name = np.array([sheet.name for sheet, _ in places])
        self.machine = np.array([machine.name for _, machine in places])
        self.head = np.array([f"{machine.name} {machine.head}" for _, machine in places])
        unknown = (math.nan, math.nan, math.nan)
        self.ground = np.array([sheet.ground_lab or unknown for sheet, _ in places])

    def some(self, rows: NDArray[np.int64]) -> _Places:
        """Some of them."""
        chosen = copy(self)
        for name, column in vars(self).items():
            if isinstance(column, np.ndarray):
                setattr(chosen, name, column[rows])
        return chosen

    def shared(self, other: _Places) -> Floats:
        """``(n, m)`` what they have in common with others of their offsets from the usual, as a covariance."""

        def same(mine: NDArray[Any], theirs: NDArray[Any]) -> NDArray[np.bool_]:
            return np.asarray(mine[:, None] == theirs[None, :])

        priors = _priors(self.process)
        total = _USUAL**2 + (self.logs * priors[:, 1] ** 2) @ other.logs.T
        family = same(self.family, other.family)
        total += _FAMILY**2 * family
        total += _KIND**2 * (family & same(self.kind, other.kind) & (self.kind != "")[:, None])
        named = family & same(self.name, other.name)
        total += _MATERIAL**2 * named
        if self.process.passes_through:
            total += _THICKNESS_OF_ONE**2 * named * np.outer(self.logs[:, _BY_THICKNESS], other.logs[:, _BY_THICKNESS])
        else:
            away = np.linalg.norm(self.ground[:, None] - other.ground[None], axis=2)
            total += _COLOUR**2 * np.nan_to_num(np.exp(-((away / _UNLIKE_LAB) ** 2)))
        total += _MACHINE**2 * same(self.machine, other.machine)
        return np.asarray(total + _HEAD**2 * same(self.head, other.head), float)


def _dose_of(process: Process, known: Known) -> float:
    """Log of the dose of a recipe."""
    spacing = {"line_spacing_mm": known.machine.head.spot_mm or USUAL_SPOT_MM}
    return math.log(dose_of(known.machine, process, {**spacing, **known.settings}))


def estimate(process: Process, sheet: Sheet, machine: Machine, known: Sequence[Known]) -> Estimate:
    """A starting point for a process on a sheet under a machine.

    Parameters
    ----------
    known : recipes of this process, of one step; those of unlike wavelength say nothing and are left out
    """
    here = _Places(process, [(sheet, machine)])
    used = [index for index, one in enumerate(known) if like_wavelength(one.machine, machine)]
    mean, spread, weights = float(here.usual[0]), math.sqrt(here.shared(here)[0, 0]), np.empty(0)
    if used:
        every = _Places(process, [(known[index].sheet, known[index].machine) for index in used])
        noise = np.array([_BY_STANDING.get(known[index].standing, _BY_STANDING["doubtful"]) for index in used])
        towards = here.shared(every)[0]
        most = np.argsort(-towards / (1 + noise), kind="stable")[:MOST_SOURCES]
        used, towards, places = [used[index] for index in most], towards[most], every.some(most)
        weights = linalg.solve(places.shared(places) + np.diag(noise[most] ** 2), towards, assume_a="pos")
        mean += float(weights @ ([_dose_of(process, known[index]) for index in used] - places.usual))
        spread = math.sqrt(max(spread**2 - float(weights @ towards), _LEAST_SPREAD**2))
    return _estimated(process, sheet, machine, known, used, weights, mean, spread)


def _estimated(
    process: Process,
    sheet: Sheet,
    machine: Machine,
    known: Sequence[Known],
    used: list[int],
    weights: Floats,
    mean: float,
    spread: float,
) -> Estimate:
    heaviest = known[used[int(np.argmax(weights))]] if used else None
    low_pct, high_pct = limits_of(machine, "power_pct")
    settings = dict(usual_hold(machine, process))
    power = low_pct + _POWER_SHARE[process.passes_through] * (high_pct - low_pct)
    if heaviest is not None:
        settings |= {
            key: value
            for key, value in heaviest.settings.items()
            if key not in ("speed_mm_s", "power_pct") and why_not(PARAMETERS[key], value, machine, process.key) is None
        }
        watts = power_w(heaviest.machine.rated_power_w, heaviest.settings["power_pct"])
        power = float(np.clip(100.0 * watts / machine.rated_power_w, low_pct, high_pct))
    across = settings.get("line_spacing_mm", USUAL_SPOT_MM) if process.fills else 1.0
    top = machine.of_head("max_speed_mm_s")

    def speed_at(pct: float, dose: float) -> float:
        return float(power_w(machine.rated_power_w, pct)) * settings.get("passes", 1.0) / (dose * across)

    dose = math.exp(mean)
    if speed_at(power, dose) > top:
        power = max(power * top / speed_at(power, dose), low_pct, 1.0)
    power = float(f"{power:.3g}")
    # Slower than a control can show is nothing one could set.
    slowest = machine.finest("speed_mm_s") or PARAMETERS["speed_mm_s"].step
    speed = min(max(speed_at(power, dose), slowest), top)
    reach = math.exp(EIGHTY * spread)
    # Half as far again: the ends of the range should come out, one for certain and one not.
    wide = max(reach**1.5, 1.4)
    return Estimate(
        settings={**settings, "speed_mm_s": rounded(speed), "power_pct": power},
        low=round(speed / reach, 3),
        high=round(min(speed * reach, top), 3),
        speed=span_on(machine, "speed_mm_s", speed / wide, max(speed * wide, 4 * slowest)),
        power=span_on(machine, "power_pct", power * 0.7, power * 1.25),
        dose=dose,
        sources=_sources(process, sheet, machine, known, used, weights),
    )


def _sources(
    process: Process, sheet: Sheet, machine: Machine, known: Sequence[Known], used: list[int], weights: Floats
) -> tuple[Source, ...]:
    """What it rests on, by how much each says; shares are of all that is said, the usual not counted."""
    if not used:
        return ()
    share = np.abs(weights) / np.abs(weights).sum()
    found = [
        Source(index, float(part), why_it_counts(process, sheet, machine, known[index]))
        for index, part in zip(used, share, strict=True)
        if part >= LEAST_WEIGHT
    ]
    return tuple(sorted(found, key=lambda one: -one.weight))
