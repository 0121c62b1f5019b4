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
from rezept.core.path.motion import run_up_mm
from rezept.core.plan.patches import Settings
from rezept.core.plan.place import to_piece, to_program
from rezept.core.plan.plate import Warning
from rezept.core.plan.trial import Trial

HOT_OVER_START = 2.2
HOT_SPAN = 4.0
HOT_SHARE = 0.1


@dataclass(frozen=True)
class Finding:
    """One check's result over all patches. `sentence` gets the patch's value and completes its name."""

    kind: str
    level: str
    path: str
    bad: NDArray[np.bool_]
    value: NDArray[np.float64]
    limit: NDArray[np.float64]
    sentence: Callable[[float, float], str]


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
            lambda v, lim: f"{v:.4g} mm/s is faster than {name} can go ({lim:.4g} mm/s).",
        ),
        _against(
            "max_power",
            "refusal",
            "power_pct",
            settings["power_pct"],
            0.0,
            machine.max_power_pct,
            lambda v, lim: f"{v:.4g} % is more than {name} should give ({lim:.4g} %).",
        ),
        _against(
            "firing_floor",
            "warning",
            "power_pct",
            settings["power_pct"],
            machine.firing_floor_pct,
            math.inf,
            lambda v, lim: f"{name} does not fire below {lim:.4g} %; at {v:.4g} % it stays bare.",
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


def hot_end_finding(trial: Trial, dose: NDArray[np.float64], burn: NDArray[np.bool_]) -> Finding | None:
    """The slow-and-strong end of the array, on materials that can burn.

    With a starting dose, everything above 2.2 times it. Without one, the top tenth of the patches (at least
    one; equals of the last one too) where the doses span more than 4 : 1.
    """
    if not trial.material.can_burn or not burn.any():
        return None
    material, unit = trial.material.title, trial.process.dose_unit
    if trial.starting_dose is not None:
        limit = HOT_OVER_START * trial.starting_dose
        bad = dose > limit * (1 + 1e-9)
        start = trial.starting_dose

        def sentence(value: float, _limit: float) -> str:
            return (
                f"{material} may catch fire: {value:.3g} {unit} is {value / start:.2g} times the starting dose"
                f" of {start:.3g}."
            )

    else:
        burned = dose[burn]
        if burned.max() <= HOT_SPAN * burned.min():
            return None
        count = max(1, math.ceil(HOT_SHARE * len(burned) - 1e-9))
        limit = float(np.sort(burned)[-count])
        bad = dose >= limit * (1 - 1e-9)

        def sentence(value: float, _limit: float) -> str:
            return (
                f"{material} may catch fire: {value:.3g} {unit} is among the strongest tenth of this plate, and"
                " no starting dose is known."
            )

    return Finding("hot_end", "warning", "dose", bad, dose, np.full(len(dose), limit), sentence)


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
        return f"with its run-up it reaches {value:.3g} mm beyond the field of {name} ({width:g} x {height:g} mm)."

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
        for i in np.flatnonzero(finding.bad & burn).tolist():
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
            "refusal",
            f"{trial.material.title} {NEVER_BURN[hazard]}. It must not be burned.",
            "material.hazards",
        )
        for hazard in trial.material.hazards
        if hazard in NEVER_BURN
    ]
    warnings += _label_warnings(trial)
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
    piece = trial.piece
    assert piece is not None
    width, height = plate_mm
    corners = np.array([(0.0, 0.0), (width, 0.0), (width, height), (0.0, height)])
    placed = to_piece(corners, trial.place, piece, width, height)
    size = np.array([piece.width_mm, piece.height_mm])
    if piece.shape == "disc":
        radius = piece.width_mm / 2 - piece.margin_mm
        over = float(np.linalg.norm(placed - size / 2, axis=1).max() - radius)
    else:
        over = float(np.maximum(piece.margin_mm - placed, placed - (size - piece.margin_mm)).max())
    if over <= 1e-6:
        return None
    return Warning(
        "piece",
        "warning",
        f"The plate ({width:.1f} x {height:.1f} mm) reaches {over:.1f} mm beyond the usable piece.",
        "piece",
        over,
        0.0,
    )


def _label_warnings(trial: Trial) -> list[Warning]:
    if not trial.labels.on:
        return []
    machine, settings = trial.machine, trial.labels.settings
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
    return [
        Warning("labels", level, sentence, f"labels.settings.{key}", settings[key], limit)
        for key, bad, level, sentence, limit in checks
        if bad
    ]
