"""A photograph as its bytes: turned upright, decoded no larger than finding a plate takes, its codes read."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps, UnidentifiedImageError

from rezept.core.errors import InvalidInput

KINDS = ("JPEG", "PNG", "WEBP")
LARGEST_BYTES = 40 * 1024 * 1024
MOST_PIXELS, LEAST_PIXELS = 100_000_000, 120_000
# Searched no larger than this; a JPEG is decoded at half its size where that is enough.
SEARCHED_PIXELS = 6_000_000
LUMINANCE = np.array([0.2126, 0.7152, 0.0722], np.float32)


@dataclass(frozen=True)
class Code:
    """A code in a picture: what it says, and its corners ``(4, 2)`` in pixels from the top left on, clockwise."""

    text: str
    corners: NDArray[np.float64]


@dataclass(frozen=True)
class Picture:
    """A decoded photograph.

    rgb : ``(height, width, 3)`` as decoded; `factor` times larger is the photograph itself
    size : width and height of the photograph itself, upright
    """

    rgb: NDArray[np.uint8]
    factor: float
    size: tuple[int, int]

    def grey(self) -> NDArray[np.float32]:
        """``(height, width)`` luminance 0..1 of the coded values."""
        return np.asarray((self.rgb @ LUMINANCE) / np.float32(255), np.float32)


def read_photo(data: bytes, name: str = "photo") -> Picture:
    """The picture of a photograph.

    Raises
    ------
    InvalidInput : it is no photograph, damaged, too large or too small; the sentence says which
    """
    if len(data) > LARGEST_BYTES:
        raise InvalidInput(f"A photo has at most {LARGEST_BYTES // 2**20} MiB.", name, len(data))
    try:
        with Image.open(io.BytesIO(data), formats=KINDS) as image:
            if image.width * image.height > MOST_PIXELS:
                raise InvalidInput(
                    f"This photo has {image.width} x {image.height} pixels; more than {MOST_PIXELS // 10**6} million.",
                    name,
                )
            if image.width * image.height < LEAST_PIXELS:
                raise InvalidInput("This photo is too small to measure anything in it.", name)
            full = image.size
            if image.width * image.height > SEARCHED_PIXELS:
                image.draft("RGB", (full[0] // 2, full[1] // 2))
            upright = ImageOps.exif_transpose(image)
            rgb = np.asarray(upright.convert("RGB"))
    except UnidentifiedImageError as error:
        raise InvalidInput("This is no photo I can read; take a JPEG, PNG or WebP.", name) from error
    except (OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        if isinstance(error, InvalidInput):
            raise
        raise InvalidInput("This photo is damaged or cut short; take it again.", name) from error
    turned = (rgb.shape[1] > rgb.shape[0]) != (full[0] > full[1])
    size = full[::-1] if turned else full
    return Picture(rgb, size[0] / rgb.shape[1], (size[0], size[1]))


def read_codes(picture: Picture) -> list[Code]:
    """The plates' codes in a picture."""
    import zxingcpp

    grey = np.ascontiguousarray((picture.grey() * 255).astype(np.uint8))
    codes = []
    for found in zxingcpp.read_barcodes(grey):
        corners = [getattr(found.position, name) for name in ("top_left", "top_right", "bottom_right", "bottom_left")]
        codes.append(Code(found.text, np.array([(corner.x, corner.y) for corner in corners], float)))
    return codes
