"""The book: recipes with their ordered steps and their history."""

from __future__ import annotations

import sqlite3

from rezept.store.rows import Row, as_json, changed_once, found, plain_row

_RECIPES = """
    SELECT recipe.id, recipe.head_id, recipe.material_id, recipe.process, recipe.purpose, recipe.standing, recipe.note,
           recipe.burn_id, recipe.patch, recipe.edit, recipe.at, author.name AS author, recipe.changed_at,
           changer.name AS changed_by, revision.trial_id, revision.number AS revision, trial.number AS trial_number
    FROM recipe
    JOIN member AS author ON author.id = recipe.by_member
    JOIN member AS changer ON changer.id = recipe.changed_by
    JOIN material ON material.id = recipe.material_id
    JOIN head ON head.id = recipe.head_id
    JOIN machine ON machine.id = head.machine_id
    LEFT JOIN burn ON burn.id = recipe.burn_id
    LEFT JOIN revision ON revision.id = burn.revision_id
    LEFT JOIN trial ON trial.id = revision.trial_id
"""
# Best standing first, the newest of equals before the older.
_BEST_FIRST = """
    ORDER BY CASE recipe.standing WHEN 'proven' THEN 0 WHEN 'tried' THEN 1 WHEN 'heard' THEN 2 WHEN 'estimate' THEN 3
             WHEN 'doubtful' THEN 4 ELSE 5 END, recipe.changed_at DESC, recipe.id DESC
"""


def add_recipe(db: sqlite3.Connection, recipe: Row, steps: list[Row], by: int, at: str) -> int:
    """A recipe with its steps in order, and the first line of its history."""
    cursor = db.execute(
        """
        INSERT INTO recipe (head_id, material_id, process, purpose, standing, note, burn_id, patch, by_member, at,
                            changed_by, changed_at)
        VALUES (:head_id, :material_id, :process, :purpose, :standing, :note, :burn_id, :patch, :by, :at, :by, :at)
        """,
        {**recipe, "by": by, "at": at},
    )
    recipe_id = int(cursor.lastrowid or 0)
    db.executemany(
        "INSERT INTO recipe_step (recipe_id, position, name, process, settings) VALUES (?, ?, ?, ?, ?)",
        [
            (recipe_id, position, step["name"], step["process"], as_json(step["settings"]))
            for position, step in enumerate(steps, start=1)
        ],
    )
    _remember(db, recipe_id, by, at)
    return recipe_id


def _remember(db: sqlite3.Connection, recipe_id: int, by: int, at: str) -> None:
    now = recipe(db, recipe_id)
    db.execute(
        "INSERT INTO recipe_history (recipe_id, edit, recipe, by_member, at) VALUES (?, ?, ?, ?, ?)",
        (recipe_id, now["edit"], as_json(now), by, at),
    )


def _with_steps(db: sqlite3.Connection, rows: list[Row]) -> list[Row]:
    """The steps of many recipes in one question."""
    by_id = {row["id"]: {**row, "steps": []} for row in rows}
    steps = db.execute(
        """
        SELECT recipe_id, position, name, process, settings FROM recipe_step
        WHERE recipe_id IN (SELECT value FROM json_each(?)) ORDER BY recipe_id, position
        """,
        (as_json(list(by_id)),),
    )
    for step in steps:
        plain = plain_row(step, "settings")
        by_id[plain.pop("recipe_id")]["steps"].append(plain)
    return list(by_id.values())


def recipe(db: sqlite3.Connection, recipe_id: int) -> Row:
    row = found(db.execute(_RECIPES + " WHERE recipe.id = ?", (recipe_id,)).fetchone(), f"recipe {recipe_id}")
    return _with_steps(db, [dict(row)])[0]


def _like(word: str) -> str:
    escaped = word.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    return f"%{escaped}%"


def recipes(
    db: sqlite3.Connection,
    *,
    text: str = "",
    head_id: int | None = None,
    material_id: int | None = None,
    material_name: str | None = None,
    process: str | None = None,
) -> list[Row]:
    """Recipes that match everything asked for, best standing first.

    Every word of `text` must stand in the material, machine, head, purpose, note or the members' names.
    """
    # NULL stands for "any"; each word of the text adds one condition with its own bound value.
    conditions = [
        "(:head IS NULL OR recipe.head_id = :head)",
        "(:material IS NULL OR recipe.material_id = :material)",
        "(:material_name IS NULL OR material.name = :material_name)",
        "(:process IS NULL OR recipe.process = :process)",
    ]
    values: Row = {"head": head_id, "material": material_id, "material_name": material_name, "process": process}
    for i, word in enumerate(text.split()):
        values[f"word{i}"] = _like(word)
        conditions.append(
            f"""(material.name || ' ' || coalesce(material.thickness_mm, '') || ' ' || machine.name || ' ' || head.name
                || ' ' || recipe.process || ' ' || recipe.purpose || ' ' || recipe.note || ' ' || author.name)
                LIKE :word{i} ESCAPE '\\'"""
        )
    rows = db.execute(_RECIPES + " WHERE " + " AND ".join(conditions) + _BEST_FIRST, values)
    return _with_steps(db, [dict(row) for row in rows])


def change_recipe(db: sqlite3.Connection, recipe_id: int, edit: int, change: Row, by: int, at: str) -> Row:
    """Change purpose, standing and note of a recipe; its settings are evidence and stay.

    Raises
    ------
    Stale : the recipe was changed since `edit`
    """
    before = recipe(db, recipe_id)
    after = {key: change.get(key, before[key]) for key in ("purpose", "standing", "note")}
    cursor = db.execute(
        """
        UPDATE recipe
        SET purpose = :purpose, standing = :standing, note = :note, edit = edit + 1, changed_by = :by, changed_at = :at
        WHERE id = :id AND edit = :edit
        """,
        {**after, "by": by, "at": at, "id": recipe_id, "edit": edit},
    )
    changed_once(cursor.rowcount, "this recipe", before, {**change, "edit": edit})
    _remember(db, recipe_id, by, at)
    return recipe(db, recipe_id)


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


def recipes_of_burn(db: sqlite3.Connection, burn_id: int) -> list[Row]:
    rows = db.execute(_RECIPES + " WHERE recipe.burn_id = ?" + _BEST_FIRST, (burn_id,))
    return _with_steps(db, [dict(row) for row in rows])
