"""Four places of a plate that somebody can point at in a photograph, to lay it there by hand."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.plan import Plate

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Handles:
    """
    places : ``(4, 2)`` mm on the plate, from its upper left on, clockwise as one looks at its front
    on_marks : they are the corner marks, not the outer corners of what is burned
    """

    places: Floats
    on_marks: bool

    def turned_round(self, sheet_mm: Floats) -> Floats:
        """The places after half a turn about the middle of the sheet ``(k, 2)``, whose outline looks the same then."""
        turned: Floats = 2 * sheet_mm.mean(axis=0) - self.places
        return turned


def handles_of(plate: Plate, face: str) -> Handles:
    """The corner marks, which are on the front alone; without four of them the corners of all that is burned."""
    marks = np.array([(mark.x_mm, mark.y_mm) for mark in plate.marks if mark.kind != "qr"])
    if face == "front" and len(marks) == 4:
        across, up = marks[:, 0] + marks[:, 1], marks[:, 1] - marks[:, 0]
        return Handles(marks[[up.argmax(), across.argmax(), up.argmin(), across.argmin()]], on_marks=True)
    boxes = plate.elements.boxes[plate.elements.burn]
    (left, low), (right, high) = boxes[:, :2].min(axis=0), (boxes[:, :2] + boxes[:, 2:]).max(axis=0)
    return Handles(np.array([(left, high), (right, high), (right, low), (left, low)]), on_marks=False)


def plate_corners(plate: Plate) -> Floats:
    """``(4, 2)`` the corners of the plate itself, where nothing is seen of the sheet it lies on."""
    width, height = plate.width_mm, plate.height_mm
    return np.array([(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
