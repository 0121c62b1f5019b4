"""What a patch really got: passes add up over the runs in place, corrections change what was planned."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from rezept.core.plan.elements import Step
from rezept.core.plan.plate import Plate
from rezept.core.plan.steps import part_name

# What burns at this moment is counted when it is known how it ended.
REACHED = ("done", "uncertain")


@dataclass(frozen=True)
class Share:
    """One run's share in a patch.

    power, speed : what corrections made of the planned figures, 1 where nothing was corrected
    focus_mm : what they added to the focus offset
    read_off : settings other than planned, as somebody read them off a dial, a valve or a scale, or asked for them;
        None: turned, and nobody knows how far
    sure : nothing changed while it burned, and it is known to have burned whole, where it was to
    """

    passes: float
    power: float = 1.0
    speed: float = 1.0
    focus_mm: float = 0.0
    sure: bool = True
    read_off: tuple[tuple[str, float | None], ...] = ()

    @property
    def rate(self) -> tuple[Any, ...]:
        return self.power, self.speed, self.focus_mm, self.read_off

    @property
    def known(self) -> dict[str, float]:
        """What was read off and is known."""
        return {key: value for key, value in self.read_off if value is not None}

    @property
    def single(self) -> bool:
        """Whether one setting says what it gave."""
        return self.sure and all(value is not None for _, value in self.read_off)

    def power_over(self, planned_pct: float) -> float:
        """The power it burned with over the planned one."""
        return self.known.get("power_pct", planned_pct) / planned_pct * self.power

    def speed_over(self, planned_mm_s: float) -> float:
        """The speed likewise."""
        return self.known.get("speed_mm_s", planned_mm_s) / planned_mm_s * self.speed

    def spacing_over(self, planned: Mapping[str, float]) -> float:
        """The line spacing likewise; 1 of what is not filled."""
        spacing = planned.get("line_spacing_mm", 1.0)
        return self.known.get("line_spacing_mm", spacing) / spacing

    def dose_over(self, planned: Mapping[str, float]) -> float:
        """The dose of all its passes over that of one planned pass."""
        power, speed = self.power_over(planned["power_pct"]), self.speed_over(planned["speed_mm_s"])
        return self.passes * power / speed / self.spacing_over(planned)


@dataclass(frozen=True)
class Received:
    """A patch as it was burned. `mixed`: no single setting says what it got, so none can be kept from it."""

    settings: dict[str, float]
    dose: float
    mixed: bool


def mixed_words(patch: str) -> str:
    """Why nothing can be made of a patch that is mixed, in a sentence."""
    return f"Something was changed while {patch} burned, so no single setting says what it got."


def received(planned: Mapping[str, float], dose: float, shares: Sequence[Share]) -> Received:
    """What a patch got that was planned with these settings and this dose.

    Dose is ``P n / v`` (over the line spacing), so every share adds `Share.dose_over` times the planned dose of one
    pass. The settings are those of the last share, with all passes.
    """
    last = shares[-1]
    settings = dict(planned) | last.known
    settings["passes"] = sum(share.passes for share in shares)
    power, speed = planned["power_pct"], planned["speed_mm_s"]
    settings["power_pct"] = float(f"{power * last.power_over(power):.10g}")
    settings["speed_mm_s"] = float(f"{speed * last.speed_over(speed):.10g}")
    if last.focus_mm or "focus_offset_mm" in settings:
        settings["focus_offset_mm"] = float(f"{settings.get('focus_offset_mm', 0.0) + last.focus_mm:.10g}")
    one_pass = dose / planned["passes"]
    total = sum(share.dose_over(planned) for share in shares) * one_pass
    mixed = len({share.rate for share in shares}) > 1 or not all(share.single for share in shares)
    return Received(settings, total, mixed)


@dataclass(frozen=True)
class Runs:
    """The runs of a burn as far as they burned elements: what each part got, whether a first burn of all of them was
    logged by hand, the parts of which nobody knows whether they burned whole, and those a whole run never got to."""

    by_hand: bool
    shares: Mapping[str, Sequence[Share]]
    uncertain: frozenset[str] = frozenset()
    never_reached: frozenset[str] = frozenset()

    def of_part(self, name: str, settings: Mapping[str, float], dose: float) -> Received | None:
        """What a part got that was planned so; None where that is what was planned."""
        planned = Share(settings["passes"])
        got = list(self.shares.get(name, ()))
        whole = [planned, *got] if self.by_hand and got else got
        return received(settings, dose, whole) if whole and whole != [planned] else None


def runs_of(rows: Sequence[Mapping[str, Any]]) -> Runs:
    """The runs of a burn from the records, the first one first."""
    shares: dict[str, list[Share]] = {}
    for run in rows:
        for part in run["parts"]:
            if part["kind"] == "patch" and part["state"] in REACHED:
                sure = part["state"] == "done" and not part["mixed"] and not run.get("doubtful", False)
                read = tuple(sorted(part["read_off"].items()))
                share = Share(part["passes"], part["power"], part["speed"], part["focus_mm"], sure, read)
                shares.setdefault(part["name"], []).append(share)
    parts = [part for run in rows for part in run["parts"] if part["kind"] == "patch"]
    uncertain = frozenset(part["name"] for part in parts if part["state"] == "uncertain")
    begun = {part["name"] for part in parts if part["state"] in (*REACHED, "burning")}
    whole = {part["name"] for run in rows if run["kind"] == "whole" for part in run["parts"] if part["kind"] == "patch"}
    never = frozenset(whole - begun)
    return Runs(not any(run["kind"] == "whole" for run in rows), shares, uncertain, never)


def document_as_burned(plate: Mapping[str, Any], runs: Runs) -> dict[str, Any]:
    """A plate document with the settings and doses its elements really got, step by step; `mixed` where no setting
    says it."""
    if not runs.shares:
        return dict(plate)
    return {**plate, "patches": [_patch_as_burned(patch, runs) for patch in plate["patches"]]}


def _patch_as_burned(patch: Mapping[str, Any], runs: Runs) -> dict[str, Any]:
    steps = patch.get("steps") or [patch]
    burned: dict[str, Any] = dict(patch)
    for number, step in enumerate(steps if len(steps) > 1 else [patch]):
        dose_key = next(key for key in ("dose_j_mm", "dose_j_mm2") if key in step)
        really = runs.of_part(part_name(patch["id"], number, len(steps)), step["settings"], step[dose_key])
        if really is None:
            continue
        got = {"settings": really.settings, dose_key: really.dose}
        burned["mixed"] = really.mixed or burned.get("mixed", False)
        if len(steps) > 1:
            got["mixed"] = really.mixed
            burned["steps"] = [{**one, **got} if i == number else one for i, one in enumerate(burned["steps"])]
        else:
            burned |= got
    return burned


def plate_as_burned(plate: Plate, runs: Runs) -> Plate:
    """The same of a plate of the core, its mixed elements named."""
    if not runs.shares:
        return plate
    mixed: set[str] = set()
    steps = tuple(_step_as_burned(plate, number, runs, mixed) for number in range(len(plate.steps)))
    return replace(plate, steps=steps, mixed=frozenset(mixed))


def _step_as_burned(plate: Plate, number: int, runs: Runs, mixed: set[str]) -> Step:
    step, count = plate.steps[number], len(plate.elements)
    settings = {key: column.copy() for key, column in step.settings.items()}
    dose = step.dose.copy()
    for index in range(count):
        really = runs.of_part(plate.part_name(index, number), step.settings_of(index), float(dose[index]))
        if really is None:
            continue
        for key, value in really.settings.items():
            # A focus nudged while it burned is a setting the plan did not have.
            settings.setdefault(key, np.zeros(count))[index] = value
        dose[index] = really.dose
        if really.mixed:
            mixed.add(plate.part_name(index, number))
    return replace(step, settings=settings, dose=dose)
