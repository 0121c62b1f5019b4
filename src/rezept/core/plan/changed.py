"""What changed between two trials, so that nobody wonders afterwards which change helped."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from rezept.core.parameters import PARAMETERS
from rezept.core.wording import value_words

_SHAPES = {"rectangle": "square", "lettering": "letters"}


def _steps(trial: Mapping[str, Any]) -> list[dict[str, Any]]:
    """The steps of a completed trial, each with what it holds and its own axes; of one that names a process, that."""
    said = trial.get("steps") or [{"name": trial["process"], "process": trial["process"], "hold": trial["hold"]}]
    steps = []
    for step in said:
        own = [axis for axis in trial["axes"] if axis.get("step") in (None, step["name"])]
        sets = step.get("hatch") or []
        # What the first set of lines says is held.
        hold = {**step["hold"], **(sets[0] if sets else {})}
        steps.append({**step, "hold": hold, "axes": own, "over": sets[1:]})
    return steps


def _range(trial: Mapping[str, Any], step: Mapping[str, Any], key: str) -> tuple[float, float] | None:
    """Lowest and highest value of a varied setting of a step of a completed trial."""
    for axis in step["axes"]:
        if axis["parameter"] == key:
            values = axis.get("values") or [axis["from"], axis["to"]]
            return min(values), max(values)
    rows = (trial.get("listed") or {}).get("settings", [])
    listed = {row.get(key, step["hold"].get(key)) for row in rows if any(key in other for other in rows)}
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
    ):
        if one != other:
            said.append(f"{what}: {one or 'unnamed'}, now {other or 'unnamed'}")
    one, other = _steps(before), _steps(now)
    if len(one) == len(other) == 1 and one[0]["process"] != other[0]["process"]:
        said.append(f"process: {one[0]['process']}, now {other[0]['process']}")
    thickness = [trial["material"].get("thickness_mm") for trial in (before, now)]
    if thickness[0] != thickness[1]:
        said.append(f"thickness: {thickness[0] or 0:g} mm, now {thickness[1] or 0:g} mm")
    said += _changed_steps(before, now, one, other)
    shapes = [_SHAPES.get(trial["patch"]["shape"], trial["patch"]["shape"]) for trial in (before, now)]
    if shapes[0] != shapes[1]:
        said.append(f"patch: {shapes[0]}, now {shapes[1]}")
    elif before["patch"].get("figure") != now["patch"].get("figure"):
        said.append("patch: another figure")
    else:
        for key, name, usual in (("text", "letters", ""), ("letters", "letters drawn in", "strokes")):
            drawn = [trial["patch"].get(key) or usual for trial in (before, now)]
            if drawn[0] != drawn[1]:
                said.append(f"{name}: {drawn[0]}, now {drawn[1]}")
    return said


def _changed_steps(
    before: Mapping[str, Any], now: Mapping[str, Any], one: list[dict[str, Any]], other: list[dict[str, Any]]
) -> list[str]:
    """Steps that are no longer there or new, and what is different in those of one process, in their order."""
    said = []
    if len(one) == len(other) == 1:
        return _changed_settings(before, now, one[0], other[0], "")
    left = list(other)
    for step in one:
        same = next((new for new in left if new["process"] == step["process"]), None)
        if same is None:
            said.append(f"{step['name']}: no longer a step")
            continue
        left.remove(same)
        said += _changed_settings(before, now, step, same, f"{same['name']}, ")
    said += [f"{new['name']}: a new step" for new in left]
    rounds = [trial.get("rounds", 1) for trial in (before, now)]
    if rounds[0] != rounds[1]:
        said.append(f"rounds: {rounds[0]}, now {rounds[1]}")
    return said


# How a step goes over its figure, in words, with what is usual.
_WAYS: dict[str, tuple[str, Any]] = {
    "part": ("part", None),
    "one_way": ("one way", False),
    "inset_mm": ("mm inside", 0.0),
    "over": ("lines over", []),
    "text": ("letters", None),
    "letters": ("letters drawn in", "strokes"),
}


def _changed_settings(
    before: Mapping[str, Any], now: Mapping[str, Any], one: Mapping[str, Any], other: Mapping[str, Any], of: str
) -> list[str]:
    said = []
    for key, row in PARAMETERS.items():
        ranges = [_range(before, one, key), _range(now, other, key)]
        held = [step["hold"].get(key) for step in (one, other)]
        if ranges[0] and ranges[1]:
            continue
        if ranges[1]:
            said.append(f"{of}{row.name}: held at {_value(before, key, held[0])}, now varied")
        elif ranges[0]:
            said.append(f"{of}{row.name}: varied, now held at {_value(now, key, held[1])}")
        elif held[0] != held[1]:
            said.append(f"{of}{row.name}: {_value(before, key, held[0])}, now {_value(now, key, held[1])}")
    for key, (name, usual) in _WAYS.items():
        ways = [step.get(key, usual) for step in (one, other)]
        # A plain step says nothing of its part.
        if ways[0] != ways[1] and not (key == "part" and None in ways):
            shown = ["yes" if way is True else "no" if way in (False, [], None) else _way(way) for way in ways]
            said.append(f"{of}{name}: {shown[0]}, now {shown[1]}")
    return said


def _way(value: Any) -> str:
    if isinstance(value, list):
        return " and ".join(f"{one['line_spacing_mm']:g} mm at {one['hatch_angle_deg']:g} deg" for one in value)
    return f"{value:g}" if isinstance(value, float) else str(value)
