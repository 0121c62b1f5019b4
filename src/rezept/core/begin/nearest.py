"""No recipe for this yet: what we know that comes nearest, why, and what it would mean here.

Only sources of like wavelength are compared; between unlike ones only a plate tells. Nothing found here is ever more
than an estimate.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from rezept.core.machine import Machine
from rezept.core.process import Process

LIKE_WAVELENGTH = 0.1
# What a difference counts, in the same coin: a doubled thickness is about as far as another machine.
OTHER_HEAD, OTHER_MACHINE, OTHER_MATERIAL, NOT_SAID = 0.35, 0.7, 1.5, 0.4
BY_STANDING = {"proven": 0.0, "tried": 0.1, "heard": 0.4, "estimate": 0.5, "doubtful": 0.6}


@dataclass(frozen=True)
class Sheet:
    """A material as far as it can be like another. Hardness 1 to 5, density in kg/m3, ground as CIELAB; kind is which
    alloy, wood or plastic."""

    name: str
    family: str
    thickness_mm: float | None
    density_kg_m3: float | None
    hardness: int | None
    ground_lab: tuple[float, ...] | None
    kind: str = ""

    @property
    def title(self) -> str:
        return self.name if self.thickness_mm is None else f"{self.name} {self.thickness_mm:g} mm"


@dataclass(frozen=True)
class Known:
    """A recipe of one step: its settings, and what they were found on. `head` names the head and its machine."""

    id: int
    standing: str
    settings: Mapping[str, float]
    sheet: Sheet
    machine: Machine
    machine_id: int
    head_id: int
    head: str
    material_id: int = 0


@dataclass(frozen=True)
class Nearest:
    """A known recipe, how far it is off, why it counts, and its settings brought here."""

    known: Known
    distance: float
    reasons: tuple[str, ...]
    settings: Mapping[str, float]
    brought: tuple[str, ...]


def _thickness(here: Sheet, there: Sheet) -> tuple[float, str | None]:
    if here.thickness_mm is None or there.thickness_mm is None:
        return (0.0, None) if here.thickness_mm == there.thickness_mm else (NOT_SAID, "thickness not said")
    if here.thickness_mm == there.thickness_mm:
        return 0.0, "same thickness"
    return abs(math.log2(here.thickness_mm / there.thickness_mm)), f"{there.thickness_mm:g} mm thick"


def _likeness(here: Sheet, there: Sheet) -> tuple[float, list[str]]:
    """How far two materials of one family are apart by hardness, density and colour, in words as well."""
    far, words = OTHER_MATERIAL, [f"{there.name} is {here.family}, too"]
    if here.hardness is not None and there.hardness is not None:
        far += abs(here.hardness - there.hardness) / 4
        difference = there.hardness - here.hardness
        words.append("as hard" if difference == 0 else "harder" if difference > 0 else "softer")
    else:
        far += NOT_SAID
    if here.density_kg_m3 and there.density_kg_m3:
        ratio = there.density_kg_m3 / here.density_kg_m3
        far += abs(math.log2(ratio))
        word = "denser" if ratio > 1 else "lighter"
        words.append("as dense" if abs(ratio - 1) < 0.05 else f"{abs(ratio - 1):.0%} {word}")
    else:
        far += NOT_SAID
    if here.ground_lab is not None and there.ground_lab is not None:
        # CIE76 is enough to tell a dark ground from a light one.
        difference_lab = math.dist(here.ground_lab, there.ground_lab)
        far += difference_lab / 50
        words.append("ground of like colour" if difference_lab < 10 else "ground of another colour")
    return far, words


def _brought(
    process: Process, sheet: Sheet, machine: Machine, known: Known
) -> tuple[dict[str, float], tuple[str, ...]] | None:
    """A known setting on this sheet and machine: equal dose, within what the machine can do, and in words how."""
    speed, power = known.settings["speed_mm_s"], known.settings["power_pct"]
    words = []
    if process.passes_through and sheet.thickness_mm and known.sheet.thickness_mm:
        if sheet.thickness_mm != known.sheet.thickness_mm:
            speed *= known.sheet.thickness_mm / sheet.thickness_mm
            words.append("speed by 1/thickness")
        if sheet.name != known.sheet.name and sheet.density_kg_m3 and known.sheet.density_kg_m3:
            speed *= known.sheet.density_kg_m3 / sheet.density_kg_m3
            words.append("speed by 1/density")
    if machine.rated_power_w != known.machine.rated_power_w:
        speed *= machine.rated_power_w / known.machine.rated_power_w
        words.append(f"equal dose with {machine.rated_power_w:g} W instead of {known.machine.rated_power_w:g} W")
    spot, their_spot = machine.head.spot_mm, known.machine.head.spot_mm
    if process.fills and spot and their_spot and spot != their_spot:
        speed *= (their_spot / spot) ** 2
        words.append("by the area of the spot")
    top = machine.of_head("max_speed_mm_s")
    if speed > top:
        # The dose stays: what cannot be had by speed is taken off the power.
        power *= top / speed
        speed = top
        words.append("at the top speed, with less power")
    if not max(machine.firing_floor_pct, 1.0) <= power <= machine.max_power_pct:
        return None
    if not words:
        return dict(known.settings), ("as it is",)
    return {**known.settings, "speed_mm_s": float(f"{speed:.2g}"), "power_pct": float(f"{power:.2g}")}, tuple(words)


def nearest(
    process: Process, sheet: Sheet, machine: Machine, machine_id: int, head_id: int, known: list[Known]
) -> list[Nearest]:
    """Known recipes of the same process, the nearest first.

    Taken are the same material or its family, on sources whose wavelength differs by at most a tenth, where the
    settings brought here lie within what the machine can do.
    """
    found = []
    for one in known:
        if abs(one.machine.wavelength_nm / machine.wavelength_nm - 1) > LIKE_WAVELENGTH:
            continue
        same = one.sheet.name == sheet.name
        if not same and one.sheet.family != sheet.family:
            continue
        far, word = _thickness(sheet, one.sheet)
        reasons = ["same material"] if same else []
        if not same:
            unlike, words = _likeness(sheet, one.sheet)
            far += unlike
            reasons += words
        if word:
            reasons.append(word)
        if one.head_id == head_id:
            reasons.append(f"on {one.head} itself")
        elif one.machine_id == machine_id:
            far += OTHER_HEAD
            reasons.append(f"on {one.head}, another head of the same machine")
        else:
            far += OTHER_MACHINE
            reasons.append(f"on {one.head}, of like wavelength")
        far += BY_STANDING.get(one.standing, 1.0)
        brought = _brought(process, sheet, machine, one)
        if brought is not None:
            found.append(Nearest(one, far, tuple(reasons), *brought))
    return sorted(found, key=lambda neighbour: (neighbour.distance, -neighbour.known.id))
