"""An array without machine and material: kept, shared, and laid round another starting point."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.machine import Machine
from rezept.core.parameters import PARAMETERS, parameter
from rezept.core.path.lettering import must_be_writable
from rezept.core.plan.axes import Axis, read_axis
from rezept.core.plan.chosen import span_on
from rezept.core.plan.design import IN_ARRAYS
from rezept.core.plan.holding import limits_of, why_not
from rezept.core.plan.parts import PatchShape, read_patch
from rezept.core.plan.trial import ORDERS, Trial
from rezept.core.process import PROCESSES, Process

FORMAT = "rezept-array"
VERSION = 1
LETTERED = ("on", "heading", "numbers", "qr", "marks", "ids", "height_mm", "text")


@dataclass(frozen=True)
class KeptArray:
    """What varies and what is held, how patches look and are ordered; what is lettered, and whether the plate is cut
    out and hung, None where it does not say."""

    name: str
    process: Process
    hold: Mapping[str, float]
    axes: tuple[Axis, ...]
    patch: PatchShape
    order: str
    labels: Mapping[str, Any] | None = None
    cut_out: bool | None = None
    hang_hole_mm: float | None = None

    def document(self) -> dict[str, Any]:
        said = {
            "labels": None if self.labels is None else dict(self.labels),
            "cut_out": self.cut_out,
            "hang_hole_mm": self.hang_hole_mm,
        }
        return {
            "format": FORMAT,
            "version": VERSION,
            "name": self.name,
            "process": self.process.key,
            "hold": dict(self.hold),
            "axes": [axis.document() for axis in self.axes],
            "patch": self.patch.document(),
            "order": self.order,
            **{key: value for key, value in said.items() if value is not None},
        }


def without_settings(labels: Mapping[str, Any]) -> dict[str, Any]:
    """What is lettered, without how: speed and power belong to a material on a machine."""
    return {key: value for key, value in labels.items() if key in LETTERED and value is not None}


def _read_labels(fields: Fields) -> dict[str, Any]:
    """Which parts are lettered, and how high; only what is said."""
    labels: dict[str, Any] = {
        key: fields.flag(key) for key in ("on", "heading", "numbers", "qr", "marks", "ids") if key in fields.data
    }
    if "height_mm" in fields.data:
        labels["height_mm"] = fields.number("height_mm", at_least=0.3, at_most=100.0)
    if "text" in fields.data:
        labels["text"] = fields.text("text", longest=120).strip()
        must_be_writable(labels["text"], fields.at("text"))
    fields.finish()
    return labels


def read_array(document: object) -> KeptArray:
    """A kept array from its document; see `docs/formats/array.md`.

    Raises
    ------
    InvalidInput : with the path of the value and a sentence
    """
    fields = Fields(document)
    fields.of_format("a kept array", FORMAT, VERSION)
    process = PROCESSES[fields.choice("process", tuple(PROCESSES))]
    items = fields.items("axes")
    if not 1 <= len(items) <= 4:
        raise InvalidInput(f"An array takes one to four axes, but {len(items)} came.", "axes", len(items), 4)
    axes = tuple(read_axis(Fields(item, f"axes[{i}]")) for i, item in enumerate(items))
    for what in ("parameter", "along"):
        values = [getattr(axis, what) for axis in axes]
        if len(set(values)) < len(values):
            raise InvalidInput(f"Two axes have the same {what}.", "axes")
    hold = fields.inner("hold", {})
    held = {
        parameter(key, hold.at(str(key))).key: PARAMETERS[key].checked(hold.data[key], hold.at(key))
        for key in hold.data
    }
    array = KeptArray(
        name=fields.text("name", empty=False, longest=80),
        process=process,
        hold={key: value for key, value in held.items() if key not in {axis.parameter for axis in axes}},
        axes=axes,
        patch=read_patch(fields.inner("patch", {}), [process]),
        order=fields.choice("order", ORDERS, "rows"),
        labels=_read_labels(fields.inner("labels")) if "labels" in fields.data else None,
        cut_out=fields.flag("cut_out") if "cut_out" in fields.data else None,
        hang_hole_mm=(
            fields.number("hang_hole_mm", at_least=0.0, at_most=100.0) if "hang_hole_mm" in fields.data else None
        ),
    )
    fields.finish()
    return array


def array_of(trial: Trial, name: str) -> KeptArray:
    """The array of a trial, without its machine and material.

    Raises
    ------
    InvalidInput : the trial is a list, whose settings are those of one material on one machine, or of several steps
    """
    if len(trial.steps) > 1 or not trial.step.is_plain:
        raise InvalidInput("An array is kept for others of one plain step; this trial says more of its steps.", "steps")
    if trial.listed is not None:
        raise InvalidInput("A list of settings is no array to keep for others.", "listed")
    labels, cuts = without_settings(trial.labels.document()), trial.cut_out
    look = (labels, cuts.on, cuts.hang_hole_mm)
    return KeptArray(name, trial.process, trial.hold, trial.axes, trial.patch, trial.order, *look)


def _within(value: float, low: float, high: float) -> float:
    """A figure one would type, no farther than a machine goes."""
    return min(max(float(f"{value:.2g}"), low), high)


def _moved(axis: Axis, centre: float | None, machine: Machine) -> tuple[Axis, str | None]:
    """An axis with its middle near `centre` and its ends in about the same ratio, in steps one would choose, no farther
    than the machine goes."""
    values = np.array(axis.values)
    middle = float(np.sqrt(values.min() * values.max())) if values.min() > 0 else 0.0
    factor = 1.0 if centre is None or middle == 0 else centre / middle
    low, high = limits_of(machine, axis.parameter)
    wanted = values * factor
    beyond = bool(wanted.min() < low - 1e-9 or wanted.max() > high + 1e-9)
    if factor == 1.0 and not beyond:
        return axis, None
    row = PARAMETERS[axis.parameter]
    note = f"{row.name} goes only as far as {machine.name} does ({low:g} to {high:g} {row.unit})" if beyond else None
    if axis.spacing is None:
        return replace(axis, values=tuple(_within(value, low, high) for value in wanted.tolist())), note
    start, end = (_within(value * factor, low, high) for value in axis.ends or (axis.values[0], axis.values[-1]))
    if axis.spacing == "linear" and min(start, end) > 0:
        span = span_on(machine, axis.parameter, min(start, end), max(start, end), steps=len(axis.values))
        if span.spacing == "linear":
            start, end = (span.start, span.end) if start <= end else (span.end, span.start)
    # The steps between are made anew from the ends when the array is planned.
    return replace(axis, values=(start, *axis.values[1:-1], end), ends=(start, end), round=True), note


def laid_round(
    array: KeptArray, machine: Machine, centre: Mapping[str, float] | None
) -> tuple[list[dict[str, Any]], dict[str, float], list[str]]:
    """Axes and held settings of an array on a machine, round a starting point where there is one, and what is to be
    said of it.

    Speed and power move so that the middle (the mean of ratios) of their range is the starting point's; other
    settings stay as they are. What is held comes from the starting point where the array does not say it, and what
    the machine does not have is left out.

    Raises
    ------
    InvalidInput : the array varies a setting this machine does not have
    """
    notes: list[str] = []
    axes = []
    for i, axis in enumerate(array.axes):
        row = PARAMETERS[axis.parameter]
        reason = why_not(row, max(axis.values), machine, array.process.key)
        if reason is not None:
            raise InvalidInput(f"This array varies {row.name}. {reason}", f"axes[{i}].parameter", axis.parameter)
        known = centre.get(axis.parameter) if centre and axis.parameter in ("speed_mm_s", "power_pct") else None
        moved, note = _moved(axis, known, machine)
        axes.append(moved.document())
        if note:
            notes.append(note)
    varied = {axis.parameter for axis in array.axes}
    hold: dict[str, float] = {}
    for key, value in {**(centre or {}), **array.hold}.items():
        if key in varied:
            continue
        row = PARAMETERS[key]
        if why_not(row, value, machine, array.process.key):
            if key in array.hold:
                notes.append(f"{row.name} is left out: {machine.name} has none to set")
            continue
        # A held speed or power means this material on that machine; here the starting point knows better.
        hold[key] = centre[key] if centre and key in ("speed_mm_s", "power_pct") and key in centre else value
    return axes, hold, notes


def middle_of(trial: Trial) -> dict[str, float]:
    """The starting point a trial stands for: what it holds, and the middle (the mean of ratios) of each range."""
    ranges = {axis.parameter: axis.values for axis in trial.axes}
    if trial.listed is not None:
        ranges = {key: tuple(trial.listed.column(key, trial.hold).tolist()) for key in trial.listed.keys}
    middles = {key: float(np.sqrt(min(of) * max(of))) for key, of in ranges.items() if min(of) > 0}
    return {**trial.hold, **middles}


def laid_on(trial: Trial, array: KeptArray) -> tuple[dict[str, Any], list[str]]:
    """The document of a trial with a kept array in place of its own, round the middle of what it had, and what is to
    be said of it.

    Raises
    ------
    InvalidInput : the array is of another process, or varies a setting the machine does not have
    """
    if array.process.key != trial.process.key:
        raise InvalidInput(f"{array.name} is an array for another process: {array.process.name.lower()}.", "process")
    axes, hold, notes = laid_round(array, trial.machine, middle_of(trial))
    laid = {**array.document(), "axes": axes, "hold": hold}
    if "labels" in laid:
        laid["labels"] = trial.labels.document() | laid["labels"]
        if not trial.labels.settings and letters(laid["labels"]):
            laid["labels"] = trial.labels.document()
            notes.append("lettering is left out: this trial has no settings for it")
    if not trial.cut_out.settings and (laid.get("cut_out") or laid.get("hang_hole_mm")):
        laid |= {"cut_out": False, "hang_hole_mm": 0.0}
        notes.append("the plate stays in its piece: this trial has no settings for its cuts")
    return trial.with_array(axes, hold) | {key: laid[key] for key in IN_ARRAYS if key in laid}, notes


def letters(labels: Mapping[str, Any]) -> bool:
    """Whether anything is lettered."""
    return any(labels.get(key) for key in ("on", "heading", "numbers", "qr", "marks", "ids", "text"))
