"""The facts of today: what every burn is judged by as it leaves, and what that means for a plan."""

from __future__ import annotations

import sqlite3
from dataclasses import replace

from rezept.actions.queries.shop_facts import machine_of, material_of
from rezept.core.plan import Plate
from rezept.core.plan.gate import Refusal, Today, gate
from rezept.store import equipment as equipment_table
from rezept.store.trials import TrialRow


def today_of(db: sqlite3.Connection, trial: TrialRow) -> Today:
    """Machine, head and material of a trial as the shop knows them now."""
    head, material = equipment_table.head(db, trial["head_id"]), equipment_table.material(db, trial["material_id"])
    retired = tuple(row["title"] for row in (material, head) if row["retired"])
    return Today(machine_of(head), material_of(material), retired)


def is_linked(db: sqlite3.Connection, trial: TrialRow) -> bool:
    return bool(equipment_table.head(db, trial["head_id"])["link"])


def _new(refusals: list[Refusal], said: set[str]) -> list[Refusal]:
    return [refusal for refusal in refusals if refusal.warning.sentence not in said]


def warned_today(plate: Plate, today: Today, linked: bool) -> Plate:
    """A plate with what the gate would say today: what it refuses altogether, and, where the machine has a live link,
    what it would not stream, as a warning."""
    said = {warning.sentence for warning in plate.warnings}
    said |= {warning.sentence for warnings in plate.patch_warnings for warning in warnings}
    refused = _new(gate(plate, today, "drawing"), said)
    said |= {refusal.warning.sentence for refusal in refused}
    live = _new(gate(plate, today, "stream"), said) if linked else []
    more = [refusal.warning for refusal in refused]
    more += [
        replace(refusal.warning, level="warning", sentence=f"Not over the live link: {refusal.warning.sentence}")
        for refusal in live
    ]
    return plate.warned((*more, *plate.warnings)) if more else plate
