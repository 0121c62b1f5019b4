"""What a machine's control can show, and steps that fall between."""

from __future__ import annotations

import numpy as np

from rezept.core.control import step_words
from rezept.core.parameters import PARAMETERS, Settings
from rezept.core.plan.axes import asked_steps
from rezept.core.plan.cautions import Caution
from rezept.core.plan.plate import Warning
from rezept.core.plan.trial import Trial


def unshown_findings(trial: Trial, settings: Settings) -> list[Caution]:
    """Settings that stand between two figures of the machine's control: they cannot be set as they are planned."""
    machine = trial.machine
    findings = []
    for key, finest in machine.shows:
        if key not in settings:
            continue
        nearest = np.round(settings[key] / finest) * finest
        unit = PARAMETERS[key].unit
        name = PARAMETERS[key].name

        def sentence(value: float, limit: float, unit: str = unit, name: str = name, finest: float = finest) -> str:
            return (
                f"{machine.name} shows {name} in steps of {finest:g} {unit}: {value:.5g} cannot be set,"
                f" the nearest is {limit:.5g}."
            )

        bad = np.abs(settings[key] - nearest) > 1e-6 * finest
        findings.append(Caution("unshown", "warning", key, bad, settings[key], nearest, sentence))
    return findings


def rounding_warnings(trial: Trial) -> list[Warning]:
    """Steps that were rounded to what the machine can show, and steps that have become one by it."""
    warnings = []
    for i, axis in enumerate(trial.axes):
        steps = step_words(trial.machine, axis.parameter)
        if steps is None or axis.spacing is None or axis.ends is None:
            continue
        row = PARAMETERS[axis.parameter]
        asked = asked_steps(axis)
        away = [abs(a - b) for a, b in zip(asked, axis.values, strict=True)]
        worst = int(np.argmax(away))
        step = f"steps of {steps}"
        if len(set(axis.values)) < len(axis.values):
            warnings.append(
                Warning(
                    "rounded",
                    "warning",
                    f"{trial.machine.name} shows {row.name} in {step}, so some steps became the same;"
                    " take fewer steps or a wider range.",
                    f"axes[{i}].count",
                    float(len(axis.values)),
                    float(len(set(axis.values))),
                )
            )
        elif away[worst] > 1e-9:
            warnings.append(
                Warning(
                    "rounded",
                    "note",
                    f"{row.name.capitalize()} is rounded to {step}, as {trial.machine.name} shows it:"
                    f" {asked[worst]:.5g} became {axis.values[worst]:.5g}.",
                    f"axes[{i}]",
                    asked[worst],
                    axis.values[worst],
                )
            )
    return warnings
