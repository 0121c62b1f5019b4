"""Photographs of burned plates: brought in, read, put right, taken away.

Reading loads much of SciPy and takes about a second, so what reads is imported when it is first needed, and one
photograph is read after the other.
"""

from __future__ import annotations

import re
import sqlite3
import threading
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

from rezept.actions.frozen import frozen_plate
from rezept.actions.open_shop import Shop
from rezept.actions.people import Member, require
from rezept.actions.planning import log_trial, plate_code
from rezept.core.errors import InvalidInput, NotFound, WhichOne
from rezept.core.fields import Fields
from rezept.core.plan import Plate
from rezept.core.reading import SURE, deciding_face
from rezept.formats.photo_file import Picture, read_photo
from rezept.formats.photo_traces import can_be_taken_apart, without_traces
from rezept.store import burns as burn_table
from rezept.store import photos as photo_table
from rezept.store import trials as trial_table
from rezept.store.errors import Stale
from rezept.store.rows import Row

if TYPE_CHECKING:
    from rezept.core.photo.readings import FaceRead

_READING = threading.Lock()
_CODE = re.compile(r"REZEPT:(?P<code>[0-9A-Z]+-T(?P<number>\d+)\.(?P<revision>\d+))")
FEWEST_CORNERS, MOST_CORNERS = 4, 12


# A photo whose corners are moved is read again and again: the last ones stay decoded.
@lru_cache(maxsize=2)
def _decoded(path: Path) -> Picture:
    return read_photo(path.read_bytes(), "photo")


# Warping all of a photo takes half a second; what is looked at stays.
@lru_cache(maxsize=24)
def _flat(path: Path, pose: tuple[float, ...], size: tuple[int, int], width_mm: float, height_mm: float) -> bytes:
    import numpy as np

    from rezept.core.photo.pose import Pose
    from rezept.formats.flat_picture import flat_jpeg

    laid = Pose(np.array(pose[:9]).reshape(3, 3), pose[9], size)
    # Only here: what is looked at again does not wait for a photo that is being read.
    with _READING:
        whole = read_photo(path.read_bytes(), "photo", half=False)
        return flat_jpeg(whole.rgb, laid, width_mm, height_mm)


# --- bringing in ------------------------------------------------------------------------------------------


def bring_in(
    shop: Shop, by: Member, data: bytes, burn_id: int | None = None, face: str | None = None, read: bool = True
) -> Row:
    """Keep a photo untouched under its SHA-256, find the plate it shows, and read it.

    burn_id, face : which burn and face it is thought to be of; a plate's code in the picture knows better. Without
        a face the picture tells: the code is on the front.
    read : False leaves the reading for later

    Raises
    ------
    InvalidInput : it is no photo, or nothing says which plate it is of
    """
    require(by, "member", "add photos")
    if face not in (None, "front", "back"):
        raise InvalidInput("A plate has a front and a back.", "face", face)
    if not data:
        raise InvalidInput("The photo is empty.", "photo")
    with _READING:
        picture = read_photo(data, "photo")
        coded = _coded_burn(shop, picture, burn_id) if read else None
    if burn_id is None and coded is None:
        raise InvalidInput(
            "No plate's code is to be seen in this photo. Open its trial and drop it there, or take the whole front.",
            "photo",
        )
    target = burn_id if coded is None else coded
    assert target is not None
    if face is None or (coded is not None and coded != burn_id):
        face = "front" if coded is not None else _face_without_code(shop, target)
    with shop.database.reading() as db:
        trial_id = burn_table.burn(db, target)["trial_id"]
    sha256 = shop.photos.add(data)
    width, height = picture.size
    file = {"sha256": sha256, "media_type": picture.media_type, "bytes": len(data), "width": width, "height": height}
    with shop.database.writing() as db:
        photo_table.add_file(db, file, by.id, shop.now())
        photo_id = photo_table.attach(db, target, face, sha256, by.id, shop.now())
        log_trial(db, shop, by, trial_table.trial(db, trial_id), "added a photo to")
    if read:
        read_photo_of(shop, photo_id, picture=picture)
    with shop.database.reading() as db:
        return photo_table.photo(db, photo_id) | {"trial_id": trial_id, "moved": burn_id not in (None, target)}


