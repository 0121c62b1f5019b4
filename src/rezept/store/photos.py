"""Photographs of plates: how each lies, what it shows of each patch, and the scores that follow."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Sequence
from typing import TypedDict

from rezept.core.process import PROCESSES, Face
from rezept.core.treatment import TreatmentKey
from rezept.store.rows import AnyRow, Row, as_json, changed_once, declared, found, plain_row

FIGURES = (
    "ratio", "lightness", "a", "b", "lightness_unsure", "contrast", "evenness", "banding", "open", "open_outline",
    "outline_unsure", "bridge_mm", "kerf_mm", "halo_mm", "soot", "edge_mm",
)  # fmt: skip
_PHOTOS = """
    SELECT plate_photo.id, burn_id, face, plate_photo.sha256, width, height, treatment, pushed, found_by, residual_mm,
           matrix, bow AS k1, sheet_mm, card, doubts, rule, trouble, picked, removed, plate_photo.edit, plate_photo.at,
           member.name AS by_name
    FROM plate_photo
    JOIN photo ON photo.sha256 = plate_photo.sha256
    JOIN member ON member.id = plate_photo.by_member
"""


_THROUGH = as_json([process.key for process in PROCESSES.values() if process.passes_through])


class PhotoRow(TypedDict):
    """A photo of a burn; where its plate was not found there is no `matrix`, and `trouble` says why."""

    id: int
    burn_id: int
    face: Face
    sha256: str
    width: int
    height: int
    treatment: TreatmentKey
    pushed: bool | None
    found_by: str | None
    residual_mm: float | None
    matrix: list[list[float]] | None
    k1: float | None
    sheet_mm: list[list[float]] | None
    card: bool
    doubts: list[str]
    rule: str
    trouble: str
    picked: int
    removed: bool
    reads: bool
    edit: int
    at: str
    by_name: str


def _photo(row: sqlite3.Row) -> PhotoRow:
    photo = plain_row(row, "matrix", "sheet_mm", "doubts")
    pushed = None if photo["pushed"] is None else bool(photo["pushed"])
    flags = {key: bool(photo[key]) for key in ("card", "removed")}
    return declared(PhotoRow, photo | flags | {"pushed": pushed, "reads": False})


def add_file(db: sqlite3.Connection, photo: AnyRow, by: int, at: str) -> None:
    """Remember a photo file; the same picture twice is one row."""
    db.execute(
        """
        INSERT INTO photo (sha256, media_type, bytes, width, height, by_member, at)
        VALUES (:sha256, :media_type, :bytes, :width, :height, :by, :at)
        ON CONFLICT (sha256) DO UPDATE SET width = excluded.width, height = excluded.height WHERE width = 0
        """,
        {**photo, "by": by, "at": at},
    )


def is_known(db: sqlite3.Connection, sha256: str) -> bool:
    return db.execute("SELECT 1 FROM photo WHERE sha256 = ?", (sha256,)).fetchone() is not None


def file(db: sqlite3.Connection, sha256: str) -> Row:
    row = db.execute(
        "SELECT sha256, media_type, bytes, width, height FROM photo WHERE sha256 = ?", (sha256,)
    ).fetchone()
    return dict(found(row, "such photo"))


def attach(db: sqlite3.Connection, burn_id: int, face: str, sha256: str, pushed: bool | None, by: int, at: str) -> int:
    """A photo of a face, of the piece as the burn is judged, unread; the one that is there already comes back and is
    picked anew. Returns its id."""
    db.execute(
        """
        INSERT INTO plate_photo (burn_id, face, sha256, pushed, treatment, by_member, at)
        SELECT id, :face, :sha256, :pushed, treatment, :by, :at FROM burn WHERE id = :burn
        ON CONFLICT (burn_id, face, sha256) DO UPDATE SET removed = 0, edit = edit + 1
        """,
        {"burn": burn_id, "face": face, "sha256": sha256, "pushed": pushed, "by": by, "at": at},
    )
    (photo_id,) = db.execute(
        "SELECT id FROM plate_photo WHERE burn_id = ? AND face = ? AND sha256 = ?", (burn_id, face, sha256)
    ).fetchone()
    pick(db, photo_id)
    return int(photo_id)


def pick(db: sqlite3.Connection, photo_id: int) -> None:
    """Read the face by this photo from now on."""
    db.execute(
        """
        UPDATE plate_photo SET picked = 1 + (
            SELECT max(other.picked) FROM plate_photo AS other WHERE other.burn_id = plate_photo.burn_id
        ) WHERE id = ?
        """,
        (photo_id,),
    )


def photo(db: sqlite3.Connection, photo_id: int) -> PhotoRow:
    row = db.execute(_PHOTOS + " WHERE plate_photo.id = ?", (photo_id,)).fetchone()
    own = _photo(found(row, f"photo {photo_id}"))
    own["reads"] = any(one["reads"] for one in photos_of(db, own["burn_id"]) if one["id"] == photo_id)
    return own


def photos_of(db: sqlite3.Connection, burn_id: int) -> list[PhotoRow]:
    """A burn's photos, front before back, of each face the one that was picked last first."""
    rows = db.execute(
        _PHOTOS + " WHERE burn_id = ? AND NOT removed ORDER BY face DESC, picked DESC, plate_photo.id DESC", (burn_id,)
    )
    photos = [_photo(row) for row in rows]
    judged = db.execute("SELECT treatment FROM burn WHERE id = ?", (burn_id,)).fetchone()
    for one in _reading(photos, judged["treatment"]) if judged else ():
        one["reads"] = True
    return photos


