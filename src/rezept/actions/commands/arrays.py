"""Kept arrays: an array without machine and material, named, and laid round another starting point."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.typed import Units, resolved
from rezept.core.plan.design import IN_ARRAYS
from rezept.core.plan.kept_array import FORMAT, VERSION, KeptArray, read_array, without_settings
from rezept.store import arrays as array_table
from rezept.store import changes
from rezept.store import trials as trial_table


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
    document: dict[str, Any] = {
        "format": FORMAT,
        "version": VERSION,
        "name": name.strip(),
        "process": process,
        **{key: plain[key] for key in IN_ARRAYS if plain.get(key) is not None},
    }
    if isinstance(document.get("labels"), Mapping):
        document["labels"] = without_settings(document["labels"])
    return _added(shop, by, read_array(document))


def bring_in(shop: Shop, by: Member, document: object) -> int:
    """Keep an array that came as a file."""
    return _added(shop, by, read_array(document))


def retire(shop: Shop, by: Member, array_id: int) -> None:
    require(by, "member", "keep arrays")
    with shop.database.writing() as db:
        array = array_table.array(db, array_id)
        array_table.retire(db, array_id, shop.now())
        changes.log(db, "array", array_id, "retired", f"array {array['name']}", by.id, shop.now())
