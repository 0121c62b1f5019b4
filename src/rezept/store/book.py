"""The book: recipes with their ordered steps and their history."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from typing import Any, NamedTuple, TypedDict

from rezept.core.lay import LayKey
from rezept.core.process import PROCESSES, ProcessKey
from rezept.core.reading import SURE
from rezept.core.recipe import StandingKey
from rezept.core.scales import SCALES
from rezept.core.treatment import TreatmentKey
from rezept.store import search
from rezept.store.readings import readings_of
from rezept.store.rows import AnyRow, Row, as_json, changed_once, declared, found, plain_row


def _by_process(what: str) -> str:
    """What follows from a recipe's process, as SQL; all of it is from the core's tables."""
    said = {
        "outcome": {key: f"'{row.outcome}'" for key, row in PROCESSES.items()},
        "deciding_face": {key: f"'{row.deciding_face}'" for key, row in PROCESSES.items()},
        "works_from": {key: f"{SCALES[row.outcome].works_from:g}" for key, row in PROCESSES.items()},
        "works_to": {key: f"{SCALES[row.outcome].most_to_work_by:g}" for key, row in PROCESSES.items()},
    }[what]
    return "CASE recipe.process " + " ".join(f"WHEN '{key}' THEN {value}" for key, value in said.items()) + " END"


# The patch a recipe was kept from: the first of its evidence that was burned with its very settings.
_OWN_PATCH = """
    LEFT JOIN evidence AS own ON own.id = (
        SELECT min(id) FROM evidence WHERE evidence.recipe_id = recipe.id AND evidence.patch IS NOT NULL)
"""
_RECIPES = f"""
    SELECT recipe.id, recipe.head_id, recipe.material_id, recipe.process, recipe.purpose, recipe.standing, recipe.note,
           recipe.conditions, recipe.supplier_code, recipe.pinned, recipe.good_enough, recipe.links, recipe.kerf_mm,
           recipe.treatment, recipe.superseded_by, coalesce(lain.lay, 'flat') AS lay, lain.roller_mm, lain.stack_of,
           own.burn_id, own.patch, own.step AS read_as, recipe.rounds, recipe.finding_id, recipe.edit, recipe.at,
           author.name AS author, recipe.changed_at,
           changer.name AS changed_by, revision.trial_id, revision.number AS revision, trial.number AS trial_number,
           (SELECT count(*) FROM confirmation WHERE recipe_id = recipe.id AND taken_back_at IS NULL AND held = 1)
               AS held,
           (SELECT max(at) FROM confirmation WHERE recipe_id = recipe.id AND taken_back_at IS NULL AND held = 1)
               AS held_at,
           (SELECT count(*) FROM confirmation WHERE recipe_id = recipe.id AND taken_back_at IS NULL AND held = 0)
               AS failed,
           (SELECT max(at) FROM confirmation WHERE recipe_id = recipe.id AND taken_back_at IS NULL AND held = 0)
               AS failed_at
    FROM recipe
    JOIN member AS author ON author.id = recipe.by_member
    JOIN member AS changer ON changer.id = recipe.changed_by
    {_OWN_PATCH}
    LEFT JOIN burn ON burn.id = own.burn_id
    LEFT JOIN burn AS lain ON lain.id = (SELECT burn_id FROM evidence WHERE recipe_id = recipe.id ORDER BY id LIMIT 1)
    LEFT JOIN revision ON revision.id = burn.revision_id
    LEFT JOIN trial ON trial.id = revision.trial_id
"""
# How the patch a recipe rests on came out, as `core.reading.as_it_counts` would say it, in one question for all.
_CAME_OUT = f"""
    CASE WHEN EXISTS (SELECT 1 FROM reading WHERE reading.burn_id = own.burn_id AND element = own.patch
                      AND reading.treatment = recipe.treatment AND reading.step = own.step
                      AND face = {_by_process("deciding_face")}
                      AND cannot_tell) THEN NULL
    ELSE (SELECT value FROM reading_value
          WHERE reading_value.burn_id = own.burn_id AND element = own.patch
                AND reading_value.treatment = recipe.treatment AND reading_value.step = own.step
                AND face = {_by_process("deciding_face")} AND scale = {_by_process("outcome")}
                AND (said_by = 'person' OR sure >= {SURE})
          ORDER BY said_by = 'photo' LIMIT 1) END
