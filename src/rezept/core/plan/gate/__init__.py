"""The gate: what burns passes it as it leaves, by whatever way, and is held against the facts of today.

Each rule looks at the moves themselves (`moves.Moves`) and says which of them must not leave, with the figure, the
limit and the way out. What the gate refuses no file and no stream carries.
"""

from rezept.core.plan.gate.asked import Asked, Refusal, Today, Via
from rezept.core.plan.gate.judging import (
    BY_MOVE,
    against_a_program,
    by_rule,
    gate,
    gate_of_trace,
    judged,
    judged_correction,
    refuse,
)
from rezept.core.plan.gate.places import beyond_field
from rezept.core.plan.gate.settings import BY_SETTING
from rezept.core.plan.gate.whole import BY_WHOLE

__all__ = [
    "BY_MOVE",
    "BY_SETTING",
    "BY_WHOLE",
    "Asked",
    "Refusal",
    "Today",
    "Via",
    "against_a_program",
    "beyond_field",
    "by_rule",
    "gate",
    "gate_of_trace",
    "judged",
    "judged_correction",
    "refuse",
]
