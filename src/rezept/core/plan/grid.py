"""Which patches an array has: their names, their places in rows, columns and blocks, their step on every axis."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.plan.axes import Axis

Indices = NDArray[np.int64]


@dataclass(frozen=True)
class Lattice:
    """Steps of one or two axes laid out in lines: ``(n,)`` arrays over the cells, line by line from the bottom.

    step : for each axis, the index of its value in every cell
    """

    row: Indices
    column: Indices
    step: dict[str, Indices]

    @property
    def rows(self) -> int:
        return int(self.row.max()) + 1

    @property
    def columns(self) -> int:
        return int(self.column.max()) + 1

    def __len__(self) -> int:
        return len(self.row)


@dataclass(frozen=True)
class Grid:
    """All patches of an array, block by block, within a block row by row from the bottom.

    Arrays ``(n,)`` count from 0. `blocks` is the lattice of the blocks themselves, None without block axes.
    """

    ids: tuple[str, ...]
    row: Indices
    column: Indices
    block: Indices
    step: dict[str, Indices]
    inner: Lattice
    blocks: Lattice | None

    def __len__(self) -> int:
        return len(self.row)

    @property
    def line(self) -> Indices:
        """Row of each patch counted over the whole plate, block upon block."""
        if self.blocks is None:
            return self.row
        return self.blocks.row[self.block] * self.inner.rows + self.row

    @property
    def place(self) -> Indices:
        """Column of each patch counted over the whole plate, block beside block."""
        if self.blocks is None:
            return self.column
        return self.blocks.column[self.block] * self.inner.columns + self.column


def row_letters(row: int) -> str:
    """Letter of a row counted from 1: A to Z, then AA, AB and so on."""
    letters = ""
    while row > 0:
        row, rest = divmod(row - 1, 26)
        letters = chr(ord("A") + rest) + letters
    return letters


def _lattice(across: Axis | None, up: Axis | None) -> Lattice:
    """One axis from left to right, one upward; a wrapped one alone fills line after line."""
    if across is not None and across.wrap is not None:
        index = np.arange(len(across.values))
        return Lattice(index // across.across, index % across.across, {across.along: index})
    columns = len(across.values) if across else 1
    rows = len(up.values) if up else 1
    row, column = (index.ravel() for index in np.indices((rows, columns)))
    step = {axis.along: index for axis, index in ((across, column), (up, row)) if axis is not None}
    return Lattice(row, column, step)


REPEAT = "repeat"


def _repeated(blocks: Lattice | None, repeats: int) -> Lattice:
    """Blocks over and over, those of each time above those before; without any each time is a block to the right."""
    again = np.arange(repeats)
    if blocks is None:
        return Lattice(np.zeros(repeats, np.int64), again, {REPEAT: again})
    times = np.repeat(again, len(blocks))
    return Lattice(
        np.tile(blocks.row, repeats) + times * blocks.rows,
        np.tile(blocks.column, repeats),
        {**{key: np.tile(index, repeats) for key, index in blocks.step.items()}, REPEAT: times},
    )


def grid_of(axes: Sequence[Axis], repeats: int = 1) -> Grid:
    """The patches of an array with these axes, all of it so many times; those along one direction have equally many
    values."""
    along = {axis.along: axis for axis in axes}
    inner = _lattice(along.get("x"), along.get("y"))
    names = [
        f"{row_letters(row + 1)}{column + 1}"
        for row, column in zip(inner.row.tolist(), inner.column.tolist(), strict=True)
    ]
    has_blocks = "block_x" in along or "block_y" in along
    if not has_blocks and repeats == 1:
        nothing = np.zeros(len(inner), np.int64)
        return Grid(tuple(names), inner.row, inner.column, nothing, inner.step, inner, None)
    blocks = _lattice(along.get("block_x"), along.get("block_y")) if has_blocks else None
    if blocks is None or repeats > 1:
        blocks = _repeated(blocks, repeats)
    block = np.repeat(np.arange(len(blocks)), len(inner))
    step = {key: np.tile(index, len(blocks)) for key, index in inner.step.items()}
    step |= {key: index[block] for key, index in blocks.step.items()}
    return Grid(
        tuple(f"{number + 1}-{name}" for number in range(len(blocks)) for name in names),
        np.tile(inner.row, len(blocks)),
        np.tile(inner.column, len(blocks)),
        block,
        step,
        inner,
        blocks,
    )


def grid_of_list(count: int, wrap: int) -> Grid:
    """Patches that lie one after another, so many in a line, the next line above it."""
    index = np.arange(count)
    row, column = index // wrap, index % wrap
    names = tuple(
        f"{row_letters(up + 1)}{across + 1}" for up, across in zip(row.tolist(), column.tolist(), strict=True)
    )
    return Grid(names, row, column, np.zeros(count, np.int64), {}, Lattice(row, column, {}), None)
