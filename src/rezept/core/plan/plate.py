"""A plate: the planned array, patch by patch, with times, warnings and lettering."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.plan.layout import Text
from rezept.core.plan.trial import Trial

FORMAT = "rezept-plate"
VERSION = 1
LEVELS = ("note", "warning", "refusal")


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
    ``order`` lists indices of the patches that burn, first to last.
    """

    trial: Trial
    width_mm: float
    height_mm: float
    ids: tuple[str, ...]
    row: NDArray[np.int64]
    column: NDArray[np.int64]
    x_mm: NDArray[np.float64]
    y_mm: NDArray[np.float64]
    burn: NDArray[np.bool_]
    settings: dict[str, NDArray[np.float64]]
    dose: NDArray[np.float64]
    seconds: NDArray[np.float64]
    order: NDArray[np.int64]
    texts: tuple[Text, ...]
    label_seconds: float
    travel_seconds: float
    warnings: tuple[Warning, ...]
    patch_warnings: tuple[tuple[Warning, ...], ...]

    @property
    def total_seconds(self) -> float:
        return float(self.seconds[self.burn].sum()) + self.label_seconds + self.travel_seconds

    def settings_of(self, index: int) -> dict[str, float]:
        return {key: float(column[index]) for key, column in self.settings.items()}

    def refusals(self) -> list[Warning]:
        """Everything that must be resolved before there are files."""
        everything = [*self.warnings, *(warning for patch in self.patch_warnings for warning in patch)]
        return [warning for warning in everything if warning.level == "refusal"]

    def document(self) -> dict[str, Any]:
        """The plate as house format `rezept-plate`, version 1."""
        keys = list(self.settings)
        columns = [column.tolist() for column in self.settings.values()]
        dose_key = self.trial.process.dose_key
        width, height = self.trial.patch.width_mm, self.trial.patch.height_mm
        rows = zip(
            self.ids,
            self.row.tolist(),
            self.column.tolist(),
            self.x_mm.tolist(),
            self.y_mm.tolist(),
            self.burn.tolist(),
            zip(*columns, strict=True),
            self.dose.tolist(),
            self.seconds.tolist(),
            self.patch_warnings,
            strict=True,
        )
        return {
            "format": FORMAT,
            "version": VERSION,
            "trial": self.trial.document(),
            "plate": {"width_mm": self.width_mm, "height_mm": self.height_mm},
            "marks": [],
            "patches": [
                {
                    "id": patch,
                    "row": row,
                    "column": column,
                    "block": None,
                    "x_mm": x,
                    "y_mm": y,
                    "width_mm": width,
                    "height_mm": height,
                    "burn": burn,
                    "settings": dict(zip(keys, values, strict=True)),
                    dose_key: dose,
                    "seconds": seconds,
                    "warnings": [warning.document() for warning in warnings],
                }
                for patch, row, column, x, y, burn, values, dose, seconds, warnings in rows
            ],
            "order": [self.ids[index] for index in self.order.tolist()],
            "seconds": self.total_seconds,
            "label_seconds": self.label_seconds,
            "travel_seconds": self.travel_seconds,
            "warnings": [warning.document() for warning in self.warnings],
        }
