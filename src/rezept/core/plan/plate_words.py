"""What a plate says of itself: its title, its axes, the values beside its rows, columns and blocks."""

from __future__ import annotations

from itertools import pairwise

from rezept.core.control import own_amount, own_setting_words, own_unit, own_words
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.axes import Axis
from rezept.core.plan.grid import REPEAT
from rezept.core.plan.steps import TrialStep, part_name
from rezept.core.plan.trial import Trial
from rezept.core.wording import axis_title, rounded, short_amount

# Between the values of several steps that vary along one direction.
_BESIDE = " / "
# Held settings that say nothing where they are left at nothing.
_USUAL = ("hatch_angle_deg", "hatch_turn_deg", "focus_offset_mm")


def _amount(trial: Trial, key: str, value: float) -> str:
    """A bare value as it stands beside patches: what the machine's control shows, where it has a scale of its own, or
    names for its levels."""
    if trial.machine.curve(key) is not None or (key == "air_level" and trial.machine.air_levels):
        return own_amount(trial.machine, key, value)
    return f"{value:.4g}"


def _title(trial: Trial, key: str) -> str:
    """A setting with the unit its values stand in."""
    if trial.machine.curve(key) is None:
        return axis_title(key)
    return f"{PARAMETERS[key].name} {own_unit(trial.machine, key)}"


def _short(trial: Trial, key: str, value: float) -> str:
    if trial.machine.curve(key) is not None:
        return own_words(trial.machine, key, value)
    return short_amount(key, value) if PARAMETERS[key].unit else own_setting_words(trial.machine, key, value)


def held_words(trial: Trial) -> list[str]:
    """The held settings that tell two plates apart, as short words, those of several steps after its name; what all
    patches of a list have counts as held."""
    if len(trial.steps) == 1:
        return _held_in_step(trial)
    words = []
    for number, step in enumerate(trial.steps):
        first, *others = [*_held_in_step(trial.of_step(number)), *_way_words(step)] or [""]
        words += [f"{step.name}: {first}".strip(), *others]
    return [*words, f"{trial.rounds} rounds"] if trial.rounds > 1 else words


def _way_words(step: TrialStep) -> list[str]:
    """How a step goes over its figure, where that is not as usual."""
    words = [] if step.fill is None else [
        f"and {short_amount('line_spacing_mm', one.line_spacing_mm)} at {one.hatch_angle_deg:g} deg"
        for one in step.fill.sets
    ]  # fmt: skip
    if step.fill is not None and step.fill.one_way:
        words.append("one way")
    if step.part == "both":
        words.append("with its outline")
    return [*words, f"{step.inset_mm:g} mm inside"] if step.inset_mm else words


def _held_in_step(trial: Trial) -> list[str]:
    held = dict(trial.hold)
    if trial.listed is not None:
        varied = set(trial.listed.varied)
        same = {key: float(trial.listed.column(key, held)[0]) for key in trial.listed.keys if key not in varied}
        held = {key: value for key, value in {**held, **same}.items() if key not in varied}
    return [
        own_setting_words(trial.machine, key, value)
        for key, value in held.items()
        if not (key in _USUAL and value == 0)
    ]


def override_words(trial: Trial) -> list[str]:
    """What was changed by hand, patch by patch: the axis values beside it would lie."""
    return [
        f"{part_name(patch, number, len(trial.steps))}:"
        f" {', '.join(own_setting_words(trial.machine, key, value) for key, value in changed.items())}"
        for number, step in enumerate(trial.steps)
        for patch, changed in step.overrides.items()
    ]


# On a blank no wider than this there is room for the number of the plate, and for nothing else in words.
SMALLEST_WORDED_DISC_MM = 40.0


def shortest(trial: Trial) -> bool:
    """Whether the plate lies on so small a disc that only its number and its values find room."""
    piece = trial.piece
    return piece is not None and piece.shape == "disc" and piece.width_mm <= SMALLEST_WORDED_DISC_MM


