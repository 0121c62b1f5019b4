"""Trials and their revisions."""

from __future__ import annotations

import json
import sqlite3
import zlib
from collections.abc import Sequence
from typing import Any, TypedDict

from rezept.core.errors import NotFound
from rezept.core.kept import kept
from rezept.core.names import trial_name
from rezept.core.process import ProcessKey
from rezept.store.rows import Row, as_json, changed_once, declared, found, packed, plain_row

_TRIALS = """
    SELECT trial.id, trial.number, trial.process, trial.head_id, trial.material_id, trial.reason, trial.name,
           trial.put_away_at, trial.proof_of_burn, trial.proof_of_step, trial.proof_of_recipe,
           trial.kerf_of_recipe, trial.edit, trial.at, author.name AS author, trial.changed_at,
           changer.name AS changed_by
    FROM trial
    JOIN member AS author ON author.id = trial.by_member
    JOIN member AS changer ON changer.id = trial.changed_by
"""


class TrialRow(TypedDict):
    """`proof_of_...`: what it proves on a real shape: something of a burn, read under a step, or a recipe;
    `kerf_of_recipe`: whose kerf it finds."""

    id: int
    number: int
    process: ProcessKey
    head_id: int
    material_id: int
    reason: str
    name: str
    put_away_at: str | None
    proof_of_burn: int | None
    proof_of_step: int | None
    proof_of_recipe: int | None
    kerf_of_recipe: int | None
    edit: int
    at: str
    author: str
    changed_at: str
    changed_by: str


class RevisionRow(TypedDict):
    """`plate` is its document once it is frozen; nobody may write into it."""

    id: int
    number: int
    design: dict[str, Any]
    plate: dict[str, Any] | None
    frozen_at: str | None


class FrozenRevisionRow(TypedDict):
    plate: dict[str, Any]
    number: int
    trial_id: int
    trial_number: int
    process: ProcessKey
    head_id: int
    material_id: int


def _weight(plate: dict[str, Any]) -> int:
    """Bytes of a parsed plate: some 3 kB a patch, with the words that all of them share."""
    return 20_000 + 3000 * len(plate.get("patches", ()))


@kept(64 * 2**20, _weight)
def parsed_plate(text: str) -> dict[str, Any]:
    """A frozen plate, parsed once for as long as it is asked for. Nobody may write into it."""
    return dict(json.loads(text))


def _with_plate(row: sqlite3.Row, *json_columns: str) -> Row:
    plain = plain_row(row, *json_columns)
    if plain["plate"] is not None:
        plain["plate"] = parsed_plate(plain["plate"])
    return plain


def add_trial(
    db: sqlite3.Connection, process: str, head_id: int, material_id: int, reason: str, design: Row, by: int, at: str
) -> int:
    """A new trial with its first draft; numbers count up and are never used again."""
    cursor = db.execute(
        """
        INSERT INTO trial (number, process, head_id, material_id, reason, by_member, at, changed_by, changed_at)
        SELECT coalesce(max(number), 0) + 1, :process, :head, :material, :reason, :by, :at, :by, :at FROM trial
        """,
        {"process": process, "head": head_id, "material": material_id, "reason": reason, "by": by, "at": at},
    )
    trial_id = int(cursor.lastrowid or 0)
    add_revision(db, trial_id, 1, design)
    return trial_id


def is_proof(
    db: sqlite3.Connection, trial_id: int, burn_id: int | None, step: int | None, recipe_id: int | None
) -> None:
    """A trial proves something of a burn, or a recipe, on a real shape."""
    db.execute(
        "UPDATE trial SET proof_of_burn = ?, proof_of_step = ?, proof_of_recipe = ? WHERE id = ?",
        (burn_id, step, recipe_id, trial_id),
    )


def finds_kerf(db: sqlite3.Connection, trial_id: int, recipe_id: int) -> None:
    """A trial finds how wide the cut of a recipe is."""
    db.execute("UPDATE trial SET kerf_of_recipe = ? WHERE id = ?", (recipe_id, trial_id))


def proofs(db: sqlite3.Connection, burn_id: int) -> list[TrialRow]:
    """Trials that prove something of a burn on a real shape, oldest first."""
    rows = db.execute(_TRIALS + " WHERE trial.proof_of_burn = ? ORDER BY trial.number", (burn_id,))
    return [declared(TrialRow, dict(row)) for row in rows]


def add_revision(db: sqlite3.Connection, trial_id: int, number: int, design: Row) -> None:
    db.execute("INSERT INTO revision (trial_id, number, design) VALUES (?, ?, ?)", (trial_id, number, as_json(design)))


