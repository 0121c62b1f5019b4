"""The plate as SVG, in millimetres, the page being the plate.

Every patch is a group `patch-<id>` with one child group for each setting, which carries the setting's name,
its numbers as data attributes and a colour of its own. Lettering is `label-<role>-<n>`, a mark
`mark-<role>-<n>`, the hang hole and the cut-out `outline-<role>-<n>`.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from xml.sax.saxutils import escape, quoteattr

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.path_data import path_data
from rezept.core.plan import Plate
from rezept.core.plan.distinct import distinct_settings
from rezept.core.plan.drawn import Drawn
from rezept.core.wording import settings_name
from rezept.formats.colours import distinct_colours

_STROKE_MM = 0.1


# What XML 1.0 (section 2.2) allows no document to hold.
_NO_XML = re.compile("[^\t\n\r\x20-\ud7ff\ue000-\ufffd\U00010000-\U0010ffff]")


def _written(text: str) -> str:
    """A text as XML holds it; a sign no document may hold stands as the one for what cannot be shown."""
    return escape(_NO_XML.sub("\ufffd", text))


def _path(way: NDArray[np.float64], page_height_mm: float) -> str:
    """Path data of one polyline, y turned down."""
    return path_data([np.column_stack([way[:, 0], page_height_mm - way[:, 1]])])


def _data(settings: Mapping[str, float]) -> str:
    return "".join(f' data-{key}="{value:.10g}"' for key, value in settings.items())


def _drawn_group(part: Drawn, number: int, colour: str, page_height_mm: float) -> str:
    """Lettering, a mark or a cut of the plate itself, as the beam goes."""
    ways = part.ways + list(part.lines)
    paths = "".join(f'<path d="{_path(way, page_height_mm)}"/>' for way in ways)
    name = f"{part.kind}-{part.role}" if part.kind in ("mark", "outline") else f"label-{part.role}"
    return (
        f'<g id="{name}-{number}" fill="none" stroke="{colour}" stroke-width="{_STROKE_MM}"'
        f"{_data(part.settings)}><title>{_written(part.name)}: {_written(settings_name(part.settings))}</title>"
        f"{paths}</g>\n"
    )


def write_svg(plate: Plate) -> bytes:
    """The drawing of a plate; it carries every setting, so nothing has to be refused."""
    trial = plate.trial
    kinds = distinct_settings(plate)
    kind_of = {place: kind for kind in kinds for place in kind.parts.tolist()}
    colours = distinct_colours(len(kinds) + 2)
    height = plate.height_mm
    title = " ".join(part for part in (trial.code, trial.title, trial.material.title, trial.work_name) if part)
    parts = [
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{plate.width_mm:.4f}mm" height="{height:.4f}mm"'
        f' viewBox="0 0 {plate.width_mm:.4f} {height:.4f}">\n<title>{_written(title)}</title>\n'
    ]
    for i, part in enumerate(plate.drawn, start=1):
        parts.append(_drawn_group(part, i, colours[-1] if part.kind == "outline" else colours[0], height))
    for place, (index, step, patch) in enumerate(plate.parts()):
        kind, work = kind_of[place], plate.steps[step].work
        colour, name = colours[kind.number], escape(settings_name(kind.settings))
        ways = [way + plate.elements.corners[index] for way in plate.elements.figure_of(index, work.figure).ways]
        shape = "".join(_path(way, height) for way in ways)
        paint = (
            f'fill="none" stroke="{colour}" stroke-width="{_STROKE_MM}"'
            if not work.process.fills
            else f'fill="{colour}" fill-rule="evenodd" stroke="none"'
        )
        parts.append(
            f'<g id="patch-{patch}"><g id="patch-{patch}-setting-{kind.number}" {paint}{_data(kind.settings)}'
            f" data-name={quoteattr(settings_name(kind.settings))}>"
            f'<title>{patch}: {name}</title><path d="{shape}"/></g></g>\n'
        )
    parts.append("</svg>\n")
    return "".join(parts).encode()
