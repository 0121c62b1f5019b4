"""Documents of plates, seen by one of their steps: what a screen shows at a time, and what is kept of a patch."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

# What of a step stands with a patch that has one only.
_OWN = ("settings", "dose_j_mm", "dose_j_mm2", "corner_rise", "corner_slowing_mm", "set_by_hand", "figure", "mixed")


def steps_of(document: Mapping[str, Any]) -> list[Mapping[str, Any]]:
    """The steps of a plate's trial; of one that names a process, that."""
    trial = document["trial"]
    named: list[Mapping[str, Any]] = trial.get("steps") or [{"name": trial["process"], "process": trial["process"]}]
    return named


def step_of_process(document: Mapping[str, Any], process: str) -> int:
    """The first of its steps of a process; the first of all where it has none."""
    keys = [step["process"] for step in steps_of(document)]
    return keys.index(process) if process in keys else 0


def patch_in_step(patch: Mapping[str, Any], number: int, steps: int) -> dict[str, Any]:
    """A patch as if one of its trial's `steps` were its only one; the dose is that of all rounds."""
    every = patch.get("steps") or []
    if len(every) < 2:
        # What the only one says stands with the patch, but for a figure of its own.
        figure = {key: one[key] for one in every for key in ("figure",) if key in one}
        return {key: value for key, value in patch.items() if key != "steps"} | figure
    rounds = every[number::steps]
    own = {key: rounds[-1][key] for key in _OWN if key in rounds[-1]}
    for key in ("dose_j_mm", "dose_j_mm2"):
        if key in own:
            own[key] = sum(one[key] for one in rounds)
    mixed = any(one.get("mixed") for one in rounds)
    return {**patch, **own, **({"mixed": mixed} if "mixed" in patch else {})}


def document_in_step(document: Mapping[str, Any], number: int) -> dict[str, Any]:
    """A plate's document, its patches seen by one of its steps."""
    steps = len(steps_of(document))
    return {**document, "patches": [patch_in_step(patch, number, steps) for patch in document["patches"]]}


def way_of(step: Mapping[str, Any]) -> dict[str, Any]:
    """How a step of a completed trial goes over its figure, where that is not as its process usually does: its part,
    the sets of lines laid over its own, one way."""
    if "part" not in step:
        return {}
    way: dict[str, Any] = {}
    if step["part"] == "both":
        way["part"] = "both"
    if step.get("hatch"):
        way["hatch"] = step["hatch"][1:]
    if step.get("one_way"):
        way["one_way"] = True
    return way
