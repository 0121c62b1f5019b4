"""What librsvg paints of a drawing: it shares nothing with what reads it here."""

from __future__ import annotations

import io
import subprocess

import numpy as np
from numpy.typing import NDArray
from PIL import Image


def svg_painted(text: str, per_mm: float) -> NDArray[np.uint8]:
    """``(h, w)`` the picture of a drawing, black on white, so many pixels a mm, upper left first."""
    done = subprocess.run(
        ["rsvg-convert", "--zoom", str(25.4 / 96 * per_mm), "--background-color", "white"],
        input=text.encode(),
        capture_output=True,
        check=True,
    )
    return np.asarray(Image.open(io.BytesIO(done.stdout)).convert("L"))
