"""The steps of a trial once more, another array of one of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from rezept.core.plan.trial import Trial


def in_steps(
    trial: Trial, axes: Sequence[Mapping[str, Any]], hold: Mapping[str, float], said: Mapping[str, Any]
) -> dict[str, Any]:
    """What of a design says steps and axes, where the step that is asked about gets another array and all others are
    held at the middle of theirs.

    said : what else is said of that step, such as its starting dose

    Raises
    ------
    InvalidInput : nothing varies: a list of settings is burned in one step
    """
    steps = []
    for number, step in enumerate(trial.steps):
        own = trial.axes_of(number)
        document = step.document([axis.parameter for axis in own])
        document = {key: value for key, value in document.items() if value is not None and key != "overrides"}
        if number == trial.judged:
            # What its first set of lines says is held or varied from now on.
            sets = document.pop("hatch", None)
            document |= {"hold": dict(hold), **said}
            if sets:
                document["hatch"] = [{}, *sets[1:]]
        else:
            document["hold"] |= {axis.parameter: axis.values[len(axis.values) // 2] for axis in own}
        steps.append(document)
    several = len(steps) > 1
    return {
        "hold": {},
        "steps": steps,
        "rounds": trial.rounds,
        "steps_order": trial.steps_order,
        "axes": [{**axis, "step": trial.step.name} if several else dict(axis) for axis in axes],
    }
