"""The gate: what burns passes it as it leaves, by whatever way, and is held against the facts of today.

Each rule looks at the moves themselves (`moves.Moves`) and says which of them must not leave, with the figure, the
limit and the way out. What the gate refuses no file and no stream carries.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import Refused
from rezept.core.machine import Machine
from rezept.core.machine_facts import FACTS, beyond_bounds
from rezept.core.material import NEVER_BURN, Material
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.cautions import Caution
from rezept.core.plan.moves import PART_OF, Moves, moves_of
from rezept.core.plan.place import field_mm
from rezept.core.plan.plate import Plate, Warning
from rezept.core.plan.traced import trace_dose, trace_moves, weakest_mark
from rezept.core.plan.trial import Trial
from rezept.core.plan.words import OF_OWN_CONTROL, WRITTEN_DECIMALS, per_word, told_by_word

Floats = NDArray[np.float64]
Mask = NDArray[np.bool_]
# drawing: a drawing or a sheet, whose settings somebody sets by hand; program: a file of G-code; stream: live.
Via = Literal["drawing", "program", "stream"]
# So far what is written may be off from what was planned: a hundredth of it.
WRITTEN_WITHIN = 0.01
# What per cent and nanometres mean, and by what a program says power, speed and places: another machine today would
# burn the same figures, or the same words, otherwise.
_MEANING = ("source", "motion", "rated_power_w", "air")
_TRANSLATION = ("s_at_full_power", "power_mode", "focus_by_z", "hears_settings")


@dataclass(frozen=True)
class Today:
    """What a burn is judged by: the machine with its head, and the material, as they are now."""

    machine: Machine
    material: Material
    retired: tuple[str, ...] = ()


@dataclass(frozen=True)
class Asked:
    """What is about to leave."""

    trial: Trial
    moves: Moves
    today: Today
    via: Via


@dataclass(frozen=True)
class Refusal:
    """What must not leave. `part` is its name in a run; empty where it is about the whole. `element`: the index of the
    element it is about, if it is about one."""

    part: str
    element: int | None
    warning: Warning


def _against(
    kind: str, key: str, value: Floats, low: float, high: float, sentence: Callable[[float, float], str]
) -> Caution:
    """Rows whose value lies outside; a row that has none cannot."""
    limit = np.where(value < low, low, high)
    slack = 1e-9 * np.maximum(1.0, np.abs(limit))
    with np.errstate(invalid="ignore"):
        bad = (value < low - slack) | (value > high + slack)
    return Caution(kind, "refusal", key, bad, value, limit, sentence)


# --- rules about settings ------------------------------------------------------------------------------------


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


def _at_rest(asked: Asked) -> list[Caution]:
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


# --- rules about what a program can say -----------------------------------------------------------------------


def _written(asked: Asked) -> list[Caution]:
    """Speed and power that come out as nothing, or as something else, in the figures a program has."""
    if asked.via == "drawing":
        return []
    machine, name = asked.today.machine, asked.today.machine.name
    findings = []
    for key, most in (("speed_mm_s", machine.of_head("max_speed_mm_s")), ("power_pct", machine.max_power_pct)):
        value = asked.moves.column(key)
        scale, row = per_word(key, machine), PARAMETERS[key]
        written = np.round(value * scale, WRITTEN_DECIMALS) / scale
        with np.errstate(invalid="ignore", divide="ignore"):
            off = np.abs(written - value) > WRITTEN_WITHIN * value
            over = (written > most * (1 + 1e-9)) & (value <= most * (1 + 1e-9))
        if key == "power_pct":
            # A trace may be dark altogether.
            off &= ~(asked.moves.of_kind("trace") & (value == 0))

        def sentence(v: float, lim: float, row: str = row.name, unit: str = row.unit) -> str:
            return (
                f"a program for {name} cannot say a {row} of {v:.4g} {unit}: it would say {lim:.4g} {unit}."
                f" Take more, or look at the machine's figures in the Shop."
            )

        findings.append(Caution("unwritable", "refusal", key, off | over, value, written, sentence))
    return findings


def _untold(key: str, values: Floats) -> Mask:
    """``(k,)`` where a setting that no word tells would be burned differently from what the plan says."""
    here = ~np.isnan(values)
    if not here.any():
        return here
    if key in ("focus_offset_mm", "step_down_mm", "on_delay_us", "off_delay_us", "air_kpa", "air_level"):
        # Left at nothing, they are what the machine does by itself.
        varies = np.nanmin(values) != np.nanmax(values)
        return here & (varies | (values != 0))
    return here


def _untold_finding(key: str, how: str, path: str, bad: Mask, values: Floats) -> Caution:
    name = PARAMETERS[key].name

    def sentence(_value: float, _limit: float) -> str:
        return f"G-code has no word for {name}, which {how} here. Use the settings sheet, or leave {name} out."

    return Caution("untold", "refusal", path, bad, values, np.zeros(len(values)), sentence, once=True, setting=key)


def _told(asked: Asked) -> list[Caution]:
    """Settings that no word of the program says, of patches and of what is drawn."""
    machine = asked.today.machine
    if asked.via == "drawing" or machine.hears_settings:
        return []
    findings = []
    patches = asked.moves.of_kind("patch")
    for key, values in asked.moves.settings.items():
        if told_by_word(key, machine):
            continue
        for rows in (patches, ~patches):
            bad = _untold(key, np.where(rows, values, np.nan))
            if bad.any():
                here = values[rows & ~np.isnan(values)]
                how = "varies" if np.ptp(here) > 0 else "is set"
                path = f"hold.{key}" if key in asked.trial.hold else "axes"
                if rows is not patches:
                    path = f"{_PATH[PART_OF[asked.moves.kinds[int(np.flatnonzero(bad)[0])]]]}.{key}"
                findings.append(_untold_finding(key, how, path, bad, values))
    return findings


# --- rules about places ---------------------------------------------------------------------------------------


def beyond_field(machine: Machine, low: Floats, high: Floats) -> Floats:
    """How far ``(k,)`` extents go beyond the field; not more than 0 where they fit.

    A gantry's work zero is the piece's corner, which can be put where the leftmost run-up just fits, and to which the
    head comes back; a galvo's field is centred on its work zero.
    """
    field = field_mm(machine)
    if machine.motion == "galvo":
        return np.maximum(high - field / 2, -field / 2 - low).max(axis=1)
    return (np.maximum(high, 0.0) - np.minimum(0.0, low.min(axis=0)) - field).max(axis=1)


def _field(asked: Asked) -> list[Caution]:
    """All moves of the program together, run-ups included."""
    worst = beyond_field(asked.today.machine, asked.moves.low, asked.moves.high)
    width, height = field_mm(asked.today.machine)
    name = asked.today.machine.name

    def sentence(value: float, _limit: float) -> str:
        return (
            f"with its run-up it reaches {value:.3g} mm beyond the field of {name} ({width:g} x {height:g} mm);"
            " move the plate, or go slower there."
        )

    return [Caution("field", "refusal", "place", worst > 1e-6, worst, np.zeros(len(worst)), sentence)]


# --- rules about the whole --------------------------------------------------------------------------------------


def _whole(kind: str, sentence: str, path: str, value: float | None = None, limit: float | None = None) -> Refusal:
    return Refusal("", None, Warning(kind, "refusal", sentence, path, value, limit))


def _hazards(asked: Asked) -> list[Refusal]:
    return [
        _whole(
            "hazard", f"{asked.today.material.title} {NEVER_BURN[hazard]}. It must not be burned.", "material.hazards"
        )
        for hazard in asked.today.material.hazards
        if hazard in NEVER_BURN and hazard not in asked.trial.accepted_hazards
    ]


def _retired(asked: Asked) -> list[Refusal]:
    return [
        _whole("retired", f"{title} is retired; take it back in the Shop first.", "retired")
        for title in asked.today.retired
    ]


# A machine changes once a month and is asked about at every keystroke.
@lru_cache(maxsize=64)
def _beyond_bounds(machine: Machine) -> tuple[Refusal, ...]:
    return tuple(
        _whole("facts", f"{error.sentence} Put it right in the Shop.", f"machine.{error.path}")
        for error in beyond_bounds(machine)
    )


def _bounds(asked: Asked) -> list[Refusal]:
    return list(_beyond_bounds(asked.today.machine))


def _name(key: str) -> str:
    return next((fact.name for fact in FACTS if fact.key == key), key.replace("_", " "))


def _shown(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    return f"{value:g}" if isinstance(value, float) else str(value).replace("_", " ")


def _translation(asked: Asked) -> list[Refusal]:
    """A plate planned for a machine that spoke otherwise than today's."""
    before, now = asked.trial.machine, asked.today.machine
    facts = _MEANING if asked.via == "drawing" else (*_MEANING, *_TRANSLATION)
    return [
        _whole(
            "changed",
            f"{now.name} has changed since this was planned: {_name(key)} was {_shown(getattr(before, key))} and is"
            f" {_shown(getattr(now, key))}. Change the plan, so that it is made for the machine of today.",
            f"machine.{key}",
        )
        for key in facts
        if getattr(before, key) != getattr(now, key)
    ]


