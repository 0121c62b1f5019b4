"""What is read of burned elements: values scale by scale, a person's statements, what counts of both."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from typing import Literal, TypedDict

from rezept.core.process import PROCESSES, Face
from rezept.core.reading import SURE, Reading, as_it_counts
from rezept.core.treatment import TreatmentKey
from rezept.store.errors import Stale
from rezept.store.rows import Row, as_json, declared

Place = tuple[int, str, str]


class ReadElement(TypedDict):
    """An element as it counts: whose word it is, and how sure photographs are where it is theirs."""

    patch: str
    face: Face
    values: dict[str, float]
    said_by: Literal["person", "photo"]
    sure: float | None
    cannot_tell: bool
    note: str
    edit: int
    at: str
    by_name: str


class PhotoValues(TypedDict):
    """What photographs say of an element, and how sure they are of what decides."""

    patch: str
    values: dict[str, float]
    confidence: float | None


def _asked(
    burns: Iterable[int], elements: Iterable[str] | None, treatment: TreatmentKey | None, step: int | None
) -> dict[str, str | int | None]:
    return {
        "burns": as_json(list(burns)),
        "elements": None if elements is None else as_json(list(elements)),
        "treatment": treatment,
        "step": step,
    }


# The treatment a burn is judged by.
_JUDGED_BY = "(SELECT burn.treatment FROM burn WHERE burn.id = burn_id)"
# The step under which is read what a burn's trial set out to do: the first of its process.
_OWN_STEP = """(
    SELECT revision_step.read_as
    FROM burn JOIN revision ON revision.id = burn.revision_id JOIN trial ON trial.id = revision.trial_id
        JOIN revision_step ON revision_step.revision_id = revision.id AND revision_step.process = trial.process
    WHERE burn.id = burn_id ORDER BY revision_step.step LIMIT 1
)"""
_OF_THESE = f"""
    burn_id IN (SELECT value FROM json_each(:burns))
    AND (:elements IS NULL OR element IN (SELECT value FROM json_each(:elements)))
    AND treatment = coalesce(:treatment, {_JUDGED_BY})
    AND step = coalesce(:step, {_OWN_STEP})
