"""How much values scatter, in spite of some that are far off."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

# The median absolute deviation of normal noise times this is its standard deviation (F. R. Hampel, J. Amer. Statist.
# Assoc. 69, 1974).
MAD_TO_SIGMA = 1.4826


def sigma_of(deviations: NDArray[np.floating[Any]], axis: int | None = None) -> NDArray[np.float64]:
    """The standard deviation of the noise in deviations from what is expected, by their median absolute value."""
    return MAD_TO_SIGMA * np.asarray(np.median(np.abs(deviations), axis=axis), np.float64)
