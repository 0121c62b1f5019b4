"""Proofs on real shapes as they go over the wire."""

from __future__ import annotations

from pydantic import Field

from rezept.core.findings.candidates import Aim
from rezept.core.findings.proof import ResultKey
from rezept.core.recipe import FailedBecause
from rezept.server.shapes.common import Shape
from rezept.server.shapes.findings import Wish


class Prove(Shape):
    """What is to be proven: what was chosen for an aim, or what a burned patch got."""

    aim: Aim | None = None
    wish: Wish | None = None
    patch: str | None = Field(None, max_length=12)


class ProvedPatch(Shape):
    patch: str = Field(max_length=12)


class ProofResultOut(Shape):
    """How a real shape came out, in words, and why a recipe failed by it."""

    patch: str
    result: ResultKey
    words: str
    reason: FailedBecause | None


class ProvedSettings(ProofResultOut):
    settings: dict[str, float]


class ProofOut(Shape):
    """A trial that proves something, and how its shapes came out, where that was said."""

    trial_id: int
    number: int
    results: list[ProvedSettings]


class ProofOf(Shape):
    trial_id: int
    number: int
    burn_id: int


class ProofPage(Shape):
    """What a trial proves, what is fine on its shape, and by patch the same dose in more and faster passes."""

    of: ProofOf | None
    recipe_id: int | None
    fineness: str | None
    results: list[ProofResultOut]
    more: dict[str, list[dict[str, float]]]
