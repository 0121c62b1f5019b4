"""Kept arrays: an array without machine and material, named, and laid round another starting point."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from rezept.actions.equipment import machine_of
from rezept.actions.open_shop import Shop
from rezept.actions.people import Member, require
from rezept.actions.starting import start_from_book
from rezept.actions.typed import Units, resolved
from rezept.core.errors import InvalidInput
from rezept.core.plan.design import IN_ARRAYS
from rezept.core.plan.kept_array import FORMAT, VERSION, KeptArray, laid_round, read_array
from rezept.store import arrays as array_table
from rezept.store import changes
from rezept.store import equipment as equipment_table
from rezept.store import trials as trial_table
from rezept.store.rows import Row


def _added(shop: Shop, by: Member, array: KeptArray) -> int:
    require(by, "member", "keep arrays")
    with shop.database.writing() as db:
        array_id = array_table.add(db, array.document(), by.id, shop.now())
        changes.log(db, "array", array_id, "kept", f"array {array.name}", by.id, shop.now())
        return array_id


def keep_array(shop: Shop, by: Member, trial_id: int, name: str, design: Mapping[str, Any], units: Units) -> int:
    """Keep the array of a trial's typed design under a name; one of the same name is replaced."""
    plain = resolved(design, units)
    with shop.database.reading() as db:
        process = trial_table.trial(db, trial_id)["process"]
    document = {
        "format": FORMAT,
        "version": VERSION,
        "name": name.strip(),
        "process": process,
        **{key: plain[key] for key in IN_ARRAYS if key in plain},
    }
    return _added(shop, by, read_array(document))


def bring_in(shop: Shop, by: Member, document: object) -> int:
    """Keep an array that came as a file."""
    return _added(shop, by, read_array(document))


def kept_arrays(shop: Shop) -> list[Row]:
    with shop.database.reading() as db:
        return array_table.arrays(db)


def array_file(shop: Shop, array_id: int) -> Row:
    """The document of a kept array, to be given to others."""
    with shop.database.reading() as db:
        document: Row = array_table.array(db, array_id)["document"]
        return document


def retire(shop: Shop, by: Member, array_id: int) -> None:
    require(by, "member", "keep arrays")
    with shop.database.writing() as db:
        array = array_table.array(db, array_id)
        array_table.retire(db, array_id, shop.now())
        changes.log(db, "array", array_id, "retired", f"array {array['name']}", by.id, shop.now())


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
        start = start_from_book(db, trial["process"], material, head)
        axes, hold, notes = laid_round(array, machine_of(head), start.centre)
        laid = {**array.document(), "axes": axes, "hold": hold}
        return {
            **{key: laid[key] for key in IN_ARRAYS},
            "notes": [start.reason, *[f"{note[0].upper()}{note[1:]}." for note in notes]],
        }