def heading_words(trial: Trial) -> list[str]:
    """What is lettered above the patches, in pieces that stay together."""
    labels = trial.labels
    if not labels.heading:
        return [labels.text] if labels.text else []
    if shortest(trial):
        # In the shop the plate lies in, its number says which it is: `T017.1` of `7K3Q-T017.1`.
        number = trial.code.rpartition("-")[2] if trial.code else trial.title
        return [word for word in (number, labels.text) if word]
    return title_words(trial)


def title_words(trial: Trial) -> list[str]:
    """The title of a plate, in pieces that stay together."""
    machine = trial.machine
    words = [trial.code or "", trial.title, trial.labels.text, trial.material.title, trial.work_name]
    words += [f"{machine.name} {machine.head.name}".strip()]
    words += [*held_words(trial), *override_words(trial), trial.date or ""]
    return [word for word in words if word]


def axis_words(trial: Trial) -> list[str]:
    """What runs which way, in pieces that stay together; of a list what stands below each patch."""
    if trial.listed is not None:
        titles = [_title(trial, key) for key in trial.listed.varied]
        return [f"each: {title}" if not i else title for i, title in enumerate(titles)]
    words = []
    for along, sign in (("x", ">"), ("y", "^")):
        axes = trial.axes_along(along)
        if axes:
            words.append(f"{_BESIDE.join(_of_step(axis, _title(trial, axis.parameter)) for axis in axes)} {sign}")
    for along, sign in (("block_x", ">"), ("block_y", "^")):
        axes = trial.axes_along(along)
        if axes:
            names = [_of_step(axis, PARAMETERS[axis.parameter].name) for axis in axes]
            words.append(f"blocks {_BESIDE.join(names)} {sign}")
    return words


def _of_step(axis: Axis, name: str) -> str:
    """A setting with the step it belongs to, where the trial has several."""
    return name if axis.step is None else f"{axis.step} {name}"


def step_words(trial: Trial, along: str) -> list[str]:
    """The values along a direction, those of several steps beside one another; of one that is wrapped none, since each
    stands by its patch."""
    axes = [axis for axis in trial.axes_along(along) if axis.wrap is None]
    columns = [[_amount(trial, axis.parameter, value) for value in axis.values] for axis in axes]
    return [_BESIDE.join(values) for values in zip(*columns, strict=True)]


def patch_words(trial: Trial) -> list[list[str]]:
    """What stands below each patch where it stands nowhere else: its value on a wrapped axis, or its own settings in a
    list; none of an array that has rows and columns."""
    if trial.listed is not None:
        columns = [
            [_amount(trial, key, value) for value in trial.listed.column(key, trial.hold).tolist()]
            for key in trial.listed.varied
        ]
        return [list(row) for row in zip(*columns, strict=True)]
    axes = [axis for axis in trial.axes_along("x") if axis.wrap is not None]
    if not axes:
        return []
    steps = trial.grid.step["x"].tolist()
    return [[_amount(trial, axis.parameter, axis.values[step]) for axis in axes] for step in steps]


def shortened(words: list[str]) -> list[str]:
    """Values in as few digits, from two on, as leave neighbours apart: 17.57 beside 19.4 is 18 beside 19. Whole numbers
    have none to spare."""
    if any(_BESIDE in word for word in words):
        # Values of several steps, each as short as leaves its own apart.
        columns = zip(*(word.split(_BESIDE) for word in words), strict=True)
        return [_BESIDE.join(one) for one in zip(*(shortened(list(column)) for column in columns), strict=True)]
    for digits in (2, 3):
        short = [rounded(float(word), digits) if "." in word else word for word in words]
        if all(a != b for a, b in pairwise(short)):
            return short
    return words


def block_words(trial: Trial) -> list[str]:
    """What each block says above itself: the bare amounts, whose names stand with the axis titles."""
    blocks = trial.grid.blocks
    if blocks is None:
        return []
    parts = []
    for along in ("block_x", "block_y"):
        for axis in trial.axes_along(along):
            steps = blocks.step[along].tolist()
            parts.append([_of_step(axis, _short(trial, axis.parameter, axis.values[step])) for step in steps])
    if trial.repeats > 1:
        parts.append([f"{step + 1} of {trial.repeats}" for step in blocks.step[REPEAT].tolist()])
    return ["  ".join(words) for words in zip(*parts, strict=True)]
