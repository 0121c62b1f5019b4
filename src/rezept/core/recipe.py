"""A setting worth keeping, and the rules by which its standing changes by itself."""

from __future__ import annotations

from collections.abc import Sequence

STANDINGS = ("estimate", "heard", "tried", "proven", "doubtful", "retired")
# What a member may say of a recipe; the rest is for those who answer for it.
STANDINGS_BY_MEMBERS = ("tried", "doubtful")
# What a recipe can be that no plate of this shop stands behind.
STANDINGS_WITHOUT_PLATE = ("heard", "estimate")

FAILURES_TO_DOUBT = 2
HELD_TO_PROVE = 3

STANDING_RULES = (
    "What was only heard of or estimated is tried once it has held.",
    f"What failed {FAILURES_TO_DOUBT} times since it last held is doubtful.",
    f"What has held {HELD_TO_PROVE} times running is worth proving; only a technician says proven.",
)


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
    if held[-1] and standing in STANDINGS_WITHOUT_PLATE:
        return "tried"
    if standing in ("tried", "proven") and failures_running(held) >= FAILURES_TO_DOUBT:
        return "doubtful"
    return standing


def worth_proving(standing: str, held: Sequence[bool]) -> bool:
    return standing == "tried" and held_running(held) >= HELD_TO_PROVE