def _stays_on(asked: Asked) -> list[Refusal]:
    machine = asked.today.machine
    if asked.via != "stream" or machine.power_mode == "follows_speed" or machine.beam_drops_at_rest:
        return []
    return [
        _whole(
            "stays_on",
            f"If the connection broke, the beam of {machine.name} could stay on where the head stands. Burn the file"
            " instead, or say in the Shop that its controller puts the beam off at rest.",
            "machine.beam_drops_at_rest",
        )
    ]


# The rules by name: what a stretch is set to, and what is about the whole.
BY_SETTING: dict[str, Callable[[Asked], list[Caution]]] = {
    "speed": _speed,
    "ceiling": _ceiling,
    "floor": _floor,
    "pulses": _pulses,
}
BY_MOVE: dict[str, Callable[[Asked], list[Caution]]] = {
    **BY_SETTING,
    "at_rest": _at_rest,
    "written": _written,
    "told": _told,
    "field": _field,
}
BY_WHOLE: dict[str, Callable[[Asked], list[Refusal]]] = {
    "hazards": _hazards,
    "retired": _retired,
    "bounds": _bounds,
    "translation": _translation,
    "stays_on": _stays_on,
}

_SAID = {"labels": "the labels", "outline": "the plate's own cuts", "trace": "the outline first"}
_PATH = {"labels": "labels.settings", "outline": "cut_settings"}


