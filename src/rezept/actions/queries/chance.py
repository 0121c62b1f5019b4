"""On how many fresh sheets a recipe is expected to hold: by all plates of its kind, and by every tap since."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.actions.queries.finding import MOST_PLATES
from rezept.actions.queries.observed import observed
from rezept.actions.queries.taps import taps_of
from rezept.core.findings.candidates import expected_share
from rezept.core.findings.coding import ALWAYS, columns_of
from rezept.core.findings.decision import is_ordered, ordered_of
from rezept.core.findings.observations import joined
from rezept.core.findings.ordered_fit import OrderedModel
from rezept.core.lay import LayKey
from rezept.core.process import PROCESSES
from rezept.core.treatment import TreatmentKey
from rezept.store import burns as burn_table
from rezept.store.book import RecipeRow

Floats = NDArray[np.float64]


def chances_of(db: sqlite3.Connection, recipes: Sequence[RecipeRow]) -> dict[int, dict[str, Any]]:
    """By recipe, all of one material, head and process: the expected share of fresh sheets, and what that rests on; of
    cuts of one step, where something of their kind was burned and read, lying as they did."""
    chances: dict[int, dict[str, Any]] = {}
    for kind in dict.fromkeys(map(_lying, recipes)):
        chances |= _chances_lying(db, [one for one in recipes if _lying(one) == kind])
    return chances


def _lying(recipe: RecipeRow) -> tuple[LayKey, int | None, TreatmentKey]:
    """How the piece of a recipe lay, in a stack of how many, and how it was treated before it was judged."""
    return recipe["lay"], recipe["stack_of"], recipe["treatment"]


def _chances_lying(db: sqlite3.Connection, recipes: Sequence[RecipeRow]) -> dict[int, dict[str, Any]]:
    """The same of recipes whose pieces lay alike."""
    cuts = {
        recipe["id"]: recipe["steps"][0]["settings"]
        for recipe in recipes
        if is_ordered(PROCESSES[recipe["process"]]) and len(recipe["steps"]) == 1
    }
    cuts = {number: settings for number, settings in cuts.items() if set(ALWAYS) <= set(settings)}
    if not cuts:
        return {}
    first = recipes[0]
    lay, stack_of, treatment = _lying(first)
    thing = first["material_id"], first["head_id"], first["process"], lay, stack_of
    read = burn_table.read_burns(db, *thing, treatment, MOST_PLATES)
    tables = [observed(db, burn, step=step).seen for burn, step in read]
    tables = [table for table in tables if table.counts.any()]
    if not tables:
        return {}
    model, taps = ordered_of(joined(tables)).model, taps_of(db, *thing)
    weights = model.weights(taps)
    rests_on = {
        "plates": len(tables),
        "patches": sum(int(table.counts.sum()) for table in tables),
        "taps": len(taps),
    }
    return {number: {**_chance(model, weights, settings), **rests_on} for number, settings in cuts.items()}


def _chance(model: OrderedModel, weights: Floats, settings: Mapping[str, float]) -> dict[str, float]:
    shares = model.shares(columns_of(settings))[:, 0]
    value, low, high = (float(one) for one in expected_share(shares, weights))
    return {"value": value, "low": low, "high": high}
