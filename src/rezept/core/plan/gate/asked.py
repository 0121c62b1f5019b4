"""What is about to leave, what it is judged by, and what is said against it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from rezept.core.machine import Machine
from rezept.core.material import Material
from rezept.core.plan.moves import Moves
from rezept.core.plan.plate import Warning
from rezept.core.plan.trial import Trial

# drawing: a drawing or a sheet, whose settings somebody sets by hand; program: a file of G-code; stream: live.
Via = Literal["drawing", "program", "stream"]


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
