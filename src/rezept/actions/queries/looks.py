"""From a look to the setting: patches of the whole shop by the colour their photos show."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

import numpy as np

from rezept.actions.open_shop import Shop
from rezept.actions.queries.as_burned import as_burned
from rezept.actions.queries.views import named, titles
from rezept.core.colour_difference import ciede2000
from rezept.core.plan.step_documents import document_in_step, step_of_process
from rezept.core.reading import GROUND_ASSUMED, SPOILING
from rezept.store import photos as photo_table
from rezept.store import trials as trial_table
from rezept.store.book import kept_from
from rezept.store.equipment import HeadRow, MaterialRow
from rezept.store.rows import Row

MOST_SHADES = 240


def looks(
    shop: Shop,
    lab: Sequence[float] | None = None,
    head_id: int | None = None,
    material_id: int | None = None,
    process: str | None = None,
    most: int = 12,
    darkness_only: bool = False,
) -> Row:
    """The patches nearest to a colour (L*, a*, b*), none without one, and the shades there are to choose from.

    darkness_only : hue does not count; a patch is held against itself as dark as that colour

    Cuts have no look; what glare, a shadow or blur spoiled is left out.
    """
    with shop.database.reading() as db:
        rows = [
            row for row in photo_table.looks(db, head_id, material_id, process) if SPOILING.isdisjoint(row["flags"])
        ]
        colours = np.array([[row["lightness"], row["a"], row["b"]] for row in rows], float).reshape(-1, 3)
        nearest: list[Row] = []
        if lab is not None and rows:
            names = titles(db)
            wanted = np.broadcast_to(np.asarray(lab, float), colours.shape)
            if darkness_only:
                wanted = np.column_stack([wanted[:, 0], colours[:, 1:]])
            away = ciede2000(wanted, colours)
            nearest = [
                _found(db, names, rows[i], float(away[i])) for i in np.argsort(away, kind="stable")[:most].tolist()
            ]
    # From dark to light, and of very many only so many, evenly.
    order = np.argsort(colours[:, 0], kind="stable")
    if len(order) > MOST_SHADES:
        order = order[np.linspace(0, len(order) - 1, MOST_SHADES).round().astype(int)]
    shades = [{**_place(rows[i]), "lab": colours[i].tolist()} for i in order.tolist()]
    return {"total": len(rows), "shades": shades, "nearest": nearest}


def _place(row: Row) -> Row:
    return {key: row[key] for key in ("trial_id", "patch")}


def _found(
    db: sqlite3.Connection, names: tuple[dict[int, HeadRow], dict[int, MaterialRow]], row: Row, away: float
) -> Row:
    """A patch with all it takes to show and to repeat it."""
    plate = as_burned(db, row["burn_id"], trial_table.plate_of_revision(db, row["revision_id"])["plate"])
    plate = document_in_step(plate, step_of_process(plate, row["process"]))
    patch = next(one for one in plate["patches"] if one["id"] == row["patch"])
    where = named({key: row[key] for key in ("head_id", "material_id", "process")}, *names)
    recipe = next((one["id"] for one in kept_from(db, row["burn_id"], row["patch"])), None)
    return {
        **where,
        "recipe_id": recipe,
        **_place(row),
        "burn_id": row["burn_id"],
        "number": row["number"],
        "photo_id": row["photo_id"],
        "photo_edit": row["photo_edit"],
        "card": bool(row["card"]),
        "lab": [row["lightness"], row["a"], row["b"]],
        "lightness_unsure": row["lightness_unsure"],
        "difference": round(away, 2),
        "plate": plate["plate"],
        "box": {key: patch[key] for key in ("x_mm", "y_mm", "width_mm", "height_mm")},
        "settings": patch["settings"],
        "ground_assumed": GROUND_ASSUMED in row["flags"],
    }
