"""Where everything lies on the plate: patches, axis values, title.

The plate's origin is its lower left, y up. From the left edge come the row values, then the patches; below
the patches the column values, below these the axis titles; above the patches the title lines.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.parameters import PARAMETERS
from rezept.core.plan.lettering import Polyline, text_points, text_width, wrapped
from rezept.core.plan.trial import Trial

EDGE_MM = 2.0
LEADING = 1.7  # line distance over letter height
NARROWEST_TITLE_MM = 45.0


@dataclass(frozen=True)
class Text:
    """A line of lettering, its baseline starting at (x, y) on the plate."""

    kind: str
    text: str
    x_mm: float
    y_mm: float
    height_mm: float

    def points(self) -> tuple[Polyline, NDArray[np.bool_]]:
        return text_points(self.text, self.height_mm, self.x_mm, self.y_mm)

    def strokes(self) -> list[Polyline]:
        """One polyline ``(n, 2)`` for each stroke, mm on the plate."""
        points, begins = self.points()
        return np.split(points, np.flatnonzero(begins)[1:])


@dataclass(frozen=True)
class Layout:
    """Footprint of the plate, left edges of columns, lower edges of rows, and the lettering."""

    width_mm: float
    height_mm: float
    column_x_mm: NDArray[np.float64]
    row_y_mm: NDArray[np.float64]
    texts: tuple[Text, ...]


def axis_title(key: str) -> str:
    row = PARAMETERS[key]
    return f"{row.name} {row.unit}".strip()


def held_words(trial: Trial) -> list[str]:
    """The held settings that tell two plates apart, as short words."""
    words = []
    for key, value in trial.hold.items():
        row = PARAMETERS[key]
        if key in ("hatch_angle_deg", "hatch_turn_deg", "focus_offset_mm") and value == 0:
            continue
        amount = f"{value:.4g}{row.unit}" if row.unit in ("%", "") else f"{value:.4g} {row.unit}"
        if key == "passes":
            words.append("1 pass" if value == 1 else f"{value:g} passes")
        elif key == "air_level":
            words.append("air " + ("off", "on", "high")[int(value)])
        else:
            words.append(f"{row.name} {amount}")
    return words


def title_words(trial: Trial) -> list[str]:
    """What the plate says of itself, in pieces that stay together."""
    machine = trial.machine
    head = machine.head.name
    words = [trial.code or "", trial.title, trial.material.title, trial.process.name]
    words += [f"{machine.name} {head}".strip(), *held_words(trial), trial.date or ""]
    return [word for word in words if word]


def lay_out(trial: Trial) -> Layout:
    """Places of patches and lettering; see the module for the arrangement."""
    patch, labels = trial.patch, trial.labels
    grid_width = trial.columns * (patch.width_mm + patch.gap_mm) - patch.gap_mm
    grid_height = trial.rows * (patch.height_mm + patch.gap_mm) - patch.gap_mm
    columns = np.arange(trial.columns, dtype=np.float64) * (patch.width_mm + patch.gap_mm)
    rows = np.arange(trial.rows, dtype=np.float64) * (patch.height_mm + patch.gap_mm)
    if not labels.on:
        return Layout(grid_width + 2 * EDGE_MM, grid_height + 2 * EDGE_MM, columns + EDGE_MM, rows + EDGE_MM, ())

    height = labels.height_mm
    line = height * LEADING
    x_axis, y_axis = trial.axis("x"), trial.axis("y")
    row_texts = [f"{value:.4g}" for value in y_axis.values] if y_axis else []
    column_texts = [f"{value:.4g}" for value in x_axis.values] if x_axis else []
    row_widths = [text_width(text, height) for text in row_texts]
    left = EDGE_MM + (max(row_widths) + height * 0.6 if row_texts else 0.0)
    axis_words = [axis_title(x_axis.parameter) + " >"] if x_axis else []
    axis_words += [axis_title(y_axis.parameter) + " ^"] if y_axis else []
    text_room = max(left + grid_width - EDGE_MM, NARROWEST_TITLE_MM)
    axis_lines = wrapped(axis_words, height, text_room)
    title_lines = wrapped(title_words(trial), height, text_room)

    bottom = EDGE_MM + len(axis_lines) * line + (line if column_texts else 0.0)
    top = bottom + grid_height
    texts = [
        Text("axis", text, EDGE_MM, EDGE_MM + (len(axis_lines) - 1 - i) * line + 0.25 * height, height)
        for i, text in enumerate(axis_lines)
    ]
    for x, text in zip(columns, column_texts, strict=True) if column_texts else ():
        middle = left + x + patch.width_mm / 2
        texts.append(Text("column", text, middle - text_width(text, height) / 2, bottom - line + 0.25 * height, height))
    for y, text, width in zip(rows, row_texts, row_widths, strict=True) if row_texts else ():
        middle = bottom + y + patch.height_mm / 2
        texts.append(Text("row", text, left - height * 0.6 - width, middle - height / 2, height))
    texts += [
        Text("title", text, EDGE_MM, top + (len(title_lines) - 1 - i) * line + 0.7 * height, height)
        for i, text in enumerate(title_lines)
    ]
    widest = max(text_width(text, height) for text in [*axis_lines, *title_lines])
    width = max(left + grid_width, EDGE_MM + widest) + EDGE_MM
    return Layout(width, top + len(title_lines) * line + EDGE_MM, columns + left, rows + bottom, tuple(texts))
