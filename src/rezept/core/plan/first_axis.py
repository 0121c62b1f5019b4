"""Where a setting begins to vary when somebody first lets it: around what was held, within what the machine can do."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.chosen import STEPS, spacing_of, span_on
from rezept.core.plan.holding import limits_of

STEPS_OF_BLOCKS = 3
# What is usual where nothing was held: least and greatest.
_USUAL: Mapping[str, tuple[float, float]] = {
    "corner_power_pct": (10.0, 50.0),
    "line_spacing_mm": (0.06, 0.18),
    "air_kpa": (20.0, 100.0),
    "pierce_dwell_ms": (100.0, 400.0),
    "step_down_mm": (0.2, 1.0),
    "speed_mm_s": (10.0, 40.0),
    "power_pct": (40.0, 80.0),
    "frequency_khz": (20.0, 80.0),
}
# How far either way from what was held.
_REACH: Mapping[str, float] = {
    "focus_offset_mm": 2.0,
    "hatch_angle_deg": 45.0,
    "hatch_turn_deg": 45.0,
    "on_delay_us": 100.0,
    "off_delay_us": 100.0,
}


def first_axis(
    machine: Machine, key: str, held: float | None, along: str = "x", pulse_width_ns: float | None = None
) -> dict[str, Any]:
    """An axis without its place: `from`, `to`, `count`, `spacing`, `round`, or `values` where there are only so many.

    Parameters
    ----------
    held : what it was held at so far, as far as it was
    along : where it is to stand; in blocks there are few steps, since each is a plate of its own
    """
    row = PARAMETERS[key]
    steps = STEPS_OF_BLOCKS if along.startswith("block") else STEPS
    if key == "pulse_width_ns":
        return {"values": _widths(machine, held, steps)}
    if key == "air_level":
        return _even(0.0, len(machine.air_words) - 1.0, len(machine.air_words))
    low, high = limits_of(machine, key, pulse_width_ns)
    if row.whole:
        start = max((held or 1.0) - 1.0, low)
        count = min(steps, 4)
        return _even(start, start + count - 1.0, count)
    if key in _REACH:
        centre = held or 0.0
        return _even(max(centre - _REACH[key], low), min(centre + _REACH[key], high), steps)
    if held is None or held <= 0:
        least, most = _USUAL[key]
        if key == "frequency_khz":
            least, most = low, high
    else:
        # Less far up where the machine ends.
        least, most = held / 2, held * 1.5
    span = span_on(machine, key, least, most, (low, high), steps)
    return axis_over(span.start, span.end, steps, span.spacing)


def _widths(machine: Machine, held: float | None, most: int) -> list[float]:
    """The pulse widths a source has, of very many those about the one that was held."""
    widths = sorted(width.ns for width in machine.pulse_widths or ())
    if len(widths) <= most:
        return widths
    if held is None:
        return [widths[i] for i in np.linspace(0, len(widths) - 1, most).round().astype(int)]
    nearest = int(np.argmin([abs(width - held) for width in widths]))
    first = min(max(nearest - most // 2, 0), len(widths) - most)
    return widths[first : first + most]


def _even(start: float, end: float, count: int) -> dict[str, Any]:
    return {"from": start, "to": end, "count": count, "spacing": "linear"}


def axis_over(start: float, end: float, count: int, spacing: str | None = None) -> dict[str, Any]:
    """An axis without parameter and place whose steps are figures one would choose."""
    return {
        "from": start,
        "to": end,
        "count": count,
        "spacing": spacing or spacing_of(start, end),
        "round": True,
    }
