"""The outlines of a DXF drawing, in mm: what its model space holds of lines, polylines, circles, arcs and curves."""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Iterator
from itertools import islice
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.path.brought import CURVE_MM, MOST_BROUGHT, MOST_FAR, Brought, Path, all_left_out, understood

if TYPE_CHECKING:
    from ezdxf.document import Drawing
    from ezdxf.entities.dxfentity import DXFEntity

LONGEST, MOST_ENTITIES = 20_000_000, 20_000
OUTLINES = {"LINE", "LWPOLYLINE", "POLYLINE", "CIRCLE", "ARC", "ELLIPSE", "SPLINE"}
_WHY_NOT = {
    "TEXT": "letters are no outlines; turn them into curves where it was drawn",
    "MTEXT": "letters are no outlines; turn them into curves where it was drawn",
    "HATCH": "how it is filled is said by the plan; its outline counts where it is drawn",
    "DIMENSION": "a measure is no outline",
    "IMAGE": "a picture has no outlines",
}


def _opened(data: bytes) -> Drawing:
    # ezdxf takes longer to import than a plan takes; only those who bring a DXF wait for it.
    from ezdxf import recover
    from ezdxf.lldxf.const import DXFError

    if len(data) > LONGEST:
        raise InvalidInput(f"The drawing is larger than {LONGEST // 1_000_000} MB; bring a part of it.")
    try:
        drawing, _ = recover.read(io.BytesIO(data))
    except (DXFError, OSError, ValueError, TypeError, KeyError, IndexError, AttributeError) as error:
        raise InvalidInput("This is no DXF that can be read.") from error
    return drawing


def _entities(drawing: Drawing) -> Iterator[DXFEntity]:
    """What is drawn, with blocks taken apart."""
    from ezdxf.disassemble import recursive_decompose

    for count, entity in enumerate(recursive_decompose(drawing.modelspace())):
        if count >= MOST_ENTITIES:
            raise InvalidInput(f"The drawing has more than {MOST_ENTITIES} elements; bring a part of it.")
        yield entity


def _way(entity: DXFEntity, scale: float) -> NDArray[np.float64]:
    from ezdxf.path import make_path

    path = make_path(entity)
    # Of what lies nowhere no chord ever comes near enough.
    if not all(abs(value) * scale < MOST_FAR for point in path.control_vertices() for value in point.xyz):
        raise InvalidInput("The drawing has a point that lies out of this world.")
    drawn = islice(path.flattening(CURVE_MM / scale), MOST_BROUGHT + 1)
    points = np.array([(point.x, point.y) for point in drawn], float).reshape(-1, 2) * scale
    # A closed one ends where it began; what reckons curves is off by the last figure there.
    if len(points) > 2 and path.is_closed:
        points[-1] = points[0]
    return points


def read_drawing(data: bytes, close_gaps_mm: float = 0.0) -> Brought:
    """The figure of a DXF drawing, and what of it was left out.

    Raises
    ------
    InvalidInput : it is none, or has no outline
    """
    from ezdxf import units
    from ezdxf.enums import InsertUnits
    from ezdxf.lldxf.const import DXFError

    drawing = _opened(data)
    missed: Counter[tuple[str, str]] = Counter()
    if drawing.units == InsertUnits.Unitless:
        missed["the unit of the drawing", "it says none; it is taken for mm"] += 1
        scale = 1.0
    else:
        scale = units.conversion_factor(InsertUnits(drawing.units), InsertUnits.Millimeters)
    ways: list[NDArray[np.float64]] = []
    points = 0
    hidden = {layer.dxf.name.lower() for layer in drawing.layers if layer.is_off() or layer.is_frozen()}
    for entity in _entities(drawing):
        kind = entity.dxftype()
        if entity.dxf.layer.lower() in hidden or entity.dxf.get("invisible", 0):
            missed["what is hidden", "its layer is off or frozen"] += 1
        elif kind not in OUTLINES:
            missed[kind[:40], _WHY_NOT.get(kind, "no outline that is known here")] += 1
        else:
            try:
                way = _way(entity, scale)
            except (DXFError, ValueError, TypeError, ZeroDivisionError) as error:
                if isinstance(error, InvalidInput):
                    raise
                missed[f"{kind} that cannot be drawn", str(error)[:200]] += 1
                continue
            points += len(way)
            if points > MOST_BROUGHT:
                raise InvalidInput(f"The drawing has more than {MOST_BROUGHT} points. Simplify it first.")
            ways.append(way)
    return understood([Path(tuple(way for way in ways if len(way)))], all_left_out(missed), close_gaps_mm)
