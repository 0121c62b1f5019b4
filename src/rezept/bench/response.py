"""From settings to outcomes: how made-up materials answer to a beam.

Dose decides nearly, not quite: fast moves lose a little to conduction, several passes are worth a little less
than one, air helps a cut, and every patch differs by the grain. Nothing here is taken from a real material.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from random import Random


@dataclass(frozen=True)
class Substance:
    """A made-up material.

    absorbs : share of the beam taken up, by wavelength in nm
    cut_j_mm2 : energy per mm of way and mm of depth that just parts it; None where it cannot be cut
    speed_loss : relative extra need for each 100 mm/s
    char_from : char begins at this multiple of what just cuts
    dark_j_mm2 : area dose that gives 63 % of the full darkness
    ash_j_mm2 : area dose from which it turns to ash and gets lighter and blotchy
    grain : relative scatter of the need from place to place
    """

    name: str
    absorbs: Mapping[int, float]
    cut_j_mm2: float | None
    speed_loss: float
    char_from: float
    dark_j_mm2: float
    ash_j_mm2: float
    grain: float


SUBSTANCES = {
    substance.name: substance
    for substance in (
        Substance("poplar", {10_600: 0.92, 450: 0.70}, 0.34, 0.35, 1.7, 0.42, 1.6, 0.05),
        Substance("leather", {10_600: 0.90, 450: 0.80}, 0.85, 0.30, 1.3, 0.55, 2.2, 0.06),
        Substance("felt", {10_600: 0.85, 450: 0.55}, 0.11, 0.20, 1.9, 0.10, 0.5, 0.09),
        Substance("acrylic", {10_600: 0.95, 450: 0.05}, 0.62, 0.15, 3.0, 0.9, 6.0, 0.02),
        Substance("polypropylene", {10_600: 0.80, 450: 0.04}, 0.30, 0.10, 4.0, 0.8, 5.0, 0.03),
        Substance("rubber", {10_600: 0.90, 450: 0.85}, 0.80, 0.30, 1.5, 0.40, 2.4, 0.05),
        # Metals are not cut here; their marks need short pulses and much dose, and barely take up long waves.
        Substance("nickel silver", {1064: 0.32, 450: 0.10, 10_600: 0.02}, None, 0.02, 9.0, 0.7, 7.0, 0.04),
        Substance("stainless", {1064: 0.38, 450: 0.12, 10_600: 0.03}, None, 0.02, 9.0, 0.45, 5.0, 0.04),
        Substance("anodised", {1064: 0.70, 450: 0.30, 10_600: 0.45}, None, 0.02, 9.0, 0.11, 1.4, 0.03),
        Substance("linoleum", {10_600: 0.88, 450: 0.75}, 0.95, 0.30, 1.4, 0.45, 2.5, 0.05),
        Substance("beech", {10_600: 0.93, 450: 0.74}, 0.66, 0.35, 1.5, 0.50, 1.8, 0.06),
        # Stone is not cut; its surface breaks up and turns pale.
        Substance("slate", {10_600: 0.80, 450: 0.35, 1064: 0.30}, None, 0.05, 9.0, 0.60, 4.0, 0.05),
    )
}


@dataclass(frozen=True)
class Beam:
    """What a machine puts out, for the bench."""

    rated_power_w: float
    wavelength_nm: float
    firing_floor_pct: float


def _taken_up(substance: Substance, beam: Beam, power_pct: float) -> float:
    """Power in W that goes into the material; none below the firing floor."""
    if power_pct < beam.firing_floor_pct:
        return 0.0
    nearest = min(substance.absorbs, key=lambda nm: abs(nm - beam.wavelength_nm))
    return beam.rated_power_w * power_pct / 100.0 * substance.absorbs[nearest]


def _worth(passes: float) -> float:
    """Several passes are worth a little less than their sum."""
    return float(passes**0.93)


def cut(
    substance: Substance, beam: Beam, thickness_mm: float, settings: Mapping[str, float], random: Random
) -> dict[str, int]:
    """``through`` 0..3, ``char`` 0..3 and ``soot`` 0..3 of a cut outline."""
    assert substance.cut_j_mm2 is not None
    speed = settings["speed_mm_s"]
    energy = _taken_up(substance, beam, settings["power_pct"]) * _worth(settings.get("passes", 1.0)) / speed
    air = 1.0 if settings.get("air_level", 0.0) > 0 else 0.9
    need = substance.cut_j_mm2 * thickness_mm**1.12 * (1.0 + substance.speed_loss * speed / 100.0)
    ratio = energy * air / (need * math.exp(random.gauss(0.0, substance.grain)))
    through = sum(ratio >= edge for edge in (0.62, 0.94, 1.04))
    char = sum(ratio >= substance.char_from * edge for edge in (1.0, 1.5, 2.2))
    soot = min(3, char + (0 if air == 1.0 else 1)) if ratio >= 1.0 else 0
    return {"through": through, "char": char, "soot": soot}


def mark(substance: Substance, beam: Beam, settings: Mapping[str, float], random: Random) -> dict[str, int]:
    """``darkness`` 0..5 and ``evenness`` 0..3 of a filled patch, or of a line that is 0.2 mm wide."""
    speed = settings["speed_mm_s"]
    width = settings.get("line_spacing_mm", 0.2)
    dose = _taken_up(substance, beam, settings["power_pct"]) * _worth(settings.get("passes", 1.0)) / (speed * width)
    dose *= math.exp(random.gauss(0.0, substance.grain)) / (1.0 + 0.3 * substance.speed_loss * speed / 100.0)
    darkness = 5.4 * (1.0 - math.exp(-dose / substance.dark_j_mm2))
    ash = max(0.0, dose / substance.ash_j_mm2 - 1.0)
    stripes = max(0.0, width / 0.2 - 1.0)
    even = 3.0 - 1.6 * ash - 2.0 * stripes - (1.0 if darkness < 0.8 else 0.0)
    return {
        "darkness": max(0, min(5, round(darkness - 0.8 * ash))),
        "evenness": max(0, min(3, round(even + random.gauss(0.0, 0.25)))),
    }
