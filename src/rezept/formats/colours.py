"""Colours for distinct settings in exported drawings.

The colours are generated, never listed: hues a golden angle apart at changing lightness, so that neighbours in
the list differ most and no colour carries a meaning of its own. The written name is what counts.
"""

from __future__ import annotations

import math

_GOLDEN_ANGLE = 360.0 * (2.0 - (1.0 + math.sqrt(5.0)) / 2.0)


def _oklch_to_srgb(lightness: float, chroma: float, hue_deg: float) -> tuple[float, float, float]:
    """Oklch to sRGB in 0..1 (B. Ottosson, "A perceptual color space for image processing", 2020)."""
    a, b = chroma * math.cos(math.radians(hue_deg)), chroma * math.sin(math.radians(hue_deg))
    long = (lightness + 0.3963377774 * a + 0.2158037573 * b) ** 3
    medium = (lightness - 0.1055613458 * a - 0.0638541728 * b) ** 3
    short = (lightness - 0.0894841775 * a - 1.2914855480 * b) ** 3
    linear = (
        4.0767416621 * long - 3.3077115913 * medium + 0.2309699292 * short,
        -1.2684380046 * long + 2.6097574011 * medium - 0.3413193965 * short,
        -0.0041960863 * long - 0.7034186147 * medium + 1.7076147010 * short,
    )
    r, g, b2 = (
        12.92 * c if c <= 0.0031308 else 1.055 * c ** (1 / 2.4) - 0.055 for c in (min(1.0, max(0.0, c)) for c in linear)
    )
    return r, g, b2


def distinct_colours(count: int) -> list[str]:
    """`count` different colours as ``#rrggbb``, always the same ones."""
    colours: list[str] = []
    used: set[str] = set()
    step = 0
    while len(colours) < count:
        lightness = 0.45 + 0.25 * ((step * 0.618034) % 1.0)
        chroma = 0.06 + 0.10 * ((step * 0.754878) % 1.0)
        rgb = _oklch_to_srgb(lightness, chroma, (30.0 + step * _GOLDEN_ANGLE) % 360.0)
        colour = "#" + "".join(f"{round(255 * part):02x}" for part in rgb)
        step += 1
        if colour not in used:
            used.add(colour)
            colours.append(colour)
    return colours
