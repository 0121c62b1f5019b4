"""The same settings several times over: how many of them came out."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from rezept.core.findings.observations import Observations
from rezept.core.findings.ordered_law import STEPS
from rezept.core.findings.ordered_words import WORDS
from rezept.core.scales import SCALES


@dataclass(frozen=True)
class Repeated:
    """Elements that were burned with the same settings, two at least, and what is to be said of them."""

    elements: tuple[str, ...]
    words: str


def repeated(seen: Observations) -> list[Repeated]:
    """Groups of what counts, in the order in which they first come; settings as burned, to the last digit."""
    rows = np.flatnonzero(seen.counts)
    if len(rows) < 2:
        return []
    table = np.column_stack([np.nan_to_num(column[rows], nan=-1.0) for column in seen.settings.values()])
    _, kind = np.unique(np.round(table, 9), axis=0, return_inverse=True)
    groups: dict[int, list[int]] = {}
    for row, which in zip(rows.tolist(), kind.ravel().tolist(), strict=True):
        groups.setdefault(which, []).append(row)
    return [
        Repeated(tuple(seen.element[row] for row in group), _words(seen, group))
        for group in groups.values()
        if len(group) > 1
    ]


def words_of_repeats(seen: Observations) -> dict[str, str]:
    """By element what is to be said of those with its settings."""
    return {element: one.words for one in repeated(seen) for element in one.elements}


def _words(seen: Observations, group: list[int]) -> str:
    scale, came = SCALES[seen.process.outcome], seen.outcome[group]
    if scale.wanted_from is None:
        low, high = came.min(), came.max()
        spread = f"all {low:g}" if low == high else f"{low:g} to {high:g}"
        return f"{len(group)} patches with these settings: {scale.name} {spread}."
    wanted = STEPS[seen.process.outcome].as_wanted(came).sum()
    verb = WORDS[seen.process.outcome].came_out
    return f"{wanted} of {len(group)} patches with these settings {verb}."
