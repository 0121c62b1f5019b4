"""How different two colours look."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike, NDArray

Floats = NDArray[np.float64]

_FAR_BLUE = 25.0**7


def _hue_deg(a: Floats, b: Floats) -> Floats:
    angle: Floats = np.degrees(np.arctan2(b, a)) % 360.0
    return np.where((a == 0) & (b == 0), 0.0, angle)


def ciede2000(one: ArrayLike, other: ArrayLike) -> Floats:
    """Colour differences of L*, a*, b* ``(..., 3)``, with all parametric factors 1.

    ISO/CIE 11664-6; steps and names as in G. Sharma, W. Wu, E. Dalal, "The CIEDE2000 color-difference formula:
    implementation notes, supplementary test data, and mathematical observations", Color Res. Appl. 30(1), 2005.
    """
    l1, a1, b1 = np.moveaxis(np.asarray(one, float), -1, 0)
    l2, a2, b2 = np.moveaxis(np.asarray(other, float), -1, 0)
    chroma = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    g = 0.5 * (1 - np.sqrt(chroma**7 / (chroma**7 + _FAR_BLUE)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = _hue_deg(a1, b1), _hue_deg(a2, b2)

    grey = c1 * c2 == 0
    turn = h2 - h1
    turn = np.where(turn > 180, turn - 360, np.where(turn < -180, turn + 360, turn))
    dl, dc = l2 - l1, c2 - c1
    dh = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(np.where(grey, 0.0, turn)) / 2)

    mean_l, mean_c = (l1 + l2) / 2, (c1 + c2) / 2
    both = h1 + h2
    apart = np.abs(h1 - h2) > 180
    mean_h = np.where(apart, np.where(both < 360, both + 360, both - 360), both) / 2
    mean_h = np.where(grey, both, mean_h)

    t = (
        1
        - 0.17 * np.cos(np.radians(mean_h - 30))
        + 0.24 * np.cos(np.radians(2 * mean_h))
        + 0.32 * np.cos(np.radians(3 * mean_h + 6))
        - 0.20 * np.cos(np.radians(4 * mean_h - 63))
    )
    s_l = 1 + 0.015 * (mean_l - 50) ** 2 / np.sqrt(20 + (mean_l - 50) ** 2)
    s_c = 1 + 0.045 * mean_c
    s_h = 1 + 0.015 * mean_c * t
    around_blue = 30 * np.exp(-(((mean_h - 275) / 25) ** 2))
    r_c = 2 * np.sqrt(mean_c**7 / (mean_c**7 + _FAR_BLUE))
    r_t = -np.sin(np.radians(2 * around_blue)) * r_c
    l_part, c_part, h_part = dl / s_l, dc / s_c, dh / s_h
    difference: Floats = np.sqrt(l_part**2 + c_part**2 + h_part**2 + r_t * c_part * h_part)
    return difference