def _reading(photos: Iterable[PhotoRow], treatment: TreatmentKey) -> list[PhotoRow]:
    """Of each face the photo it is read by: the one picked last of those in which the plate was found, treated so.

    As burned a piece is read by a later photo where there is none of it as burned: it shows no less what fell out.
    """
    treated: dict[Face, PhotoRow] = {}
    later: dict[Face, PhotoRow] = {}
    for one in photos:
        if one["matrix"] is not None:
            (treated if one["treatment"] == treatment else later).setdefault(one["face"], one)
    return list(({**later, **treated} if treatment == "burned" else treated).values())


def read_by(photos: Iterable[PhotoRow]) -> dict[Face, PhotoRow]:
    """By face the photo it is read by."""
    return {one["face"]: one for one in photos if one["reads"]}


def set_size(db: sqlite3.Connection, sha256: str, width: int, height: int) -> None:
    db.execute("UPDATE photo SET width = ?, height = ? WHERE sha256 = ?", (width, height, sha256))


def unread(db: sqlite3.Connection, sha256: str | None = None) -> list[int]:
    """Photos nobody has tried to read yet: all, or those with these bytes."""
    rows = db.execute(
        """
        SELECT id FROM plate_photo
        WHERE matrix IS NULL AND trouble = '' AND NOT removed AND (:sha256 IS NULL OR sha256 = :sha256)
        ORDER BY id DESC
        """,
        {"sha256": sha256},
    )
    return [row["id"] for row in rows]


def by_another_rule(db: sqlite3.Connection, rule: str) -> list[int]:
    """Photos of cuts that were read by another rule, and that no recipe rests on; not those over which reading has
    failed since."""
    rows = db.execute(
        """
        SELECT plate_photo.id
        FROM plate_photo
        JOIN burn ON burn.id = plate_photo.burn_id
        JOIN revision ON revision.id = burn.revision_id
        JOIN trial ON trial.id = revision.trial_id
        WHERE matrix IS NOT NULL AND trouble = '' AND NOT removed AND rule <> :rule
            AND trial.process IN (SELECT value FROM json_each(:through))
            AND NOT EXISTS (SELECT 1 FROM evidence WHERE evidence.burn_id = plate_photo.burn_id)
        ORDER BY plate_photo.face = 'back', plate_photo.id
        """,
        {"rule": rule, "through": _THROUGH},
    )
    return [row["id"] for row in rows]


