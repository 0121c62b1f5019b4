"""What is known elsewhere and may say something here: recipes on other sheets and machines, and in words why.

Only sources of like wavelength are compared; between unlike ones only a plate tells.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

from rezept.core.machine import Machine
from rezept.core.process import Process
from rezept.core.thickness import sheet_title

LIKE_WAVELENGTH = 0.1


@dataclass(frozen=True)
class Sheet:
    """A material as far as it can be like another. Hardness 1 to 5, density in kg/m3, ground as CIELAB; kind is which
    alloy, wood or plastic, with its coating (`sheet_facts.alike_by`); said is its thickness as people say it."""

    name: str
    family: str
    thickness_mm: float | None
    density_kg_m3: float | None
    hardness: int | None
    ground_lab: tuple[float, ...] | None
    kind: str = ""
    said: str = ""

    @property
    def title(self) -> str:
        return sheet_title(self.name, self.thickness_mm, self.said)

    def is_named_as(self, other: Sheet) -> bool:
        """Whether it is the same material, of whatever thickness."""
        return (self.name, self.family) == (other.name, other.family)


@dataclass(frozen=True)
class Known:
    """A recipe of one step: its settings, and what they were found on. `head` names the head and its machine."""

    id: int
    standing: str
    settings: Mapping[str, float]
    sheet: Sheet
    machine: Machine
    head: str


def like_wavelength(one: Machine, other: Machine) -> bool:
    """Whether what one source does says anything of the other."""
    return abs(one.wavelength_nm / other.wavelength_nm - 1) <= LIKE_WAVELENGTH


def _thickness(here: Sheet, there: Sheet) -> str | None:
    if here.thickness_mm is None or there.thickness_mm is None:
        return None if here.thickness_mm == there.thickness_mm else "thickness not said"
    if here.thickness_mm == there.thickness_mm:
        return "same thickness"
    return there.said or f"{there.thickness_mm:g} mm thick"


def _likeness(here: Sheet, there: Sheet) -> list[str]:
    """What two materials have in common, by family, hardness, density and colour."""
    words = [
        f"{there.name} is {here.family}, too" if here.family == there.family else f"{there.name} is {there.family}"
    ]
    if here.kind and there.kind:
        words.append("of the same kind" if here.kind == there.kind else f"of another kind: {there.kind}")
    if here.hardness is not None and there.hardness is not None:
        difference = there.hardness - here.hardness
        words.append("as hard" if difference == 0 else "harder" if difference > 0 else "softer")
    if here.density_kg_m3 and there.density_kg_m3:
        ratio = there.density_kg_m3 / here.density_kg_m3
        word = "denser" if ratio > 1 else "lighter"
        words.append("as dense" if abs(ratio - 1) < 0.05 else f"{abs(ratio - 1):.0%} {word}")
    if here.ground_lab is not None and there.ground_lab is not None:
        # CIE76 is enough to tell a dark ground from a light one.
        alike = math.dist(here.ground_lab, there.ground_lab) < 10
        words.append("ground of like colour" if alike else "ground of another colour")
    return words


def why_it_counts(process: Process, sheet: Sheet, machine: Machine, known: Known) -> tuple[str, ...]:
    """In words why a recipe of like wavelength says something of a sheet under a machine."""
    words = ["same material"] if sheet.is_named_as(known.sheet) else _likeness(sheet, known.sheet)
    thickness = _thickness(sheet, known.sheet) if process.passes_through else None
    if thickness is not None:
        words.append(thickness)
    if known.machine.name != machine.name:
        words.append(f"on {known.head}, of like wavelength")
    elif known.machine.head != machine.head:
        words.append(f"on {known.head}, another head of the same machine")
    else:
        words.append(f"on {known.head} itself")
    return tuple(words)
