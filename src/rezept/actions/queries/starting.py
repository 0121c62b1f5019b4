"""Where to begin: the nearest known recipes, and the range an array around them would have."""

from __future__ import annotations

import sqlite3

from rezept.actions.queries.shop_facts import machine_of
from rezept.core.dose import line_dose, power_w
from rezept.core.errors import InvalidInput
from rezept.core.findings.nearest import Known, Nearest, Sheet, nearest
from rezept.core.findings.start import Start, start_around, start_blind, start_usual
from rezept.core.parameters import parameter
from rezept.core.process import CUT, PROCESSES
from rezept.core.recipe import KNOWN_HERE
from rezept.core.typical import typical_dose
from rezept.store import book as book_table
from rezept.store import equipment as equipment_table
from rezept.store.equipment import HeadRow, MaterialRow
from rezept.store.rows import Row


def _sheet(material: MaterialRow) -> Sheet:
    ground = material["ground_lab"]
    return Sheet(
        material["name"],
        material["family"],
        material["thickness_mm"],
        material["density_kg_m3"],
        material["hardness"],
        None if ground is None else tuple(ground),
    )


def _usable(settings: Row) -> bool:
    """Whether a plan could begin from these settings; a book may hold some from before they were checked."""
    if not {"speed_mm_s", "power_pct"} <= set(settings):
        return False
    try:
        for key, value in settings.items():
            parameter(key, key).checked(value, key)
    except InvalidInput:
        return False
    return True


def neighbours(db: sqlite3.Connection, process: str, material: MaterialRow, head: HeadRow) -> list[Nearest]:
    """What the book knows that comes nearest to this, the nearest first; recipes of several steps stay out."""
    heads = {row["id"]: row for row in equipment_table.heads(db)}
    sheets = {row["id"]: row for row in equipment_table.materials(db)}
    recipes = book_table.known_recipes(db, process=process, material_name=material["name"])
    recipes += [
        recipe
        for recipe in book_table.known_recipes(db, process=process, family=material["family"])
        if sheets[recipe["material_id"]]["name"] != material["name"]
    ]
    known = [
        Known(
            recipe["id"],
            recipe["standing"],
            recipe["steps"][0]["settings"],
            _sheet(sheets[recipe["material_id"]]),
            machine_of(heads[recipe["head_id"]]),
            heads[recipe["head_id"]]["machine_id"],
            recipe["head_id"],
            heads[recipe["head_id"]]["title"],
        )
        for recipe in recipes
        if len(recipe["steps"]) == 1 and _usable(recipe["steps"][0]["settings"])
    ]
    return nearest(PROCESSES[process], _sheet(material), machine_of(head), head["machine_id"], head["id"], known)


def dose_that_cuts(db: sqlite3.Connection, material: MaterialRow, head: HeadRow) -> float | None:
    """Least line dose in J/mm that the book knows to cut this material on this head; None where it knows none."""
    recipes = book_table.known_recipes(db, process=CUT.key, material_id=material["id"], head_id=head["id"])
    rated = machine_of(head).rated_power_w
    doses = [
        float(line_dose(power_w(rated, step["power_pct"]), step["speed_mm_s"], step.get("passes", 1.0)))
        for recipe in recipes
        if recipe["standing"] in KNOWN_HERE and len(recipe["steps"]) == 1
        for step in [recipe["steps"][0]["settings"]]
        if {"speed_mm_s", "power_pct"} <= set(step)
    ]
    return min(doses, default=None)


def _reason(neighbour: Nearest, material: MaterialRow) -> str:
    known = neighbour.known
    title = f"{known.sheet.title} on {known.head}"
    if neighbour.settings == known.settings:
        return f"Around {title}."
    held = f"{known.settings['speed_mm_s']:.4g} mm/s and {known.settings['power_pct']:.4g} %"
    return f"{title} holds at {held}. A first guess for {material['title']}: {', '.join(neighbour.brought)}."


def start_from_book(
    db: sqlite3.Connection, process: str, material: MaterialRow, head: HeadRow, near: list[Nearest] | None = None
) -> Start:
    """A starting point around the nearest recipe that was tried here, else about what such work usually takes,
    else a blind one; doubtful ones do not count."""
    machine = machine_of(head)
    for neighbour in neighbours(db, process, material, head) if near is None else near:
        if neighbour.known.standing in KNOWN_HERE:
            return start_around(machine, PROCESSES[process], neighbour.settings, _reason(neighbour, material))
    usual = typical_dose(PROCESSES[process], material["family"], material["thickness_mm"])
    if usual is not None:
        return start_usual(machine, PROCESSES[process], usual, material["family"])
    return start_blind(machine, PROCESSES[process])
