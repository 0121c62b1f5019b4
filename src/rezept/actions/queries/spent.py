"""What it took to get to a setting: plates, patches, sheet and time of the beam."""

from __future__ import annotations

import sqlite3

import numpy as np

from rezept.actions.queries.observed import observed
from rezept.store import book as book_table
from rezept.store import burns as burn_table
from rezept.store.book import RecipeRow
from rezept.store.rows import Row


def spent_on(db: sqlite3.Connection, recipe: RecipeRow) -> Row | None:
    """What was burned of this material on this head for this process until the recipe was first proven, or by now where
    it never was: `plates`, `patches`, `area_mm2` of sheet with margins, `seconds` as planned, and since when it is
    `proven`. None where nothing was burned.

    Plates that failed count, too; patches left out or bare do not.
    """
    proven = book_table.first_proven(db, recipe["id"])
    burns = burn_table.burns_until(db, recipe["material_id"], recipe["head_id"], recipe["process"], proven)
    if not burns:
        return None
    patches, area, seconds = 0, 0.0, 0.0
    for burn in burns:
        known = observed(db, burn)
        plate = known.plate
        burned = np.array([state in ("burned", "uncertain", "mixed") for state in known.seen.state], bool)
        patches += int(burned.sum())
        area += plate.width_mm * plate.height_mm
        seconds += float(plate.seconds[burned].sum()) + plate.label_seconds + plate.cut_seconds + plate.travel_seconds
    return {"plates": len(burns), "patches": patches, "area_mm2": area, "seconds": seconds, "proven": proven}