def _coded_burn(shop: Shop, picture: Picture, thought: int | None) -> int | None:
    """The burn of the plate whose code is in the picture; None where there is no code.

    thought : which burn it is thought to be of; a plate that was burned several times carries one code on all

    Raises
    ------
    InvalidInput : two plates, another shop's, or one that was never burned
    WhichOne : it was burned several times, and nobody has said which this is
    """
    from rezept.actions.photo_reading import plate_codes

    codes = plate_codes(picture)
    if not codes:
        return None
    if len(codes) > 1:
        raise InvalidInput("There are two plates in this photo; take them one by one.", "photo")
    match = _CODE.fullmatch(codes[0].text)
    if match is None:
        raise InvalidInput("The code in this photo is none that Rezept made.", "photo")
    code, number, revision = match["code"], int(match["number"]), int(match["revision"])
    with shop.database.reading() as db:
        if plate_code(db, number, revision) != code:
            raise InvalidInput(f"This photo shows {code}, a plate of another shop.", "photo", code)
        trial_id = trial_table.id_of_number(db, number)
        burns = [] if trial_id is None else burn_table.burns_of_trial(db, trial_id)
    ours = [burn for burn in burns if burn["revision"] == revision]
    if not ours:
        raise InvalidInput(f"This photo shows {code}, and no burn of it was noted here.", "photo", code)
    if len(ours) == 1:
        return int(ours[0]["id"])
    if thought in [burn["id"] for burn in ours]:
        return thought
    raise WhichOne(
        f"{code} was burned {len(ours)} times. Which of them does this photo show?",
        "burn",
        [{"id": burn["id"], "at": burn["at"], "by_name": burn["by_name"], "lot": burn["lot"]} for burn in ours],
    )


def _face_without_code(shop: Shop, burn_id: int) -> str:
    """Which face a photo without a code shows: the back where the plate has a code that should be seen on its front."""
    with shop.database.reading() as db:
        plate = _plate_of_burn(db, burn_id)
        photos = photo_table.photos_of(db, burn_id)
    if any(mark.kind == "qr" for mark in plate.marks):
        return "back"
    front_there = any(photo["face"] == "front" for photo in photos)
    return "back" if front_there and plate.trial.process.key == "cut" else "front"


# --- reading ----------------------------------------------------------------------------------------------


def _plate_of_burn(db: sqlite3.Connection, burn_id: int) -> Plate:
    burn = burn_table.burn(db, burn_id)
    return frozen_plate(db, burn["revision_id"])


def read_photo_of(
    shop: Shop, photo_id: int, corners: list[dict[str, float]] | None = None, picture: Picture | None = None
) -> None:
    """Read a photo that is kept; what cannot be read is noted with its reason.

    corners : places somebody pointed at, as ``x_mm y_mm`` on the plate and ``x_px y_px`` in the upright photo
    picture : the photo, where it is decoded already
    """
    with shop.database.reading() as db:
        photo = photo_table.photo(db, photo_id)
        plate = _plate_of_burn(db, photo["burn_id"])
        others = photo_table.read_by(photo_table.photos_of(db, photo["burn_id"]))
    try:
        with _READING:
            picture = picture or _decoded(shop.photos.path(photo["sha256"]))
            face = _read(picture, photo, plate, others, corners)
    except FileNotFoundError:
        with shop.database.writing() as db:
            photo_table.keep_trouble(db, photo_id, "The file of this photo is missing; restore it from a backup.")
        return
    except InvalidInput as error:
        if corners is not None:
            raise
        with shop.database.writing() as db:
            photo_table.keep_trouble(db, photo_id, error.sentence)
        return
    laid = face.laid
    row = {
        "found_by": laid.found_by,
        "residual_mm": laid.residual_mm,
        "matrix": laid.pose.matrix.tolist(),
        "bow": laid.pose.bow,
        "sheet_mm": None if laid.sheet_mm is None else laid.sheet_mm.tolist(),
        "card": int(face.card),
        "doubts": list(laid.doubts),
    }
    figures = [{"patch": patch, **face.figures.row(i)} for i, patch in enumerate(plate.ids) if plate.burn[i]]
    with shop.database.writing() as db:
        photo_table.keep_read(db, photo_id, row, figures)
        _score_anew(shop, db, photo["burn_id"], plate)


