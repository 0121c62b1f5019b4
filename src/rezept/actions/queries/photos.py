"""Photographs as they are looked at: handed out, flattened, and what they show of each patch."""

from __future__ import annotations

import sqlite3
from collections.abc import Collection

import numpy as np

from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.steps import asked_step
from rezept.core.errors import NotFound
from rezept.core.photo.handles import handles_of, plate_corners
from rezept.core.photo.pose import Pose
from rezept.core.plan import Plate
from rezept.core.process import Face
from rezept.core.reading import RULE, photo_counts
from rezept.core.scales import SAID_BY_PHOTOS
from rezept.formats.photo_file import FINE_PIXELS, Picture, read_photo
from rezept.formats.photo_traces import can_be_taken_apart, without_traces
from rezept.store import burns as burn_table
from rezept.store import photos as photo_table
from rezept.store import readings as reading_table
from rezept.store.photos import PhotoRow
from rezept.store.readings import PhotoValues
from rezept.store.rows import Row


def plate_of_burn(db: sqlite3.Connection, burn_id: int) -> Plate:
    burn = burn_table.burn(db, burn_id)
    return frozen_plate(db, burn["revision_id"])


def with_handles(plate: Plate, photo: PhotoRow) -> Row:
    """A photo with the places one can point at to lay its plate by hand, where they are in it, and where they would be
    were the plate turned round."""
    handles = handles_of(plate, photo["face"])
    sheet = plate_corners(plate) if photo["sheet_mm"] is None else np.array(photo["sheet_mm"])
    return {
        **photo,
        "other_rule": photo["matrix"] is not None and plate.trial.process.passes_through and photo["rule"] != RULE,
        "handles": {
            "on_marks": handles.on_marks,
            "places_mm": handles.places.tolist(),
            "turned_mm": handles.turned_round(sheet).tolist(),
            "at_px": None if photo["matrix"] is None else pose_of(photo).to_pixels(handles.places).tolist(),
        },
    }


def pose_of(photo: PhotoRow) -> Pose:
    """Of a photo in which the plate was found."""
    assert photo["k1"] is not None
    return Pose(np.array(photo["matrix"]), photo["k1"], (photo["width"], photo["height"]))


def photo_scores(
    db: sqlite3.Connection,
    plate: Plate,
    as_step: int,
    read_by: dict[Face, PhotoRow],
    gone: Collection[str] = (),
) -> list[PhotoValues]:
    """What photos, one a face, say of every patch of a plate judged by a step that is read under `as_step`; nothing of
    those whose piece is `gone`."""
    from rezept.core.photo.figures import figures_of_rows
    from rezept.core.photo.laid import place_doubted
    from rezept.core.photo.readings import score_row
    from rezept.core.photo.score import scored

    face = plate.trial.process.deciding_face
    stored = {side: photo_table.figures(db, photo["id"], as_step) for side, photo in read_by.items()}
    seen = {side: figures_of_rows(plate, rows) for side, rows in stored.items() if rows}
    rows: list[PhotoValues] = []
    if seen:
        pushed = {side for side, photo in read_by.items() if photo["pushed"]}
        scores = scored(plate, seen.get("front"), seen.get("back"), pushed)
        doubted = face in read_by and place_doubted(read_by[face]["doubts"])
        for i, patch in enumerate(plate.elements.ids):
            if plate.elements.burn[i] and patch not in gone:
                row = score_row(scores, i, doubted)
                values = {key: float(row[key]) for key in SAID_BY_PHOTOS if row.get(key) is not None}
                rows.append({"patch": patch, "values": values, "confidence": row["confidence"]})
    return rows


def handed_out(shop: Shop, by: Member, sha256: str, untouched: bool = False) -> tuple[str, bytes] | None:
    """The media type and the bytes of a photo as it was taken, without where and by what; `untouched` with it, for
    the keeper. None: no browser shows such a one, it has to be made into one that every browser does."""
    if untouched:
        require(by, "keeper", "see photos with what the phone wrote into them")
    with shop.database.reading() as db:
        row = photo_table.file(db, sha256)
    if untouched:
        return row["media_type"], bytes_of(shop, sha256)
    if can_be_taken_apart(row["media_type"]):
        return row["media_type"], without_traces(bytes_of(shop, sha256), row["media_type"])
    return None


def bytes_of(shop: Shop, sha256: str) -> bytes:
    try:
        return shop.photos.path(sha256).read_bytes()
    except OSError as error:
        raise NotFound(
            "The file of this photo is missing; the keeper can restore it from a backup.", "photo"
        ) from error


def picture_of(shop: Shop, sha256: str) -> Picture:
    """A photo decoded, no larger than finding a plate in it takes."""
    return shop.decoded.picture(sha256, lambda: bytes_of(shop, sha256))


def photo(shop: Shop, photo_id: int) -> PhotoRow:
    with shop.database.reading() as db:
        return photo_table.photo(db, photo_id)


def flat(shop: Shop, photo_id: int) -> bytes:
    """The plate as it would be seen from straight above, a JPEG; the back is laid like the front, mirrored."""
    from rezept.formats.flat_picture import flat_jpeg

    with shop.database.reading() as db:
        photo = must_be_found(photo_table.photo(db, photo_id))
        plate = plate_of_burn(db, photo["burn_id"])
    picture = read_photo(bytes_of(shop, photo["sha256"]), "photo", FINE_PIXELS)
    return flat_jpeg(picture.rgb, pose_of(photo).scaled(1 / picture.factor), plate.width_mm, plate.height_mm)


def must_be_found(photo: PhotoRow) -> PhotoRow:
    if photo["matrix"] is None:
        raise NotFound("The plate was not found in this photo.", "photo")
    return photo


def upright(shop: Shop, sha256: str) -> bytes:
    """A photo as any browser shows it."""
    from rezept.formats.flat_picture import upright_jpeg

    return upright_jpeg(picture_of(shop, sha256).rgb)


def measured(shop: Shop, burn_id: int, photo_id: int | None = None, step: int | None = None) -> Row:
    """What the photos a burn is read by show of each patch, by face, and the scores that follow; of one of several
    steps, counted from 1 (None: of what its trial set out to do).

    photo_id : another photo of it, to read its face by: how it looked before it was cleaned
    """
    with shop.database.reading() as db:
        burn_table.burn(db, burn_id)
        photos = photo_table.photos_of(db, burn_id)
        read_by = photo_table.read_by(photos)
        if photo_id is not None:
            shown = next((one for one in photos if one["id"] == photo_id and one["matrix"] is not None), None)
            if shown is None:
                raise NotFound("This burn has no such photo in which its plate was found.", "photo", photo_id)
            read_by[shown["face"]] = shown
        asked = asked_step(db, burn_id, step)
        as_step = asked.read_as
        faces = {face: list(photo_table.figures(db, photo["id"], as_step).values()) for face, photo in read_by.items()}
        plate = plate_of_burn(db, burn_id).of_step(asked.number)
        stored = photo_id is None
        scores = (
            reading_table.photo_values(db, burn_id, as_step) if stored else photo_scores(db, plate, as_step, read_by)
        )
    from rezept.core.photo.score import holding_mm

    outcome = plate.trial.process.outcome
    said = [{**one, "sure": photo_counts(one["values"], one["confidence"], outcome)} for one in scores]
    for rows in faces.values():
        for row in rows:
            del row["photo_id"], row["step"]
            row["holding_mm"] = holding_mm(row["bridge_mm"], row["open_outline"], row["open"])
    return {"front": faces.get("front", []), "back": faces.get("back", []), "scores": said}
