"""On how many fresh sheets a recipe is expected to hold: by all plates of its kind, and by every tap since."""

from __future__ import annotations

import sqlite3
from typing import Any

import numpy as np

from rezept.actions.queries.finding import MOST_PLATES
from rezept.actions.queries.observed import observed
from rezept.actions.queries.shop_facts import machine_of
from rezept.actions.queries.taps import taps_of
from rezept.core.findings.candidates import HIGH, LOW
from rezept.core.findings.cut_aims import CutAims
from rezept.core.findings.decision import decide
from rezept.core.findings.observations import joined
from rezept.core.process import PROCESSES
from rezept.store import burns as burn_table
from rezept.store import equipment as equipment_table
from rezept.store.book import RecipeRow


def chance_of(db: sqlite3.Connection, recipe: RecipeRow) -> dict[str, Any] | None:
    """The expected share of fresh sheets, and what that rests on; None of all but cuts of one step that were burned."""
    process = PROCESSES[recipe["process"]]
    if not process.passes_through or len(recipe["steps"]) != 1:
        return None
    settings = recipe["steps"][0]["settings"]
    if not {"speed_mm_s", "power_pct"} <= set(settings):
        return None
    thing = recipe["material_id"], recipe["head_id"], recipe["process"]
    tables = [observed(db, burn).seen for burn in burn_table.read_burns(db, *thing, MOST_PLATES)]
    tables = [table for table in tables if table.counts.any()]
    if not tables:
        return None
    decision = decide(joined(tables), machine_of(equipment_table.head(db, recipe["head_id"])), aims=())
    if not isinstance(decision.aims, CutAims):
        return None
    model, taps = decision.aims.model, taps_of(db, *thing)
    shares = model.shares({key: np.array([value]) for key, value in settings.items()})[:, 0]
    weights = model.weights(taps)
    order = np.argsort(shares)
    low, high = np.interp([LOW, HIGH], np.cumsum(weights[order]), shares[order])
    return {
        "value": float(weights @ shares),
        "low": float(low),
        "high": float(high),
        "plates": len(tables),
        "patches": sum(int(table.counts.sum()) for table in tables),
        "taps": len(taps),
    }
