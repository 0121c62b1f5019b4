"""Burns, and patches that were left out."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from typing import TypedDict

from rezept.core.lay import LayKey
from rezept.core.treatment import TreatmentKey
from rezept.store.readings import count_read
from rezept.store.rows import AnyRow, Row, as_json, declared, found

_BURNS = """
    SELECT burn.id, burn.revision_id, revision.number AS revision, revision.trial_id, burn.lot_id, lot.name AS lot,
           burn.measured_mm, burn.focus, burn.air, burn.cleaning, burn.hold_down, burn.lay,
           burn.roller_mm, burn.stack_of, burn.below, burn.tabs, burn.note, burn.treatment, burn.at,
           burn.by_member, member.name AS by_name,
           corrector.name AS corrected_by, burn.corrected_at, burn.taken_back_at
    FROM burn
    JOIN revision ON revision.id = burn.revision_id
    JOIN member ON member.id = burn.by_member
    LEFT JOIN member AS corrector ON corrector.id = burn.corrected_by
    LEFT JOIN lot ON lot.id = burn.lot_id
"""
# A burn that was taken back never was, to everything but the log.
_COUNTS = " AND burn.taken_back_at IS NULL"


# Patches of a burn that stayed bare: somebody said so, or no run of a burn that was run live has reached them.
BARE = """
    bare AS (
        SELECT burn_id, patch FROM not_burned WHERE burn_id IN (SELECT value FROM json_each(:burns))
        UNION
        SELECT burn_run.burn_id, substr(run_part.name, 1, instr(run_part.name || '/', '/') - 1) AS patch
        FROM run_part JOIN burn_run ON burn_run.id = run_part.run_id
        WHERE burn_run.burn_id IN (SELECT value FROM json_each(:burns)) AND run_part.kind = 'patch'
        GROUP BY burn_run.burn_id, patch
        HAVING sum(run_part.state IN ('burning', 'done', 'uncertain')) = 0 AND sum(burn_run.kind = 'whole') > 0
    )