def trial(db: sqlite3.Connection, trial_id: int) -> TrialRow:
    row = db.execute(_TRIALS + " WHERE trial.id = ?", (trial_id,)).fetchone()
    return declared(TrialRow, dict(found(row, f"trial {trial_id}")))


def id_of_number(db: sqlite3.Connection, number: int) -> int | None:
    """The trial that is called so on plates and screens."""
    row = db.execute("SELECT id FROM trial WHERE number = ?", (number,)).fetchone()
    return None if row is None else int(row["id"])


def trials(
    db: sqlite3.Connection,
    head_id: int | None = None,
    material_id: int | None = None,
    material_name: str | None = None,
) -> list[TrialRow]:
    """All trials, newest first, of one head or material where that is asked for."""
    rows = db.execute(
        _TRIALS
        + """
        WHERE (:head IS NULL OR trial.head_id = :head) AND (:material IS NULL OR trial.material_id = :material)
              AND (:name IS NULL OR trial.material_id IN (SELECT id FROM material WHERE name = :name))
        ORDER BY trial.number DESC
        """,
        {"head": head_id, "material": material_id, "name": material_name},
    )
    return [declared(TrialRow, dict(row)) for row in rows]


def shelve(db: sqlite3.Connection, trial_id: int, name: str, put_away_at: str | None) -> None:
    """What a trial is called, and since when it is put away; neither is part of its plan, so its edit stays."""
    db.execute("UPDATE trial SET name = ?, put_away_at = ? WHERE id = ?", (name, put_away_at, trial_id))


def latest_revision(db: sqlite3.Connection, trial_id: int) -> RevisionRow:
    row = db.execute(
        "SELECT id, number, design, plate, frozen_at FROM revision WHERE trial_id = ? ORDER BY number DESC LIMIT 1",
        (trial_id,),
    ).fetchone()
    return declared(RevisionRow, _with_plate(found(row, f"trial {trial_id}"), "design"))


class LatestNumber(TypedDict):
    number: int
    frozen_at: str | None


def latest_number(db: sqlite3.Connection, trial_id: int) -> LatestNumber:
    """Number of the latest revision, and when it was frozen, without its design and plate."""
    row = db.execute(
        "SELECT number, frozen_at FROM revision WHERE trial_id = ? ORDER BY number DESC LIMIT 1", (trial_id,)
    ).fetchone()
    return declared(LatestNumber, dict(found(row, f"trial {trial_id}")))


def revision(db: sqlite3.Connection, trial_id: int, number: int) -> RevisionRow:
    row = db.execute(
        "SELECT id, number, design, plate, frozen_at FROM revision WHERE trial_id = ? AND number = ?",
        (trial_id, number),
    ).fetchone()
    return declared(RevisionRow, _with_plate(found(row, f"revision {number} of trial {trial_id}"), "design"))


def change_draft(db: sqlite3.Connection, trial_id: int, edit: int, design: Row, by: int, at: str) -> None:
    """Replace the draft's design, or begin the next revision where the latest is frozen.

    Raises
    ------
    Stale : the trial was changed since `edit`
    """
    current = trial(db, trial_id)
    latest = latest_revision(db, trial_id)
    cursor = db.execute(
        "UPDATE trial SET edit = edit + 1, changed_by = ?, changed_at = ? WHERE id = ? AND edit = ?",
        (by, at, trial_id, edit),
    )
    changed_once(
        cursor.rowcount,
        trial_name(current["number"]),
        {**current, "revision": latest["number"], "design": latest["design"]},
        {"edit": edit, "design": design},
    )
    if latest["frozen_at"] is None:
        db.execute("UPDATE revision SET design = ? WHERE id = ?", (as_json(design), latest["id"]))
    else:
        add_revision(db, trial_id, latest["number"] + 1, design)


class RevisionStep(TypedDict):
    """A step of a frozen plate, counted from 1: under which of them its outcome is read, and whether it works its
    ground alone."""

    step: int
    process: ProcessKey
    read_as: int
    alone: bool


def steps_of(db: sqlite3.Connection, revision_id: int) -> list[RevisionStep]:
    """The steps of a frozen plate in their order."""
    rows = db.execute(
        "SELECT step, process, read_as, alone FROM revision_step WHERE revision_id = ? ORDER BY step", (revision_id,)
    )
    return [declared(RevisionStep, {**dict(row), "alone": bool(row["alone"])}) for row in rows]


