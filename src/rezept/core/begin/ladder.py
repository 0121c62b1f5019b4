"""A short ladder in place of an array: one setting in a line, as many steps as tell something, find room, and are worth
typing."""

from __future__ import annotations

import math
from typing import Literal

from rezept.core.plan.chosen import Span

BegunAs = Literal["array", "ladder", "coupons", "board"]
# Neighbours nearer than this in speed come out alike, since patches scatter.
TELLING_RATIO = 1.25
FEWEST, MOST = 4, 9
# Where each is typed into a control, more than so many are a burden.
MOST_TYPED = 6


def ladder_steps(span: Span, typed: bool, room: int | None) -> int:
    """How many steps a ladder over a range has.

    typed : somebody types each setting; room : so many patches lie side by side on the piece, None where none is known
    """
    low, high = sorted((span.start, span.end))
    telling = 1 + math.ceil(math.log(high / low) / math.log(TELLING_RATIO) - 1e-9) if high > low > 0 else FEWEST
    most = min(MOST_TYPED if typed else MOST, MOST if room is None else room)
    return max(2, min(max(telling, FEWEST), most))


def why_ladder_first(typed: bool, name: str, other_thickness_known: bool) -> str:
    """Why one begins with a ladder and not with an array; empty where one does not."""
    if other_thickness_known:
        return f"{name} is known in another thickness: a short ladder of speeds finds where this one turns."
    if typed:
        return "Every setting is typed into the control here: a short ladder takes few of them."
    return ""
