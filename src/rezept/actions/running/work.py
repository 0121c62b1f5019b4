"""One job, from its task to its answer or its sentence."""

from __future__ import annotations

import logging
from dataclasses import dataclass
from typing import Any

from rezept.actions.commands.people import member_by_id
from rezept.actions.commands.reading_photos import Progress
from rezept.actions.open_shop import Shop
from rezept.actions.running.kinds import KINDS
from rezept.core.errors import RezeptError, WhichOne
from rezept.store.rows import AnyRow

BROKE = "The program that works on this broke over it. It is not tried again by itself."
GONE = "Rezept was ended while this was worked on. It is not begun again by itself."

log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Limits:
    """What one job may take: seconds, and bytes of memory beyond what the worker needs to begin."""

    seconds: float = 30.0
    most_bytes: int = 512 * 2**20

    @property
    def too_long(self) -> str:
        return f"This takes longer than {self.seconds:g} seconds; it was ended."

    @property
    def too_large(self) -> str:
        return f"This takes more memory than one job may have ({self.most_bytes // 2**20} MB); it was ended."


@dataclass(frozen=True)
class Outcome:
    """How a job ended: its state, a sentence where it is not done, and its answer (or what the sentence is about).

    broke : it was ended by something else than a sentence of its own
    """

    state: str
    sentence: str = ""
    answer: Any = None
    broke: bool = False


def perform(shop: Shop, job: AnyRow, progress: Progress, limits: Limits) -> Outcome:
    """Do a job; every way it can go wrong is an outcome."""
    try:
        answer = KINDS[job["kind"]].run(shop, member_by_id(shop, job["by_member"]), job["task"], progress)
    except RezeptError as error:
        choices = error.choices if isinstance(error, WhichOne) else None
        return Outcome("failed", error.sentence, {"path": error.path, "choices": choices})
    except MemoryError:
        return Outcome("failed", limits.too_large, broke=True)
    except Exception as error:
        log.error("a job failed", exc_info=error)
        return Outcome("failed", BROKE, broke=True)
    return Outcome("done", answer=answer)
