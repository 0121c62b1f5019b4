"""Photographs of burned plates: brought in, read, put right, taken away."""

from __future__ import annotations

import sqlite3
from typing import Any

from rezept.actions.commands.photo_code import coded_burn, face_without_code
from rezept.actions.commands.reading_photos import Progress, read_photo_of, score_anew, unheard
from rezept.actions.commands.trial_log import log_trial
from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.photos import bytes_of, photo, picture_of, plate_of_burn, with_handles
from rezept.core.errors import InvalidInput, WhichOne
from rezept.core.fields import Fields
from rezept.core.reading import RULE
from rezept.core.treatment import TREATMENTS
from rezept.formats.photo_file import kind_of
from rezept.store import burns as burn_table
from rezept.store import photos as photo_table
from rezept.store import trials as trial_table
from rezept.store.errors import Stale
from rezept.store.photos import PhotoRow
from rezept.store.rows import Row

FEWEST_CORNERS, MOST_CORNERS = 4, 12


def take_in(shop: Shop, by: Member, data: bytes, burn_id: int | None = None, face: str | None = None) -> Row:
    """Keep the bytes of a photo under their SHA-256; what is to be done with it, for `bring_in_kept`.

    burn_id, face : which burn and face it is thought to be of

    Raises
    ------
    InvalidInput : by its first bytes it is no photo, or it is too large
    """
    require(by, "member", "add photos")
    if face not in (None, "front", "back"):
        raise InvalidInput("A plate has a front and a back.", "face", face)
    refuse_no_photo(data)
    if burn_id is not None:
        with shop.database.reading() as db:
            burn_table.burn(db, burn_id)
    return {"sha256": shop.photos.add(data), "burn": burn_id, "face": face}


def refuse_no_photo(data: bytes) -> None:
    """
    Raises
    ------
    InvalidInput : it is empty, or by its first bytes no photo
    """
    if not data:
        raise InvalidInput("The photo is empty.", "photo")
    kind_of(data)


def take_in_piece(shop: Shop, by: Member, data: bytes) -> Row:
    """Keep the bytes of a photo of a piece until its outline is read; what is to be done with it, for
    `outline_in_kept`."""
    require(by, "member", "add pieces")
    refuse_no_photo(data)
    return {"sha256": shop.photos.add(data)}


def outline_in_kept(shop: Shop, sha256: str) -> Row:
    """The outline of a piece in a photo with the reference card beside it; the photo is not kept any longer."""
    # Reading photos loads much; only those who bring one wait for it.
    from rezept.actions.queries.photo_reading import outline_in

    try:
        return outline_in(bytes_of(shop, sha256))
    finally:
        forget(shop, sha256)


def forget(shop: Shop, sha256: str) -> None:
    """Remove the bytes of a photo that stands in no record."""
    with shop.database.reading() as db:
        known = photo_table.is_known(db, sha256)
    if not known:
        shop.photos.remove(sha256)


def bring_in(
    shop: Shop,
    by: Member,
    data: bytes,
    burn_id: int | None = None,
    face: str | None = None,
    read: bool = True,
    pushed: bool | None = None,
) -> Row:
    """Take a photo in, find the plate it shows, and read it; `read` False leaves the reading for later.

    pushed : whether parts had been pushed out before it was taken; None: nobody has said
    """
    task = take_in(shop, by, data, burn_id, face)
    return bring_in_kept(shop, by, task["sha256"], burn_id, face, read, pushed=pushed)


def bring_in_kept(
    shop: Shop,
    by: Member,
    sha256: str,
    burn_id: int | None,
    face: str | None,
    read: bool = True,
    progress: Progress = unheard,
    pushed: bool | None = None,
) -> Row:
    """Find the plate a photo shows whose bytes are kept, and read it. One that is refused is not kept any longer.

    burn_id, face : which burn and face it is thought to be of; a plate's code in the picture knows better. Without
        a face the picture tells: the code is on the front.

    Raises
    ------
    InvalidInput : it is no photo, or nothing says which plate it is of
    """
    try:
        return _bring_in_kept(shop, by, sha256, burn_id, face, read, progress, pushed)
    except WhichOne:
        # Somebody is asked now; then it comes again.
        raise
    except InvalidInput:
        forget(shop, sha256)
        raise


def _bring_in_kept(
    shop: Shop,
    by: Member,
    sha256: str,
    burn_id: int | None,
    face: str | None,
    read: bool,
    progress: Progress,
    pushed: bool | None,
) -> Row:
    picture = picture_of(shop, sha256)
    progress(0.3)
    coded = coded_burn(shop, picture, burn_id, face) if read else None
    if burn_id is None and coded is None:
        raise InvalidInput(
            "No plate's code is to be seen in this photo. Open its trial and drop it there, or take the whole front.",
            "photo",
        )
    target = burn_id if coded is None else coded
    assert target is not None
    if face is None or (coded is not None and coded != burn_id):
        face = "front" if coded is not None else face_without_code(shop, target)
    width, height = picture.size
    file = {
        "sha256": sha256,
        "media_type": picture.media_type,
        "bytes": len(picture.data),
        "width": width,
        "height": height,
    }
    photo_id = _attached(shop, by, file, target, face, pushed)
    if read:
        read_photo_of(shop, photo_id, progress=progress)
    with shop.database.reading() as db:
        return _brought(db, photo_table.photo(db, photo_id), moved=burn_id not in (None, target))