"""
# It rests on a patch that is nothing to work by: such a recipe answers nothing and is not counted as known.
_FAILED = f"""coalesce({_CAME_OUT} NOT BETWEEN {_by_process("works_from")} AND {_by_process("works_to")}, 0)"""
# Best standing first, the newest of equals before the older.
_BEST_FIRST = " ORDER BY recipe.rank, recipe.changed_at DESC, recipe.id DESC"
_NO_WORDS = {"conditions": "", "supplier_code": "", "pinned": "", "good_enough": ""}
# What one may change of a recipe; its settings are evidence and stay.
CHANGEABLE = (
    "purpose", "standing", "note", "conditions", "supplier_code", "pinned", "good_enough", "links", "superseded_by",
    "kerf_mm",
)  # fmt: skip


class Evidence(NamedTuple):
    """A burn a recipe rests on, and its patch that got the recipe's very settings (None: the plate as a whole), read
    under this step."""

    burn_id: int
    patch: str | None
    step: int = 1


class StepRow(TypedDict):
    position: int
    name: str
    process: ProcessKey
    settings: dict[str, float]
    way: dict[str, Any]


class LinkRow(TypedDict):
    title: str
    url: str


class RecipeRow(TypedDict):
    """What the book says, the patch it was kept from (none: heard or estimated), and how often it held and failed."""

    id: int
    head_id: int
    material_id: int
    process: ProcessKey
    purpose: str
    standing: StandingKey
    note: str
    conditions: str
    supplier_code: str
    pinned: str
    good_enough: str
    links: list[LinkRow]
    kerf_mm: float | None
    superseded_by: int | None
    lay: LayKey
    treatment: TreatmentKey
    roller_mm: float | None
    stack_of: int | None
    burn_id: int | None
    patch: str | None
    read_as: int | None
    rounds: int
    finding_id: int | None
    edit: int
    at: str
    author: str
    changed_at: str
    changed_by: str
    trial_id: int | None
    revision: int | None
    trial_number: int | None
    held: int
    held_at: str | None
    failed: int
    failed_at: str | None
    steps: list[StepRow]


def add_recipe(
    db: sqlite3.Connection, recipe: AnyRow, steps: Iterable[AnyRow], evidence: Iterable[Evidence], by: int, at: str
) -> int:
    """A recipe with its steps in order, what it rests on, and the first line of its history."""
    cursor = db.execute(
        """
        INSERT INTO recipe (head_id, material_id, process, purpose, standing, note, conditions, supplier_code, pinned,
                            good_enough, links, kerf_mm, treatment, rounds, finding_id, by_member, at, changed_by,
                            changed_at)
        VALUES (:head_id, :material_id, :process, :purpose, :standing, :note, :conditions, :supplier_code, :pinned,
                :good_enough, :links, :kerf_mm, :treatment, :rounds, :finding_id, :by, :at, :by, :at)
        """,
        {
            **_NO_WORDS,
            "finding_id": None,
            "treatment": "burned",
            "rounds": 1,
            "kerf_mm": None,
            **recipe,
            "links": as_json(recipe.get("links", [])),
            "by": by,
            "at": at,
        },
    )
    recipe_id = int(cursor.lastrowid or 0)
    db.executemany(
        "INSERT INTO recipe_step (recipe_id, position, name, process, settings, way) VALUES (?, ?, ?, ?, ?, ?)",
        [
            (
                recipe_id,
                position,
                step["name"],
                step["process"],
                as_json(step["settings"]),
                as_json(step.get("way", {})),
            )
            for position, step in enumerate(steps, start=1)
        ],
    )
    add_evidence(db, recipe_id, evidence, by, at)
    _remember(db, recipe_id, by, at)
    return recipe_id


def add_evidence(db: sqlite3.Connection, recipe_id: int, evidence: Iterable[Evidence], by: int, at: str) -> None:
    """Let a recipe rest on these, too."""
    db.executemany(
        "INSERT INTO evidence (recipe_id, burn_id, patch, step, by_member, at) VALUES (?, ?, ?, ?, ?, ?)",
        [(recipe_id, one.burn_id, one.patch, one.step, by, at) for one in evidence],
    )


def without_patch(db: sqlite3.Connection, material_id: int, head_id: int, process: str) -> list[RecipeRow]:
    """What is only heard of or estimated for a material on a head, and no patch was burned for."""
    rows = db.execute(
        _RECIPES
        + """
        WHERE recipe.material_id = ? AND recipe.head_id = ? AND recipe.process = ?
              AND recipe.standing IN ('heard', 'estimate') AND recipe.superseded_by IS NULL AND own.id IS NULL
        """
        + _BEST_FIRST,
        (material_id, head_id, process),
    )
    return _with_steps(db, rows)


def _remember(db: sqlite3.Connection, recipe_id: int, by: int, at: str) -> None:
    now = recipe(db, recipe_id)
    search.index(db, "recipe", recipe_id)
    db.execute(
        "INSERT INTO recipe_history (recipe_id, edit, recipe, by_member, at) VALUES (?, ?, ?, ?, ?)",
        (recipe_id, now["edit"], as_json(now), by, at),
    )


def _with_steps(db: sqlite3.Connection, rows: Iterable[sqlite3.Row]) -> list[RecipeRow]:
    """Recipes with their steps, those in one question for all."""
    by_id: dict[int, Row] = {row["id"]: {**plain_row(row, "links"), "steps": []} for row in rows}
    steps = db.execute(
        """
        SELECT recipe_id, position, name, process, settings, way FROM recipe_step
        WHERE recipe_id IN (SELECT value FROM json_each(?)) ORDER BY recipe_id, position
        """,
        (as_json(list(by_id)),),
    )
    for step in steps:
        plain = plain_row(step, "settings", "way")
        by_id[plain.pop("recipe_id")]["steps"].append(declared(StepRow, plain))
    return [declared(RecipeRow, one) for one in by_id.values()]


def recipe(db: sqlite3.Connection, recipe_id: int) -> RecipeRow:
    row = found(db.execute(_RECIPES + " WHERE recipe.id = ?", (recipe_id,)).fetchone(), f"recipe {recipe_id}")
    return _with_steps(db, [row])[0]


def search_recipes(
    db: sqlite3.Connection,
    text: str = "",
    *,
    head_id: int | None = None,
    material_id: int | None = None,
    process: str | None = None,
    standing: str | None = None,
    skip: int = 0,
    most: int = 60,
) -> tuple[int, list[RecipeRow]]:
    """How many recipes match everything asked for, and `most` of them after the first `skip`, best first.

    Every word of `text` must stand in what the book says of the recipe; see `search.matching`.
    """
    match = search.matching(db, text)
    if match is None:
        return 0, []
    values = {"match": match, "head": head_id, "material": material_id, "process": process, "standing": standing}
    found = [row["id"] for row in db.execute(_FOUND_BY_WORDS if match else _FOUND, values)]
    return len(found), recipes_of(db, found[skip : skip + most])


# NULL stands for "any".
_FILTER = """
    (:head IS NULL OR recipe.head_id = :head) AND (:material IS NULL OR recipe.material_id = :material)
    AND (:process IS NULL OR recipe.process = :process) AND (:standing IS NULL OR recipe.standing = :standing)
