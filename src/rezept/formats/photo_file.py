"""A photograph as its bytes: turned upright, decoded no larger than finding a plate takes, its codes read."""

from __future__ import annotations

import io
import struct
import warnings
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from PIL import Image, UnidentifiedImageError

from rezept.core.errors import InvalidInput

_FORMATS = {"image/jpeg": ("JPEG",), "image/png": ("PNG",), "image/webp": ("WEBP",), "image/heic": ("HEIF",)}
LARGEST_BYTES = 40 * 1024 * 1024
# A JPEG is made smaller while it is decoded; of the others all has to be decoded first.
MOST_PIXELS = {"image/jpeg": 64_000_000}
MOST_PIXELS_AT_ONCE = 32_000_000
# A strip shows no plate; some steps of finding one take as long as it has pixels along its longer side, squared.
LONGEST_TO_SHORTEST = 12
# A plate is looked for and measured in no more than so many pixels, and shown in no more than so many.
SEARCHED_PIXELS, FINE_PIXELS = 6_000_000, 16_000_000
_ORIENTATION = 0x0112
_TURNS = {
    2: Image.Transpose.FLIP_LEFT_RIGHT,
    3: Image.Transpose.ROTATE_180,
    4: Image.Transpose.FLIP_TOP_BOTTOM,
    5: Image.Transpose.TRANSPOSE,
    6: Image.Transpose.ROTATE_270,
    7: Image.Transpose.TRANSVERSE,
    8: Image.Transpose.ROTATE_90,
}
_SIDEWAYS = (5, 6, 7, 8)


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
    data : the photograph's bytes
    """

    rgb: NDArray[np.uint8]
    coded_grey: NDArray[np.uint8]
    factor: float
    size: tuple[int, int]
    media_type: str
    data: bytes = field(repr=False)

    @cached_property
    def finer(self) -> Picture:
        """The same photograph as fine as it is ever looked at: for what is too small in this one."""
        return self if self.factor == 1 else read_photo(self.data, "photo", FINE_PIXELS)

    @cached_property
    def grey(self) -> NDArray[np.float32]:
        """Its luma from 0 to 1."""
        return self.coded_grey.astype(np.float32) / np.float32(255)

    @cached_property
    def codes(self) -> tuple[Code, ...]:
        """The QR codes in it."""
        return _codes(self.coded_grey)


class LastDecoded:
    """The picture that was decoded last: whoever moves its corners has it read again and again."""

    def __init__(self) -> None:
        self._last: tuple[str, Picture] | None = None

    def picture(self, sha256: str, data: Callable[[], bytes]) -> Picture:
        """The picture of a photograph by what its bytes are known by; they are asked for only where it is another."""
        last = self._last
        if last is not None and last[0] == sha256:
            return last[1]
        # Not two at once in memory.
        self._last = last = None
        picture = read_photo(data(), "photo")
        self._last = sha256, picture
        return picture


def kind_of(data: bytes, name: str = "photo") -> str:
    """The media type of a photograph by its first bytes, and nothing decoded.

    Raises
    ------
    InvalidInput : it is none, or too large
    """
    if len(data) > LARGEST_BYTES:
        raise InvalidInput(f"A photo has at most {LARGEST_BYTES // 2**20} MiB.", name, len(data))
    if data[:3] == b"\xff\xd8\xff":
        return "image/jpeg"
    if data[:8] == b"\x89PNG\r\n\x1a\n":
        return "image/png"
    if data[:4] == b"RIFF" and data[8:12] == b"WEBP":
        return "image/webp"
    if data[4:8] == b"ftyp" and data[8:12] in (b"heic", b"heix", b"mif1", b"msf1", b"heim", b"heis", b"hevc"):
        return "image/heic"
    raise InvalidInput("This is no photo I can read; take a JPEG, PNG, WebP or HEIC.", name)


def orientation_of(image: Image.Image) -> int:
    """Which way up a picture is (Exif 2.32, 1 to 8); as it lies where that cannot be read."""
    try:
        with warnings.catch_warnings(action="ignore"):
            value = image.getexif().get(_ORIENTATION, 1)
    except (OSError, SyntaxError, ValueError, TypeError, struct.error, IndexError, KeyError, OverflowError):
        return 1
    return value if isinstance(value, int) and 1 <= value <= 8 else 1


def read_photo(data: bytes, name: str = "photo", most_pixels: int = SEARCHED_PIXELS) -> Picture:
    """The picture of a photograph, all of its bytes read: a torn file is found now, not later.

    most_pixels : decode larger ones at half their size, a quarter or an eighth

    Raises
    ------
    InvalidInput : it is no photograph, damaged, or too large; the sentence says which
    """
    media_type = kind_of(data, name)
    if media_type == "image/heic":
        # A large decoder of foreign bytes, which only the worker ever has in its memory.
        from pillow_heif import register_heif_opener

        register_heif_opener()
    try:
        coloured, full = _decoded(data, media_type, name, most_pixels)
        # Of the decoded picture: to make one of an array again costs as much as to decode a small one.
        grey = np.asarray(coloured.convert("L"))
        rgb = np.asarray(coloured)
    except UnidentifiedImageError as error:
        raise InvalidInput("This is no photo I can read; take a JPEG, PNG, WebP or HEIC.", name) from error
    except (OSError, SyntaxError, ValueError, struct.error, Image.DecompressionBombError) as error:
        if isinstance(error, InvalidInput):
            raise
        raise InvalidInput("This photo is damaged or cut short; take it again.", name) from error
    return Picture(rgb, grey, full[0] / rgb.shape[1], full, media_type, data)


def _decoded(data: bytes, media_type: str, name: str, most_pixels: int) -> tuple[Image.Image, tuple[int, int]]:
    """A photograph upright, no larger than asked for, and the size of the photograph itself. What it was decoded from
    is out of memory once this returns."""
    with Image.open(io.BytesIO(data), formats=_FORMATS[media_type]) as image:
        full = image.size
        _refuse_too_large(full, media_type, name)
        turn = orientation_of(image)
        factor = next(factor for factor in (1, 2, 4, 8) if full[0] * full[1] <= most_pixels * factor**2)
        if factor > 1:
            # Only JPEGs listen to this; the others are made smaller below.
            image.draft("RGB", (-(-full[0] // factor), -(-full[1] // factor)))
        image.load()
        coloured = _coloured(image, factor if image.size == full else 1)
    if turn in _TURNS:
        coloured = coloured.transpose(_TURNS[turn])
    return coloured, (full[1], full[0]) if turn in _SIDEWAYS else (full[0], full[1])


def _refuse_too_large(size: tuple[int, int], media_type: str, name: str) -> None:
    most = MOST_PIXELS.get(media_type, MOST_PIXELS_AT_ONCE)
    if size[0] * size[1] > most:
        advice = "" if media_type in MOST_PIXELS else f"; a JPEG may have {MOST_PIXELS['image/jpeg'] // 10**6}"
        raise InvalidInput(
            f"This photo has {size[0]} x {size[1]} pixels, more than {most // 10**6} million{advice}.", name
        )
    if max(size) > LONGEST_TO_SHORTEST * min(size):
        raise InvalidInput(f"This picture of {size[0]} x {size[1]} pixels is a strip; no plate fits into it.", name)


def _coloured(image: Image.Image, factor: int) -> Image.Image:
    """A decoded picture in eight bits of red, green and blue, so many times smaller."""
    if image.mode == "P":
        image = image.convert("RGBA" if "transparency" in image.info else "RGB")
    if factor > 1 and image.mode in ("L", "LA", "RGB", "RGBA", "I", "F"):
        image, factor = image.reduce(factor), 1
    coloured = _eight_bits(image)
    return coloured.reduce(factor) if factor > 1 else coloured


def _eight_bits(image: Image.Image) -> Image.Image:
    if image.mode.startswith("I") or image.mode == "F":
        # Sixteen bits of grey, scaled: Pillow would cut off all that is brighter than 255.
        values = np.asarray(image).astype(np.float32)
        return Image.fromarray((values * (255 / 65535)).clip(0, 255).round().astype(np.uint8)).convert("RGB")
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        # What is not there shows the white of a page.
        ground = Image.new("RGBA", image.size, "white")
        return Image.alpha_composite(ground, image.convert("RGBA")).convert("RGB")
    # Pillow copies what is RGB already.
    return image if image.mode == "RGB" else image.convert("RGB")


def _codes(grey: NDArray[np.uint8]) -> tuple[Code, ...]:
    import zxingcpp

    codes = []
    for found in zxingcpp.read_barcodes(grey, formats=zxingcpp.BarcodeFormats(zxingcpp.BarcodeFormat.QRCode)):
        corners = [getattr(found.position, name) for name in ("top_left", "top_right", "bottom_right", "bottom_left")]
        codes.append(Code(found.text, np.array([(corner.x, corner.y) for corner in corners], float)))
    return tuple(codes)
