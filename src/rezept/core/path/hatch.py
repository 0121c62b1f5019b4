"""Filling a patch with parallel lines.

With ``H`` the extent of the shape across the lines and ``N`` lines, the true spacing is ``H / N`` and line k lies
``(k + 1/2) H / N`` from the lowest point across. At 0 degrees the lines run along x, bottom first; the angle turns
them counter-clockwise. Two-way every second line runs backward; one-way all of them run forward.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.kept import kept
from rezept.core.path.figure import Figure

Floats = NDArray[np.float64]
# Lines of one plate, all patches and passes: what a machine burns in some days, and a server makes in a second.
MOST_LINES = 1_000_000
# Each way to fill a figure is worked out by itself; so many take a second.
MOST_HATCHES = 600
# A burn without hatch lines: run-up start, line start, line end, run-out end of none.
NO_LINES = np.zeros((0, 4, 2))


@dataclass(frozen=True)
class LineCount:
    """How much there is to draw. `kinds`: different ways to fill; `way_out`: what makes it less, at `path`."""

    lines: int
    kinds: int
    way_out: str
    path: str


def line_count(extent_mm: float, spacing_mm: float) -> int:
    """How many lines fill `extent_mm` across them: ``max(1, round(extent / spacing))``."""
    return max(1, round(extent_mm / spacing_mm))


def directions(angle_deg: float) -> tuple[Floats, Floats]:
    """Unit vectors along the lines and across them; cos(90 deg) is 6e-17, and what should be an axis is made one."""
    angle = np.deg2rad(angle_deg)
    along = np.array([np.cos(angle), np.sin(angle)])
    along[np.abs(along) < 1e-12] = 0.0
    across = np.array([-along[1], along[0]]) + 0.0
    return along, across


def _crossings(low: Floats, high: Floats, offset: Floats) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Which rows cross which edges, edge by edge; `offset` ``(k,)`` of the rows runs upward. An edge is crossed by the
    rows between its ends, one end counted in and one out, so that a shared corner is crossed once."""
    first = np.searchsorted(offset, np.minimum(low, high))
    count = np.searchsorted(offset, np.maximum(low, high)) - first
    edge = np.repeat(np.arange(len(low)), count)
    begins = np.cumsum(count) - count
    row = np.arange(len(edge)) + np.repeat(first - begins, count)
    return row, edge


def _two_way(lines: Floats, row: NDArray[np.int64]) -> Floats:
    """Stretches ``(n, 2, 2)`` sorted along their row, every second row turned round and read backward."""
    odd = row % 2 == 1
    lines[odd] = lines[odd, ::-1]
    place = np.arange(len(row))
    order = np.lexsort((np.where(odd, -place, place), row))
    return lines[order]


def begins_row(lines: Floats) -> NDArray[np.bool_]:
    """``(N,)`` whether a stretch ``(N, 2, 2)`` begins a row: it does not go on in line with the one before it."""
    way = lines[:, 1] - lines[:, 0]
    gap = lines[1:, 0] - lines[:-1, 1]
    scale = np.linalg.norm(way[1:], axis=1) + 1e-12
    aside = np.abs(way[1:, 0] * gap[:, 1] - way[1:, 1] * gap[:, 0]) / scale
    onward = ((way[1:] * way[:-1]).sum(axis=1) > 0) & ((way[1:] * gap).sum(axis=1) >= 0)
    return np.append(True, ~(onward & (aside < 1e-6)))[: len(lines)]


def hatch_loops(loops: Sequence[Floats], spacing_mm: float, angle_deg: float, one_way: bool = False) -> Floats:
    """Lines that fill what lies inside an odd number of closed `loops` ``(k, 2)``, burned two-way or `one_way`.

    Returns
    -------
    (N, 2, 2) array : start and end of each stretch, mm; a row that meets a hole has several
    """
    along, across = directions(angle_deg)
    starts = np.concatenate([loop[:-1] for loop in loops])
    ends = np.concatenate([loop[1:] for loop in loops])
    if not np.all([np.array_equal(loop[0], loop[-1]) for loop in loops]):
        raise ValueError("an outline to be filled does not close")
    low, high = starts @ across, ends @ across
    bottom, extent = float(low.min()), float(low.max() - low.min())
    count = line_count(extent, spacing_mm)
    if count > MOST_LINES:
        raise InvalidInput(f"{count} lines would fill one patch; a plate has {MOST_LINES} at most.", "line_spacing_mm")
    offset = bottom + (np.arange(count) + 0.5) * extent / count
    row, edge = _crossings(low, high, offset)
    share = (offset[row] - low[edge]) / (high[edge] - low[edge])
    t_low, t_high = starts @ along, ends @ along
    t = t_low[edge] + share * (t_high[edge] - t_low[edge])
    order = np.lexsort((t, row))
    row, t = row[order].reshape(-1, 2)[:, 0], t[order].reshape(-1, 2)
    base = offset[row][:, None, None] * across
    lines: Floats = base + t[:, :, None] * along
    return lines if one_way else _two_way(lines, row)


@kept(64 * 2**20)
def hatch_figure(figure: Figure, spacing_mm: float, angle_deg: float, one_way: bool = False) -> Floats:
    """Lines ``(N, 2, 2)`` that fill the loops of a figure; read-only, since they are shared."""
    lines = hatch_loops(figure.loops, spacing_mm, angle_deg, one_way)
    lines.flags.writeable = False
    return lines
