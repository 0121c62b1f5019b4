"""Rules about what a stretch is set to."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from rezept.core.curve import Curve
from rezept.core.parameters import PARAMETERS, Parameter
from rezept.core.plan.cautions import Caution
from rezept.core.plan.gate.asked import Asked

Floats = NDArray[np.float64]


def _against(
    kind: str, key: str, value: Floats, low: float, high: float, sentence: Callable[[float, float], str]
) -> Caution:
    """Rows whose value lies outside; a row that has none cannot."""
    limit = np.where(value < low, low, high)
    slack = 1e-9 * np.maximum(1.0, np.abs(limit))
    with np.errstate(invalid="ignore"):
        bad = (value < low - slack) | (value > high + slack)
    return Caution(kind, "refusal", key, bad, value, limit, sentence)


def _speed(asked: Asked) -> list[Caution]:
    name, top = asked.today.machine.name, asked.today.machine.of_head("max_speed_mm_s")
    return [
        _against(
            "speed",
            "speed_mm_s",
            asked.moves.column("speed_mm_s"),
            0.0,
            top,
            lambda v, lim: f"{v:.4g} mm/s is faster than {name} can go ({lim:.4g} mm/s); go slower.",
        )
    ]


def _ceiling(asked: Asked) -> list[Caution]:
    name, most = asked.today.machine.name, asked.today.machine.max_power_pct
    power = asked.moves.column("power_pct")
    corner = asked.moves.column("corner_power_pct")
    return [
        _against(
            "max_power",
            "power_pct",
            power,
            0.0,
            most,
            lambda v, lim: f"{v:.4g} % is more than {name} should give ({lim:.4g} %); take less.",
        ),
        _against(
            "corner_power",
            "corner_power_pct",
            corner,
            0.0,
            most,
            lambda v, lim: f"{v:.4g} % at corners is more than {name} should give ({lim:.4g} %); take less.",
        ),
    ]


def _floor(asked: Asked) -> list[Caution]:
    """Below its firing floor a source stays dark; the outline first is shown below it on purpose."""
    name, floor = asked.today.machine.name, asked.today.machine.firing_floor_pct
    shown = asked.moves.of_kind("trace")
    power = np.where(shown, np.nan, asked.moves.column("power_pct"))
    return [
        _against(
            "firing_floor",
            "power_pct",
            power,
            floor,
            math.inf,
            lambda v, lim: f"{name} does not fire below {lim:.4g} %; at {v:.4g} % it stays bare. Take more.",
        ),
        _against(
            "corner_power",
            "corner_power_pct",
            asked.moves.column("corner_power_pct"),
            floor,
            math.inf,
            lambda v, lim: (
                f"{name} does not fire below {lim:.4g} %; with {v:.4g} % at corners they stay open. Take more."
            ),
        ),
    ]


def _pulses(asked: Asked) -> list[Caution]:
    """Frequency and pulse width of every stretch: what the source does not have it would ignore."""
    machine, name = asked.today.machine, asked.today.machine.name
    findings = []
    widths, frequency = asked.moves.column("pulse_width_ns"), asked.moves.column("frequency_khz")
    if machine.pulse_widths is not None:
        offered = np.array([width.ns for width in machine.pulse_widths])
        nearest = offered[np.abs(np.nan_to_num(widths)[:, None] - offered[None, :]).argmin(axis=1)]
        with np.errstate(invalid="ignore"):
            off = np.abs(widths - nearest) > 1e-6
        findings.append(
            Caution(
                "pulse_width",
                "refusal",
                "pulse_width_ns",
                off,
                widths,
                nearest,
                lambda v, lim: f"{name} has no pulse width of {v:.4g} ns; the nearest it has is {lim:.4g} ns.",
            )
        )
    elif not np.isnan(widths).all():
        findings.append(_has_none(asked, "pulse_width_ns", widths))
    if machine.frequency_khz is None and machine.pulse_widths is None:
        if not np.isnan(frequency).all():
            findings.append(_has_none(asked, "frequency_khz", frequency))
        return findings
    kinds, kind = np.unique(np.nan_to_num(widths, nan=-1.0), return_inverse=True)
    ranges = [machine.frequency_range(None if ns < 0 else ns) or (0.0, math.inf) for ns in kinds.tolist()]
    low, high = np.array(ranges)[kind.ravel()].T
    with np.errstate(invalid="ignore"):
        below, above = frequency < low - 1e-9, frequency > high + 1e-9
    findings.append(
        Caution(
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


def _has_none(asked: Asked, key: str, value: Floats) -> Caution:
    """A setting that this source does not have at all."""
    name, what = asked.today.machine.name, PARAMETERS[key].name
    return Caution(
        "pulse_width" if key == "pulse_width_ns" else "frequency",
        "refusal",
        key,
        ~np.isnan(value),
        value,
        np.zeros(len(value)),
        lambda v, _lim: f"{name} has no {what} to set, and {v:.4g} {PARAMETERS[key].unit} is asked for. Leave it out.",
    )


def _off_the_scale(asked: Asked) -> list[Caution]:
    """What the machine's own control cannot show, as far as anybody has measured it."""
    machine = asked.today.machine
    findings = []
    for key, curve in machine.curves:
        row, (low, high) = PARAMETERS[key], curve.inside_range
        ends = " to ".join(f"{shown:g}" for shown in curve.shown_range)

        def sentence(v: float, _lim: float, row: Parameter = row, curve: Curve = curve, ends: str = ends) -> str:
            return (
                f"{machine.name} cannot be set to {row.name} {v:.4g} {row.unit}".rstrip()
                + f": its scale of {ends} {curve.unit} covers {curve.inside_range[0]:g} to {curve.inside_range[1]:g}"
                f" {row.unit}".rstrip()
                + ". Measure it further, or stay within it."
            )

        values = np.where(asked.moves.of_kind("trace"), np.nan, asked.moves.column(key))
        findings.append(_against("off_scale", key, values, low, high, sentence))
    return findings


def at_rest(asked: Asked) -> list[Caution]:
    """The beam burns only while the head moves, but for a pierce dwell in a file for a machine that takes one."""
    machine, name = asked.today.machine, asked.today.machine.name
    if asked.via != "stream" and machine.dwells_with_beam:
        return []
    dwell = asked.moves.column("pierce_dwell_ms")
    if asked.via == "stream":
        words = (
            "a pierce dwell burns while the head stands, which a live link does not do. Burn the file instead, or"
            " leave the dwell out."
        )
    else:
        words = (
            f"a pierce dwell burns while the head stands, and nobody has said that {name} takes that. Leave the dwell"
            " out, or say it in the Shop."
        )
    with np.errstate(invalid="ignore"):
        return [
            Caution("dwell", "refusal", "pierce_dwell_ms", dwell > 0, dwell, np.zeros(len(dwell)), lambda v, lim: words)
        ]


BY_SETTING: dict[str, Callable[[Asked], list[Caution]]] = {
    "speed": _speed,
    "ceiling": _ceiling,
    "floor": _floor,
    "pulses": _pulses,
    "scale": _off_the_scale,
}
