"""What a sheet lies on, as far as a picture shows it around the sheet."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.photo.flat import LINEAR, Ground, nearest_planes
from rezept.core.photo.pose import Pose

Floats = NDArray[np.float64]
Light = NDArray[np.float32]
Colours = NDArray[np.uint8]

# How far beyond the sheet's edges is looked, mm: near enough to be what lies below it, too. So many places a side, and
# at least so many of all of them within the picture.
BEYOND_MM = (4.0, 7.0)
A_SIDE, FEWEST = 60, 40


@dataclass(frozen=True)
class Around:
    """``(3, n)`` linear light of places around the sheet, and the plate points ``(n, 2)`` nearest to them."""

    light: Light
    nearest_mm: Floats

    def differs_from(self, ground: Ground) -> Floats:
        """``(3, n)`` by how much it differs from the bare sheet there, log light."""
        return np.asarray(np.log(np.maximum(self.light, 1e-3)) - np.log(ground.at(self.nearest_mm)), float)


def around_sheet(rgb: Colours, pose: Pose, sheet_mm: Floats, size_mm: tuple[float, float]) -> Around | None:
    """What lies around a sheet with corners ``(4, 2)`` mm, in order round it; None where the picture ends there."""
    outward = sheet_mm - sheet_mm.mean(axis=0)
    outward /= np.linalg.norm(outward, axis=1, keepdims=True)
    share = np.linspace(0, 1, A_SIDE, endpoint=False)[:, None]
    places = []
    for beyond in BEYOND_MM:
        corners = sheet_mm + outward * beyond * np.sqrt(2)
        places += [a + share * (b - a) for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)]
    mm = np.concatenate(places)
    mm = mm[pose.shows(mm)]
    if len(mm) < FEWEST:
        return None
    return Around(LINEAR[nearest_planes(rgb, *pose.to_pixels(mm).T)], np.clip(mm, 0, size_mm))