"""
_FOUND = f"SELECT recipe.id FROM recipe WHERE {_FILTER} {_BEST_FIRST}"
_FOUND_BY_WORDS = f"""
    SELECT recipe.id FROM recipe_text JOIN recipe ON recipe.id = recipe_text.rowid
    WHERE recipe_text MATCH :match AND {_FILTER} {_BEST_FIRST}
"""


def recipes_of(db: sqlite3.Connection, ids: list[int]) -> list[RecipeRow]:
    """The recipes of these ids, in that order."""
    rows = db.execute(_RECIPES + " WHERE recipe.id IN (SELECT value FROM json_each(?))", (as_json(ids),))
    by_id = {row["id"]: row for row in _with_steps(db, rows)}
    return [by_id[recipe_id] for recipe_id in ids if recipe_id in by_id]


def known_recipes(
    db: sqlite3.Connection,
    *,
    head_id: int | None = None,
    material_id: int | None = None,
    material_name: str | None = None,
    family: str | None = None,
    process: str | None = None,
    lay: LayKey | None = None,
) -> list[RecipeRow]:
    """What the shop would still use, best first: neither retired nor superseded, nor resting on a patch that failed.

    lay : only what was found on pieces that lay so
    """
    rows = db.execute(
        _RECIPES
        + f"""
        JOIN material ON material.id = recipe.material_id
        WHERE recipe.standing <> 'retired' AND recipe.superseded_by IS NULL AND NOT {_FAILED}
              AND (:head IS NULL OR recipe.head_id = :head)
              AND (:material IS NULL OR recipe.material_id = :material)
              AND (:name IS NULL OR material.name = :name)
              AND (:family IS NULL OR material.family = :family)
              AND (:process IS NULL OR recipe.process = :process)
              AND (:lay IS NULL OR coalesce(lain.lay, 'flat') = :lay)
        """
        + _BEST_FIRST,
        {
            "head": head_id,
            "material": material_id,
            "name": material_name,
            "family": family,
            "process": process,
            "lay": lay,
        },
    )
    return _with_steps(db, rows)


def change_recipe(db: sqlite3.Connection, recipe_id: int, edit: int, change: AnyRow, by: int, at: str) -> RecipeRow:
    """Change what the book says of a recipe (`CHANGEABLE`); its settings are evidence and stay.

    Raises
    ------
    Stale : the recipe was changed since `edit`
    """
    before = recipe(db, recipe_id)
    after = {**before, **change}
    cursor = db.execute(
        """
        UPDATE recipe
        SET purpose = :purpose, standing = :standing, note = :note, conditions = :conditions,
            supplier_code = :supplier_code, pinned = :pinned, good_enough = :good_enough, links = :links,
            superseded_by = :superseded_by, kerf_mm = :kerf_mm,
            edit = edit + 1, changed_by = :by, changed_at = :at
        WHERE id = :id AND edit = :edit
        """,
        {**after, "links": as_json(after["links"]), "by": by, "at": at, "id": recipe_id, "edit": edit},
    )
    changed_once(cursor.rowcount, "this recipe", before, {**change, "edit": edit})
    _remember(db, recipe_id, by, at)
    return recipe(db, recipe_id)


def version(db: sqlite3.Connection, recipe_id: int, edit: int) -> Row:
    """The recipe as it was after its `edit`-th edit."""
    row = db.execute("SELECT recipe FROM recipe_history WHERE recipe_id = ? AND edit = ?", (recipe_id, edit)).fetchone()
    plain: Row = plain_row(found(row, f"version {edit} of recipe {recipe_id}"), "recipe")["recipe"]
    return plain


def history(db: sqlite3.Connection, recipe_id: int) -> list[Row]:
    """Every version of a recipe, the latest first."""
    rows = db.execute(
        """
        SELECT recipe_history.edit, recipe_history.recipe, recipe_history.at, member.name AS by_name
        FROM recipe_history JOIN member ON member.id = recipe_history.by_member
        WHERE recipe_id = ? ORDER BY recipe_history.edit DESC
        """,
        (recipe_id,),
    )
    return [plain_row(row, "recipe") for row in rows]


def first_proven(db: sqlite3.Connection, recipe_id: int) -> str | None:
    """When a recipe was first marked proven; None where it never was."""
    row = db.execute(
        """
        SELECT min(at) AS at FROM recipe_history
        WHERE recipe_id = ? AND json_extract(recipe, '$.standing') = 'proven'
        """,
        (recipe_id,),
    ).fetchone()
    return None if row["at"] is None else str(row["at"])


def recipes_of_burn(db: sqlite3.Connection, burn_id: int) -> list[RecipeRow]:
    """Recipes that rest on a burn: kept from a patch of it, or with it as evidence."""
    rows = db.execute(
        _RECIPES + " WHERE recipe.id IN (SELECT recipe_id FROM evidence WHERE evidence.burn_id = ?)" + _BEST_FIRST,
        (burn_id,),
    )
    return _with_steps(db, rows)


def kept_from(db: sqlite3.Connection, burn_id: int, patch: str, step: int | None = None) -> list[RecipeRow]:
    """Recipes whose very settings a patch got: those kept from it, and those it was burned for as evidence; of what was
    read under one step, or of all."""
    rested = """
        WHERE recipe.id IN (SELECT recipe_id FROM evidence
                            WHERE evidence.burn_id = :burn AND evidence.patch = :patch
                                  AND (:step IS NULL OR evidence.step = :step))
    """
    rows = db.execute(_RECIPES + rested + _BEST_FIRST, {"burn": burn_id, "patch": patch, "step": step})
    return _with_steps(db, rows)


_MAP = f"""
    SELECT best.*, recipe_step.settings
    FROM (
        SELECT recipe.id, material_id, head_id, standing, purpose, own.burn_id, own.patch, own.step,
               count(*) OVER cell AS known,
               row_number() OVER (cell ORDER BY rank, changed_at DESC, recipe.id DESC) AS place
        FROM recipe {_OWN_PATCH}
        WHERE process = :process AND standing <> 'retired' AND superseded_by IS NULL AND NOT {_FAILED}
        WINDOW cell AS (PARTITION BY material_id, head_id)
    ) AS best
    LEFT JOIN recipe_step ON recipe_step.recipe_id = best.id AND recipe_step.position = 1
    WHERE place = 1
