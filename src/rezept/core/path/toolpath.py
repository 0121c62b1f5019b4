"""How the beam goes in a figure, and what follows from it: dose, time, reach and moves.

A process names its toolpath, and everything that depends on it is asked of one of these; nobody else distinguishes
them. All figures are in mm from the lower left of the element's box; settings are columns ``(n,)`` over elements.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from rezept.core.machine import Machine
from rezept.core.parameters import Settings
from rezept.core.path.figure import Figure
from rezept.core.path.filled import Filled
from rezept.core.path.hatch import LineCount
from rezept.core.path.outlined import Outlined
from rezept.core.process import Process, ToolpathKey

Floats = NDArray[np.float64]


class Toolpath(Protocol):
    def dose(self, power_w: Floats, settings: Settings) -> Floats:
        """``(n,)`` J/mm along lines, J/mm2 over areas."""
        ...

    def lines(self, figure: Figure, settings: Settings) -> LineCount:
        """How many lines the elements take, all passes, without making one of them."""
        ...

    def seconds(self, machine: Machine, figure: Figure, settings: Settings) -> Floats:
        """``(n,)`` time in s that each element burns, all passes, with the moves inside it."""
        ...

    def corner_heat(
        self, machine: Machine, figure: Figure, settings: Settings, spot_mm: float
    ) -> tuple[Floats, Floats]:
        """``(n,)`` rise of dose at the sharpest corner, and how far before it the head slows, mm."""
        ...

    def entry_and_exit(self, figure: Figure, settings: Settings) -> tuple[Floats, Floats]:
        """``(n, 2)`` offsets where the burn of each element begins and ends."""
        ...

    def reach(self, machine: Machine, figure: Figure, settings: Settings, turn: Floats) -> tuple[Floats, Floats]:
        """``(n, 2)`` lowest and highest of all moves, run-ups included, after ``points @ turn``."""
        ...

    def moves(
        self, machine: Machine, figure: Figure, settings: Mapping[str, float]
    ) -> tuple[tuple[Floats, ...], Floats]:
        """Of one element: polylines followed one after the other, passes included, and hatch lines ``(N, 4, 2)``:
        run-up start, line start, line end, run-out end."""
        ...


TOOLPATHS: Mapping[ToolpathKey, Toolpath] = {"outline": Outlined(), "hatch": Filled()}


def toolpath_of(process: Process) -> Toolpath:
    return TOOLPATHS[process.toolpath]
