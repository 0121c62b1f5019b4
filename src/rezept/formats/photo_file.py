"""A photograph as its bytes: turned upright, decoded no larger than finding a plate takes, its codes read."""

from __future__ import annotations

import io
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps, UnidentifiedImageError
from pillow_heif import register_heif_opener

from rezept.core.errors import InvalidInput

# Some phones write JPEGs with a second picture behind the first.
MEDIA_TYPES = {
    "JPEG": "image/jpeg",
    "MPO": "image/jpeg",
    "PNG": "image/png",
    "WEBP": "image/webp",
    "HEIF": "image/heic",
}
LARGEST_BYTES = 40 * 1024 * 1024
MOST_PIXELS = 100_000_000
register_heif_opener()
# Searched no larger than this; a JPEG is decoded at half its size where that is enough.
SEARCHED_PIXELS = 6_000_000


@dataclass(frozen=True)
class Code:
    """A code in a picture: what it says, and its corners ``(4, 2)`` in pixels from the top left on, clockwise."""

    text: str
    corners: NDArray[np.float64]


@dataclass(frozen=True)
class Picture:
    """A decoded photograph.

    rgb : ``(height, width, 3)`` as decoded; `factor` times larger is the photograph itself
    coded_grey : ``(height, width)`` its luma (ITU-R BT.601)
    size : width and height of the photograph itself, upright
    media_type : of the bytes, whatever their name says
    """

    rgb: NDArray[np.uint8]
    coded_grey: NDArray[np.uint8]
    factor: float
    size: tuple[int, int]
    media_type: str

    @cached_property
    def grey(self) -> NDArray[np.float32]:
        """The same from 0 to 1."""
        return self.coded_grey.astype(np.float32) / np.float32(255)

    @cached_property
    def codes(self) -> tuple[Code, ...]:
        """The QR codes in it."""
        return _codes(self.coded_grey)


def read_photo(data: bytes, name: str = "photo", half: bool = True) -> Picture:
    """The picture of a photograph, all of its bytes read: a torn file is found now, not later.

    half : decode large JPEGs at half their size, which is enough to find and measure a plate

    Raises
    ------
    InvalidInput : it is no photograph, damaged, or too large; the sentence says which
    """
    if len(data) > LARGEST_BYTES:
        raise InvalidInput(f"A photo has at most {LARGEST_BYTES // 2**20} MiB.", name, len(data))
    try:
        with Image.open(io.BytesIO(data), formats=tuple(kind for kind in MEDIA_TYPES if kind != "MPO")) as image:
            full, media_type = image.size, MEDIA_TYPES[image.format or ""]
            if full[0] * full[1] > MOST_PIXELS:
                raise InvalidInput(
                    f"This photo has {full[0]} x {full[1]} pixels; more than {MOST_PIXELS // 10**6} million.", name
                )
            if half and full[0] * full[1] > SEARCHED_PIXELS:
                image.draft("RGB", (full[0] // 2, full[1] // 2))
            image.load()
            coloured = ImageOps.exif_transpose(image).convert("RGB")
            rgb, grey = np.asarray(coloured), np.asarray(coloured.convert("L"))
    except UnidentifiedImageError as error:
        raise InvalidInput("This is no photo I can read; take a JPEG, PNG, WebP or HEIC.", name) from error
    except (OSError, SyntaxError, ValueError, Image.DecompressionBombError) as error:
        if isinstance(error, InvalidInput):
            raise
        raise InvalidInput("This photo is damaged or cut short; take it again.", name) from error
    turned = (rgb.shape[1] > rgb.shape[0]) != (full[0] > full[1])
    size = full[::-1] if turned else full
    return Picture(rgb, grey, size[0] / rgb.shape[1], (size[0], size[1]), media_type)


def _codes(grey: NDArray[np.uint8]) -> tuple[Code, ...]:
    import zxingcpp

    codes = []
    for found in zxingcpp.read_barcodes(grey, formats=zxingcpp.BarcodeFormats(zxingcpp.BarcodeFormat.QRCode)):
        corners = [getattr(found.position, name) for name in ("top_left", "top_right", "bottom_right", "bottom_left")]
        codes.append(Code(found.text, np.array([(corner.x, corner.y) for corner in corners], float)))
    return tuple(codes)
