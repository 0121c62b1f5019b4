"""The plate as DXF (ASCII, R2000), in millimetres, y up, the plate's lower left at 0, 0.

Every distinct setting has a layer of its own, named `01 speed 8 mm per s, power 30 %` with its generated colour;
every patch is a closed LWPOLYLINE (or several) that carries its id as XDATA of the application `REZEPT`. Lettering
and marks lie on the layer `labels`, the hang hole and the cut-out on `cut out`.
"""

from __future__ import annotations

import io
import re

from rezept.core.path.figure import is_closed
from rezept.core.plan import Plate
from rezept.core.plan.distinct import distinct_settings
from rezept.core.wording import settings_name
from rezept.formats.colours import distinct_colours

APPLICATION = "REZEPT"
_LONGEST_NAME = 200


def layer_name(number: int, name: str) -> str:
    """A layer name from words: DXF allows no slashes, commas or signs of degree in it."""
    plain = name.replace("mm/s", "mm per s").replace("°", " deg").replace("µ", "u").replace(",", "")
    return re.sub(r"[^A-Za-z0-9 .%+_-]", "-", f"{number:02d} {plain}")[:_LONGEST_NAME].strip()


def write_dxf(plate: Plate) -> bytes:
    """The drawing of a plate; it carries every setting in the names of its layers."""
    # ezdxf takes longer to import than a plan takes; only those who want a DXF wait for it.
    from ezdxf import units
    from ezdxf.colors import RGB
    from ezdxf.filemanagement import new as new_drawing

    drawing = new_drawing("R2000", setup=False)
    drawing.units = units.MM
    drawing.appids.add(APPLICATION)
    space = drawing.modelspace()
    kinds = distinct_settings(plate)
    colours = distinct_colours(len(kinds) + 2)

    def layer(name: str, colour: str) -> str:
        drawing.layers.add(name).rgb = RGB.from_hex(colour)
        return name

    labels = layer("labels", colours[0])
    if any(part.last for part in plate.drawn):
        layer("cut out", colours[-1])
    for part in plate.drawn:
        where = "cut out" if part.last else labels
        for way in [*part.ways, *part.lines]:
            line = space.add_lwpolyline(way.tolist(), close=False, dxfattribs={"layer": where})
            line.set_xdata(APPLICATION, [(1000, f"{part.kind} {part.role}")])
    for kind in kinds:
        name = layer(layer_name(kind.number, settings_name(kind.settings)), colours[kind.number])
        for index in kind.elements:
            corner = plate.elements.corners[index]
            for way in plate.elements.figure_of(index, plate.steps[kind.step].work.figure).ways:
                points = (way[:-1] if is_closed(way) else way) + corner
                outline = space.add_lwpolyline(points.tolist(), close=is_closed(way), dxfattribs={"layer": name})
                outline.set_xdata(APPLICATION, [(1000, plate.part_name(index, kind.step))])
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()
