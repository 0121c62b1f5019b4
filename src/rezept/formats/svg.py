"""The plate as SVG, in millimetres, the page being the plate.

Every patch is a group `patch-<id>` with one child group for each setting, which carries the setting's name,
its numbers as data attributes and a colour of its own. Lettering is `label-<kind>-<n>`.
"""

from __future__ import annotations

from collections.abc import Mapping
from xml.sax.saxutils import escape, quoteattr

import numpy as np
from numpy.typing import NDArray

from rezept.core.path.outlines import rectangle
from rezept.core.plan import Plate
from rezept.formats.naming import distinct_colours, settings_name

_STROKE_MM = 0.1


def _path(points: NDArray[np.float64], page_height_mm: float) -> str:
    """Path data of one polyline, y turned down."""
    turned = np.column_stack([points[:, 0], page_height_mm - points[:, 1]])
    closed = len(points) > 2 and bool(np.all(points[0] == points[-1]))
    body = turned[:-1] if closed else turned
    return "M" + "L".join(f"{x:.4f},{y:.4f}" for x, y in body.tolist()) + ("Z" if closed else "")


def _data(settings: Mapping[str, float]) -> str:
    return "".join(f' data-{key}="{value:.10g}"' for key, value in settings.items())


def write_svg(plate: Plate) -> bytes:
    """The drawing of a plate; it carries every setting, so nothing has to be refused."""
    trial = plate.trial
    every = [tuple(plate.settings_of(index).items()) for index in plate.order.tolist()]
    kinds = list(dict.fromkeys(every))
    number = {kind: i for i, kind in enumerate(kinds, start=1)}
    colours = distinct_colours(len(kinds) + 1)
    height = plate.height_mm
    outline = trial.process.toolpath == "outline"
    title = " ".join(part for part in (trial.code, trial.title, trial.material.title, trial.process.name) if part)
    parts = [
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{plate.width_mm:.4f}mm" height="{height:.4f}mm"'
        f' viewBox="0 0 {plate.width_mm:.4f} {height:.4f}">\n<title>{escape(title)}</title>\n'
    ]
    label_settings = trial.labels.settings
    for i, text in enumerate(plate.texts, start=1):
        paths = "".join(f'<path d="{_path(stroke, height)}"/>' for stroke in text.strokes())
        parts.append(
            f'<g id="label-{text.kind}-{i}" fill="none" stroke="{colours[0]}" stroke-width="{_STROKE_MM}"'
            f"{_data(label_settings)}><title>{escape(text.text)}: {escape(settings_name(label_settings))}</title>"
            f"{paths}</g>\n"
        )
    loop = rectangle(trial.patch.width_mm, trial.patch.height_mm)
    for index, kind in zip(plate.order.tolist(), every, strict=True):
        patch, colour = plate.ids[index], colours[number[kind]]
        shape = _path(loop + (plate.x_mm[index], plate.y_mm[index]), height)
        paint = (
            f'fill="none" stroke="{colour}" stroke-width="{_STROKE_MM}"'
            if outline
            else f'fill="{colour}" stroke="none"'
        )
        parts.append(
            f'<g id="patch-{patch}"><g id="patch-{patch}-setting-{number[kind]}" {paint}{_data(dict(kind))}'
            f" data-name={quoteattr(settings_name(dict(kind)))}>"
            f'<title>{patch}: {escape(settings_name(dict(kind)))}</title><path d="{shape}"/></g></g>\n'
        )
    parts.append("</svg>\n")
    return "".join(parts).encode()
