"""The values along an axis: even steps, even ratios, or a list."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from rezept.core.errors import InvalidInput, quoted
from rezept.core.fields import Fields, plain
from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS, Parameter, parameter
from rezept.core.plan.chosen import round_steps
from rezept.core.plan.holding import why_not
from rezept.core.process import Process

ALONG = ("x", "y", "block_x", "block_y")
SPACINGS = ("linear", "geometric")
MOST_PATCHES = 5000


@dataclass(frozen=True)
class Axis:
    """One varied setting. `spacing` is None where the values came as a list.

    ends : what was asked for, before the steps were rounded to what the machine can show
    wrap : after so many steps the next line begins, above; None: all in one line
    round : its steps are figures one would choose (`core.plan.chosen`)
    step : name of the step whose setting it is; None where the trial has one step
    """

    parameter: str
    along: str
    values: tuple[float, ...]
    spacing: str | None
    wrap: int | None = None
    ends: tuple[float, float] | None = None
    round: bool = False
    step: str | None = None

    @property
    def across(self) -> int:
        """How many steps stand in one line."""
        return len(self.values) if self.wrap is None else min(self.wrap, len(self.values))

    @property
    def lines(self) -> int:
        return -(-len(self.values) // self.across)

    def document(self) -> dict[str, Any]:
        document: dict[str, Any] = {"parameter": self.parameter, "along": self.along}
        if self.step is not None:
            document["step"] = self.step
        if self.wrap is not None:
            document["wrap"] = self.wrap
        if self.spacing is None:
            return {**document, "values": list(self.values)}
        start, end = self.ends or (self.values[0], self.values[-1])
        document |= {"from": start, "to": end, "count": len(self.values), "spacing": self.spacing}
        return {**document, "round": True} if self.round else document


def stepped(start: float, end: float, count: int, spacing: str, rounded: bool = False) -> tuple[float, ...]:
    """`count` values from `start` to `end`, both included, running downward where `end` is less.

    Geometric steps have one ratio, ``(end / start) ** (1 / (count - 1))``. Rounded to ten digits, which
    takes the dust of binary arithmetic off and nothing a machine could show; `rounded` to what one would choose.
    """
    steps = np.geomspace(start, end, count) if spacing == "geometric" else np.linspace(start, end, count)
    if rounded:
        steps = round_steps(steps)
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
    rounded = fields.flag("round", False) if "round" in fields.data else False
    # What is counted is whole: nothing is left to round.
    values = stepped(start, end, count, spacing, rounded and not row.whole)
    for value in values:
        row.checked(value, fields.at("count"))
    return Axis(row.key, "", values, spacing, ends=(start, end), round=rounded)


def read_axis(fields: Fields) -> Axis:
    """An axis from its object in a trial."""
    row = parameter(fields.take("parameter"), fields.at("parameter"))
    along = fields.take("along")
    if along not in ALONG:
        raise InvalidInput(
            f"along must be one of {', '.join(ALONG)}, but {quoted(along)} came.", fields.at("along"), along
        )
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
        axis = replace(_range(fields, row), along=along)
    wrap = fields.whole("wrap", None, at_least=1, at_most=MOST_PATCHES) if "wrap" in fields.data else None
    if wrap is not None and along not in ("x", "block_x"):
        raise InvalidInput("Lines are filled from left to right: wrap goes with x or block_x.", fields.at("wrap"), wrap)
    step = fields.text("step", longest=40) if fields.is_said("step") else None
    fields.finish()
    return replace(axis, wrap=wrap, step=step)


def with_count(axis: Axis, count: int, machine: Machine) -> Axis:
    """The axis with another number of steps between its ends, as the machine can show them."""
    start, end = axis.ends or (axis.values[0], axis.values[-1])
    return shown_steps(replace(axis, values=asked_steps(axis, count), ends=(start, end)), machine)


def asked_steps(axis: Axis, count: int | None = None) -> tuple[float, ...]:
    """The steps from one end of an axis to the other before a machine rounds them."""
    start, end = axis.ends or (axis.values[0], axis.values[-1])
    rounded = axis.round and not PARAMETERS[axis.parameter].whole
    return stepped(start, end, count or len(axis.values), axis.spacing or "linear", rounded)


def shown_steps(axis: Axis, machine: Machine) -> Axis:
    """The axis as the machine can show it: every step rounded to a reading of its scale, or to a multiple of the
    finest it shows, halves away from zero.

    A list is left as it was typed; what the machine cannot show of it is for the checks to say.
    """
    curve, finest = machine.curve(axis.parameter), machine.finest(axis.parameter)
    if axis.spacing is None:
        return axis
    asked = np.array(axis.values)
    if curve is not None:
        return replace(axis, values=tuple(float(f"{value:.10g}") for value in curve.nearest(asked)))
    if finest is None:
        return axis
    shown = np.sign(asked) * np.floor(np.abs(asked) / finest + 0.5 + 1e-9) * finest
    # A step never becomes nothing: the machine's smallest figure is the least it can be told.
    shown = np.where((shown == 0) & (asked != 0), np.sign(asked) * finest, shown)
    return replace(axis, values=tuple(float(f"{value:.10g}") for value in shown))


def _step_of(axis: Axis, steps: Mapping[str, Process], path: str) -> tuple[Axis, Process]:
    """An axis with the step it varies, and that step's process."""
    if len(steps) == 1 and axis.step is None:
        return axis, next(iter(steps.values()))
    if axis.step is None:
        raise InvalidInput(f"This axis does not say which step it varies: {', '.join(steps)}.", f"{path}.step")
    if axis.step not in steps:
        raise InvalidInput(f"There is no step {quoted(axis.step)}; there is {', '.join(steps)}.", f"{path}.step")
    return (replace(axis, step=None) if len(steps) == 1 else axis), steps[axis.step]


