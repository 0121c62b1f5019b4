"""A sheet under the head: what the controller did to it, and photographs of that."""

from __future__ import annotations

from dataclasses import dataclass, replace

from rezept.bench.camera import Photograph, Shot, photograph
from rezept.bench.controller import Controller, Setup
from rezept.bench.energy import Grid, Source, sampled
from rezept.bench.material import Burned, Sheet, burn
from rezept.bench.motion import Stretch

AROUND_MM = 8.0
STEP_SHARE = 0.5


@dataclass(frozen=True)
class Still:
    """What a controller has done so far, while it goes on."""

    setup: Setup
    stretches: list[Stretch]


@dataclass
class Bed:
    """One machine's bed. `piece_mm` is the size of the sheet, `zero_mm` where on it the program's zero lies."""

    controller: Controller | Still
    source: Source
    sheet: Sheet | None = None
    piece_mm: tuple[float, float] = (100.0, 100.0)
    zero_mm: tuple[float, float] = (0.0, 0.0)

    def lay(self, sheet: Sheet, piece_mm: tuple[float, float], zero_mm: tuple[float, float] | None = None) -> None:
        """A fresh sheet: nothing of what was burned before is on it. Where nobody says otherwise, zero is its lower
        left on a gantry, and its middle on a galvo."""
        self.controller.stretches.clear()
        if zero_mm is None:
            zero_mm = (piece_mm[0] / 2, piece_mm[1] / 2) if self.controller.setup.mechanics.galvo else (0.0, 0.0)
        self.sheet, self.piece_mm, self.zero_mm = sheet, piece_mm, zero_mm

    def as_it_is(self) -> Bed:
        """The bed at this moment, to be photographed while the next sheet is laid."""
        return replace(self, controller=Still(self.controller.setup, list(self.controller.stretches)))

    def _box(self) -> tuple[tuple[float, float], tuple[float, float]]:
        """What is worth a photograph: what was burned and some ground around it, as far as the sheet goes."""
        width, height = self.piece_mm
        low = (-self.zero_mm[0], -self.zero_mm[1])
        high = (low[0] + width, low[1] + height)
        lit = [stretch for stretch in self.controller.stretches if stretch.beam > 0]
        if not lit:
            return low, high
        ends = [stretch.start for stretch in lit] + [stretch.end for stretch in lit]
        first = [max(low[i], min(end[i] for end in ends) - AROUND_MM) for i in (0, 1)]
        last = [min(high[i], max(end[i] for end in ends) + AROUND_MM) for i in (0, 1)]
        return (first[0], first[1]), (last[0], last[1])

    def burned(self, finest_mm: float = 0.05) -> Burned:
        """The sheet as it is now."""
        assert self.sheet is not None
        grid = Grid.over(*self._box(), finest_mm=finest_mm)
        samples = sampled(self.controller.stretches, self.source, STEP_SHARE * grid.cell_mm)
        return burn(self.sheet, samples, self.source, grid)

    def photographs(self, faces: tuple[str, ...], shot: Shot) -> list[Photograph]:
        """One of each face, each taken anew."""
        now = self.burned()
        rows, columns = now.grid.shape
        if (rows > columns) != (shot.size[1] > shot.size[0]):
            # Whoever takes it turns the phone as the sheet lies.
            shot = replace(shot, size=(shot.size[1], shot.size[0]))
        return [photograph(now, face, replace(shot, seed=shot.seed + i)) for i, face in enumerate(faces)]
