"""From the colour of a screen to CIELAB and back (D65, 2 degrees).

sRGB after IEC 61966-2-1; CIELAB after CIE 15:2018, with the white point of D65.
"""

from __future__ import annotations

import re
from functools import lru_cache

import numpy as np
from numpy.typing import ArrayLike, NDArray

from rezept.core.errors import InvalidInput

_TO_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)
_WHITE = _TO_XYZ.sum(axis=1)
_EPSILON, _KAPPA = 216 / 24389, 24389 / 27


def srgb_to_linear(srgb: ArrayLike) -> NDArray[np.float64]:
    """sRGB values 0..1 as linear light 0..1."""
    values = np.asarray(srgb, float)
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4)


def linear_to_srgb(linear: ArrayLike) -> NDArray[np.float64]:
    """Linear light as sRGB values, `srgb_to_linear` turned round."""
    values = np.asarray(linear, float)
    return np.where(values <= 0.0031308, 12.92 * values, 1.055 * np.maximum(values, 1e-9) ** (1 / 2.4) - 0.055)


def srgb_to_lab(srgb: ArrayLike) -> NDArray[np.float64]:
    """(..., 3) sRGB values 0..1 as (..., 3) L*, a*, b*."""
    return linear_to_lab(srgb_to_linear(srgb))


def linear_to_lab(linear: ArrayLike) -> NDArray[np.float64]:
    """(..., 3) linear sRGB 0..1 as (..., 3) L*, a*, b*."""
    ratio = np.asarray(linear, float) @ _TO_XYZ.T / _WHITE
    f = np.where(ratio > _EPSILON, np.cbrt(ratio), (_KAPPA * ratio + 16) / 116)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], axis=-1)


def lab_to_linear(lab: ArrayLike) -> NDArray[np.float64]:
    """(..., 3) L*, a*, b* as (..., 3) linear sRGB 0..1; what a screen cannot show is taken to its nearest edge."""
    values = np.asarray(lab, float)
    fy = (values[..., 0] + 16) / 116
    f = np.stack([fy + values[..., 1] / 500, fy, fy - values[..., 2] / 200], axis=-1)
    ratio = np.where(f**3 > _EPSILON, f**3, (116 * f - 16) / _KAPPA)
    linear: NDArray[np.float64] = np.clip(ratio * _WHITE @ np.linalg.inv(_TO_XYZ).T, 0.0, 1.0)
    return linear


def lab_to_srgb(lab: ArrayLike) -> NDArray[np.float64]:
    """The same as (..., 3) sRGB 0..1."""
    return linear_to_srgb(lab_to_linear(lab))


def read_hex(text: str, path: str = "") -> tuple[float, float, float]:
    """L*, a*, b* of a colour such as ``#c8a06e``, to a hundredth."""
    if not re.fullmatch(r"#[0-9a-fA-F]{6}", text):
        raise InvalidInput(f"A colour is written like #c8a06e, not {text[:20]!r}.", path, text)
    light, red, yellow = srgb_to_lab([int(text[i : i + 2], 16) / 255 for i in (1, 3, 5)]).round(2).tolist()
    return light, red, yellow


@lru_cache(maxsize=1024)
def write_hex(lab: tuple[float, ...]) -> str:
    """The nearest colour of a screen, such as ``#c8a06e``."""
    return "#" + "".join(f"{value:02x}" for value in np.round(lab_to_srgb(lab) * 255).astype(int).tolist())
