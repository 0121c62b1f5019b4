"""All rules together, held against what is to leave."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import replace

import numpy as np

from rezept.core.errors import Refused
from rezept.core.plan.cautions import Caution
from rezept.core.plan.gate.asked import Asked, Refusal, Today, Via
from rezept.core.plan.gate.places import within_field
from rezept.core.plan.gate.settings import BY_SETTING, at_rest
from rezept.core.plan.gate.telling import DRAWN_PATH, told, written
from rezept.core.plan.gate.whole import BY_WHOLE, whole
from rezept.core.plan.moves import PART_OF, Moves, moves_of
from rezept.core.plan.plate import Plate, Warning
from rezept.core.plan.traced import Outline, trace_dose, trace_moves, weakest_mark
from rezept.core.plan.trial import Trial
from rezept.core.plan.words import OF_OWN_CONTROL

# The rules by name: what a stretch is set to, what else is about moves; `BY_WHOLE` is the rest.
BY_MOVE: dict[str, Callable[[Asked], list[Caution]]] = {
    **BY_SETTING,
    "at_rest": at_rest,
    "written": written,
    "told": told,
    "field": within_field,
}

_SAID = {"labels": "the labels", "outline": "the plate's own cuts", "trace": "the outline first"}


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
        path = finding.path if finding.path == "place" else f"{DRAWN_PATH.get(part, 'machine.trace')}.{finding.path}"
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
    for finding in (finding for rule in (written, told) for finding in rule(asked)):
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


def gate_of_trace(plate: Plate, today: Today, via: Via, outline: Outline = "frame") -> list[Refusal]:
    """The same for the outline first, which besides must not mark."""
    machine = today.machine
    power = machine.outline_power_pct
    if power is None:
        return [
            whole(
                "trace",
                f"{machine.name} has no trace power; say in the Shop at which power it shows its place without"
                " marking, or that a pointer shows it.",
                "machine.trace_power_pct",
            )
        ]
    if "power_pct" in machine.by_hand and power > 0:
        return [
            whole(
                "trace",
                f"The power of {machine.name} is set by hand, and no program turns it down to show the outline. Go"
                " through it with the beam off instead.",
                "machine.trace_power_pct",
            )
        ]
    refusals = judged(Asked(plate.trial, trace_moves(plate, outline), today, via))
    if plate.trial.machine.outline_power_pct != power:
        refusals.append(
            whole(
                "changed",
                f"{machine.name} has another trace power since this was planned. Change the plan first.",
                "machine.trace_power_pct",
            )
        )
    dose = trace_dose(plate, power, outline)
    weakest, share = weakest_mark(plate)
    if dose > share * weakest:
        refusals.append(
            whole(
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