def _refuse_beside(axis: Axis, others: Sequence[Axis], path: str) -> None:
    """Raise where an axis says again what another one says, or cannot run beside it."""
    for other in others:
        name = PARAMETERS[axis.parameter].name.capitalize()
        if (axis.parameter, axis.step) == (other.parameter, other.step):
            raise InvalidInput(f"{name} stands on two axes; each setting can vary once.", f"{path}.parameter")
        if axis.along != other.along:
            continue
        if axis.step == other.step:
            raise InvalidInput(f"Two axes run along {axis.along}.", f"{path}.along", axis.along)
        if (len(axis.values), axis.wrap) != (len(other.values), other.wrap):
            raise InvalidInput(
                f"Two steps that vary along {axis.along} take equally many values, wrapped alike.",
                f"{path}.count",
                len(axis.values),
                len(other.values),
            )


def read_axes(fields: Fields, machine: Machine, steps: Mapping[str, Process]) -> tuple[Axis, ...]:
    """The axes of an array; `steps` are the processes of its steps by their names.

    Axes of several steps may run along one direction: one after another they then take their values together.
    """
    items = fields.items("axes")
    most = 4 * len(steps)
    if not 1 <= len(items) <= most:
        words = "one to four axes" if len(steps) == 1 else "one to four axes a step"
        raise InvalidInput(f"A trial takes {words}, but {len(items)} came.", fields.at("axes"), len(items), most)
    axes: list[Axis] = []
    for i, item in enumerate(items):
        path = f"{fields.at('axes')}[{i}]"
        axis, process = _step_of(read_axis(Fields(item, path, fields.defaulted)), steps, path)
        axis = shown_steps(axis, machine)
        row = PARAMETERS[axis.parameter]
        reason = why_not(row, max(axis.values), machine, process.key)
        if reason is not None:
            raise InvalidInput(reason, f"{path}.parameter", axis.parameter)
        _refuse_beside(axis, axes, path)
        axes.append(axis)
    along = {axis.along: axis for axis in axes}
    count = math.prod(len(axis.values) for axis in along.values())
    if count > MOST_PATCHES:
        raise InvalidInput(
            f"That makes {count} patches; a plate holds {MOST_PATCHES} at most.",
            fields.at("axes"),
            count,
            MOST_PATCHES,
        )
    if not set(along) & {"x", "y"}:
        raise InvalidInput("Blocks need an axis inside them: one along x or y.", fields.at("axes"))
    for i, axis in enumerate(axes):
        other = {"x": "y", "block_x": "block_y"}.get(axis.along)
        if axis.wrap is not None and other in along:
            raise InvalidInput(
                f"Only a ladder wraps, and {axis.along} stands beside {other}; leave wrap out.",
                f"{fields.at('axes')}[{i}].wrap",
                axis.wrap,
            )
    return tuple(axes)
