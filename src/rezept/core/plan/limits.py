"""What a machine cannot or does not do with a setting: limits, and what its control can show."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from rezept.core.parameters import PARAMETERS
from rezept.core.plan.axes import stepped
from rezept.core.plan.cautions import Finding
from rezept.core.plan.patches import Settings
from rezept.core.plan.plate import Warning
from rezept.core.plan.trial import Trial


def _against(
    kind: str,
    level: str,
    path: str,
    value: NDArray[np.float64],
    low: float,
    high: float,
    sentence: Callable[[float, float], str],
) -> Finding:
    limit = np.where(value < low, low, high)
    slack = 1e-9 * np.maximum(1.0, np.abs(limit))
    bad = (value < low - slack) | (value > high + slack)
    return Finding(kind, level, path, bad, value, limit, sentence)


def limit_findings(trial: Trial, settings: Settings) -> list[Finding]:
    """Speed, power floor and ceiling, pulse width, frequency: what the machine cannot or does not do."""
    machine, name = trial.machine, trial.machine.name
    findings = [
        _against(
            "speed",
            "refusal",
            "speed_mm_s",
            settings["speed_mm_s"],
            0.0,
            machine.of_head("max_speed_mm_s"),
            lambda v, lim: f"{v:.4g} mm/s is faster than {name} can go ({lim:.4g} mm/s); go slower.",
        ),
        _against(
            "max_power",
            "refusal",
            "power_pct",
            settings["power_pct"],
            0.0,
            machine.max_power_pct,
            lambda v, lim: f"{v:.4g} % is more than {name} should give ({lim:.4g} %); take less.",
        ),
        _against(
            "firing_floor",
            "warning",
            "power_pct",
            settings["power_pct"],
            machine.firing_floor_pct,
            math.inf,
            lambda v, lim: f"{name} does not fire below {lim:.4g} %; at {v:.4g} % it stays bare. Take more.",
        ),
    ]
    count = len(settings["speed_mm_s"])
    widths = settings.get("pulse_width_ns")
    if widths is not None and machine.pulse_widths is not None:
        offered = np.array([width.ns for width in machine.pulse_widths])
        nearest = offered[np.abs(widths[:, None] - offered[None, :]).argmin(axis=1)]
        findings.append(
            Finding(
                "pulse_width",
                "refusal",
                "pulse_width_ns",
                np.abs(widths - nearest) > 1e-6,
                widths,
                nearest,
                lambda v, lim: f"{name} has no pulse width of {v:.4g} ns; the nearest it has is {lim:.4g} ns.",
            )
        )
    frequency = settings.get("frequency_khz")
    if frequency is not None:
        ranges = [
            machine.frequency_range(None if widths is None else float(widths[i])) or (0.0, math.inf)
            for i in range(count)
        ]
        low, high = np.array(ranges).T
        below, above = frequency < low - 1e-9, frequency > high + 1e-9
        findings.append(
            Finding(
                "frequency",
                "refusal",
                "frequency_khz",
                below | above,
                frequency,
                np.where(below, low, high),
                lambda v, lim: (
                    f"{name} would ignore {v:.4g} kHz: here it goes "
                    + (f"no lower than {lim:.4g} kHz." if v < lim else f"no higher than {lim:.4g} kHz.")
                ),
            )
        )
    return findings


def unshown_findings(trial: Trial, settings: Settings) -> list[Finding]:
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
        findings.append(Finding("unshown", "warning", key, bad, settings[key], nearest, sentence))
    return findings


def rounding_warnings(trial: Trial) -> list[Warning]:
    """Steps that were rounded to what the machine can show, and steps that have become one by it."""
    warnings = []
    for i, axis in enumerate(trial.axes):
        finest = trial.machine.finest(axis.parameter)
        if finest is None or axis.spacing is None or axis.ends is None:
            continue
        row = PARAMETERS[axis.parameter]
        asked = stepped(*axis.ends, len(axis.values), axis.spacing)
        away = [abs(a - b) for a, b in zip(asked, axis.values, strict=True)]
        worst = int(np.argmax(away))
        step = f"steps of {finest:g} {row.unit}".strip()
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
