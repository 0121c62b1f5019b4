"""Rules about the whole: material, machine and way, as they are today."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

from rezept.core.machine import Machine
from rezept.core.machine_facts import FACTS, beyond_bounds
from rezept.core.material import NEVER_BURN
from rezept.core.parameters import PARAMETERS
from rezept.core.plan.gate.asked import Asked, Refusal
from rezept.core.plan.plate import Warning
from rezept.core.wording import together

# What per cent and nanometres mean, and by what a program says power, speed and places: another machine today would
# burn the same figures, or the same words, otherwise.
_MEANING = ("source", "motion", "rated_power_w", "air", "curves")
_TRANSLATION = ("s_at_full_power", "power_mode", "focus_by_z", "hears_settings", "by_hand", "stops_in_program")


_IN_WORDS = {"by_hand": "what is set by hand", "curves": "what its control has scales for"}


def whole(kind: str, sentence: str, path: str, value: float | None = None, limit: float | None = None) -> Refusal:
    return Refusal("", None, Warning(kind, "refusal", sentence, path, value, limit))


def _hazards(asked: Asked) -> list[Refusal]:
    return [
        whole(
            "hazard", f"{asked.today.material.title} {NEVER_BURN[hazard]}. It must not be burned.", "material.hazards"
        )
        for hazard in asked.today.material.hazards
        if hazard in NEVER_BURN and hazard not in asked.trial.accepted_hazards
    ]


def _retired(asked: Asked) -> list[Refusal]:
    return [
        whole("retired", f"{title} is retired; take it back in the Shop first.", "retired")
        for title in asked.today.retired
    ]


# A machine changes once a month and is asked about at every keystroke.
@lru_cache(maxsize=64)
def _beyond_bounds(machine: Machine) -> tuple[Refusal, ...]:
    return tuple(
        whole("facts", f"{error.sentence} Put it right in the Shop.", f"machine.{error.path}")
        for error in beyond_bounds(machine)
    )


def _bounds(asked: Asked) -> list[Refusal]:
    return list(_beyond_bounds(asked.today.machine))


def _name(key: str) -> str:
    if key in _IN_WORDS:
        return _IN_WORDS[key]
    return next((fact.name for fact in FACTS if fact.key == key), key.replace("_", " "))


def _shown(value: object) -> str:
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, tuple):
        # Settings turned by hand, or the scales of some.
        named = [PARAMETERS[one if isinstance(one, str) else one[0]].name for one in value]
        return together(named) if named else "nothing"
    return f"{value:g}" if isinstance(value, float) else str(value).replace("_", " ")


def _change(key: str, before: object, now: object) -> str:
    said = _shown(before), _shown(now)
    if said[0] == said[1]:
        return f"a scale of its control ({said[1]})"
    return f"{_name(key)} was {said[0]} and is {said[1]}"


def _translation(asked: Asked) -> list[Refusal]:
    """A plate planned for a machine that spoke otherwise than today's."""
    before, now = asked.trial.machine, asked.today.machine
    facts = _MEANING if asked.via == "drawing" else (*_MEANING, *_TRANSLATION)
    return [
        whole(
            "changed",
            f"{now.name} has changed since this was planned: {_change(key, getattr(before, key), getattr(now, key))}."
            " Change the plan, so that it is made for the machine of today.",
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
        whole(
            "stays_on",
            f"If the connection broke, the beam of {machine.name} could stay on where the head stands. Burn the file"
            " instead, or say in the Shop that its controller puts the beam off at rest.",
            "machine.beam_drops_at_rest",
        )
    ]


BY_WHOLE: dict[str, Callable[[Asked], list[Refusal]]] = {
    "hazards": _hazards,
    "retired": _retired,
    "bounds": _bounds,
    "translation": _translation,
    "stays_on": _stays_on,
}