def _of_moves(moves: Moves, finding: Caution) -> list[Refusal]:
    """A finding as refusals: one for every patch, and one, the worst, for all that is drawn with the same settings."""
    refusals = []
    if finding.once:
        i = int(np.flatnonzero(finding.bad)[0])
        words = finding.sentence(float(finding.value[i]), float(finding.limit[i]))
        return [Refusal("", None, _warning(finding, i, words, finding.path))]
    drawn: dict[str, int] = {}
    beyond = np.abs(finding.value - finding.limit)
    for i in np.flatnonzero(finding.bad).tolist():
        if moves.kinds[i] == "patch":
            sentence = f"{moves.names[i]}: {finding.sentence(float(finding.value[i]), float(finding.limit[i]))}"
            warning = _warning(finding, i, sentence, finding.path)
            refusals.append(Refusal(moves.names[i], int(moves.element[i]), warning))
            continue
        part = PART_OF.get(moves.kinds[i], "trace")
        if part not in drawn or beyond[i] > beyond[drawn[part]]:
            drawn[part] = i
    for part, i in drawn.items():
        said = f"{_SAID[part]}: {finding.sentence(float(finding.value[i]), float(finding.limit[i]))}"
        path = finding.path if finding.path == "place" else f"{_PATH.get(part, 'machine.trace')}.{finding.path}"
        refusals.append(Refusal(part, None, _warning(finding, i, said[0].upper() + said[1:], path)))
    return refusals


