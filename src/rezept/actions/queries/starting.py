"""Where to begin: what the book knows that says something here, and the range an array would have."""

from __future__ import annotations

import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from rezept.actions.queries.observed import observed
from rezept.actions.queries.shop_facts import machine_of
from rezept.core.begin.estimate import Estimate, Source, estimate
from rezept.core.begin.in_steps import StepKept, Together
from rezept.core.begin.known import Known, Sheet, like_wavelength
from rezept.core.begin.start import Start, rounded, start_around, start_beyond, start_blind, start_usual
from rezept.core.dose import line_dose, power_w
from rezept.core.errors import InvalidInput
from rezept.core.findings.undecided import go_on_from
from rezept.core.names import trial_name
from rezept.core.parameters import parameter
from rezept.core.process import CUT, PROCESSES, Process
from rezept.core.recipe import KNOWN_HERE, WITHOUT_PLATE
from rezept.core.scales import SCALES, mark_of
from rezept.core.sheet_facts import THICKNESS_SAID, alike_by
from rezept.core.typical import typical_dose
from rezept.store import book as book_table
from rezept.store import burns as burn_table
from rezept.store import equipment as equipment_table
from rezept.store.book import RecipeRow
from rezept.store.equipment import HeadRow, MaterialRow

MOST_UNDECIDED = 3


def sheet_of_row(material: MaterialRow) -> Sheet:
    """A material of the shop as far as it can be like another."""
    ground = material["ground_lab"]
    return Sheet(
        material["name"],
        material["family"],
        material["thickness_mm"],
        material["density_kg_m3"],
        material["hardness"],
        None if ground is None else tuple(ground),
        alike_by(material["facts"]),
        material["facts"].get(THICKNESS_SAID, ""),
    )


def _usable(settings: Mapping[str, float]) -> bool:
    """Whether a plan could begin from these settings; a book may hold some from before they were checked."""
    if not {"speed_mm_s", "power_pct"} <= set(settings):
        return False
    try:
        for key, value in settings.items():
            parameter(key, key).checked(value, key)
    except InvalidInput:
        return False
    return True


def known_for(db: sqlite3.Connection, process: str, material: MaterialRow, head: HeadRow) -> list[Known]:
    """What the book knows that may say something of a material under a head: recipes of one step, under sources of like
    wavelength, of the same material or its family; of all others where there are none."""
    heads = {row["id"]: row for row in equipment_table.heads(db)}
    sheets = {row["id"]: row for row in equipment_table.materials(db)}
    machines = {id_: machine_of(row) for id_, row in heads.items()}

    def usable(recipes: list[RecipeRow]) -> list[Known]:
        return [
            Known(
                recipe["id"],
                recipe["standing"],
                recipe["steps"][0]["settings"],
                sheet_of_row(sheets[recipe["material_id"]]),
                machines[recipe["head_id"]],
                heads[recipe["head_id"]]["title"],
            )
            for recipe in recipes
            if len(recipe["steps"]) == 1
            and like_wavelength(machines[recipe["head_id"]], machines[head["id"]])
            and _usable(recipe["steps"][0]["settings"])
        ]

    kin = [
        *book_table.known_recipes(db, process=process, material_name=material["name"], lay="flat"),
        *book_table.known_recipes(db, process=process, family=material["family"], lay="flat"),
    ]
    return usable(list({recipe["id"]: recipe for recipe in kin}.values())) or usable(
        book_table.known_recipes(db, process=process, lay="flat")
    )


def dose_that_cuts(db: sqlite3.Connection, material: MaterialRow, head: HeadRow) -> float | None:
    """Least line dose in J/mm that the book knows to cut this material on this head; None where it knows none."""
    recipes = book_table.known_recipes(db, process=CUT.key, material_id=material["id"], head_id=head["id"], lay="flat")
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


@dataclass(frozen=True)
class Reckoned:
    """A starting point reckoned from what is known elsewhere, and the recipes it was reckoned from, by their place."""

    found: Estimate
    known: Sequence[Known]

    @property
    def sources(self) -> list[tuple[Known, Source]]:
        return [(self.known[one.index], one) for one in self.found.sources]


