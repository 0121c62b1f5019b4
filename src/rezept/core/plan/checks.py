"""What could go wrong with a plate, found before it burns.

Each check works on arrays over the patches and gives a mask, the values and a sentence; nothing is clipped.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rezept.core.material import NEVER_BURN
from rezept.core.parameters import PARAMETERS
from rezept.core.path.motion import run_up_mm
from rezept.core.plan.axes import stepped
from rezept.core.plan.cautions import (
    Finding,
    burn_through_finding,
    burned_ground_finding,
    corner_finding,
    dropped_finding,
    hot_end_finding,
    stripes_finding,
)
from rezept.core.plan.patches import Settings
from rezept.core.plan.place import beyond_piece, to_program
from rezept.core.plan.plate import Warning
from rezept.core.plan.trial import Trial

# A letter of so many spots is six strokes and the ground between them high.
LEGIBLE_SPOTS = 8.0


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


def _unshown_findings(trial: Trial, settings: Settings) -> list[Finding]:
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


def _rounding_warnings(trial: Trial) -> list[Warning]:
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


def _distinct_warning(trial: Trial, settings: Settings) -> list[Warning]:
    """More distinct settings than one job file of this machine holds."""
    most = trial.machine.distinct_settings
    count = len(np.unique(np.column_stack(list(settings.values())), axis=0))
    if most is None or count <= most:
        return []
    files = -(-count // most)
    return [
        Warning(
            "distinct_settings",
            "warning",
            f"This plate has {count} distinct settings and a file for {trial.machine.name} holds {most}: it comes in"
            f" {files} numbered files, burned one after the other without moving the piece.",
            "machine.distinct_settings",
            float(count),
            float(most),
        )
    ]


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
        *_unshown_findings(trial, settings),
    ]
    return [finding for finding in found if finding is not None and finding.bad.any()]


def patch_corners(trial: Trial, x_mm: NDArray[np.float64], y_mm: NDArray[np.float64]) -> NDArray[np.float64]:
    """``(n, 4, 2)`` corners of all patches on the plate."""
    width, height = trial.patch.width_mm, trial.patch.height_mm
    offsets = np.array([(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
    return np.column_stack([x_mm, y_mm])[:, None, :] + offsets


@dataclass(frozen=True)
class Reach:
    """How far each patch's burn goes in program coordinates, run-up included: ``(n, 2)`` lowest and highest."""

    low: NDArray[np.float64]
    high: NDArray[np.float64]


def patch_reach(
    trial: Trial,
    settings: Settings,
    x_mm: NDArray[np.float64],
    y_mm: NDArray[np.float64],
    plate_mm: tuple[float, float],
) -> Reach:
    """The corners of every patch, and around them the way the head needs to gain and lose its speed."""
    corners = to_program(patch_corners(trial, x_mm, y_mm), trial, *plate_mm)
    hatched = trial.process.toolpath == "hatch"
    run = run_up_mm(trial.machine, settings["speed_mm_s"]) if hatched else np.zeros(len(x_mm))
    beyond = run[:, None] * _line_directions(trial, settings)
    return Reach(corners.min(axis=1) - beyond, corners.max(axis=1) + beyond)


def _field_mm(trial: Trial) -> NDArray[np.float64]:
    return np.array([trial.machine.of_head("field_width_mm"), trial.machine.of_head("field_height_mm")])


def _beyond_field(trial: Trial, low: NDArray[np.float64], high: NDArray[np.float64]) -> NDArray[np.float64]:
    """How far ``(n, 2)`` extents go beyond the field; not more than 0 where they fit.

    A gantry's work zero is the piece's corner, which can be put where the leftmost run-up just fits; a galvo's
    field is centred on its work zero.
    """
    field = _field_mm(trial)
    if trial.machine.motion == "galvo":
        return np.maximum(high - field / 2, -field / 2 - low).max(axis=1)
    return (high - np.minimum(0.0, low.min(axis=0)) - field).max(axis=1)


