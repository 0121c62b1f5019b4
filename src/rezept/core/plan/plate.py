"""A plate: the planned array, patch by patch, with times, warnings and lettering."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept import __version__
from rezept.core.path.figure import Figure
from rezept.core.plan.drawn import Drawn
from rezept.core.plan.layout import Text
from rezept.core.plan.marks import Mark
from rezept.core.plan.order import Cooling
from rezept.core.plan.trial import Trial

FORMAT = "rezept-plate"
VERSION = 1
LEVELS = ("note", "warning", "refusal")
# The one figure all patches of a plate have, until a plate can have several.
FIGURE = "patch"


@dataclass(frozen=True)
class Warning:
    """Something to know before burning. A refusal keeps the files back until it is resolved."""

    kind: str
    level: str
    sentence: str
    path: str
    value: float | None = None
    limit: float | None = None

    def document(self) -> dict[str, Any]:
        return dict(vars(self))


@dataclass(frozen=True)
class Plate:
    """The plan of a trial, as parallel arrays over its patches in the order of rows.

    ``settings`` holds one ``(n,)`` array for each setting key; ``dose`` is J/mm or J/mm2 by process;
    ``figure`` is what is burned in each of them; ``block`` is None without block axes;
    ``order`` lists indices of the patches that burn, first to last;
    ``corner_rise`` is the dose at a patch's sharpest corner over that on its straights. ``drawn_known`` is False for a
    plate read from a file that does not say how its lettering, marks and cuts were drawn; ``planned_by`` is the
    version of Rezept whose planner made it. ``mixed`` names patches of a plate as it was burned of which no single
    setting says what they got.
    """

    trial: Trial
    width_mm: float
    height_mm: float
    ids: tuple[str, ...]
    row: NDArray[np.int64]
    column: NDArray[np.int64]
    block: NDArray[np.int64] | None
    figure: Figure
    x_mm: NDArray[np.float64]
    y_mm: NDArray[np.float64]
    burn: NDArray[np.bool_]
    settings: dict[str, NDArray[np.float64]]
    dose: NDArray[np.float64]
    seconds: NDArray[np.float64]
    corner_rise: NDArray[np.float64]
    corner_slowing_mm: NDArray[np.float64]
    order: NDArray[np.int64]
    cooling: Cooling
    texts: tuple[Text, ...]
    marks: tuple[Mark, ...]
    hang_hole: tuple[float, float] | None
    drawn: tuple[Drawn, ...]
    label_seconds: float
    travel_seconds: float
    warnings: tuple[Warning, ...]
    patch_warnings: tuple[tuple[Warning, ...], ...]
    planned_by: str = __version__
    drawn_known: bool = True
    mixed: frozenset[str] = frozenset()
    # What was worked out of this very plate, by name; a plate made from it by `replace` begins anew.
    worked_out: dict[Hashable, Any] = field(default_factory=dict, init=False, repr=False, compare=False)

    @property
    def total_seconds(self) -> float:
        return float(self.seconds[self.burn].sum()) + self.label_seconds + self.travel_seconds

    def _hole(self) -> dict[str, float] | None:
        if self.hang_hole is None:
            return None
        x, y = self.hang_hole
        return {"x_mm": x, "y_mm": y, "size_mm": self.trial.cut_out.hang_hole_mm}

    def settings_of(self, index: int) -> dict[str, float]:
        return {key: float(column[index]) for key, column in self.settings.items()}

    def varied(self) -> list[str]:
        """Keys of the settings that differ between patches that burn."""
        return [key for key, column in self.settings.items() if np.ptp(column[self.burn]) > 0]

    def warned(
        self, warnings: tuple[Warning, ...], patch_warnings: tuple[tuple[Warning, ...], ...] | None = None
    ) -> Plate:
        """The same plate with other warnings; what was worked out of it still holds."""
        same = replace(self, warnings=warnings, patch_warnings=patch_warnings or self.patch_warnings)
        same.worked_out.update(self.worked_out)
        return same

    def refusals(self) -> list[Warning]:
        """Everything that must be resolved before there are files."""
        everything = [*self.warnings, *(warning for patch in self.patch_warnings for warning in patch)]
        return [warning for warning in everything if warning.level == "refusal"]

    def ways(self) -> dict[str, Any]:
        """How everything is drawn: what of the document only burning and files need, and screens do not."""
        return {
            "planned_by": self.planned_by,
            "figures": [{"id": FIGURE, "ways": [way.tolist() for way in self.figure.ways]}],
            "drawn": [part.document() for part in self.drawn],
        }

    def document(self) -> dict[str, Any]:
        """The plate as house format `rezept-plate`, version 1: all that is burned."""
        seen = self.seen()
        process = self.trial.process.key
        for patch in seen["patches"]:
            patch["figure"] = FIGURE
            patch["steps"] = [{"process": process, "settings": patch["settings"]}]
        return {**seen, **self.ways()} if self.drawn_known else seen

    def seen(self) -> dict[str, Any]:
        """The plate's document without what is burned where it can be worked out of the rest: for screens."""
        keys = list(self.settings)
        columns = [column.tolist() for column in self.settings.values()]
        dose_key = self.trial.process.dose_key
        width, height = self.trial.patch.width_mm, self.trial.patch.height_mm
        blocks = [None] * len(self.ids) if self.block is None else self.block.tolist()
        overrides = self.trial.overrides
        rows = zip(
            self.ids,
            self.row.tolist(),
            self.column.tolist(),
            blocks,
            self.x_mm.tolist(),
            self.y_mm.tolist(),
            self.burn.tolist(),
            zip(*columns, strict=True),
            self.dose.tolist(),
            self.seconds.tolist(),
            self.corner_rise.tolist(),
            self.corner_slowing_mm.tolist(),
            self.patch_warnings,
            strict=True,
        )
        return {
            "format": FORMAT,
            "version": VERSION,
            "trial": self.trial.document(),
            "plate": {"width_mm": self.width_mm, "height_mm": self.height_mm},
            "hang_hole": self._hole(),
            "marks": [mark.document() for mark in self.marks],
            "patches": [
                {
                    "id": patch,
                    "row": row,
                    "column": column,
                    "block": block,
                    "x_mm": x,
                    "y_mm": y,
                    "width_mm": width,
                    "height_mm": height,
                    "burn": burn,
                    "settings": dict(zip(keys, values, strict=True)),
                    dose_key: dose,
                    "seconds": seconds,
                    "corner_rise": rise,
                    "corner_slowing_mm": slowing,
                    "set_by_hand": list(overrides.get(patch, ())),
                    "warnings": [warning.document() for warning in warnings],
                }
                for patch, row, column, block, x, y, burn, values, dose, seconds, rise, slowing, warnings in rows
            ],
            "order": [self.ids[index] for index in self.order.tolist()],
            "cooling": dict(vars(self.cooling)),
            "seconds": self.total_seconds,
            "label_seconds": self.label_seconds,
            "travel_seconds": self.travel_seconds,
            "warnings": [warning.document() for warning in self.warnings],
        }