"""


def best_of_each(db: sqlite3.Connection, process: str) -> list[Row]:
    """The best recipe of every material and head for a process, with how it came out (None where no patch says) and
    how many there are."""
    rows = [plain_row(row, "settings") for row in db.execute(_MAP, {"process": process})]
    known = [row for row in rows if row["burn_id"] is not None]
    came = {
        (burn, reading["patch"], reading["face"], step): reading["values"].get(PROCESSES[process].outcome)
        for step in {row["step"] for row in known}
        for burn, of_burn in readings_of(
            db, {row["burn_id"] for row in known}, {row["patch"] for row in known}, step=step
        ).items()
        for reading in of_burn
    }
    face = PROCESSES[process].deciding_face
    return [{**row, "outcome": came.get((row["burn_id"], row["patch"], face, row["step"]))} for row in rows]


def not_working(db: sqlite3.Connection, process: str) -> list[Row]:
    rows = db.execute("SELECT material_id, head_id, reason FROM does_not_work WHERE process = ?", (process,))
    return [dict(row) for row in rows]


def say_not_working(
    db: sqlite3.Connection, material_id: int, head_id: int, process: str, reason: str | None, by: int, at: str
) -> None:
    """Note why something does not work at all, or with None that it is open again."""
    db.execute(
        "DELETE FROM does_not_work WHERE material_id = ? AND head_id = ? AND process = ?",
        (material_id, head_id, process),
    )
    if reason is not None:
        db.execute(
            """
            INSERT INTO does_not_work (material_id, head_id, process, reason, by_member, at) VALUES (?, ?, ?, ?, ?, ?)
            """,
            (material_id, head_id, process, reason, by, at),
        )
