"""The processes, and what each of them does with a patch."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from rezept.core.errors import InvalidInput

ProcessKey = Literal["cut", "line", "area", "deep", "surface", "photo"]
Toolpath = Literal["outline", "hatch"]


@dataclass(frozen=True)
class Process:
    """One way of working a material.

    `toolpath` tells whether the beam follows the patch's outline or fills it with lines; it also decides
    whether dose is counted along the line (J/mm) or over the area (J/mm2).
    """

    key: str
    name: str
    verb: str
    toolpath: Toolpath

    @property
    def dose_key(self) -> str:
        return "dose_j_mm" if self.toolpath == "outline" else "dose_j_mm2"

    def dose_limit_key(self, end: str) -> str:
        """Key of the least (`floor`) or greatest (`ceiling`) dose of a trial: ``dose_floor_j_mm``."""
        return self.dose_key.replace("dose", f"dose_{end}", 1)

    @property
    def dose_unit(self) -> str:
        return "J/mm" if self.toolpath == "outline" else "J/mm²"

    @property
    def outcome(self) -> str:
        """The score that decides: `through` for cuts, `darkness` for all that stays on the surface."""
        return "through" if self.key == "cut" else "darkness"


PROCESSES: dict[str, Process] = {
    process.key: process
    for process in (
        Process("cut", "Cut", "cut", "outline"),
        Process("line", "Line mark", "draw lines on", "outline"),
        Process("area", "Engrave", "engrave", "hatch"),
        Process("deep", "Deep engrave", "engrave deep into", "hatch"),
        Process("surface", "Surface mark", "mark", "hatch"),
        Process("photo", "Photo engrave", "engrave a photo on", "hatch"),
    )
}


def known_process(key: str) -> None:
    """Raise `InvalidInput` unless there is such a process."""
    if key not in PROCESSES:
        raise InvalidInput(f"A process is one of {', '.join(PROCESSES)}.", "process", key)
