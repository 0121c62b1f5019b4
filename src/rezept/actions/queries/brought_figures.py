"""What is understood of a drawing before it becomes the figure of a trial."""

from __future__ import annotations

from typing import Any

from rezept.formats.drawing import read_figure


def brought_figure(data: bytes) -> dict[str, Any]:
    """The figure of an SVG or DXF file as a trial has it, its size, and what was left out.

    Raises
    ------
    InvalidInput : it is neither, or has no outline
    """
    brought = read_figure(data)
    width, height = brought.size_mm
    return {
        "figure": {"svg": brought.svg()},
        "width_mm": round(width, 4),
        "height_mm": round(height, 4),
        "brought": brought.summary(),
        "left_out": [dict(vars(one)) for one in brought.left_out],
    }
