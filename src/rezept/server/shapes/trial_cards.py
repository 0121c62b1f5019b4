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
    edit: int
    at: str
    author: str
    changed_at: str
    changed_by: str
    stage: Stage
    patches: int
    scored: int


class TrialCard(TrialRow):
    kept: int
    burned_at: str | None
    picture: Thumbnail | None


class Trials(Shape):
    trials: list[TrialCard]
