"""Colours of a thin oxide on metal: what interference leaves of white light.

Two reflections, at the top of the film and at the metal below it, interfere; which wavelengths are lost depends on the
thickness (M. Born, E. Wolf, "Principles of Optics", sec. 7.6). Colour matching by the multi-lobe fits of C. Wyman,
P. Sloan, P. Shirley, "Simple analytic approximations to the CIE XYZ color matching functions", JCGT 2(2), 2013.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
WAVELENGTHS_NM = np.arange(400.0, 701.0, 10.0)
THICKEST_NM = 400
_XYZ_TO_RGB = np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]])


def _lobe(nm: Floats, centre: float, left: float, right: float) -> Floats:
    return np.exp(-0.5 * ((nm - centre) / np.where(nm < centre, left, right)) ** 2)


@lru_cache(maxsize=1)
def _matching() -> Floats:
    nm = WAVELENGTHS_NM
    x = (
        1.056 * _lobe(nm, 599.8, 37.9, 31.0)
        + 0.362 * _lobe(nm, 442.0, 16.0, 26.7)
        - 0.065 * _lobe(nm, 501.1, 20.4, 26.2)
    )
    y = 0.821 * _lobe(nm, 568.8, 46.9, 40.5) + 0.286 * _lobe(nm, 530.9, 16.3, 31.1)
    z = 1.217 * _lobe(nm, 437.0, 11.8, 36.0) + 0.681 * _lobe(nm, 459.0, 26.0, 13.8)
    return np.stack([x, y, z])


def reflectance(thickness_nm: Floats, index: float, metal: complex) -> Floats:
    """``(n, wavelengths)`` share of light that comes back from a film of each thickness on a metal, straight on.

    ``r = (r1 + r2 e^{2 i delta}) / (1 + r1 r2 e^{2 i delta})`` with ``delta = 2 pi n d / lambda``.
    """
    r1 = (1 - index) / (1 + index)
    r2 = (index - metal) / (index + metal)
    phase = np.exp(4j * np.pi * index * np.asarray(thickness_nm)[:, None] / WAVELENGTHS_NM[None, :])
    returned: Floats = np.abs((r1 + r2 * phase) / (1 + r1 * r2 * phase)) ** 2
    return returned


@lru_cache(maxsize=8)
def film_colours(index: float = 2.3, metal: complex = 2.6 + 3.6j) -> Floats:
    """``(THICKEST_NM + 1, 3)`` linear sRGB of each whole thickness in nm, as a multiple of the bare metal."""
    spectra = reflectance(np.arange(THICKEST_NM + 1.0), index, metal)
    xyz = spectra @ _matching().T
    white = _matching().sum(axis=1)
    rgb = (xyz / white * np.array([0.9505, 1.0, 1.089])) @ _XYZ_TO_RGB.T
    colours: Floats = np.clip(rgb, 0.005, None) / np.clip(rgb[0], 0.005, None)
    return colours
