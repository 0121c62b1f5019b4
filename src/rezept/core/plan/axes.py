"""The values along an axis: even steps, even ratios, or a list."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields, plain
from rezept.core.parameters import Parameter, parameter

ALONG = ("x", "y")
LATER_ALONG = ("block_x", "block_y")
SPACINGS = ("linear", "geometric")
MOST_PATCHES = 5000


@dataclass(frozen=True)
class Axis:
    """One varied setting. `spacing` is None where the values came as a list."""

    parameter: str
    along: str
    values: tuple[float, ...]
    spacing: str | None

    def document(self) -> dict[str, Any]:
        document: dict[str, Any] = {"parameter": self.parameter, "along": self.along}
        if self.spacing is None:
            return {**document, "values": list(self.values)}
        return {
            **document,
            "from": self.values[0],
            "to": self.values[-1],
            "count": len(self.values),
            "spacing": self.spacing,
        }


def stepped(start: float, end: float, count: int, spacing: str) -> tuple[float, ...]:
    """`count` values from `start` to `end`, both included, running downward where `end` is less.

    Geometric steps have one ratio, ``(end / start) ** (1 / (count - 1))``. Rounded to ten digits, which
    takes the dust of binary arithmetic off and nothing a machine could show.
    """
    steps = np.geomspace(start, end, count) if spacing == "geometric" else np.linspace(start, end, count)
    return tuple(float(f"{value:.10g}") for value in steps)


def _range(fields: Fields, row: Parameter) -> Axis:
    start = row.checked(fields.take("from"), fields.at("from"))
    count = fields.whole("count", at_least=1, at_most=MOST_PATCHES)
    end = row.checked(fields.take("to", start) if count == 1 else fields.take("to"), fields.at("to"))
    spacing = fields.choice("spacing", SPACINGS, row.scale)
    if count > 1 and start == end:
        raise InvalidInput(
            f"{row.name.capitalize()} runs from {plain(start)} to {plain(end)}: nothing would vary.",
            fields.at("to"),
            end,
            start,
        )
    if count == 1 and start != end:
        raise InvalidInput(
            f"One step cannot run from {plain(start)} to {plain(end)}; take two or more.",
            fields.at("count"),
            1,
            2,
        )
    if spacing == "geometric" and start * end <= 0:
        raise InvalidInput(
            f"Even ratios need both ends of {row.name} on one side of 0; use even steps.",
            fields.at("spacing"),
        )
    values = stepped(start, end, count, spacing)
    for value in values:
        row.checked(value, fields.at("count"))
    return Axis(row.key, "", values, spacing)


def read_axis(fields: Fields) -> Axis:
    """An axis from its object in a trial."""
    row = parameter(fields.take("parameter"), fields.at("parameter"))
    along = fields.take("along")
    if along in LATER_ALONG:
        raise InvalidInput(f"This Rezept plans along x and y; {along} needs a newer one.", fields.at("along"), along)
    if along not in ALONG:
        raise InvalidInput(f"along must be x or y, but {along!r} came.", fields.at("along"), along)
    if "values" in fields.data:
        items = fields.items("values")
        if not 1 <= len(items) <= MOST_PATCHES:
            raise InvalidInput(
                f"The list of {row.name} holds {len(items)} values; it takes 1 to {MOST_PATCHES}.",
                fields.at("values"),
                len(items),
                MOST_PATCHES,
            )
        values = tuple(row.checked(item, f"{fields.at('values')}[{i}]") for i, item in enumerate(items))
        axis = Axis(row.key, along, values, None)
    else:
        read = _range(fields, row)
        axis = Axis(read.parameter, along, read.values, read.spacing)
    fields.finish()
    return axis
