"""In which order the patches are burned, and what that order is worth."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Indices = NDArray[np.int64]
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Cooling:
    """How well an order lets patches cool.

    least_apart : smallest difference in burn position between two patches side by side; None without any
    best_apart : the most a full array of this size allows, ``ceil(n (m - 1) / 2)`` with m >= n; None for others
    shortest_wait_s : least time from the end of a patch to the begin of one beside it; None without any
    """

    least_apart: int | None
    best_apart: int | None
    shortest_wait_s: float | None


def best_apart(rows: int, columns: int) -> int:
    """``ceil(n (m - 1) / 2)`` for a full m x n array with m >= n.

    It is the bandwidth question turned round: the antibandwidth of an m x n grid graph (A. Raspaud,
    H. Schroeder, O. Sykora, L. Torok, I. Vrt'o, "Antibandwidth and cyclic antibandwidth of meshes and
    hypercubes", Discrete Mathematics 309, 2009).
    """
    long, short = max(rows, columns), min(rows, columns)
    return -(-short * (long - 1) // 2)


def _diagonals(line: Indices, place: Indices) -> Indices:
    """Cells by their diagonal, then along it: the order in which a slanted line sweeps the array."""
    return np.lexsort((line, line + place))


def scattered(line: Indices, place: Indices) -> Indices:
    """An order in which patches side by side are far apart in time.

    The cells are coloured like a chess board. Both colours are swept diagonal by diagonal in the same direction, all
    of one colour before all of the other: a cell and its neighbour then lie about half the array apart.
    """
    # Which way along the diagonals, and which colour first, decides by one or two positions.
    candidates = []
    for sweep in (_diagonals(line, place), _diagonals(place, line)):
        colour = (line + place)[sweep] % 2
        halves = [sweep[colour == 0], sweep[colour == 1]]
        candidates += [np.concatenate(halves), np.concatenate(halves[::-1])]
    return max(candidates, key=lambda order: least_apart(order, line, place) or 0)


def beside(line: Indices, place: Indices, burn: NDArray[np.bool_]) -> tuple[Indices, Indices]:
    """Pairs ``(a, b)`` of burned patches that lie side by side, across block borders, too."""
    lines, places = int(line.max()) + 1, int(place.max()) + 1
    at = np.full((lines + 1, places + 1), -1)
    at[line[burn], place[burn]] = np.flatnonzero(burn)
    pairs = [(at[:-1, :-1], at[1:, :-1]), (at[:-1, :-1], at[:-1, 1:])]
    first = np.concatenate([a.ravel() for a, _ in pairs])
    second = np.concatenate([b.ravel() for _, b in pairs])
    both = (first >= 0) & (second >= 0)
    return first[both], second[both]


def least_apart(order: Indices, line: Indices, place: Indices) -> int | None:
    """Smallest difference in burn position between patches of `order` that lie side by side."""
    burn = np.zeros(len(line), bool)
    burn[order] = True
    first, second = beside(line, place, burn)
    if not len(first):
        return None
    position = np.zeros(len(line), np.int64)
    position[order] = np.arange(len(order))
    return int(np.abs(position[first] - position[second]).min())


def burn_order(order: str, line: Indices, place: Indices, dose: Floats, burn: NDArray[np.bool_]) -> Indices:
    """Indices of the patches to burn, first to last; patches switched off are left out.

    ``rows`` goes through the rows from the bottom, left to right; ``weakest_first`` by dose, so that one can
    stop when it is enough, equal doses in the order of rows; ``scattered`` lets neighbours cool.
    """
    chosen = np.flatnonzero(burn)
    if order == "scattered":
        return chosen[scattered(line[chosen], place[chosen])]
    by_rows = chosen[np.lexsort((place[chosen], line[chosen]))]
    return by_rows if order == "rows" else by_rows[np.argsort(dose[by_rows], kind="stable")]


def cooling(order: Indices, line: Indices, place: Indices, begin_s: Floats, end_s: Floats) -> Cooling:
    """What an order is worth; `begin_s`, `end_s` ``(n,)`` are when each patch burns, by its position in `order`."""
    burn = np.zeros(len(line), bool)
    burn[order] = True
    first, second = beside(line, place, burn)
    rows, columns = int(line.max()) + 1, int(place.max()) + 1
    full = len(order) == rows * columns == len(line)
    if not len(first):
        return Cooling(None, None, None)
    position = np.zeros(len(line), np.int64)
    position[order] = np.arange(len(order))
    earlier, later = np.minimum(position[first], position[second]), np.maximum(position[first], position[second])
    wait = float((begin_s[later] - end_s[earlier]).min())
    return Cooling(int((later - earlier).min()), best_apart(rows, columns) if full else None, wait)


def least_of(several: Sequence[Cooling]) -> Cooling:
    """What orders are worth together that go over one plate in turn: as much as the worst of them."""

    def least(values: Sequence[Any]) -> Any:
        said = [value for value in values if value is not None]
        return min(said) if said else None

    return Cooling(
        least([one.least_apart for one in several]),
        least([one.best_apart for one in several]),
        least([one.shortest_wait_s for one in several]),
    )
