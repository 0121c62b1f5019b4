"""What a camera looks for on a plate: the code, and marks in the corners, drawn with the label settings."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import segno
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.kept import kept
from rezept.core.machine import Machine
from rezept.core.path.hatch import hatch_loops
from rezept.core.path.outlines import arc, rectangle

Floats = NDArray[np.float64]

CORNER_MARK_MM = 3.0
QR_MODULES = 21
QUIET_MODULES = 4
QR_SIDE = QR_MODULES + 2 * QUIET_MODULES
LEAST_MODULE_MM = 0.5
SPOTS_A_MODULE = 3.0


@dataclass(frozen=True)
class Mark:
    """One mark; (x, y) is its centre on the plate. The size of a code includes the bare modules around it."""

    kind: str
    x_mm: float
    y_mm: float
    size_mm: float

    def document(self) -> dict[str, Any]:
        return dict(vars(self))


def module_mm(machine: Machine) -> float:
    """Side of one module of the code: half a millimetre, or three spots."""
    return max(LEAST_MODULE_MM, SPOTS_A_MODULE * (machine.head.spot_mm or 0.0))


def corner_mark(mark: Mark) -> tuple[Floats, ...]:
    """Closed lines of a corner mark: a ring, in the distinct corner with a smaller one inside."""
    radii = (mark.size_mm / 2,) if mark.kind == "corner" else (mark.size_mm / 4, mark.size_mm / 2)
    rings = []
    for radius in radii:
        ring = arc((mark.x_mm, mark.y_mm), (radius, radius), -90.0, 270.0, 0.02)
        ring[-1] = ring[0]
        rings.append(ring)
    return tuple(rings)


def _stretches(modules: tuple[tuple[bool, ...], ...], module: float, lighter: bool) -> list[Floats]:
    """What of a code is burned, row by row from the top, as closed rectangles from the lower left of its border."""
    dark = np.pad(np.array(modules, bool), QUIET_MODULES)
    burned = ~dark if lighter else dark
    rows = len(burned)
    stretches: list[Floats] = []
    for i, row in enumerate(burned):
        edges = np.flatnonzero(np.diff(np.concatenate([[False], row, [False]]).astype(np.int8)))
        bottom = (rows - 1 - i) * module
        for start, end in edges.reshape(-1, 2).tolist():
            stretches.append(rectangle((end - start) * module, module) + (start * module, bottom))
    return stretches


def code_outline(mark: Mark, code: str | None, lighter: bool) -> list[Floats]:
    """What of a plate's code is burned, as closed rectangles on the plate."""
    corner = np.array([mark.x_mm, mark.y_mm]) - mark.size_mm / 2
    return [one + corner for one in _stretches(code_modules(code), mark.size_mm / QR_SIDE, lighter)]


@kept(16 * 2**20)
def code_lines(modules: tuple[tuple[bool, ...], ...], module: float, spacing: float, lighter: bool) -> Floats:
    """Hatch lines ``(N, 2, 2)`` of a code, the lower left of its bare border being the origin.

    Parameters
    ----------
    modules : rows of the code from the top, True where it is to look dark
    lighter : the material marks lighter than its ground: the light modules and the border are burned instead
    """
    lines = hatch_loops(_stretches(modules, module, lighter), spacing, 0.0)
    lines.flags.writeable = False
    return lines


def code_text(code: str | None) -> str:
    """What the machine-readable code of a plate says.

    Raises
    ------
    InvalidInput : the plate has no code
    """
    if not code:
        raise InvalidInput("A plate without a code cannot carry it as a QR; give the trial a code.", "code")
    return f"REZEPT:{code.upper()}"


@lru_cache(maxsize=256)
def code_modules(code: str | None) -> tuple[tuple[bool, ...], ...]:
    """The code of a plate as ``(21, 21)`` modules from the top, True where dark (ISO/IEC 18004, version 1).

    Raises
    ------
    InvalidInput : there is no code, or it does not fit into 21 modules
    """
    text = code_text(code)
    try:
        made = segno.make_qr(text, version=1, mode="alphanumeric", boost_error=True)
    except (ValueError, segno.DataOverflowError) as error:
        raise InvalidInput(
            f"{code} does not fit into a code of {QR_MODULES} modules: 18 letters (A to Z), digits, dots or dashes do.",
            "code",
            code,
        ) from error
    return tuple(tuple(bool(module) for module in row) for row in made.matrix)
