"""A drawing somebody brings, SVG or DXF, by what is in it and not by what it is called."""

from __future__ import annotations

from rezept.core.errors import InvalidInput
from rezept.core.path.brought import Brought
from rezept.core.path.svg import read_svg
from rezept.formats.drawing_dxf import read_drawing


def read_figure(data: bytes, close_gaps_mm: float = 0.0) -> Brought:
    """What is understood of the bytes of a drawing.

    Raises
    ------
    InvalidInput : it is neither, or has no outline
    """
    start = data[:2000].lstrip(b"\xef\xbb\xbf \t\r\n")
    if start.startswith(b"<"):
        try:
            text = data.decode("utf-8-sig")
        except UnicodeDecodeError as error:
            raise InvalidInput("The SVG is not in UTF-8; save it as plain SVG.") from error
        return read_svg(text, close_gaps_mm)
    if b"Binary DXF" in data[:40]:
        raise InvalidInput("This is a binary DXF, which is not read here; save it as a text DXF.")
    if start.startswith((b"0", b"999")):
        return read_drawing(data, close_gaps_mm)
    raise InvalidInput("This is neither an SVG nor a DXF drawing.")
