"""A trial around what several steps did together: all of them go on, and one of them gets the array."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class StepKept:
    """A step as a recipe or a burned patch has it; `way`: how it goes over its figure (`step_documents.way_of`)."""

    name: str
    process: str
    settings: Mapping[str, float]
    way: Mapping[str, Any] = field(default_factory=dict)

    @property
    def _sets(self) -> list[Mapping[str, float]]:
        """The sets of lines laid over its own."""
        return list(self.way.get("hatch", ()))

    def times_its_lines(self) -> float:
        """How much of the dose of its own lines all its lines are together."""
        own = self.settings.get("line_spacing_mm", 1.0)
        return 1.0 + sum(own / one.get("line_spacing_mm", own) for one in self._sets)

    def document(self, hold: Mapping[str, float]) -> dict[str, Any]:
        """As a design says it, with what it holds."""
        way = {key: value for key, value in self.way.items() if key != "hatch"}
        sets = {"hatch": [{}, *map(dict, self._sets)]} if self._sets else {}
        return {"name": self.name, "process": self.process, "hold": dict(hold), **way, **sets}


@dataclass(frozen=True)
class Together:
    """Steps that made one thing what it is, round after round; `varied`: which of them a trial is about, from 0."""

    steps: Sequence[StepKept]
    rounds: int
    varied: int

    @property
    def is_plain(self) -> bool:
        """Whether it is one step, once, as its process usually goes: a design of one process says all of it."""
        return len(self.steps) == 1 and self.rounds == 1 and not self.steps[0].way

    def in_design(self, design: Mapping[str, Any]) -> dict[str, Any]:
        """A design that was made of the varied step alone, with all of them: what it holds, varies and begins from is
        that step's, and the others are held as they were."""
        if self.is_plain:
            return dict(design)
        about = self.steps[self.varied]
        # What begins at a dose counts all lines of all rounds.
        times = self.rounds * about.times_its_lines()
        starting = {key: float(f"{times * value:.4g}") for key, value in design.items() if key.startswith("starting_")}
        steps = [
            {**about.document(design["hold"]), **starting} if number == self.varied else step.document(step.settings)
            for number, step in enumerate(self.steps)
        ]
        return {
            **{key: value for key, value in design.items() if key not in starting},
            "hold": {},
            "steps": steps,
            "rounds": self.rounds,
            "axes": [{**axis, "step": about.name} for axis in design["axes"]],
        }
