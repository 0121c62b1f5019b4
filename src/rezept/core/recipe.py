"""A setting worth keeping: how sure the shop is of it, who may say so, and how that changes by itself."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Literal

from rezept.core.process import Process

StandingKey = Literal["proven", "tried", "heard", "estimate", "doubtful", "retired"]
KeptAs = Literal["tried", "proven"]
WrittenAs = Literal["heard", "estimate"]
FailedBecause = Literal["not_through", "otherwise", "flame", "intricate", "other_sheet", "other"]

# Best first.
STANDINGS: tuple[StandingKey, ...] = ("proven", "tried", "heard", "estimate", "doubtful", "retired")
# What a patch can be kept as; what counts as known here.
KEPT_AS: tuple[KeptAs, ...] = ("tried", "proven")
KNOWN_HERE = KEPT_AS
# What a recipe can be that no plate of this shop stands behind, as the one who writes it down says it.
WITHOUT_PLATE: dict[WrittenAs, str] = {"heard": "heard of", "estimate": "my own estimate"}
# What those say, and take back, who answer for it; the rest any member.
BY_TECHNICIANS = ("proven", "retired")

# Why a recipe did not hold, as one says it at the machine.
FAILED_BECAUSE: dict[FailedBecause, str] = {
    "not_through": "not through",
    "otherwise": "looked otherwise",
    "flame": "flame",
    "intricate": "intricate work",
    "other_sheet": "other sheet",
    "other": "other",
}

FAILURES_TO_DOUBT = 2
HELD_TO_PROVE = 3

STANDING_RULES = (
    "What was only heard of or estimated is tried once it has held, or a patch burned with it came out.",
    f"What failed {FAILURES_TO_DOUBT} times since it last held is doubtful.",
    f"What has held {HELD_TO_PROVE} times running is worth proving; only a technician says proven.",
)


def may_say(before: str, after: str, technician: bool) -> bool:
    """Whether somebody may say that a recipe is no longer `before` but `after`."""
    return technician or {before, after}.isdisjoint(BY_TECHNICIANS)


def offered(standing: str, technician: bool) -> list[str]:
    """What a person is asked whether a recipe is instead. What was only written down becomes tried by holding."""
    begun = technician or standing not in WITHOUT_PLATE
    return [
        key
        for key in STANDINGS
        if begun and key not in (standing, *WITHOUT_PLATE) and may_say(standing, key, technician)
    ]


def reason_fits(reason: FailedBecause, process: Process) -> bool:
    """Whether a process can have failed for that: only a cut can not go through, only a mark look otherwise."""
    return reason != ("otherwise" if process.passes_through else "not_through")


def are_settings_of(kept: Mapping[str, float], got: Mapping[str, float]) -> bool:
    """Whether what was burned is what a recipe says: all of it, to a thousandth, in whatever units it was typed."""
    return all(key in got and math.isclose(value, got[key], rel_tol=1e-3) for key, value in kept.items())


def says_of_dose(reason: FailedBecause | None) -> bool | None:
    """What a failure says of the dose: False where it was too little for this sheet, None where it says nothing of it.

    A flame is evidence of char, intricate work waits for its proof, and another reason counts for nothing.
    """
    return False if reason in ("not_through", "other_sheet") else None


def failures_running(held: Sequence[bool]) -> int:
    """How often it failed since it last held; `held` in order of time."""
    return next((i for i, one in enumerate(reversed(held)) if one), len(held))


def held_running(held: Sequence[bool]) -> int:
    """How often it held since it last failed."""
    return next((i for i, one in enumerate(reversed(held)) if not one), len(held))


def standing_after(standing: str, held: Sequence[bool]) -> str:
    """The standing of a recipe after its confirmations and failures, the latest of them new."""
    if not held:
        return standing
    if held[-1] and standing in WITHOUT_PLATE:
        return "tried"
    if standing in KNOWN_HERE and failures_running(held) >= FAILURES_TO_DOUBT:
        return "doubtful"
    return standing


def worth_proving(standing: str, held: Sequence[bool]) -> bool:
    return standing == "tried" and held_running(held) >= HELD_TO_PROVE
