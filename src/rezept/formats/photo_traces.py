"""A photograph without what it tells of where, when and by what it was taken; its picture stays bit for bit.

JPEG after ITU-T T.81 and Exif 2.32, PNG after ISO/IEC 15948, WebP after RFC 9649. Only what a picture is decoded
with is kept: a list of what may stay cannot forget what a phone adds next year.
"""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Callable

from PIL import Image

from rezept.core.errors import InvalidInput
from rezept.formats.photo_file import orientation_of

_ORIENTATION = 0x0112
# Frames, tables, restart intervals, scans; JFIF, colour profiles and Adobe's transform of colours.
_JPEG_KEPT = frozenset([*range(0xC0, 0xD0), 0xDA, 0xDB, 0xDC, 0xDD, 0xE0, 0xEE])
_PNG_KEPT = frozenset(
    [
        b"IHDR",
        b"PLTE",
        b"IDAT",
        b"IEND",
        b"tRNS",
        b"gAMA",
        b"cHRM",
        b"sRGB",
        b"iCCP",
        b"sBIT",
        b"pHYs",
        b"bKGD",
        b"cICP",
    ]
)
_WEBP_KEPT = frozenset([b"VP8 ", b"VP8L", b"VP8X", b"ALPH", b"ICCP", b"ANIM", b"ANMF"])
_WEBP_EXIF, _WEBP_XMP = 0x08, 0x04


def without_traces(data: bytes, media_type: str) -> bytes:
    """The same picture with its orientation and colour profile, and nothing else beside it.

    Raises
    ------
    InvalidInput : not one of the kinds that can be taken apart, or damaged
    """
    if media_type not in _TAKEN_APART:
        raise InvalidInput("Such a photo can only be shown once it has been read.", "photo")
    try:
        return _TAKEN_APART[media_type](data, _orientation(data))
    except (IndexError, struct.error, ValueError, OSError) as error:
        raise InvalidInput("This photo is damaged.", "photo") from error


def can_be_taken_apart(media_type: str) -> bool:
    return media_type in _TAKEN_APART


def _orientation(data: bytes) -> int:
    with Image.open(io.BytesIO(data), formats=("JPEG", "PNG", "WEBP")) as image:
        return orientation_of(image)


def _exif(orientation: int) -> bytes:
    """An Exif block that says one thing: a TIFF header and an IFD of one entry."""
    return b"MM\x00\x2a" + struct.pack(">IHHHIHHI", 8, 1, _ORIENTATION, 3, 1, orientation, 0, 0)


def _jpeg(data: bytes, orientation: int) -> bytes:
    if data[:2] != b"\xff\xd8":
        raise ValueError("no start of image")
    kept = [b"\xff\xd8"]
    if orientation != 1:
        block = b"Exif\x00\x00" + _exif(orientation)
        kept.append(b"\xff\xe1" + struct.pack(">H", len(block) + 2) + block)
    at = 2
    while True:
        while data[at] == 0xFF and data[at + 1] == 0xFF:
            at += 1
        marker = data[at + 1]
        if data[at] != 0xFF:
            raise ValueError("no marker where one belongs")
        if marker == 0xD9:
            # What lies behind the end is another picture, with traces of its own.
            return b"".join([*kept, b"\xff\xd9"])
        end = at + 2 + struct.unpack_from(">H", data, at + 2)[0]
        profile = marker == 0xE2 and data[at + 4 : at + 16] == b"ICC_PROFILE\x00"
        if marker == 0xDA:
            end = _end_of_scan(data, end)
        if marker in _JPEG_KEPT or profile:
            kept.append(data[at:end])
        at = end


def _end_of_scan(data: bytes, at: int) -> int:
    """Where the coded data of a scan ends: at the first marker that is neither stuffing nor a restart."""
    while True:
        at = data.index(b"\xff", at)
        if data[at + 1] == 0 or 0xD0 <= data[at + 1] <= 0xD7:
            at += 2
        elif data[at + 1] == 0xFF:
            at += 1
        else:
            return at


def _png(data: bytes, orientation: int) -> bytes:
    if data[:8] != b"\x89PNG\r\n\x1a\n":
        raise ValueError("no PNG")
    kept, at = [data[:8]], 8
    while True:
        length, kind = struct.unpack_from(">I4s", data, at)
        end = at + 12 + length
        if kind == b"IDAT" and orientation != 1:
            block = b"eXIf" + _exif(orientation)
            kept.append(struct.pack(">I", len(block) - 4) + block + struct.pack(">I", zlib.crc32(block)))
            orientation = 1
        if kind in _PNG_KEPT:
            kept.append(data[at:end])
        if kind == b"IEND":
            return b"".join(kept)
        at = end


def _webp(data: bytes, orientation: int) -> bytes:
    if data[:4] != b"RIFF" or data[8:12] != b"WEBP":
        raise ValueError("no WebP")
    kept, at = [], 12
    while at + 8 <= len(data):
        kind, length = struct.unpack_from("<4sI", data, at)
        end = at + 8 + length + length % 2
        chunk = data[at:end]
        if kind == b"VP8X":
            flags = chunk[8] & ~(_WEBP_EXIF | _WEBP_XMP) | (_WEBP_EXIF if orientation != 1 else 0)
            chunk = chunk[:8] + bytes([flags]) + chunk[9:]
        if kind in _WEBP_KEPT:
            kept.append(chunk)
        at = end
    if orientation != 1:
        block = _exif(orientation)
        kept.append(b"EXIF" + struct.pack("<I", len(block)) + block)
    body = b"".join(kept)
    return b"RIFF" + struct.pack("<I", len(body) + 4) + b"WEBP" + body


_TAKEN_APART: dict[str, Callable[[bytes, int], bytes]] = {"image/jpeg": _jpeg, "image/png": _png, "image/webp": _webp}
