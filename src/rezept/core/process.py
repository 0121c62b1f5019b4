"""The processes, and what follows from each of them: one table.

Whoever needs to know what a process does to a sheet asks a row of it; nobody compares keys.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from rezept.core.errors import InvalidInput

ProcessKey = Literal["cut", "line", "area", "deep", "surface", "layer", "photo"]
ToolpathKey = Literal["outline", "hatch"]
Face = Literal["front", "back"]
FACES: tuple[Face, ...] = ("front", "back")


@dataclass(frozen=True)
class Process:
    """One way of working a material.

    Parameters
    ----------
    verb : "to ... poplar"; doing : "... poplar usually takes"
    toolpath : whether the beam follows the outlines of a figure or fills them with lines; how seconds and dose are
        counted follows from it (`core.path.toolpath`)
    passes_through : whether what it makes goes through the sheet, so that the back shows it, too
    outcome : key of what decides whether an element came out
    harmless_share : a trace is taken to leave nothing below this share of the weakest line dose burned on purpose
    layers : so many layers of an engraving that only darkens does it take away
    order : how a new trial's elements are burned where nobody has said
    offered : whether one can set out to do it; else there is no trial of its kind yet
    """

    key: ProcessKey
    name: str
    verb: str
    doing: str
    toolpath: ToolpathKey
    outcome: str = "darkness"
    passes_through: bool = False
    harmless_share: float = 1 / 3
    layers: float = 1.0
    order: str = "rows"
    offered: bool = True

    @property
    def fills(self) -> bool:
        return self.toolpath == "hatch"

    @property
    def draws_lines(self) -> bool:
        """Whether what it leaves are lines on a sheet that stays whole."""
        return not self.fills and not self.passes_through

    @property
    def takes_away(self) -> bool:
        """Whether it goes down into the material, so that a pass may lie deeper than the one before."""
        return self.passes_through or self.layers > 1

    @property
    def faces(self) -> tuple[Face, ...]:
        """Those that show what came of it."""
        return FACES if self.passes_through else ("front",)

    @property
    def deciding_face(self) -> Face:
        """The face a score belongs to: what passes through is judged by what came out at the back."""
        return self.faces[-1]

    @property
    def dose_key(self) -> str:
        return "dose_j_mm2" if self.fills else "dose_j_mm"

    def dose_limit_key(self, end: str) -> str:
        """Key of the least (`floor`) or greatest (`ceiling`) dose of a trial: ``dose_floor_j_mm``."""
        return self.dose_key.replace("dose", f"dose_{end}", 1)

    @property
    def dose_unit(self) -> str:
        return "J/mm²" if self.fills else "J/mm"


# What takes a plate out of its piece.
CUT = Process(
    "cut",
    "Cut",
    "cut",
    "cutting",
    "outline",
    outcome="through",
    passes_through=True,
    harmless_share=1 / 20,
    order="weakest_first",
)
# What lettering and marks are drawn as.
LINE = Process("line", "Line mark", "draw lines on", "a line on", "outline")
PROCESSES: dict[str, Process] = {
    process.key: process
    for process in (
        CUT,
        LINE,
        Process("area", "Engrave", "engrave", "engraving", "hatch"),
        Process("deep", "Deep engrave", "engrave deep into", "deep engraving", "hatch", layers=10.0),
        Process("surface", "Surface mark", "mark", "marking", "hatch"),
        # Lacquer off metal, the cap off a sheet of two colours: right where it is off and what lies below is whole.
        Process("layer", "Take a layer off", "take a layer off", "taking a layer off", "hatch", outcome="layer"),
        Process("photo", "Photo engrave", "engrave a photo on", "a photo on", "hatch", offered=False),
    )
}


def known_process(key: str) -> None:
    """Raise `InvalidInput` unless there is such a process."""
    if key not in PROCESSES:
        raise InvalidInput(f"A process is one of {', '.join(PROCESSES)}.", "process", key)