def freeze(
    db: sqlite3.Connection,
    revision_id: int,
    plate: dict[str, Any],
    ways: dict[str, Any],
    steps: Sequence[RevisionStep],
    by: int,
    at: str,
) -> None:
    """Keep the plate of a draft for good, with how it is drawn; from now on an edit begins a new revision."""
    db.executemany(
        "INSERT INTO revision_step (revision_id, step, process, read_as, alone)"
        " VALUES (:revision, :step, :process, :read_as, :alone)",
        [{**step, "revision": revision_id} for step in steps],
    )
    db.execute(
        "UPDATE revision SET plate = ?, frozen_at = ?, frozen_by = ? WHERE id = ?",
        (as_json(plate), at, by, revision_id),
    )
    db.execute("INSERT INTO revision_ways (revision_id, ways) VALUES (?, ?)", (revision_id, packed(ways)))


def frozen(db: sqlite3.Connection, revision_id: int) -> tuple[str, bytes | None, str]:
    """The document of a frozen plate as it was kept, packed how it is drawn (None where nobody knows), and the process
    of its trial."""
    row = db.execute(
        """
        SELECT revision.plate, revision_ways.ways, trial.process
        FROM revision JOIN trial ON trial.id = revision.trial_id
            LEFT JOIN revision_ways ON revision_ways.revision_id = revision.id
        WHERE revision.id = ?
        """,
        (revision_id,),
    ).fetchone()
    found(row, f"revision {revision_id}")
    if row["plate"] is None:
        raise NotFound("This revision is still a draft.")
    return row["plate"], row["ways"], row["process"]


def kept_file(db: sqlite3.Connection, revision_id: int, kind: str, part: int) -> Row | None:
    """A file of a frozen revision as it was handed out first, and how many parts it comes in."""
    row = db.execute(
        "SELECT parts, bytes FROM kept_file WHERE revision_id = ? AND kind = ? AND part = ?", (revision_id, kind, part)
    ).fetchone()
    return None if row is None else {"parts": row["parts"], "bytes": zlib.decompress(row["bytes"])}


def is_kept(db: sqlite3.Connection, revision_id: int, kind: str, part: int) -> bool:
    row = db.execute(
        "SELECT 1 FROM kept_file WHERE revision_id = ? AND kind = ? AND part = ?", (revision_id, kind, part)
    ).fetchone()
    return row is not None


def keep_file(db: sqlite3.Connection, revision_id: int, kind: str, part: int, parts: int, data: bytes, at: str) -> None:
    """Keep a file that is about to be handed out, unless somebody was faster."""
    db.execute(
        """
        INSERT INTO kept_file (revision_id, kind, part, parts, bytes, at) VALUES (?, ?, ?, ?, ?, ?)
        ON CONFLICT DO NOTHING
        """,
        (revision_id, kind, part, parts, zlib.compress(data, 9 if len(data) < 10**6 else 1), at),
    )


def burned_on_piece(
    db: sqlite3.Connection, piece_id: int, trial_id: int, revision: int, growing_burn: int | None
) -> list[Row]:
    """The frozen plates that were burned on a piece and on which `face` of it, but for one revision of one trial, and
    for the burn it adds to."""
    rows = db.execute(
        """
        SELECT DISTINCT revision.id, revision.plate,
               coalesce(json_extract(revision.design, '$.piece_face'), 'front') AS face
        FROM revision JOIN burn ON burn.revision_id = revision.id
        WHERE json_extract(revision.design, '$.piece_id') = :piece AND burn.taken_back_at IS NULL
              AND NOT (revision.trial_id = :trial AND revision.number = :revision) AND burn.id IS NOT :growing
        ORDER BY revision.id
        """,
        {"piece": piece_id, "trial": trial_id, "revision": revision, "growing": growing_burn},
    )
    return [{"plate": parsed_plate(row["plate"]), "face": row["face"]} for row in rows]


def plate_of_revision(db: sqlite3.Connection, revision_id: int) -> FrozenRevisionRow:
    """The frozen plate with the trial it belongs to."""
    row = db.execute(
        """
        SELECT revision.plate, revision.number, revision.trial_id, trial.number AS trial_number, trial.process,
               trial.head_id, trial.material_id
        FROM revision JOIN trial ON trial.id = revision.trial_id WHERE revision.id = ?
        """,
        (revision_id,),
    ).fetchone()
    plain = _with_plate(found(row, f"revision {revision_id}"))
    if plain["plate"] is None:
        raise NotFound("This revision is still a draft.")
    return declared(FrozenRevisionRow, plain)