def keep_read(db: sqlite3.Connection, photo_id: int, laid: Row, figures: Sequence[Row]) -> None:
    """Where the plate lies in a photo, and the figures of its patches (`patch`, `step`, `FIGURES`, `flags`)."""
    values = {**laid, "id": photo_id} | {key: as_json(laid[key]) for key in ("matrix", "sheet_mm", "doubts")}
    db.execute(
        """
        UPDATE plate_photo
        SET found_by = :found_by, residual_mm = :residual_mm, matrix = :matrix, bow = :k1, sheet_mm = :sheet_mm,
            card = :card, doubts = :doubts, rule = :rule, trouble = '', edit = edit + 1
        WHERE id = :id
        """,
        values,
    )
    db.execute("DELETE FROM patch_figures WHERE photo_id = ?", (photo_id,))
    columns = ("photo_id", "patch", "step", *FIGURES, "flags")
    db.executemany(
        f"INSERT INTO patch_figures ({', '.join(columns)}) VALUES ({', '.join(':' + key for key in columns)})",
        [{**row, "photo_id": photo_id, "flags": as_json(row["flags"])} for row in figures],
    )


def keep_trouble(db: sqlite3.Connection, photo_id: int, trouble: str) -> None:
    """Why the plate was not found."""
    db.execute("UPDATE plate_photo SET trouble = ?, edit = edit + 1 WHERE id = ?", (trouble, photo_id))


def change(
    db: sqlite3.Connection, photo_id: int, edit: int, treatment: TreatmentKey, pushed: bool | None, removed: bool
) -> None:
    """
    Raises
    ------
    Stale : somebody has changed this photo since version `edit`
    """
    cursor = db.execute(
        "UPDATE plate_photo SET treatment = ?, pushed = ?, removed = ?, edit = edit + 1 WHERE id = ? AND edit = ?",
        (treatment, pushed, int(removed), photo_id, edit),
    )
    said = {"treatment": treatment, "pushed": pushed, "removed": removed}
    changed_once(cursor.rowcount, "this photo", photo(db, photo_id), said)


def figures(db: sqlite3.Connection, photo_id: int, step: int) -> dict[str, Row]:
    """The figures of a photo, by patch, of what is read under a step."""
    rows = db.execute("SELECT * FROM patch_figures WHERE photo_id = ? AND step = ?", (photo_id, step))
    return {row["patch"]: plain_row(row, "flags") for row in rows}


def looks(db: sqlite3.Connection, head_id: int | None, material_id: int | None, process: str | None) -> list[Row]:
    """Patches on the front photos that plates are read by, with where they stand; what goes through a sheet has no
    look."""
    rows = db.execute(
        """
        SELECT patch_figures.patch, patch_figures.lightness, patch_figures.a, patch_figures.b,
               patch_figures.lightness_unsure, patch_figures.flags, plate_photo.id AS photo_id,
               plate_photo.edit AS photo_edit, plate_photo.card, plate_photo.burn_id, burn.revision_id,
               revision.trial_id, trial.number, trial.head_id, trial.material_id, revision_step.process
        FROM patch_figures
        JOIN plate_photo ON plate_photo.id = patch_figures.photo_id
        JOIN burn ON burn.id = plate_photo.burn_id
        JOIN revision ON revision.id = burn.revision_id
        JOIN trial ON trial.id = revision.trial_id
        JOIN revision_step ON revision_step.revision_id = revision.id AND revision_step.step = patch_figures.step
        WHERE plate_photo.face = 'front' AND NOT plate_photo.removed AND patch_figures.lightness IS NOT NULL
            AND revision_step.process NOT IN (SELECT value FROM json_each(:through)) AND burn.taken_back_at IS NULL
            AND (:head IS NULL OR trial.head_id = :head)
            AND (:material IS NULL OR trial.material_id = :material)
            AND (:process IS NULL OR revision_step.process = :process)
            AND plate_photo.picked = (
                SELECT max(other.picked) FROM plate_photo AS other
                WHERE other.burn_id = plate_photo.burn_id AND other.face = 'front' AND NOT other.removed
                    AND other.matrix IS NOT NULL
            )
            AND NOT EXISTS (
                SELECT 1 FROM not_burned
                WHERE not_burned.burn_id = plate_photo.burn_id AND not_burned.patch = patch_figures.patch
            )
        """,
        {"head": head_id, "material": material_id, "process": process, "through": _THROUGH},
    )
    return [plain_row(row, "flags") for row in rows]
