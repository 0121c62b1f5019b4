"""What could go wrong with a plate, found before it burns.

Each check works on arrays over the patches and gives a mask, the values and a sentence; nothing is clipped.
"""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

from rezept.core.material import NEVER_BURN
from rezept.core.plan.cautions import (
    Finding,
    burn_through_finding,
    burned_ground_finding,
    corner_finding,
    dropped_finding,
    hot_end_finding,
    stripes_finding,
)
from rezept.core.plan.limits import rounding_warnings, unshown_findings
from rezept.core.plan.patches import Settings
from rezept.core.plan.plate import Warning
from rezept.core.plan.trial import Trial

# A letter of so many spots is six strokes and the ground between them high.
LEGIBLE_SPOTS = 8.0


def patch_findings(
    trial: Trial,
    settings: Settings,
    dose: NDArray[np.float64],
    burn: NDArray[np.bool_],
    corners: NDArray[np.float64],
    plate_mm: tuple[float, float],
    corner_heat: tuple[NDArray[np.float64], NDArray[np.float64]],
) -> list[Finding]:
    """What the machine can do and one may still not want."""
    found = [
        dropped_finding(trial, dose),
        hot_end_finding(trial, dose, burn),
        burn_through_finding(trial, settings),
        stripes_finding(trial, settings),
        burned_ground_finding(trial, corners, plate_mm),
        corner_finding(*corner_heat),
        *unshown_findings(trial, settings),
    ]
    return [finding for finding in found if finding is not None and finding.bad.any()]


def per_patch(
    ids: tuple[str, ...], burn: NDArray[np.bool_], findings: list[Finding]
) -> tuple[tuple[Warning, ...], ...]:
    """The findings, sorted to the patches they are about; patches switched off cannot go wrong."""
    found: list[list[Warning]] = [[] for _ in ids]
    for finding in findings:
        for i in np.flatnonzero(finding.bad & (burn | finding.unburned)).tolist():
            value, limit = float(finding.value[i]), float(finding.limit[i])
            found[i].append(
                Warning(
                    finding.kind,
                    finding.level,
                    f"{ids[i]}: {finding.sentence(value, limit)}",
                    finding.path,
                    value,
                    limit if math.isfinite(limit) else None,
                )
            )
    return tuple(tuple(warnings) for warnings in found)


def plate_warnings(trial: Trial, settings: Settings) -> list[Warning]:
    """What is about the plate as a whole: hazards, the labels, settings the machine is not told."""
    warnings = [
        Warning(
            "hazard",
            "warning" if hazard in trial.accepted_hazards else "refusal",
            f"{trial.material.title} {NEVER_BURN[hazard]}. "
            + (
                "A technician answers for it; extraction on, nobody beside the smoke."
                if hazard in trial.accepted_hazards
                else "It must not be burned."
            ),
            "material.hazards",
        )
        for hazard in trial.material.hazards
        if hazard in NEVER_BURN
    ]
    warnings += [*_label_warnings(trial), *rounding_warnings(trial)]
    machine = trial.machine
    if machine.frequency_range(None) is not None and "frequency_khz" not in settings:
        warnings.append(
            Warning(
                "unset",
                "note",
                f"No frequency is set; {machine.name} will use whatever it was left at. Hold one to be sure.",
                "hold.frequency_khz",
            )
        )
    widths = {width.ns: width for width in machine.pulse_widths or ()}
    if "pulse_width_ns" in settings and "frequency_khz" in settings:
        pairs = zip(settings["pulse_width_ns"].tolist(), settings["frequency_khz"].tolist(), strict=True)
        weak = [khz for ns, khz in pairs if ns in widths and widths[ns].low_khz <= khz < widths[ns].full_power_from_khz]
        if weak:
            warnings.append(
                Warning(
                    "power_falls",
                    "note",
                    f"{len(weak)} patches lie below the frequency from which {machine.name} gives its full power;"
                    " they get less than their dose says. Raise the frequency, or judge them by eye.",
                    "frequency_khz",
                    min(weak),
                )
            )
    return warnings


def _label_warnings(trial: Trial) -> list[Warning]:
    if not (trial.labels.on or trial.labels.marks or trial.labels.qr):
        return []
    machine, settings = trial.machine, trial.labels.settings
    legible = LEGIBLE_SPOTS * (machine.head.spot_mm or 0.0)
    height = trial.labels.height_mm
    illegible = [
        Warning(
            "labels",
            "warning",
            f"Letters of {height:g} mm are hardly legible with a spot of {machine.head.spot_mm:g} mm;"
            f" take {legible:.2g} mm or more.",
            "labels.height_mm",
            height,
            legible,
        )
        for _ in range(int(trial.labels.on and height < legible))
    ]
    checks = (
        (
            "speed_mm_s",
            settings["speed_mm_s"] > machine.of_head("max_speed_mm_s"),
            "refusal",
            f"The labels are faster than {machine.name} can go; slow them down.",
            machine.of_head("max_speed_mm_s"),
        ),
        (
            "power_pct",
            settings["power_pct"] > machine.max_power_pct,
            "refusal",
            f"The labels ask for more power than {machine.name} should give; take less.",
            machine.max_power_pct,
        ),
        (
            "power_pct",
            settings["power_pct"] < machine.firing_floor_pct,
            "warning",
            f"{machine.name} does not fire below {machine.firing_floor_pct:g} %; labels would stay bare. Take more.",
            machine.firing_floor_pct,
        ),
    )
    return illegible + [
        Warning("labels", level, sentence, f"labels.settings.{key}", settings[key], limit)
        for key, bad, level, sentence, limit in checks
        if bad
    ]
