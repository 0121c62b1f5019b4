"""What is printed for phones and cameras: QR codes of page addresses (ISO/IEC 18004), and the reference card."""

from __future__ import annotations

import io

import numpy as np
import segno
from numpy.typing import NDArray

from rezept.core.colour import linear_to_srgb
from rezept.core.photo.card import CARD_TEXT, HEIGHT_MM, MODULE_MM, STEPS, WIDTH_MM, code_mm, steps_mm

QUIET_MODULES = 4


def card_modules() -> NDArray[np.bool_]:
    """``(21, 21)`` modules of the reference card's code from the top, True where dark."""
    made = segno.make_qr(CARD_TEXT, version=1, mode="alphanumeric", error="m")
    return np.array([[bool(module) for module in row] for row in made.matrix])


def card_svg() -> bytes:
    """The reference card at its true size, to be printed on matt paper without any correction of colours."""
    grey = [f"#{round(255 * float(lightness)):02x}" for lightness in linear_to_srgb(np.array(STEPS))]
    shapes = [
        f'<rect x="{left:g}" y="{HEIGHT_MM - low - high:g}" width="{wide:g}" height="{high:g}"'
        f' fill="{tone}{tone[1:] * 2}"/>'
        for (left, low, wide, high), tone in zip(steps_mm(), grey * 2, strict=True)
    ]
    corner, dark = code_mm()[0], card_modules()
    cells = "".join(
        f"M{corner[0] + column * MODULE_MM:g},{HEIGHT_MM - corner[1] + row * MODULE_MM:g}"
        f"h{MODULE_MM}v{MODULE_MM}h-{MODULE_MM}z"
        for row, column in np.argwhere(dark).tolist()
    )
    size = f'width="{WIDTH_MM:g}mm" height="{HEIGHT_MM:g}mm" viewBox="0 0 {WIDTH_MM:g} {HEIGHT_MM:g}"'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" {size}><rect width="100%" height="100%" fill="#fff"/>'
        f'{"".join(shapes)}<path d="{cells}" fill="{grey[-1]}{grey[-1][1:] * 2}"/></svg>'
    ).encode()


def qr_svg(text: str) -> bytes:
    """The code of a text as a drawing, black on white with its quiet zone; it scales to the size it is shown at."""
    out = io.BytesIO()
    segno.make(text, error="m", micro=False).save(
        out, kind="svg", border=QUIET_MODULES, omitsize=True, light="white", dark="black"
    )
    return out.getvalue()
