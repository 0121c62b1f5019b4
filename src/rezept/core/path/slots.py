"""Slots and a tab: what one tries in one's hand to find how wide a cut is.

A cut takes half its width (kerf) from either side of its line. A tab drawn `tab` wide comes out ``tab - kerf``, a slot
drawn `slot` wide ``slot + kerf``: where the two fit, ``kerf = (tab - slot) / 2``, whatever the sheet's thickness.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.figure import Figure
from rezept.core.path.outlines import rectangle

Floats = NDArray[np.float64]
# How deep a slot is, what stands below it and between two, how far the tab lies below, and the corner that is cut off
# beside the narrowest slot.
DEPTH_MM, BACK_MM, BETWEEN_MM, APART_MM, CORNER_MM = 8.0, 4.0, 2.5, 3.0, 2.0
TAB_LONG_MM = 2 * DEPTH_MM


def kerf_mm(tab_mm: float, slot_mm: float) -> float:
    """The width of the cut, where a tab and a slot drawn so wide fit."""
    return (tab_mm - slot_mm) / 2


def size_mm(tab_mm: float, slots_mm: Sequence[float]) -> tuple[float, float]:
    """Width and height of the box around slots and tab."""
    wide = sum(slots_mm) + BETWEEN_MM * (len(slots_mm) + 1)
    return max(wide, TAB_LONG_MM), DEPTH_MM + BACK_MM + APART_MM + tab_mm


def slots_and_tab(tab_mm: float, slots_mm: Sequence[float]) -> Figure:
    """A comb of slots, the first beside its cut-off corner, and a loose tab below it."""
    width, height = size_mm(tab_mm, slots_mm)
    low = APART_MM + tab_mm
    points: list[tuple[float, float]] = [(CORNER_MM, low), (width, low), (width, height)]
    x = BETWEEN_MM
    slots: list[list[tuple[float, float]]] = []
    for slot in slots_mm:
        deep = height - DEPTH_MM
        slots.append([(x + slot, height), (x + slot, deep), (x, deep), (x, height)])
        x += slot + BETWEEN_MM
    # Counter-clockwise the upper edge is gone along from the right.
    for corners in reversed(slots):
        points += corners
    points += [(0.0, height), (0.0, low + CORNER_MM), (CORNER_MM, low)]
    return Figure([rectangle(TAB_LONG_MM, tab_mm), np.array(points)])