def reckoned(process: str, material: MaterialRow, head: HeadRow, known: Sequence[Known]) -> Reckoned | None:
    """A starting point from what of the known is tried or only heard of or estimated; None where nothing is."""
    counting = [one for one in known if one.standing in (*KNOWN_HERE, *WITHOUT_PLATE)]
    if not counting:
        return None
    return Reckoned(estimate(PROCESSES[process], sheet_of_row(material), machine_of(head), counting), counting)


def _reason(near: Reckoned, process: Process, material: MaterialRow) -> str:
    """Where a first guess comes from: what holds there, or was only heard of, and how sure that is."""
    found, sources = near.found, near.sources
    first, _ = sources[0]
    of_its_kind = any(one.sheet.family == material["family"] for one, _ in sources)
    tried = any(one.standing in KNOWN_HERE for one, _ in sources)
    word = "" if first.standing in KNOWN_HERE else f", {first.standing}"
    more = len(sources) - 1
    others = "" if more == 0 else f" and {more} more recipe{'s' if more > 1 else ''}"
    usual = f"what {process.doing} {material['family']} usually takes and "
    return (
        f"{'' if tried else 'Nobody has tried it. '}"
        f"{'Reckoned from ' if of_its_kind else f'Nothing of its kind is known here. Reckoned from {usual}'}"
        f"{first.sheet.title} on {first.head} ({_at(first.settings)}{word}){others}: about {_at(found.settings)},"
        f" with 80 in 100 between {rounded(found.low):g} and {rounded(found.high):g} mm/s."
    )


@dataclass(frozen=True)
class Begin:
    """A starting point, and the burned patch it is from, where it is from one that nobody has decided on.

    together : the steps of the recipe it lies around, for who asked for them
    """

    start: Start
    trial: int | None = None
    burn: int | None = None
    patch: str | None = None
    together: Together | None = None


def _together(recipe: RecipeRow, process: str) -> Together:
    """The steps of a recipe; the first of a process is what a trial of it is about."""
    steps = [StepKept(one["name"], one["process"], one["settings"], one["way"]) for one in recipe["steps"]]
    varied = next((number for number, step in enumerate(steps) if step.process == process), 0)
    return Together(steps, recipe["rounds"], varied)


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
        turned = seen.others["turned"][found.index] if "turned" in seen.others else None
        mark = mark_of(turned, material["mark"])
        came = SCALES[process.outcome].word(float(seen.outcome[found.index]), mark)
        if found.works:
            reason = f"{name} is burned and waits to be decided: {patch} ({came}) at {_at(settings)}."
            start = start_around(machine, process, settings, reason)
        else:
            reason = f"On {name} nothing came out, up to {_at(settings)} ({patch}, {came}). This goes on from there."
            start = start_beyond(machine, process, settings, reason)
        return Begin(start, burn["trial_id"], burn["id"], patch)
    return None


def start_from_book(
    db: sqlite3.Connection,
    process: str,
    material: MaterialRow,
    head: HeadRow,
    elsewhere: Reckoned | None = None,
    in_steps: bool = False,
) -> Begin:
    """A starting point around what was tried here for this very thing, else around a plate of it that waits to be
    decided, else reckoned from what is known elsewhere, else about what such work usually takes, else a blind one;
    doubtful ones do not count.

    elsewhere : where that is reckoned already; in_steps : whether it may be what several steps did together, too
    """
    machine, kind = machine_of(head), PROCESSES[process]
    here = book_table.known_recipes(db, process=process, material_id=material["id"], head_id=head["id"], lay="flat")
    for recipe in here:
        together = _together(recipe, process)
        settings = together.steps[together.varied].settings
        if recipe["standing"] in KNOWN_HERE and _usable(settings) and (in_steps or len(recipe["steps"]) == 1):
            start = start_around(machine, kind, settings, f"Around {material['title']} on {head['title']}.")
            return Begin(start, together=together if in_steps else None)
    waiting = _from_plates(db, kind, material, head)
    if waiting is not None:
        return waiting
    near = elsewhere or reckoned(process, material, head, known_for(db, process, material, head))
    if near is not None:
        return Begin(near.found.start(_reason(near, kind, material)))
    usual = typical_dose(kind, material["family"], material["thickness_mm"])
    return Begin(start_blind(machine, kind) if usual is None else start_usual(machine, kind, usual, material["family"]))
