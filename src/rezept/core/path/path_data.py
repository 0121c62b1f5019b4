"""Ways as the path data of an SVG (SVG 2, section 9.3)."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.figure import is_closed

Floats = NDArray[np.float64]


def path_data(ways: Iterable[Floats], form: str = ".4f") -> str:
    """Every way ``(k, 2)`` as a subpath, closed ones with Z; `form` is how a coordinate is written."""
    return "".join(_subpath(way, form) for way in ways)


def _subpath(way: Floats, form: str) -> str:
    closed = is_closed(way)
    # Minus nothing is nothing.
    points = ((way[:-1] if closed else way) + 0.0).tolist()
    return "M" + "L".join(f"{x:{form}},{y:{form}}" for x, y in points) + ("Z" if closed else "")
