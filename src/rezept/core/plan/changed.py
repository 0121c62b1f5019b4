"""What changed between two trials, so that nobody wonders afterwards which change helped."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from rezept.core.parameters import PARAMETERS
from rezept.core.wording import value_words

_SHAPES = {"rectangle": "square", "lettering": "letters"}


def _range(trial: Mapping[str, Any], key: str) -> tuple[float, float] | None:
    """Lowest and highest value of a varied setting of a completed trial."""
    for axis in trial["axes"]:
        if axis["parameter"] == key:
            values = axis.get("values") or [axis["from"], axis["to"]]
            return min(values), max(values)
    rows = (trial.get("listed") or {}).get("settings", [])
    listed = {row.get(key, trial["hold"].get(key)) for row in rows if any(key in other for other in rows)}
    return (min(listed), max(listed)) if listed else None


def _value(trial: Mapping[str, Any], key: str, value: float | None) -> str:
    """A held value in words, its level as it is called on the trial's machine."""
    levels = trial["machine"].get("air_levels") or []
    if key == "air_level" and levels and value:
        return str(levels[int(value) - 1]["name"])
    return value_words(key, value)


def changes(before: Mapping[str, Any], now: Mapping[str, Any]) -> list[str]:
    """What is different beside the values of what both vary, each in a few words.

    Takes two completed trial documents. A setting that both vary is a matter of range and no change; one that was
    held within the range of the other is named as now varied, or no longer.
    """
    said = []
    for what, one, other in (
        ("machine", before["machine"]["name"], now["machine"]["name"]),
        ("head", before["machine"]["head"]["name"], now["machine"]["head"]["name"]),
        ("process", before["process"], now["process"]),
    ):
        if one != other:
            said.append(f"{what}: {one or 'unnamed'}, now {other or 'unnamed'}")
    thickness = [trial["material"].get("thickness_mm") for trial in (before, now)]
    if thickness[0] != thickness[1]:
        said.append(f"thickness: {thickness[0] or 0:g} mm, now {thickness[1] or 0:g} mm")
    for key, row in PARAMETERS.items():
        ranges = [_range(trial, key) for trial in (before, now)]
        held = [trial["hold"].get(key) for trial in (before, now)]
        if ranges[0] and ranges[1]:
            continue
        if ranges[1]:
            said.append(f"{row.name}: held at {_value(before, key, held[0])}, now varied")
        elif ranges[0]:
            said.append(f"{row.name}: varied, now held at {_value(now, key, held[1])}")
        elif held[0] != held[1]:
            said.append(f"{row.name}: {_value(before, key, held[0])}, now {_value(now, key, held[1])}")
    shapes = [_SHAPES.get(trial["patch"]["shape"], trial["patch"]["shape"]) for trial in (before, now)]
    if shapes[0] != shapes[1]:
        said.append(f"patch: {shapes[0]}, now {shapes[1]}")
    return said
