"""What a proof on a real, intricate shape came to, and what to try where it burned although the coupon had held."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

from rezept.core.machine import Machine
from rezept.core.parameters import NEVER_DEFAULTED, PARAMETERS
from rezept.core.path.shapes import PROOF
from rezept.core.process import Process
from rezept.core.recipe import FailedBecause
from rezept.core.scales import SCALES

ResultKey = Literal["held", "not_through", "burned", "flame"]
# From this degree of char on it is burned and no longer browned.
_BURNED_CHAR = 3
# So many times the passes are tried, each as much faster: fewer tell nothing new, more take too long.
TIMES = (2, 3, 4)
SIMPLE_ONLY = "simple shapes only"
# What of a reading says that a proof gave way.
_GAVE_WAY = "gave_way"


@dataclass(frozen=True)
class ProofResult:
    """How a proof came out; `reason`: why a recipe failed by it, as the book says it."""

    key: ResultKey
    words: str
    reason: FailedBecause | None = None

    @property
    def held(self) -> bool:
        return self.key == "held"


def result_of(process: Process, values: Mapping[str, float]) -> ProofResult | None:
    """What was read of a proof, whichever face showed it; None where nobody has said how it came out."""
    outcome = SCALES[process.outcome]
    came = values.get(outcome.key)
    gave_way = int(values.get(_GAVE_WAY, 0))
    what = SCALES[_GAVE_WAY].words[gave_way] if gave_way else ""
    if values.get("flame"):
        return ProofResult("flame", "It caught fire.", "flame")
    if gave_way or values.get("char", 0) >= _BURNED_CHAR or (came is not None and outcome.is_too_much(came)):
        return ProofResult("burned", f"It burned: {what} gave way first." if what else "It burned.", "intricate")
    if came is None:
        return None
    if outcome.failed(came):
        if process.passes_through:
            return ProofResult("not_through", "It did not go through.", "not_through")
        return ProofResult("not_through", "It stayed too faint.", "otherwise")
    return ProofResult("held", "It held.")


def is_crowded(shape: str, begun_as_proof: bool) -> bool:
    """Whether a plate tells of work that lies close, and not of lonely patches: neither says what the other does."""
    return begun_as_proof or shape == PROOF


def more_passes(settings: Mapping[str, float], machine: Machine) -> list[dict[str, float]]:
    """The same total dose in more and faster passes, fewest first, as far as the machine goes: speed and passes grow
    alike, so that ``P n / v`` stays. Each pass heats less, and the work cools between them."""
    speed, passes = settings["speed_mm_s"], settings.get("passes", 1.0)
    fastest, most = machine.of_head("max_speed_mm_s"), PARAMETERS["passes"].high
    return [
        {**settings, "speed_mm_s": float(f"{speed * times:.6g}"), "passes": passes * times}
        for times in TIMES
        if speed * times <= fastest and passes * times <= most
    ]


def listed_with(settings: list[dict[str, float]]) -> tuple[dict[str, float], list[dict[str, float]]]:
    """What all of some settings have in common, which is held, and each one's own: speed and power always."""
    shared = {
        key: value
        for key, value in settings[0].items()
        if key not in NEVER_DEFAULTED and all(one.get(key) == value for one in settings)
    }
    return shared, [{key: value for key, value in one.items() if key not in shared} for one in settings]