"""


def _outcomes(db: sqlite3.Connection, asked: Mapping[str, str | int | None]) -> dict[int, str]:
    """By burn: the scale that decides."""
    rows = db.execute(
        """
        SELECT burn.id, coalesce(revision_step.process, trial.process) AS process
        FROM burn JOIN revision ON revision.id = burn.revision_id JOIN trial ON trial.id = revision.trial_id
            LEFT JOIN revision_step
                ON revision_step.revision_id = burn.revision_id AND revision_step.step = :step
        WHERE burn.id IN (SELECT value FROM json_each(:burns))
        """,
        asked,
    )
    return {row["id"]: PROCESSES[row["process"]].outcome for row in rows}


def readings_of(
    db: sqlite3.Connection,
    burns: Iterable[int],
    elements: Iterable[str] | None = None,
    treatment: TreatmentKey | None = None,
    step: int | None = None,
) -> dict[int, list[ReadElement]]:
    """By burn: every element as it counts now (`core.reading.as_it_counts`), all or some of them; `said_by` says whose
    word it is, `edit` is that of the person's statement, 0 where there is none.

    treatment : of pieces that were treated so; None: of each burn as it is judged
    step : what is read under this step, from 1; None: what the trial of each set out to do
    """
    asked = _asked(burns, elements, treatment, step)
    own: dict[Place, dict[str, float]] = {}
    photo: dict[Place, dict[str, float]] = {}
    sure: dict[Place, tuple[float | None, str]] = {}
    values = db.execute(
        f"SELECT burn_id, element, face, scale, said_by, value, sure, at FROM reading_value WHERE {_OF_THESE}", asked
    )
    for row in values:
        place = (row["burn_id"], row["element"], row["face"])
        if row["said_by"] == "person":
            own.setdefault(place, {})[row["scale"]] = row["value"]
        else:
            photo.setdefault(place, {})[row["scale"]] = row["value"]
            sure[place] = (row["sure"], row["at"])
    stated = {
        (row["burn_id"], row["element"], row["face"]): row
        for row in db.execute(
            f"""
            SELECT burn_id, element, face, cannot_tell, note, reading.edit, reading.at, member.name AS by_name
            FROM reading JOIN member ON member.id = reading.by_member WHERE {_OF_THESE}
            """,
            asked,
        )
    }
    outcomes = _outcomes(db, asked)
    found: dict[int, list[ReadElement]] = {}
    for place in sorted({*stated, *photo}):
        burn, element, face = place
        row = stated.get(place)
        mine = None if row is None else Reading(own.get(place, {}), bool(row["cannot_tell"]), row["note"])
        how_sure, seen_at = sure.get(place, (None, ""))
        counts = as_it_counts(mine, photo.get(place, {}), how_sure, outcomes[burn])
        if counts is None:
            continue
        # How sure the photographs are, where it is their word that counts.
        reading: Row = {"patch": element, "face": face, "values": counts[0], "said_by": counts[1]}
        reading["sure"] = how_sure if counts[1] == "photo" else None
        if row is None:
            reading |= {"cannot_tell": False, "note": "", "edit": 0, "at": seen_at, "by_name": ""}
        else:
            reading |= {key: row[key] for key in ("note", "edit", "at", "by_name")}
            reading["cannot_tell"] = bool(row["cannot_tell"])
        found.setdefault(burn, []).append(declared(ReadElement, reading))
    return found


def readings(
    db: sqlite3.Connection, burn_id: int, treatment: TreatmentKey | None = None, step: int | None = None
) -> list[ReadElement]:
    """The same of one burn."""
    return readings_of(db, [burn_id], treatment=treatment, step=step).get(burn_id, [])


def treatments_read(db: sqlite3.Connection, burn_id: int) -> list[TreatmentKey]:
    """How the piece was treated whenever something was read of it."""
    rows = db.execute(
        """
        SELECT treatment FROM reading WHERE burn_id = :burn
        UNION SELECT treatment FROM reading_value WHERE burn_id = :burn
        """,
        {"burn": burn_id},
    )
    return [row["treatment"] for row in rows]


def reading(
    db: sqlite3.Connection,
    burn_id: int,
    element: str,
    face: str,
    treatment: TreatmentKey | None = None,
    step: int | None = None,
) -> ReadElement | None:
    found = readings_of(db, [burn_id], [element], treatment, step).get(burn_id, [])
    return next((row for row in found if row["face"] == face), None)


def put_reading(
    db: sqlite3.Connection, burn_id: int, element: str, step: int, face: str, edit: int, said: Reading, by: int, at: str
) -> None:
    """Store what a person says of a step of a piece as it is judged, made from version `edit`; 0 means there was
    nothing yet.

    Raises
    ------
    Stale : somebody has read this element since
    """
    place = {"burn": burn_id, "element": element, "step": step, "face": face, "by": by, "at": at}
    stated = {**place, "cannot_tell": int(said.cannot_tell), "note": said.note, "edit": edit}
    if edit == 0:
        cursor = db.execute(
            """
            INSERT INTO reading (burn_id, treatment, element, step, face, cannot_tell, note, by_member, at)
            SELECT id, treatment, :element, :step, :face, :cannot_tell, :note, :by, :at FROM burn WHERE id = :burn
            ON CONFLICT DO NOTHING
            """,
            stated,
        )
    else:
        cursor = db.execute(
            f"""
            UPDATE reading
            SET cannot_tell = :cannot_tell, note = :note, edit = edit + 1, by_member = :by, at = :at
            WHERE burn_id = :burn AND treatment = {_JUDGED_BY} AND element = :element AND step = :step
                  AND face = :face AND edit = :edit
            """,
            stated,
        )
    if cursor.rowcount != 1:
        yours = {"values": dict(said.values), "cannot_tell": said.cannot_tell, "note": said.note, "edit": edit}
        raise Stale(f"the reading of {element}", reading(db, burn_id, element, face, step=step) or {}, yours)
    db.execute(
        f"""
        DELETE FROM reading_value
        WHERE burn_id = :burn AND treatment = {_JUDGED_BY} AND element = :element AND step = :step AND face = :face
              AND said_by = 'person'
        """,
        place,
    )
    db.executemany(
        """
        INSERT INTO reading_value (burn_id, treatment, element, step, face, scale, said_by, value, by_member, at)
        SELECT id, treatment, :element, :step, :face, :scale, 'person', :value, :by, :at FROM burn WHERE id = :burn
        """,
        [{**place, "scale": scale, "value": value} for scale, value in said.values.items()],
    )


def put_photo_values(
    db: sqlite3.Connection, burn_id: int, step: int, face: str, scores: Sequence[PhotoValues], at: str
) -> None:
    """What follows from a burn's photographs of a step (`patch`, `values`, `confidence`) as it is judged, in place of
    what did before."""
    db.execute(
        f"""
        DELETE FROM reading_value
        WHERE burn_id = ? AND step = ? AND said_by = 'photo' AND treatment = {_JUDGED_BY}
        """,
        (burn_id, step),
    )
    db.executemany(
        """
        INSERT INTO reading_value (burn_id, treatment, element, step, face, scale, said_by, value, sure, at)
        SELECT id, treatment, :element, :step, :face, :scale, 'photo', :value, :sure, :at FROM burn WHERE id = :burn
        """,
        [
            {
                "burn": burn_id,
                "element": row["patch"],
                "step": step,
                "face": face,
                "at": at,
                "scale": scale,
                "value": value,
                "sure": row["confidence"],
            }
            for row in scores
            for scale, value in row["values"].items()
        ],
    )


def photo_values(db: sqlite3.Connection, burn_id: int, step: int | None = None) -> list[PhotoValues]:
    """What the photographs say of each element as the burn is judged, however sure they are of it; `step` as in
    `readings_of`."""
    found: dict[str, PhotoValues] = {}
    rows = db.execute(
        f"""
        SELECT element, scale, value, sure FROM reading_value
        WHERE burn_id = :burn AND said_by = 'photo' AND treatment = {_JUDGED_BY} AND step = coalesce(:step, {_OWN_STEP})
        """,
        {"burn": burn_id, "step": step},
    )
    for row in rows:
        of_element = found.setdefault(
            row["element"], {"patch": row["element"], "values": {}, "confidence": row["sure"]}
        )
        of_element["values"][row["scale"]] = row["value"]
    return list(found.values())


# Elements that count as read for a scale: a person has said it, or that one cannot tell, or the photographs are sure.
# It is what `core.reading.as_it_counts` would say, counted where a thousand burns need not be fetched for it.
READ = f"""
    own AS MATERIALIZED (
        SELECT asked.value AS burn_id, (
            SELECT revision_step.read_as
            FROM burn JOIN revision ON revision.id = burn.revision_id JOIN trial ON trial.id = revision.trial_id
                JOIN revision_step
                    ON revision_step.revision_id = revision.id AND revision_step.process = trial.process
            WHERE burn.id = asked.value ORDER BY revision_step.step LIMIT 1
        ) AS step
        FROM json_each(:burns) AS asked
    ),
    read AS (
        SELECT reading_value.burn_id, element FROM own JOIN reading_value USING (burn_id, step)
        WHERE scale = :outcome AND (said_by = 'person' OR sure >= :sure) AND treatment = {_JUDGED_BY}
        UNION
        SELECT reading.burn_id, element FROM own JOIN reading USING (burn_id, step)
        WHERE cannot_tell AND treatment = {_JUDGED_BY}
    )
"""


def read_by(burns: Iterable[int], outcome: str) -> Row:
    """What the parameters of `READ` are."""
    return {"burns": as_json(list(burns)), "outcome": outcome, "sure": SURE}


def count_read(db: sqlite3.Connection, burn_id: int) -> int:
    """Of how many elements of a burn something is known by reading."""
    row = db.execute(
        """
        SELECT count(*) AS elements FROM (
            SELECT element FROM reading WHERE burn_id = :burn
            UNION SELECT element FROM reading_value WHERE burn_id = :burn AND said_by = 'photo' AND sure >= :sure
        )
        """,
        {"burn": burn_id, "sure": SURE},
    ).fetchone()
    return int(row["elements"])