def _warning(finding: Caution, i: int, sentence: str, path: str) -> Warning:
    value, limit = float(finding.value[i]), float(finding.limit[i])
    return Warning(
        finding.kind,
        "refusal",
        sentence,
        path,
        value if math.isfinite(value) else None,
        limit if math.isfinite(limit) else None,
    )


def by_rule(asked: Asked) -> dict[str, list[Refusal]]:
    """What each rule has against what is asked; rules that have nothing are not named."""
    found = {name: rule(asked) for name, rule in BY_WHOLE.items()}
    for name, rule in BY_MOVE.items():
        found[name] = [
            refusal for finding in rule(asked) if finding.bad.any() for refusal in _of_moves(asked.moves, finding)
        ]
    return {name: refusals for name, refusals in found.items() if refusals}


def judged(asked: Asked) -> list[Refusal]:
    """Everything the gate has against what is asked; none: it may leave."""
    return [refusal for refusals in by_rule(asked).values() for refusal in refusals]


def against_a_program(trial: Trial, moves: Moves) -> list[Warning]:
    """What only a program cannot say, each setting once, as a warning: a drawing or a sheet still can."""
    takes = trial.machine.takes
    if takes is not None and "gcode" not in takes:
        return []
    asked = Asked(trial, moves, Today(trial.machine, trial.material), "program")
    # By a drawing or a sheet somebody sets it by hand, unless there is nothing that it could be set on.
    fed_programs = takes is not None and set(takes) == {"gcode"}
    warnings = []
    for finding in (finding for rule in (_written, _told) for finding in rule(asked)):
        if finding.bad.any():
            first = _of_moves(moves, finding)[0].warning
            nowhere = fed_programs and finding.setting in OF_OWN_CONTROL
            warnings.append(first if nowhere else replace(first, level="warning"))
    return warnings


def gate(plate: Plate, today: Today, via: Via) -> list[Refusal]:
    """What the gate has against a plate that is to leave by one way; worked out once for a plate, a day and a way."""
    key = ("gate", today, via)
    if key not in plate.worked_out:
        plate.worked_out[key] = tuple(judged(Asked(plate.trial, moves_of(plate), today, via)))
    return list(plate.worked_out[key])


def gate_of_trace(plate: Plate, today: Today, via: Via) -> list[Refusal]:
    """The same for the outline first, which besides must not mark."""
    machine = today.machine
    power = machine.trace_power_pct
    if power is None:
        return [
            _whole(
                "trace",
                f"{machine.name} has no trace power; say in the Shop at which power it shows its place without"
                " marking.",
                "machine.trace_power_pct",
            )
        ]
    refusals = judged(Asked(plate.trial, trace_moves(plate), today, via))
    if plate.trial.machine.trace_power_pct != power:
        refusals.append(
            _whole(
                "changed",
                f"{machine.name} has another trace power since this was planned. Change the plan first.",
                "machine.trace_power_pct",
            )
        )
    dose = trace_dose(plate, power)
    weakest, share = weakest_mark(plate)
    if dose > share * weakest:
        refusals.append(
            _whole(
                "trace",
                f"At {power:g} % {machine.name} would leave a line: {dose:.2g} J/mm, and {weakest:.2g} J/mm is burned"
                " here on purpose. Set a lower trace power.",
                "machine.trace_power_pct",
                dose,
                share * weakest,
            )
        )
    return refusals


def judged_correction(trial: Trial, moves: Moves, today: Today, power: float, speed: float) -> list[Refusal]:
    """What is against turning power and speed to so many times what the program says, for the moves still to come."""
    asked = Asked(trial, moves.corrected(power, speed), today, "stream")
    findings = [finding for rule in BY_SETTING.values() for finding in rule(asked)]
    return [refusal for finding in findings if finding.bad.any() for refusal in _of_moves(asked.moves, finding)]


def refuse(refusals: Iterable[Refusal], so: str = "Mend it first.") -> None:
    """Raise `Refused` with the first of them, where there is one, and what follows from it."""
    found = list(refusals)
    if found:
        first, more = found[0].warning, len(found) - 1
        rest = f" ({more} more like this.)" if more else ""
        raise Refused(f"{first.sentence}{rest} {so}", first.path, first.value, first.limit)
