"""Where everything lies on the plate: patches, axis values, title, code, marks, hang hole.

The plate's origin is its lower left, y up. From the left edge come the row values, then the blocks of patches;
below the patches the column values, below these the axis titles; above the patches the title lines, with the code to
their right. A block carries its own values in a line above it, a patch of a wrapped ladder its value in a line below,
one of a list its own settings: beside one another where there is room, else in a line each.
Marks stand in the four corners, where the bands above and below the patches leave room for them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.lettering import Polyline, text_points, text_width, wrapped
from rezept.core.plan.marks import CORNER_MARK_MM, QR_SIDE, Mark, module_mm
from rezept.core.plan.plate_words import (
    axis_words,
    block_words,
    heading_words,
    patch_words,
    shortened,
    shortest,
    step_words,
    title_words,
)
from rezept.core.plan.trial import Trial

EDGE_MM = 2.0
LEADING = 1.7  # line distance over letter height
NARROWEST_TITLE_MM = 45.0
ROOM_MM = 1.0  # bare ground around marks and code


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
    """Footprint of the plate, lower left of every patch ``(n,)``, lettering, marks, and the hole to hang it by."""

    width_mm: float
    height_mm: float
    x_mm: NDArray[np.float64]
    y_mm: NDArray[np.float64]
    texts: tuple[Text, ...]
    marks: tuple[Mark, ...]
    hang_hole: tuple[float, float] | None
    unlabelled: int = 0


@dataclass(frozen=True)
class Steps:
    """The values along one axis as there is room for them: texts by step (None: left out), each on a line from 0 on;
    `lines` of them lie beside one another."""

    texts: tuple[str | None, ...]
    line: tuple[int, ...]
    lines: int

    @property
    def left_out(self) -> int:
        return self.texts.count(None)


APART = 0.5  # bare ground between two values, in letter heights


def steps_across(words: list[str], pitch: float, height: float) -> Steps:
    """Values below columns: as they are, else shortened, else in two lines by turns, else only every so many."""

    def widest(some: list[str]) -> float:
        return max((text_width(text, height) for text in some), default=0.0) + APART * height

    for some in (words, shortened(words)):
        if widest(some) <= pitch:
            return Steps(tuple(some), (0,) * len(some), 1)
    short = shortened(words)
    if widest(short) <= 2 * pitch:
        return Steps(tuple(short), tuple(i % 2 for i in range(len(short))), 2)
    every = int(np.ceil(widest(short) / (2 * pitch)))
    shown = [text if i % every == 0 else None for i, text in enumerate(short)]
    return Steps(tuple(shown), tuple((i // every) % 2 for i in range(len(short))), 2)


def steps_up(words: list[str], pitch: float, height: float) -> Steps:
    """Values beside rows: all, or only every so many where they would touch."""
    every = max(1, int(np.ceil(1.2 * height / pitch)))
    shown = [text if i % every == 0 else None for i, text in enumerate(words)]
    return Steps(tuple(shown), (0,) * len(words), 1)


@dataclass(frozen=True)
class _Frame:
    """The patches relative to the lower left of all blocks, and how much room they take.

    captions : by patch the lines that stand below it
    caption : room below every patch for them
    head : room above every block for its values
    """

    x: NDArray[np.float64]
    y: NDArray[np.float64]
    block_x: NDArray[np.float64]
    block_y: NDArray[np.float64]
    width: float
    height: float
    captions: list[list[str]]
    caption: float
    inner_height: float


def _captions(trial: Trial) -> list[list[str]]:
    words, pitch = patch_words(trial), trial.patch.width_mm + trial.patch.gap_mm
    height = trial.labels.height_mm
    joined = [["  ".join(one)] for one in words]
    widest = max((text_width(one, height) for [one] in joined), default=0.0) + APART * height
    return joined if widest <= pitch else words


def _frame(trial: Trial, line: float) -> _Frame:
    patch, grid = trial.patch, trial.grid
    captions = _captions(trial)
    caption = line * max((len(lines) for lines in captions), default=0)
    head = line if grid.blocks is not None else 0.0
    step_x, step_y = patch.width_mm + patch.gap_mm, patch.height_mm + patch.gap_mm + caption
    width, height = grid.inner.columns * step_x - patch.gap_mm, grid.inner.rows * step_y - patch.gap_mm
    if grid.blocks is None:
        across, up, count_x, count_y = np.zeros(1, np.int64), np.zeros(1, np.int64), 1, 1
    else:
        across, up = grid.blocks.column, grid.blocks.row
        count_x, count_y = grid.blocks.columns, grid.blocks.rows
    widest = max((text_width(text, trial.labels.height_mm) for text in block_words(trial)), default=0.0)
    pitch_x = max(width, widest if trial.labels.numbers else 0.0) + patch.block_gap_mm
    pitch_y = height + head + patch.block_gap_mm
    block_x, block_y = np.asarray(across * pitch_x, np.float64), np.asarray(up * pitch_y, np.float64)
    return _Frame(
        x=block_x[grid.block] + grid.column * step_x,
        y=block_y[grid.block] + grid.row * step_y + caption,
        block_x=block_x,
        block_y=block_y,
        width=count_x * pitch_x - patch.block_gap_mm,
        height=count_y * pitch_y - patch.block_gap_mm,
        captions=captions,
        caption=caption,
        inner_height=height,
    )


def _patch_texts(trial: Trial, frame: _Frame, left: float, bottom: float, rows: Steps, columns: Steps) -> list[Text]:
    """Values beside rows, below columns, above blocks, below the patches of a wrapped ladder."""
    height, patch = trial.labels.height_mm, trial.patch
    line, texts = height * LEADING, []

    def centred(kind: str, text: str, middle: float, y: float) -> Text:
        return Text(kind, text, middle - text_width(text, height) / 2, y, height)

    for y in np.unique(frame.block_y).tolist():
        for i, text in enumerate(rows.texts):
            if text is None:
                continue
            middle = bottom + y + i * (patch.height_mm + patch.gap_mm) + patch.height_mm / 2
            texts.append(Text("row", text, left - height * 0.6 - text_width(text, height), middle - height / 2, height))
    for x in np.unique(frame.block_x).tolist():
        for i, (text, below) in enumerate(zip(columns.texts, columns.line, strict=True)):
            middle = left + x + i * (patch.width_mm + patch.gap_mm) + patch.width_mm / 2
            if text is not None:
                texts.append(centred("column", text, middle, bottom - line * (1 + below) + 0.25 * height))
    for text, x, y in zip(block_words(trial), frame.block_x.tolist(), frame.block_y.tolist(), strict=False):
        texts.append(Text("block", text, left + x, bottom + y + frame.inner_height + 0.45 * height, height))
    for i, lines in enumerate(frame.captions if frame.caption else []):
        middle = left + float(frame.x[i]) + patch.width_mm / 2
        y = bottom + float(frame.y[i]) + 0.35 * height
        texts += [centred("column", text, middle, y - line * (1 + below)) for below, text in enumerate(lines)]
    return texts


def _marks(trial: Trial, width: float, height: float) -> list[Mark]:
    """Four corner marks, the lower left one distinct."""
    inset = EDGE_MM + CORNER_MARK_MM / 2
    return [
        Mark("distinct" if i == 0 else "corner", x, y, CORNER_MARK_MM)
        for i, (x, y) in enumerate(
            [(inset, inset), (width - inset, inset), (width - inset, height - inset), (inset, height - inset)]
        )
    ]


def lay_out(trial: Trial, crowded: bool = False) -> Layout:
    """Places of everything on the plate, `crowded` as in `_lay_out_array`; what was burned beside it moves nothing of
    that."""
    layout = _lay_out_array(trial, crowded)
    if trial.added is not None:
        layout = _with_added(trial, layout)
    return layout


def _with_added(trial: Trial, layout: Layout) -> Layout:
    assert trial.added is not None
    patch, (row, column) = trial.patch, trial.added.cells()
    step_x, step_y = pitch_beside(trial)
    if trial.added.side == "right":
        x0, y0 = float(layout.x_mm.max()) + step_x, float(layout.y_mm.min())
    else:
        x0, y0 = float(layout.x_mm.min()), layout.height_mm - EDGE_MM + patch.gap_mm
    x, y = x0 + column * step_x, y0 + row * step_y
    return replace(
        layout,
        width_mm=max(layout.width_mm, float(x.max()) + patch.width_mm + EDGE_MM),
        height_mm=max(layout.height_mm, float(y.max()) + patch.height_mm + EDGE_MM),
        x_mm=np.concatenate([layout.x_mm, x]),
        y_mm=np.concatenate([layout.y_mm, y]),
    )


# Smaller letters are hardly read on what one holds in the fingers; so much of a part stays bare around them.
SMALLEST_ID_MM = 1.0
BARE_RIM_MM = 1.0


def id_texts(trial: Trial, ids: Sequence[str], boxes: NDArray[np.float64]) -> list[Text]:
    """The plate's number and below it a patch's own name, in the middle of each of these boxes ``(n, 4)``, as large as
    labels are or as there is room; the name alone where there is none for both, and nothing where there is none for
    that."""
    number = "" if trial.code is None else trial.code.rpartition("-")[2].partition(".")[0]
    texts = []
    for name, (x, y, width, height) in zip(ids, boxes.tolist(), strict=True):
        # Of a disc, or a coupon with a tongue, the middle of the box is sure to be inside.
        room = np.array([width, height]) * (1.0 if trial.patch.shape == "rectangle" else 0.7) - 2 * BARE_RIM_MM
        for lines in ([number, name], [name]) if number else ([name],):
            widest = max(text_width(line, 1.0) for line in lines)
            tall = 1.0 + (len(lines) - 1) * LEADING
            letters = min(trial.labels.height_mm, float(room[0]) / widest, float(room[1]) / tall)
            if letters >= SMALLEST_ID_MM:
                top = y + height / 2 + tall * letters / 2 - letters
                texts += [
                    Text("id", line, x + (width - text_width(line, letters)) / 2, top - i * LEADING * letters, letters)
                    for i, line in enumerate(lines)
                ]
                break
    return texts


def pitch_beside(trial: Trial) -> tuple[float, float]:
    """How far patches burned beside a plate lie from one another, across and up: as those of the plate do."""
    patch, caption = trial.patch, _frame(trial, _number_line(trial)).caption
    return patch.width_mm + patch.gap_mm, patch.height_mm + patch.gap_mm + caption


def _number_line(trial: Trial) -> float:
    """Room for a line of numbers, mm."""
    return trial.labels.height_mm * LEADING if trial.labels.numbers else 0.0


def _lay_out_array(trial: Trial, crowded: bool) -> Layout:
    """Places of patches, lettering, code, marks and hang hole; see the module for the arrangement.

    crowded : every word and value stands, whether they touch or not, as plates were lettered at first
    """
    labels = trial.labels
    height = labels.height_mm
    patch = trial.patch
    line = height * LEADING if labels.lettered else 0.0
    frame = _frame(trial, _number_line(trial))
    corner = CORNER_MARK_MM + ROOM_MM if labels.marks else 0.0
    code_mm = QR_SIDE * module_mm(trial.machine) if labels.qr else 0.0
    hole = trial.cut_out.hang_hole_mm
    hole_room = hole + 2 * ROOM_MM if hole else 0.0

    up, across = (step_words(trial, along) if labels.numbers else [] for along in ("y", "x"))
    if crowded:
        rows, columns = (Steps(tuple(words), (0,) * len(words), 1) for words in (up, across))
    else:
        rows = steps_up(up, patch.height_mm + patch.gap_mm, height)
        columns = steps_across(across, patch.width_mm + patch.gap_mm, height)
    row_width = max((text_width(text, height) for text in rows.texts if text is not None), default=0.0)
    left = EDGE_MM + (row_width + height * 0.6 if rows.texts else 0.0)
    inside = left + frame.width - EDGE_MM
    room = max(inside - 2 * corner, NARROWEST_TITLE_MM)
    named = labels.numbers and (crowded or not shortest(trial))
    axis_lines = wrapped(axis_words(trial), height, room) if named else []
    title_room = max(inside - 2 * corner - code_mm - hole_room, NARROWEST_TITLE_MM)
    heading = title_words(trial) if crowded and labels.heading else heading_words(trial)
    title_lines = wrapped(heading, height, title_room)

    column_line = line * columns.lines if columns.texts else 0.0
    bottom = EDGE_MM + max(len(axis_lines) * line + column_line, corner)
    top = bottom + frame.height
    band = max(len(title_lines) * line, code_mm + (ROOM_MM if labels.qr else 0.0), corner, hole_room)
    title_width = max((text_width(text, height) for text in title_lines), default=0.0)
    axis_width = max((text_width(text, height) for text in axis_lines), default=0.0)
    upper = title_width + code_mm + hole_room + (2 * ROOM_MM if labels.qr else 0.0)
    width = max(left + frame.width, EDGE_MM + 2 * corner + max(upper, axis_width)) + EDGE_MM
    whole_height = top + band + EDGE_MM

    texts: list[Text] = []
    if labels.lettered:
        texts += [
            Text("axis", text, EDGE_MM + corner, EDGE_MM + (len(axis_lines) - 1 - i) * line + 0.25 * height, height)
            for i, text in enumerate(axis_lines)
        ]
        if labels.numbers:
            texts += _patch_texts(trial, frame, left, bottom, rows, columns)
        texts += [
            Text("title", text, EDGE_MM + corner, top + (len(title_lines) - 1 - i) * line + 0.7 * height, height)
            for i, text in enumerate(title_lines)
        ]
    marks = _marks(trial, width, whole_height) if labels.marks else []
    right = width - EDGE_MM - corner
    if labels.qr:
        marks.append(Mark("qr", right - code_mm / 2, whole_height - EDGE_MM - code_mm / 2, code_mm))
        right -= code_mm
    # Off the middle, on the right: seen from the back it lies on the left.
    hang = (right - ROOM_MM - hole / 2, whole_height - EDGE_MM - ROOM_MM - hole / 2) if hole else None
    unlabelled = rows.left_out + columns.left_out
    return Layout(width, whole_height, frame.x + left, frame.y + bottom, tuple(texts), tuple(marks), hang, unlabelled)
