"""QR codes of page addresses, for printed cards (ISO/IEC 18004)."""

from __future__ import annotations

import io

import segno

QUIET_MODULES = 4


def qr_svg(text: str) -> bytes:
    """The code of a text as a drawing, black on white with its quiet zone; it scales to the size it is shown at."""
    out = io.BytesIO()
    segno.make(text, error="m", micro=False).save(
        out, kind="svg", border=QUIET_MODULES, omitsize=True, light="white", dark="black"
    )
    return out.getvalue()
