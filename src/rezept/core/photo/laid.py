"""Where a plate lies in a picture, and the places it is laid by."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rezept.core.photo.pose import Pose, fitted

Floats = NDArray[np.float64]
# Plate mm ``(n, 2)``, pixels ``(n, 2)``, and how much they count.
Place = tuple[Floats, Floats, float]
FoundBy = Literal["marks", "outline", "corners"]


# No doubt about the place, but about what is seen there.
LAY_UNDER = (
    "What lies below looks like the sheet, so that nothing is sure: lay something dark or lit under it, and take it "
    "again."
)
# About the place of some patches alone, which are marked.
ONE_SIDE = "On one side of the plate no edges are to be seen; look whether it lies right there, too."


@dataclass(frozen=True)
class Laid:
    """A plate found in a picture.

    residual_mm : how far the places it was found by lie from where the pose puts them, root mean square
    sheet_mm : ``(4, 2)`` the corners of the sheet as they are seen, in the plate's mm; None where its outline is not
        to be seen. The other face has the same.
    doubts : why it may be wrong, in words; empty where nothing speaks against it
    opened : ``(n,)`` of a cut, for each patch that was to burn, how unlike the sheet its middle looks, 0 bare to 1; the
        other face shows the same. None where that was not looked at
    doubtful : ``(n,)`` of a cut, for each patch that was to burn, whether it may lie elsewhere; None where all of them
        are as doubtful
    """

    pose: Pose
    found_by: FoundBy
    residual_mm: float
    doubts: tuple[str, ...] = ()
    sheet_mm: Floats | None = None
    opened: Floats | None = None
    doubtful: NDArray[np.bool_] | None = None


def place_doubted(doubts: Iterable[str]) -> bool:
    """Whether some of what is to be doubted about a photo is where all of its plate lies."""
    return any(doubt not in (LAY_UNDER, ONE_SIDE) for doubt in doubts)


class NotFound(ValueError):
    """The plate is not to be found in this picture; the message says why."""


class Mirrored(NotFound):
    """The camera has mirrored the picture."""


def off_mm(pose: Pose, places: Sequence[Place]) -> float:
    """How far places lie from where the pose puts them, weighed root mean square."""
    mm, pixels, weights = together(places)
    away = ((pose.to_mm(pixels) - mm) ** 2).sum(axis=1)
    return float(np.sqrt((away * weights).sum() / weights.sum()))


def together(places: Sequence[Place]) -> tuple[Floats, Floats, Floats]:
    mm, pixels = (np.concatenate([one[i] for one in places]) for i in (0, 1))
    return mm, pixels, np.concatenate([np.full(len(one[0]), one[2]) for one in places])


def fit(places: Sequence[Place], size: tuple[int, int], distortion: bool) -> tuple[Pose, float]:
    mm, pixels, weights = together(places)
    pose = fitted(mm, pixels, weights, size, distortion)
    return pose, off_mm(pose, places)