def _read(
    picture: Picture, photo: Row, plate: Plate, others: dict[str, Row], corners: list[dict[str, float]] | None
) -> FaceRead:
    import numpy as np

    from rezept.actions.photo_reading import find_by_corners, find_plate, measure_face

    if corners is not None:
        mm, pixels = (np.array([[one[x], one[y]] for one in corners]) for x, y in (("x_mm", "y_mm"), ("x_px", "y_px")))
        laid = find_by_corners(plate, picture, photo["face"], mm, pixels)
    else:
        front = others.get("front")
        seen = front["sheet_mm"] if front and photo["face"] == "back" else None
        laid = find_plate(plate, picture, photo["face"], None if seen is None else np.array(seen))
    return measure_face(plate, picture, photo["face"], laid)


def _score_anew(shop: Shop, db: sqlite3.Connection, burn_id: int, plate: Plate) -> None:
    """Keep the scores that follow from the photos a burn is read by now."""
    rows = _scores(db, plate, photo_table.read_by(photo_table.photos_of(db, burn_id)))
    photo_table.put_scores(db, burn_id, deciding_face(plate.trial.process), rows, shop.now())


def _scores(db: sqlite3.Connection, plate: Plate, read_by: dict[str, Row]) -> list[Row]:
    """What photos, one a face, say of every patch."""
    from rezept.core.photo.figures import figures_of_rows
    from rezept.core.photo.readings import score_row
    from rezept.core.photo.score import scored

    face = deciding_face(plate.trial.process)
    seen = {side: figures_of_rows(plate, photo_table.figures(db, photo["id"])) for side, photo in read_by.items()}
    rows = []
    if seen:
        scores = scored(plate, seen.get("front"), seen.get("back"))
        doubted = face in read_by and bool(read_by[face]["doubts"])
        for i, patch in enumerate(plate.ids):
            if plate.burn[i]:
                row = score_row(scores, i, doubted)
                decided = row[plate.trial.process.outcome] is not None
                rows.append(row | {"patch": patch, "sure": int(decided and row["confidence"] >= SURE)})
    return rows


def read_next(shop: Shop) -> bool:
    """Read one of the photos nobody has tried yet; False where there is none."""
    with shop.database.reading() as db:
        waiting = photo_table.unread(db)
    if waiting:
        read_photo_of(shop, waiting[0])
    return bool(waiting)


def point(shop: Shop, by: Member, photo_id: int, edit: int, document: Any) -> Row:
    """Lay a plate on its photo by hand, by four corners or more, and read it anew; without any as if it had just come.

    Raises
    ------
    Stale : somebody has changed this photo since version `edit`
    """
    require(by, "member", "add photos")
    fields = Fields(document)
    corners = _corners(fields)
    fields.finish()
    with shop.database.reading() as db:
        photo = photo_table.photo(db, photo_id)
    if photo["edit"] != edit:
        raise Stale("this photo", photo, {"edit": edit})
    read_photo_of(shop, photo_id, corners or None)
    return _changed(shop, by, photo_id)


def _corners(fields: Fields) -> list[dict[str, float]]:
    corners = []
    items = fields.items("corners", [])
    if items and not FEWEST_CORNERS <= len(items) <= MOST_CORNERS:
        raise InvalidInput(f"A plate is laid by {FEWEST_CORNERS} to {MOST_CORNERS} corners.", "corners", len(items))
    for i, item in enumerate(items):
        one = Fields(item, f"corners[{i}]")
        corners.append({key: one.number(key, at_least=-1e5, at_most=1e5) for key in ("x_mm", "y_mm", "x_px", "y_px")})
        one.finish()
    return corners


def _changed(shop: Shop, by: Member, photo_id: int) -> Row:
    with shop.database.writing() as db:
        photo = photo_table.photo(db, photo_id)
        trial_id = burn_table.burn(db, photo["burn_id"])["trial_id"]
        log_trial(db, shop, by, trial_table.trial(db, trial_id), "put right a photo of")
        return photo | {"trial_id": trial_id, "moved": False}


