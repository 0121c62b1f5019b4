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
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy import linalg

from rezept.core.begin.nearest import LIKE_WAVELENGTH, Known, Sheet, nearest
from rezept.core.begin.start import dose_of, rounded, usual_hold
from rezept.core.dose import power_w
from rezept.core.findings.candidates import EIGHTY
from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.chosen import Span, span_on
from rezept.core.plan.holding import limits_of, why_not
from rezept.core.process import Process
from rezept.core.typical import typical_dose

Floats = NDArray[np.float64]

# Standard deviations in the log of the dose: of what is usual; of what a family, a kind, a material and a machine have
# of their own; of a recipe, by how sure the shop is of it.
_USUAL, _FAMILY, _KIND, _MATERIAL, _MACHINE, _HEAD = 0.6, 0.25, 0.15, 0.3, 0.15, 0.08
_BY_STANDING = {"proven": 0.06, "tried": 0.1, "heard": 0.35, "estimate": 0.4, "doubtful": 0.6}
# Exponents, mean and standard deviation: of thickness beyond the one a cut has anyway, the same of one material; of
# density; of the spot, for lines and for what is filled; and what a step of hardness does.
_THICKNESS, _THICKNESS_OF_ONE = (0.2, 0.12), 0.12
_DENSITY, _HARDNESS = (0.9, 0.4), (0.05, 0.08)
_SPOT_LINE, _SPOT_FILL = (0.5, 0.3), (2.0, 0.4)
# Grounds this far apart in CIELAB are unlike for marks.
_UNLIKE_LAB, _COLOUR = 30.0, 0.25
# A source below this share is not worth naming.
LEAST_WEIGHT = 0.02
# Where no source says otherwise a cut is tried at so much of the power, a mark at less.
_POWER_SHARE = {True: 0.8, False: 0.4}


@dataclass(frozen=True)
class Source:
    """A recipe that told something: its place in what was known, its share, and why it counts."""

    index: int
    weight: float
    reason: str

    def document(self) -> dict[str, Any]:
        return {"index": self.index, "weight": round(self.weight, 3), "reason": self.reason}


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


@dataclass(frozen=True)
class _Place:
    """A sheet under a machine, as the field sees it."""

    sheet: Sheet
    machine: Machine

    def logs(self, process: Process) -> list[tuple[float, tuple[float, float]]]:
        """What has an exponent, each with its prior; 0 where it is not known."""
        sheet, spot = self.sheet, self.machine.head.spot_mm
        found = [(math.log(spot / 0.15) if spot else 0.0, _SPOT_FILL if process.fills else _SPOT_LINE)]
        if process.passes_through:
            found.append((math.log(sheet.thickness_mm / 3.0) if sheet.thickness_mm else 0.0, _THICKNESS))
            found.append((math.log(sheet.density_kg_m3 / 700.0) if sheet.density_kg_m3 else 0.0, _DENSITY))
        found.append((float(sheet.hardness - 3) if sheet.hardness else 0.0, _HARDNESS))
        return found


def _shared(process: Process, one: _Place, other: _Place) -> float:
    """What two places have in common of their offsets from the usual, as a covariance."""
    a, b = one.sheet, other.sheet
    total = _USUAL**2
    pairs = zip(one.logs(process), other.logs(process), strict=True)
    total += sum(x * y * prior[1] ** 2 for (x, prior), (y, _) in pairs)
    if a.family == b.family:
        total += _FAMILY**2
        if a.kind and a.kind == b.kind:
            total += _KIND**2
    if a.name == b.name and a.family == b.family:
        total += _MATERIAL**2
        if process.passes_through and a.thickness_mm and b.thickness_mm:
            total += _THICKNESS_OF_ONE**2 * math.log(a.thickness_mm / 3.0) * math.log(b.thickness_mm / 3.0)
    if not process.passes_through and a.ground_lab is not None and b.ground_lab is not None:
        total += _COLOUR**2 * math.exp(-((math.dist(a.ground_lab, b.ground_lab) / _UNLIKE_LAB) ** 2))
    if one.machine.name == other.machine.name:
        total += _MACHINE**2
        if one.machine.head == other.machine.head:
            total += _HEAD**2
    return total


def _usual(process: Process, place: _Place) -> float:
    """Log of the dose the prior says."""
    sheet = place.sheet
    dose = typical_dose(process, sheet.family, sheet.thickness_mm) or typical_dose(process, "other", 3.0) or 1.0
    # The spot the usual dose is thought for; a fill's own is in the line spacing already where it is as wide.
    return math.log(dose) + sum(x * mean for x, (mean, _) in place.logs(process))


def _dose_of(process: Process, known: Known) -> float:
    """Log of the dose of a recipe."""
    spacing = {"line_spacing_mm": known.machine.head.spot_mm or 0.1}
    return math.log(dose_of(known.machine, process, {**spacing, **known.settings}))


def estimate(process: Process, sheet: Sheet, machine: Machine, known: Sequence[Known]) -> Estimate:
    """A starting point for a process on a sheet under a machine.

    Parameters
    ----------
    known : recipes of this process, of one step; those of unlike wavelength say nothing and are left out
    """
    here = _Place(sheet, machine)
    used = [
        (index, one)
        for index, one in enumerate(known)
        if abs(one.machine.wavelength_nm / machine.wavelength_nm - 1) <= LIKE_WAVELENGTH
    ]
    mean, spread, weights = _usual(process, here), math.sqrt(_shared(process, here, here)), np.empty(0)
    if used:
        places = [_Place(one.sheet, one.machine) for _, one in used]
        noise = [_BY_STANDING.get(one.standing, 0.6) for _, one in used]
        among = np.array([[_shared(process, a, b) for b in places] for a in places]) + np.diag(np.square(noise))
        towards = np.array([_shared(process, here, place) for place in places])
        usual = np.array([_usual(process, place) for place in places])
        off = np.array([_dose_of(process, one) for _, one in used]) - usual
        weights = linalg.solve(among, towards, assume_a="pos")
        mean += float(weights @ off)
        spread = math.sqrt(max(spread**2 - float(weights @ towards), 0.05**2))
    return _estimated(process, sheet, machine, known, [index for index, _ in used], weights, mean, spread)


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
    across = settings.get("line_spacing_mm", 0.1) if process.fills else 1.0
    top = machine.of_head("max_speed_mm_s")

    def speed_at(pct: float, dose: float) -> float:
        return float(power_w(machine.rated_power_w, pct)) * settings.get("passes", 1.0) / (dose * across)

    dose = math.exp(mean)
    if speed_at(power, dose) > top:
        power = max(power * top / speed_at(power, dose), low_pct, 1.0)
    power = float(f"{power:.3g}")
    speed = min(speed_at(power, dose), top)
    reach = math.exp(EIGHTY * spread)
    # Half as far again: the ends of the range should come out, one for certain and one not.
    wide = max(reach**1.5, 1.4)
    return Estimate(
        settings={**settings, "speed_mm_s": rounded(speed), "power_pct": power},
        low=round(speed / reach, 3),
        high=round(min(speed * reach, top), 3),
        speed=span_on(machine, "speed_mm_s", speed / wide, speed * wide),
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
    numbered = [Known(**{**vars(one), "id": index}) for index, one in enumerate(known)]
    words = {one.known.id: one.reasons for one in nearest(process, sheet, machine, -1, -1, numbered)}
    found = [
        Source(index, float(part), ", ".join(words.get(index, ("another material",))))
        for index, part in zip(used, share, strict=True)
        if part >= LEAST_WEIGHT
    ]
    return tuple(sorted(found, key=lambda one: -one.weight))
