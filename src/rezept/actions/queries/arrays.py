"""Kept arrays, and what they would make of a trial."""

from __future__ import annotations

from typing import Any

from rezept.actions.open_shop import Shop
from rezept.actions.queries.shop_facts import machine_of
from rezept.actions.queries.starting import start_from_book
from rezept.core.errors import InvalidInput
from rezept.core.plan.design import IN_ARRAYS
from rezept.core.plan.kept_array import laid_round, read_array
from rezept.store import arrays as array_table
from rezept.store import equipment as equipment_table
from rezept.store import trials as trial_table
from rezept.store.rows import Row


def kept_arrays(shop: Shop) -> list[Row]:
    with shop.database.reading() as db:
        return array_table.arrays(db)


def array_file(shop: Shop, array_id: int) -> Row:
    """The document of a kept array, to be given to others."""
    with shop.database.reading() as db:
        document: Row = array_table.array(db, array_id)["document"]
        return document


def design_from(shop: Shop, array_id: int, trial_id: int) -> dict[str, Any]:
    """What of a trial's design a kept array would replace, laid round what the book knows of its material and
    machine, and what is to be said of it; nothing is stored.

    Raises
    ------
    InvalidInput : the array is of another process, or varies what the machine does not have
    """
    with shop.database.reading() as db:
        trial = trial_table.trial(db, trial_id)
        array = read_array(array_table.array(db, array_id)["document"])
        if array.process.key != trial["process"]:
            raise InvalidInput(
                f"{array.name} is an array for another process: {array.process.name.lower()}.", "process"
            )
        head = equipment_table.head(db, trial["head_id"])
        material = equipment_table.material(db, trial["material_id"])
        start = start_from_book(db, trial["process"], material, head).start
        axes, hold, notes = laid_round(array, machine_of(head), start.around)
        laid = {**array.document(), "axes": axes, "hold": hold}
        return {
            **{key: laid[key] for key in IN_ARRAYS if key in laid},
            "notes": [start.reason, *[f"{note[0].upper()}{note[1:]}." for note in notes]],
        }
