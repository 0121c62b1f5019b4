"""Trials as pictures on the wall."""

from __future__ import annotations

from rezept.core.process import ProcessKey
from rezept.server.shapes.common import Shape, Stage
from rezept.server.shapes.plates import Thumbnail


class TrialRow(Shape):
    id: int
    number: int
    process: ProcessKey
    process_name: str
    head_id: int
    head: str
    material_id: int
    material: str
    reason: str
    name: str
    put_away_at: str | None
    proof_of_burn: int | None
    proof_of_step: int | None
    proof_of_recipe: int | None
    kerf_of_recipe: int | None
    edit: int
    at: str
    author: str
    changed_at: str
    changed_by: str
    stage: Stage
    patches: int
    scored: int


class FrontPhoto(Shape):
    """The front of a plate as it was photographed; `laid`: the plate was found in it."""

    id: int
    edit: int
    laid: bool


class TrialCard(TrialRow):
    """`burning`: it burns over a live link right now."""

    photo: FrontPhoto | None
    burning: bool = False
    kept: int
    burned_at: str | None
    picture: Thumbnail | None


class Trials(Shape):
    trials: list[TrialCard]
