"""In which order the patches are burned."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def burn_order(
    order: str,
    row: NDArray[np.int64],
    column: NDArray[np.int64],
    dose: NDArray[np.float64],
    burn: NDArray[np.bool_],
) -> NDArray[np.int64]:
    """Indices of the patches to burn, first to last; patches switched off are left out.

    ``rows`` goes through the rows from the bottom, left to right; ``weakest_first`` by dose, so that one can
    stop when it is enough; equal doses keep the order of rows.
    """
    by_rows = np.lexsort((column, row))
    chosen = by_rows if order == "rows" else by_rows[np.argsort(dose[by_rows], kind="stable")]
    return chosen[burn[chosen]]