"""


class BurnRow(TypedDict):
    id: int
    revision_id: int
    revision: int
    trial_id: int
    lot_id: int | None
    lot: str | None
    measured_mm: float | None
    focus: str
    air: str
    cleaning: str
    hold_down: str
    lay: LayKey
    roller_mm: float | None
    stack_of: int | None
    below: str
    tabs: str
    note: str
    treatment: TreatmentKey
    at: str
    by_member: int
    by_name: str
    corrected_by: str | None
    corrected_at: str | None
    taken_back_at: str | None


def add_burn(
    db: sqlite3.Connection,
    revision_id: int,
    conditions: AnyRow,
    by: int,
    at: str,
) -> int:
    cursor = db.execute(
        """
        INSERT INTO burn (revision_id, lot_id, measured_mm, focus, air, cleaning, hold_down, lay, roller_mm,
                          stack_of, below, tabs, note, by_member, at)
        VALUES (:revision, :lot_id, :measured_mm, :focus, :air, :cleaning, :hold_down, :lay, :roller_mm,
                :stack_of, :below, :tabs, :note, :by, :at)
        """,
        {**conditions, "revision": revision_id, "by": by, "at": at},
    )
    return int(cursor.lastrowid or 0)


def grow(db: sqlite3.Connection, burn_id: int, revision_id: int) -> None:
    """A burn to which a later revision of its plate adds: what was burned before stands in that, too."""
    db.execute("UPDATE burn SET revision_id = ? WHERE id = ?", (revision_id, burn_id))


def burn(db: sqlite3.Connection, burn_id: int) -> BurnRow:
    row = db.execute(_BURNS + " WHERE burn.id = ?", (burn_id,)).fetchone()
    return declared(BurnRow, dict(found(row, f"burn {burn_id}")))


def burns_of_trial(db: sqlite3.Connection, trial_id: int) -> list[BurnRow]:
    """Burns of a trial, the latest first."""
    rows = db.execute(_BURNS + f" WHERE revision.trial_id = ?{_COUNTS} ORDER BY burn.id DESC", (trial_id,))
    return [declared(BurnRow, dict(row)) for row in rows]


def burns_of_process(db: sqlite3.Connection, process: str, material_id: int, most: int) -> list[BurnRow]:
    """Burns of all trials of a process, those on one material before the others, the latest of each first."""
    rows = db.execute(
        _BURNS
        + """
        JOIN trial ON trial.id = revision.trial_id
        WHERE trial.process = ? AND burn.taken_back_at IS NULL
        ORDER BY trial.material_id = ? DESC, burn.id DESC LIMIT ?
        """,
        (process, material_id, most),
    )
    return [declared(BurnRow, dict(row)) for row in rows]


def last_conditions(db: sqlite3.Connection, trial: AnyRow) -> Row | None:
    """How this material was last burned on this head in this process, and when; None where it never was. What was
    done to another sheet, on another machine or for another kind of work says nothing of this one."""
    row = db.execute(
        """
        SELECT lot.name AS lot, burn.measured_mm, burn.focus, burn.air, burn.cleaning, burn.hold_down, burn.lay,
               burn.roller_mm, burn.stack_of, burn.below, burn.tabs, burn.at
        FROM burn
        JOIN revision ON revision.id = burn.revision_id
        JOIN trial ON trial.id = revision.trial_id
        LEFT JOIN lot ON lot.id = burn.lot_id
        WHERE trial.head_id = :head_id AND trial.material_id = :material_id AND trial.process = :process
              AND burn.taken_back_at IS NULL
        ORDER BY burn.id DESC LIMIT 1
        """,
        {key: trial[key] for key in ("head_id", "material_id", "process")},
    ).fetchone()
    return None if row is None else dict(row)


def read_burns(
    db: sqlite3.Connection,
    material_id: int,
    head_id: int,
    process: str,
    lay: LayKey,
    stack_of: int | None,
    treatment: TreatmentKey,
    most: int,
) -> list[tuple[int, int]]:
    """Burns of a material on a head with a step that works its ground alone, of which something is read and that lay so
    (of stacks: of as many sheets) and are judged so, the latest first, each with that step."""
    rows = db.execute(
        """
        SELECT burn.id, min(revision_step.step) AS step
        FROM burn JOIN revision ON revision.id = burn.revision_id JOIN trial ON trial.id = revision.trial_id
            JOIN revision_step ON revision_step.revision_id = revision.id
        WHERE trial.material_id = :material AND trial.head_id = :head
              AND revision_step.process = :process AND revision_step.alone
              AND burn.taken_back_at IS NULL AND burn.lay = :lay AND burn.stack_of IS :stack_of
              AND burn.treatment = :treatment
              AND (EXISTS (SELECT 1 FROM reading
                           WHERE reading.burn_id = burn.id AND reading.step = revision_step.read_as)
                   OR EXISTS (SELECT 1 FROM reading_value
                              WHERE reading_value.burn_id = burn.id AND reading_value.step = revision_step.read_as))
        GROUP BY burn.id ORDER BY burn.id DESC LIMIT :most
        """,
        {
            "material": material_id,
            "head": head_id,
            "process": process,
            "lay": lay,
            "stack_of": stack_of,
            "treatment": treatment,
            "most": most,
        },
    )
    return [(row["id"], row["step"]) for row in rows]


def burns_until(db: sqlite3.Connection, material_id: int, head_id: int, process: str, until: str | None) -> list[int]:
    """Burns of a material on a head for a process up to a moment, or all of them; the first first."""
    rows = db.execute(
        """
        SELECT burn.id
        FROM burn JOIN revision ON revision.id = burn.revision_id JOIN trial ON trial.id = revision.trial_id
        WHERE trial.material_id = :material AND trial.head_id = :head
              AND EXISTS (SELECT 1 FROM revision_step
                          WHERE revision_step.revision_id = revision.id AND revision_step.process = :process)
              AND burn.taken_back_at IS NULL AND (:until IS NULL OR burn.at <= :until)
        ORDER BY burn.id
        """,
        {"material": material_id, "head": head_id, "process": process, "until": until},
    )
    return [row["id"] for row in rows]


def undecided_burns(db: sqlite3.Connection, material_id: int, head_id: int, process: str, most: int) -> list[Row]:
    """Burns of a material on a head of which something is read and from which no recipe is kept, of pieces that lay
    flat, the latest first: `id`, `trial_id`, `trial_number`."""
    rows = db.execute(
        """
        SELECT burn.id, trial.id AS trial_id, trial.number AS trial_number
        FROM burn JOIN revision ON revision.id = burn.revision_id JOIN trial ON trial.id = revision.trial_id
        WHERE trial.material_id = :material AND trial.head_id = :head AND trial.process = :process
              AND burn.taken_back_at IS NULL AND burn.lay = 'flat'
              AND NOT EXISTS (SELECT 1 FROM evidence JOIN recipe ON recipe.id = evidence.recipe_id
                              WHERE evidence.burn_id = burn.id AND recipe.standing <> 'retired')
              AND (EXISTS (SELECT 1 FROM reading WHERE reading.burn_id = burn.id)
                   OR EXISTS (SELECT 1 FROM reading_value WHERE reading_value.burn_id = burn.id))
        ORDER BY burn.id DESC LIMIT :most
        """,
        {"material": material_id, "head": head_id, "process": process, "most": most},
    )
    return [dict(row) for row in rows]


def correct(db: sqlite3.Connection, burn_id: int, conditions: AnyRow, by: int, at: str) -> None:
    """Put right how it was burned."""
    db.execute(
        """
        UPDATE burn SET lot_id = :lot_id, measured_mm = :measured_mm, focus = :focus, air = :air,
               cleaning = :cleaning, hold_down = :hold_down, lay = :lay, roller_mm = :roller_mm,
               stack_of = :stack_of, below = :below, tabs = :tabs, note = :note, corrected_by = :by, corrected_at = :at
        WHERE id = :burn
        """,
        {**conditions, "burn": burn_id, "by": by, "at": at},
    )


def judge_by(db: sqlite3.Connection, burn_id: int, treatment: TreatmentKey) -> None:
    """Judge a burn from now on by what is read of its piece treated so."""
    db.execute("UPDATE burn SET treatment = ? WHERE id = ?", (treatment, burn_id))


def take_back(db: sqlite3.Connection, burn_id: int, by: int, at: str) -> None:
    db.execute("UPDATE burn SET taken_back_by = ?, taken_back_at = ? WHERE id = ?", (by, at, burn_id))


def counted(db: sqlite3.Connection, burn_id: int) -> Row:
    """How many patches of a burn were read, how many photos it has, and the piece from the shelf it lay on."""
    row = db.execute(
        """
        SELECT (SELECT count(*) FROM plate_photo WHERE burn_id = :burn AND NOT removed) AS photos,
               (SELECT piece.name FROM burn JOIN revision ON revision.id = burn.revision_id
                JOIN piece ON piece.id = json_extract(revision.design, '$.piece_id')
                WHERE burn.id = :burn) AS piece
        """,
        {"burn": burn_id},
    ).fetchone()
    return {**dict(row), "scored": count_read(db, burn_id)}


def mark_not_burned(db: sqlite3.Connection, burn_id: int, patch: str, not_burned: bool, by: int, at: str) -> None:
    if not_burned:
        db.execute(
            "INSERT OR IGNORE INTO not_burned (burn_id, patch, by_member, at) VALUES (?, ?, ?, ?)",
            (burn_id, patch, by, at),
        )
    else:
        db.execute("DELETE FROM not_burned WHERE burn_id = ? AND patch = ?", (burn_id, patch))


def bare_patches(db: sqlite3.Connection, burns: Iterable[int]) -> dict[int, list[str]]:
    """By burn: its patches that stayed bare."""
    found: dict[int, list[str]] = {}
    asked = {"burns": as_json(list(burns))}
    for row in db.execute(f"WITH {BARE} SELECT burn_id, patch FROM bare ORDER BY patch", asked):
        found.setdefault(row["burn_id"], []).append(row["patch"])
    return found


def patches_not_burned(db: sqlite3.Connection, burn_id: int) -> list[str]:
    """Patches that stayed bare: somebody said so, or the machine never got to them."""
    return bare_patches(db, [burn_id]).get(burn_id, [])
