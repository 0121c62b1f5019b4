"""What plates frozen before lack: how they are drawn, worked out once by the planner of the update."""

from __future__ import annotations

import json
import sqlite3
from typing import Any

import numpy as np

from rezept.core.errors import RezeptError
from rezept.store.rows import packed

SAME_PLACE_MM = 1e-6


def ways_as_planned(document: dict[str, Any]) -> dict[str, Any] | None:
    """The ways of a plate whose patches still come to lie where its document has them; None where they do not: then
    nobody knows any more where its lettering was."""
    # The planner takes longer to import than records take to open; only an update waits for it.
    from rezept.core.plan import plan, read_trial

    try:
        plate = plan(read_trial(document["trial"]), crowded=True)
    except (RezeptError, KeyError, TypeError):
        return None
    patches = document["patches"]
    if tuple(patch["id"] for patch in patches) != plate.elements.ids:
        return None
    places = np.array([(patch["x_mm"], patch["y_mm"]) for patch in patches])
    if np.abs(places - np.column_stack([plate.elements.x_mm, plate.elements.y_mm])).max() > SAME_PLACE_MM:
        return None
    # Lettering and cuts that did not say their air were burned without; today they take that of the patches.
    ways = plate.ways()
    for part in ways["drawn"]:
        asked = plate.trial.cut_out if part["when"] == "after_patches" else plate.trial.labels
        part["settings"] = dict(asked.settings)
    # Keys that came after the document was kept, such as the marks a photograph is laid by; the time of the plate's own
    # cuts was counted with its labels then.
    later = {key: value for key, value in plate.light().items() if key not in (*document, "cut_seconds")}
    return {**later, **ways}


def fill_ways(db: sqlite3.Connection) -> None:
    """Keep the ways of every frozen plate that has none."""
    rows = db.execute("SELECT id, plate FROM revision WHERE frozen_at IS NOT NULL ORDER BY id").fetchall()
    for row in rows:
        ways = ways_as_planned(json.loads(row["plate"]))
        if ways is not None:
            db.execute("INSERT INTO revision_ways (revision_id, ways) VALUES (?, ?)", (row["id"], packed(ways)))