def field_finding(trial: Trial, reach: Reach) -> Finding:
    """Patches whose burn, run-up included, would leave the field."""
    worst = _beyond_field(trial, reach.low, reach.high)
    width, height = _field_mm(trial)
    name = trial.machine.name

    def sentence(value: float, limit: float) -> str:
        return (
            f"with its run-up it reaches {value:.3g} mm beyond the field of {name} ({width:g} x {height:g} mm);"
            " move the plate, or go slower there."
        )

    return Finding("field", "refusal", "place", worst > 1e-6, worst, np.zeros(len(worst)), sentence)


def place_warnings(trial: Trial, reach: Reach, plate_mm: tuple[float, float]) -> list[Warning]:
    """What is about the place of the plate as a whole: field, piece, and the room the run-ups need."""
    width, height = plate_mm
    outline = np.array([(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
    placed = to_program(outline, trial, width, height)
    over = float(_beyond_field(trial, placed.min(axis=0)[None], placed.max(axis=0)[None])[0])
    name = trial.machine.name
    warnings = []
    if over > 1e-6:
        sentence = f"The plate ({width:.1f} x {height:.1f} mm) reaches {over:.1f} mm beyond the field of {name}."
        warnings.append(Warning("field", "refusal", sentence, "place", over, 0.0))
    off_piece = _off_the_piece(trial, plate_mm)
    if off_piece is not None:
        warnings.append(off_piece)
    before = float(-reach.low.min())
    if trial.machine.motion == "gantry" and before > 1e-6:
        sentence = (
            f"To gain speed the head moves up to {before:.1f} mm to the left of or below the piece's corner;"
            " keep that much of the field free."
        )
        warnings.append(Warning("room", "note", sentence, "place", before, 0.0))
    return warnings


def _line_directions(trial: Trial, settings: Settings) -> NDArray[np.float64]:
    """``(n, 2)`` largest share of x and y that any pass's line direction has, after the turn on the piece."""
    if "hatch_angle_deg" not in settings:
        return np.ones((len(settings["speed_mm_s"]), 2))
    share = np.zeros((len(settings["speed_mm_s"]), 2))
    for k in range(int(settings["passes"].max())):
        angle = settings["hatch_angle_deg"] + k * settings["hatch_turn_deg"] + trial.place.turn_deg
        direction = np.abs(np.column_stack([np.cos(np.deg2rad(angle)), np.sin(np.deg2rad(angle))]))
        share = np.where((k < settings["passes"])[:, None], np.maximum(share, direction), share)
    return share


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
    warnings += [*_label_warnings(trial), *_rounding_warnings(trial), *_distinct_warning(trial, settings)]
    machine = trial.machine
    if machine.frequency_range(None) is not None and "frequency_khz" not in settings:
        warnings.append(
            Warning(
                "unset",
                "note",
                f"No frequency is set; {machine.name} will use whatever it was left at.",
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
                    " they get less than their dose says.",
                    "frequency_khz",
                    min(weak),
                )
            )
    return warnings


def _off_the_piece(trial: Trial, plate_mm: tuple[float, float]) -> Warning | None:
    width, height = plate_mm
    over = beyond_piece(trial, width, height)
    if over <= 1e-6:
        return None
    return Warning(
        "piece",
        "warning",
        f"The plate ({width:.1f} x {height:.1f} mm) reaches {over:.1f} mm beyond the usable piece;"
        " move it, take fewer or smaller patches, or let it be fitted.",
        "piece",
        over,
        0.0,
    )


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
            f"The labels are faster than {machine.name} can go.",
            machine.of_head("max_speed_mm_s"),
        ),
        (
            "power_pct",
            settings["power_pct"] > machine.max_power_pct,
            "refusal",
            f"The labels ask for more power than {machine.name} should give.",
            machine.max_power_pct,
        ),
        (
            "power_pct",
            settings["power_pct"] < machine.firing_floor_pct,
            "warning",
            f"{machine.name} does not fire below {machine.firing_floor_pct:g} %; the labels would stay bare.",
            machine.firing_floor_pct,
        ),
    )
    return illegible + [
        Warning("labels", level, sentence, f"labels.settings.{key}", settings[key], limit)
        for key, bad, level, sentence, limit in checks
        if bad
    ]