def _brought(db: sqlite3.Connection, photo: PhotoRow, moved: bool) -> Row:
    """A photo that has come or was put right, as its page shows it.

    moved : its code says it is of another burn than it was brought to
    """
    burn = burn_table.burn(db, photo["burn_id"])
    plate = plate_of_burn(db, burn["id"])
    return {**with_handles(plate, photo), "trial_id": burn["trial_id"], "moved": moved}


def _attached(shop: Shop, by: Member, file: Row, burn_id: int, face: str, pushed: bool | None = None) -> int:
    with shop.database.writing() as db:
        photo_table.add_file(db, file, by.id, shop.now())
        photo_id = photo_table.attach(db, burn_id, face, file["sha256"], pushed, by.id, shop.now())
        trial_id = burn_table.burn(db, burn_id)["trial_id"]
        log_trial(db, shop, by, trial_table.trial(db, trial_id), "added a photo to")
    return photo_id


def keep_trouble(shop: Shop, by: Member, sha256: str, burn_id: int | None, face: str | None, sentence: str) -> None:
    """Keep a photo over which reading broke, and why: where it was attached already, else with the burn it was
    brought to, its size not known."""
    with shop.database.reading() as db:
        attached = photo_table.unread(db, sha256)
    for photo_id in attached:
        say_trouble(shop, photo_id, sentence)
    if attached or burn_id is None:
        return
    data = bytes_of(shop, sha256)
    file = {"sha256": sha256, "media_type": kind_of(data), "bytes": len(data), "width": 0, "height": 0}
    say_trouble(shop, _attached(shop, by, file, burn_id, face or "front"), sentence)


def say_trouble(shop: Shop, photo_id: int, sentence: str) -> None:
    with shop.database.writing() as db:
        photo_table.keep_trouble(db, photo_id, sentence)


def unread(shop: Shop) -> list[int]:
    """Photos that came unread and that nobody has tried to read."""
    with shop.database.reading() as db:
        return photo_table.unread(db)


def read_unread(shop: Shop, photo_id: int, progress: Progress = unheard) -> None:
    """Read a photo that came unread, unless that was done since it was asked for: read twice, it would change under the
    hands of whoever looks at it already."""
    now = photo(shop, photo_id)
    if now["matrix"] is None and now["trouble"] == "":
        read_photo_of(shop, photo_id, progress=progress)


def read_by_this_rule(shop: Shop, photo_id: int, progress: Progress = unheard) -> None:
    """Read a photo again that was read by another rule, unless that was done since it was asked for."""
    if photo(shop, photo_id)["id"] in by_another_rule(shop):
        read_photo_of(shop, photo_id, progress=progress, again=True)


def by_another_rule(shop: Shop) -> list[int]:
    """Photos of cuts that are to be read again: their scores are of another rule, and no recipe rests on them."""
    with shop.database.reading() as db:
        return photo_table.by_another_rule(db, RULE)


def point(shop: Shop, by: Member, photo_id: int, edit: int, document: Any) -> Row:
    """Lay a plate on its photo by hand, by four corners or more, and read it anew; without any as if it had just come.

    Raises
    ------
    Stale : somebody has changed this photo since version `edit`
    """
    corners = corners_of(shop, by, photo_id, edit, document)
    read_photo_of(shop, photo_id, corners or None)
    return _changed(shop, by, photo_id)


def corners_of(shop: Shop, by: Member, photo_id: int, edit: int, document: Any) -> list[dict[str, float]]:
    """The corners somebody points at, if they may and know the photo as it is."""
    require(by, "member", "add photos")
    fields = Fields(document)
    corners = _corners(fields)
    fields.finish()
    now = photo(shop, photo_id)
    if now["edit"] != edit:
        raise Stale("this photo", now, {"edit": edit})
    return corners


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
        return _brought(db, photo, moved=False)


def change(shop: Shop, by: Member, photo_id: int, edit: int, document: Any) -> Row:
    """Say how the piece had been treated when a photo was taken, or whether parts had been pushed out; read the face by
    it, take it away or bring it back."""
    require(by, "member", "add photos")
    fields = Fields(document)
    with shop.database.writing() as db:
        photo = photo_table.photo(db, photo_id)
        treatment = fields.choice("treatment", tuple(TREATMENTS), photo["treatment"])
        removed = fields.flag("removed", photo["removed"])
        pushed = fields.flag("pushed") if fields.data.get("pushed") is not None else photo["pushed"]
        fields.known.add("pushed")
        picked = fields.flag("picked", False)
        fields.finish()
        photo_table.change(db, photo_id, edit, treatment, pushed, removed)
        if picked:
            photo_table.pick(db, photo_id)
        score_anew(shop, db, photo["burn_id"])
    return _changed(shop, by, photo_id)
