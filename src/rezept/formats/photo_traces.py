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
        b"sBIT",
        b"pHYs",
        b"bKGD",
        b"cICP",
    ]
)
_WEBP_KEPT = frozenset([b"VP8 ", b"VP8L", b"VP8X", b"ALPH", b"ICCP", b"ANIM", b"ANMF"])
_WEBP_EXIF, _WEBP_XMP = 0x08, 0x04
MOST_PROFILE = 4 * 2**20


def without_traces(data: bytes, media_type: str) -> bytes:
    """The same picture with its orientation and a colour profile that names nobody, and nothing else beside it.

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


# Of a colour profile (ICC.1:2022, 7.2): who made device, profile and platform, when, and the sum of it all.
_PROFILE_TRACES = ((4, 8), (24, 36), (40, 44), (48, 56), (80, 100))
_PROFILE_TEXTS = (b"dmnd", b"dmdd", b"cprt", b"desc", b"vued", b"meta", b"targ")


def _anonymous(profile: bytes) -> bytes:
    """A colour profile that gives the same colours and does not say whose it is; nothing where it cannot be taken
    apart."""
    made = bytearray(profile)
    try:
        if len(profile) < 132 or profile[36:40] != b"acsp":
            return b""
        for first, end in _PROFILE_TRACES:
            made[first:end] = b"\0" * (end - first)
        (count,) = struct.unpack_from(">I", profile, 128)
        for i in range(min(count, 200)):
            tag, offset, size = struct.unpack_from(">4sII", profile, 132 + 12 * i)
            if tag not in _PROFILE_TEXTS:
                continue
            kind = profile[offset : offset + 4]
            if kind == b"mluc":
                (records,) = struct.unpack_from(">I", profile, offset + 8)
                begin = offset + 16 + 12 * records
                made[begin : offset + size] = b"\0" * max(0, offset + size - begin)
            elif kind in (b"text", b"desc"):
                begin = offset + (8 if kind == b"text" else 12)
                made[begin : offset + size] = b" " * max(0, offset + size - begin - 1) + b"\0"
            else:
                return b""
    except struct.error:
        return b""
    return bytes(made) if len(made) == len(profile) else b""


def _jpeg_profile(segment: bytes) -> bytes:
    """A segment with a colour profile made anonymous; one of several that only together are one is left out."""
    head, profile = segment[4:18], segment[18:]
    plain = _anonymous(profile) if head[12:14] == b"\x01\x01" else b""
    return segment[:18] + plain if plain else b""


def _png_profile(chunk: bytes) -> bytes:
    data = chunk[8:-4]
    name_end = data.index(b"\0")
    unpacker = zlib.decompressobj()
    plain = _anonymous(unpacker.decompress(data[name_end + 2 :], MOST_PROFILE))
    if not plain or unpacker.unconsumed_tail:
        return b""
    body = b"iCCP" + b"profile\0\0" + zlib.compress(plain)
    return struct.pack(">I", len(body) - 4) + body + struct.pack(">I", zlib.crc32(body))


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
        if profile:
            kept.append(_jpeg_profile(data[at:end]))
        elif marker in _JPEG_KEPT:
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
        if kind == b"iCCP":
            kept.append(_png_profile(data[at:end]))
        elif kind in _PNG_KEPT:
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
        if kind == b"ICCP":
            plain = _anonymous(data[at + 8 : at + 8 + length])
            chunk = chunk[:8] + plain + b"\0" * (length % 2) if plain else b""
        if kind in _WEBP_KEPT:
            kept.append(chunk)
        at = end
    if orientation != 1:
        block = _exif(orientation)
        kept.append(b"EXIF" + struct.pack("<I", len(block)) + block)
    body = b"".join(kept)
    return b"RIFF" + struct.pack("<I", len(body) + 4) + b"WEBP" + body


_TAKEN_APART: dict[str, Callable[[bytes, int], bytes]] = {"image/jpeg": _jpeg, "image/png": _png, "image/webp": _webp}
