"""Filling a figure, and then following its outlines with the same settings."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from rezept.core.machine import Machine
from rezept.core.parameters import Settings
from rezept.core.path.figure import Figure
from rezept.core.path.filled import Filled
from rezept.core.path.hatch import LineCount
from rezept.core.path.motion import travel_seconds
from rezept.core.path.outlined import Outlined

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class FilledAndOutlined:
    """All passes of the filling, then all passes of the outlines. The dose is that of the filling: what the outline
    adds lies on its rim."""

    fill: Filled = field(default_factory=Filled)
    outline: Outlined = field(default_factory=Outlined)

    def dose(self, power_w: Floats, settings: Settings) -> Floats:
        return self.fill.dose(power_w, settings)

    def lines(self, figure: Figure, settings: Settings) -> LineCount:
        filled, outlined = self.fill.lines(figure, settings), self.outline.lines(figure, settings)
        return LineCount(filled.lines + outlined.lines, filled.kinds, filled.way_out, filled.path)

    def seconds(self, machine: Machine, figure: Figure, settings: Settings) -> Floats:
        between = self.outline.entry_and_exit(figure, settings)[0] - self.fill.entry_and_exit(figure, settings)[1]
        hop = travel_seconds(machine, np.linalg.norm(between, axis=1))
        return self.fill.seconds(machine, figure, settings) + hop + self.outline.seconds(machine, figure, settings)

    def corner_heat(
        self, machine: Machine, figure: Figure, settings: Settings, spot_mm: float
    ) -> tuple[Floats, Floats]:
        return self.outline.corner_heat(machine, figure, settings, spot_mm)

    def entry_and_exit(self, figure: Figure, settings: Settings) -> tuple[Floats, Floats]:
        return self.fill.entry_and_exit(figure, settings)[0], self.outline.entry_and_exit(figure, settings)[1]

    def reach(self, machine: Machine, figure: Figure, settings: Settings, turn: Floats) -> tuple[Floats, Floats]:
        filled = self.fill.reach(machine, figure, settings, turn)
        outlined = self.outline.reach(machine, figure, settings, turn)
        return np.minimum(filled[0], outlined[0]), np.maximum(filled[1], outlined[1])

    def moves(
        self, machine: Machine, figure: Figure, settings: Mapping[str, float]
    ) -> tuple[tuple[Floats, ...], Floats]:
        """Where a stretch has both, its hatch lines are burned first."""
        return self.outline.moves(machine, figure, settings)[0], self.fill.moves(machine, figure, settings)[1]
