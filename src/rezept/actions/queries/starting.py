"""Where to begin: the nearest known recipes, and the range an array around them would have."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping
from dataclasses import dataclass

from rezept.actions.queries.observed import observed
from rezept.actions.queries.shop_facts import machine_of
from rezept.core.begin.nearest import Known, Nearest, Sheet, nearest
from rezept.core.begin.start import Start, start_around, start_beyond, start_blind, start_usual
from rezept.core.dose import line_dose, power_w
from rezept.core.errors import InvalidInput
from rezept.core.findings.undecided import go_on_from
from rezept.core.names import trial_name
from rezept.core.parameters import parameter
from rezept.core.process import CUT, PROCESSES, Process
from rezept.core.recipe import KNOWN_HERE, WITHOUT_PLATE
from rezept.core.scales import SCALES
from rezept.core.typical import typical_dose
from rezept.store import book as book_table
from rezept.store import burns as burn_table
from rezept.store import equipment as equipment_table
from rezept.store.equipment import HeadRow, MaterialRow
from rezept.store.rows import Row

MOST_UNDECIDED = 3
WORD_OF = {"heard": "Heard of", "estimate": "Estimated"}


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
            recipe["material_id"],
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


def _at(settings: Mapping[str, float]) -> str:
    return f"{settings['speed_mm_s']:.4g} mm/s and {settings['power_pct']:.4g} %"


def _reason(neighbour: Nearest, material: MaterialRow) -> str:
    """Where a first guess comes from: what holds there, or was only heard of, and how it was brought here."""
    known = neighbour.known
    title = f"{known.sheet.title} on {known.head}"
    as_it_is = dict(neighbour.settings) == dict(known.settings) and known.sheet.name == material["name"]
    if known.standing not in KNOWN_HERE:
        said = f"Nobody has tried it here. {WORD_OF[known.standing]} for {title}: {_at(known.settings)}."
        return said if as_it_is else f"{said} A first guess: {', '.join(neighbour.brought)}."
    if as_it_is:
        return f"Around {title}."
    return (
        f"{title} holds at {_at(known.settings)}. A first guess for {material['title']}:"
        f" {', '.join(neighbour.brought)}."
    )


@dataclass(frozen=True)
class Begin:
    """A starting point, and the burned patch it is from, where it is from one that nobody has decided on."""

    start: Start
    trial: int | None = None
    burn: int | None = None
    patch: str | None = None


def _from_plates(db: sqlite3.Connection, process: Process, material: MaterialRow, head: HeadRow) -> Begin | None:
    """Around the newest plate of this very material on this head from which nothing is kept yet; None without one."""
    machine = machine_of(head)
    for burn in burn_table.undecided_burns(db, material["id"], head["id"], process.key, MOST_UNDECIDED):
        seen = observed(db, burn["id"]).seen
        found = go_on_from(seen)
        if found is None:
            continue
        settings, patch = seen.settings_of(found.index), seen.element[found.index]
        if not _usable(settings):
            continue
        name = trial_name(burn["trial_number"])
        came = SCALES[process.outcome].word(float(seen.outcome[found.index]), material["mark"])
        if found.works:
            reason = f"{name} is burned and waits to be decided: {patch} ({came}) at {_at(settings)}."
            start = start_around(machine, process, settings, reason)
        else:
            reason = f"On {name} nothing came out, up to {_at(settings)} ({patch}, {came}). This goes on from there."
            start = start_beyond(machine, process, settings, reason)
        return Begin(start, burn["trial_id"], burn["id"], patch)
    return None


def start_from_book(
    db: sqlite3.Connection, process: str, material: MaterialRow, head: HeadRow, near: list[Nearest] | None = None
) -> Begin:
    """A starting point around what was tried here for this very thing, else around a plate of it that waits to be
    decided, else around what comes nearest, tried or only heard of or estimated, else about what such work usually
    takes, else a blind one; doubtful ones do not count."""
    machine, kind = machine_of(head), PROCESSES[process]
    near = neighbours(db, process, material, head) if near is None else near
    near = [one for one in near if one.known.standing in (*KNOWN_HERE, *WITHOUT_PLATE)]

    def around(neighbour: Nearest) -> Begin:
        return Begin(start_around(machine, kind, neighbour.settings, _reason(neighbour, material)))

    place = (material["id"], head["id"])
    here = [one for one in near if (one.known.material_id, one.known.head_id) == place]
    if here and here[0].known.standing in KNOWN_HERE:
        return around(here[0])
    waiting = _from_plates(db, kind, material, head)
    if waiting is not None:
        return waiting
    if near:
        return around(near[0])
    usual = typical_dose(kind, material["family"], material["thickness_mm"])
    return Begin(start_blind(machine, kind) if usual is None else start_usual(machine, kind, usual, material["family"]))