def change(shop: Shop, by: Member, photo_id: int, edit: int, document: Any) -> Row:
    """Say that a photo was taken after cleaning, read the face by it, take it away or bring it back."""
    require(by, "member", "add photos")
    fields = Fields(document)
    with shop.database.writing() as db:
        photo = photo_table.photo(db, photo_id)
        cleaned, removed = fields.flag("cleaned", photo["cleaned"]), fields.flag("removed", photo["removed"])
        picked = fields.flag("picked", False)
        fields.finish()
        photo_table.change(db, photo_id, edit, cleaned, removed)
        if picked:
            photo_table.pick(db, photo_id)
        _score_anew(shop, db, photo["burn_id"], _plate_of_burn(db, photo["burn_id"]))
    return _changed(shop, by, photo_id)


# --- looking ----------------------------------------------------------------------------------------------


def handed_out(shop: Shop, by: Member, sha256: str, untouched: bool = False) -> tuple[str, bytes]:
    """The media type and the bytes of a photo as it was taken, without where and by what; `untouched` with it, for
    the keeper."""
    if untouched:
        require(by, "keeper", "see photos with what the phone wrote into them")
    with shop.database.reading() as db:
        row = photo_table.file(db, sha256)
    data = _bytes_of(shop, sha256)
    if untouched:
        return row["media_type"], data
    if can_be_taken_apart(row["media_type"]):
        return row["media_type"], without_traces(data, row["media_type"])
    from rezept.formats.flat_picture import upright_jpeg

    # What no browser shows is shown as one that every browser does.
    with _READING:
        return "image/jpeg", upright_jpeg(_decoded(shop.photos.path(sha256)).rgb)


def _bytes_of(shop: Shop, sha256: str) -> bytes:
    try:
        return shop.photos.path(sha256).read_bytes()
    except OSError as error:
        raise NotFound(
            "This photo is missing in the data folder; the keeper can restore it from a backup.", "photo"
        ) from error


def version_of(shop: Shop, photo_id: int) -> str:
    """What changes when the picture of a photo does."""
    with shop.database.reading() as db:
        photo = photo_table.photo(db, photo_id)
    return f"{photo['sha256'][:16]}-{photo['edit']}"


def flat(shop: Shop, photo_id: int) -> bytes:
    """The plate as it would be seen from straight above, a JPEG; the back is laid like the front, mirrored."""
    with shop.database.reading() as db:
        photo = photo_table.photo(db, photo_id)
        plate = _plate_of_burn(db, photo["burn_id"])
    if photo["matrix"] is None:
        raise NotFound("The plate was not found in this photo.", "photo")
    pose = (*(value for line in photo["matrix"] for value in line), photo["bow"])
    size = (photo["width"], photo["height"])
    return _flat(shop.photos.path(photo["sha256"]), pose, size, plate.width_mm, plate.height_mm)


def upright(shop: Shop, photo_id: int) -> bytes:
    """A photo as any browser shows it, to lay the plate on it by hand."""
    from rezept.formats.flat_picture import upright_jpeg

    with shop.database.reading() as db:
        photo = photo_table.photo(db, photo_id)
    with _READING:
        return upright_jpeg(_decoded(shop.photos.path(photo["sha256"])).rgb)


def measured(shop: Shop, burn_id: int, photo_id: int | None = None) -> Row:
    """What the photos a burn is read by show of each patch, by face, and the scores that follow.

    photo_id : another photo of it, to read its face by: how it looked before it was cleaned
    """
    with shop.database.reading() as db:
        burn_table.burn(db, burn_id)
        photos = photo_table.photos_of(db, burn_id)
        read_by = photo_table.read_by(photos)
        if photo_id is not None:
            asked = next((one for one in photos if one["id"] == photo_id and one["matrix"] is not None), None)
            if asked is None:
                raise NotFound("This burn has no such photo in which its plate was found.", "photo", photo_id)
            read_by[asked["face"]] = asked
        faces = {face: list(photo_table.figures(db, photo["id"]).values()) for face, photo in read_by.items()}
        stored = photo_id is None
        scores = photo_table.scores(db, burn_id) if stored else _scores(db, _plate_of_burn(db, burn_id), read_by)
    for rows in faces.values():
        for row in rows:
            del row["photo_id"]
    return {"front": faces.get("front", []), "back": faces.get("back", []), "scores": scores}
