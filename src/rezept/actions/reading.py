"""Reading a burned plate: scores by eye, and one photo a face."""

from __future__ import annotations

import io
from typing import Any

from PIL import Image, UnidentifiedImageError

from rezept.actions.burning import patch_of_burn
from rezept.actions.open_shop import Shop
from rezept.actions.people import Member, require
from rezept.actions.planning import log_trial
from rezept.core.errors import InvalidInput
from rezept.core.fields import Fields
from rezept.core.process import PROCESSES
from rezept.core.reading import deciding_face, read_scores
from rezept.store import burns as burn_table
from rezept.store import trials as trial_table
from rezept.store.rows import Row

LARGEST_PHOTO_BYTES = 40 * 1024 * 1024
MOST_PIXELS = 100_000_000
MEDIA_TYPES = {"JPEG": "image/jpeg", "PNG": "image/png"}


def score(shop: Shop, by: Member, burn_id: int, patch: str, edit: int, document: Any) -> Row:
    """Keep what a person says of one patch; returns the reading as stored.

    Raises
    ------
    Stale : somebody has read this patch since version `edit` (0: there was no reading)
    """
    require(by, "member", "score")
    with shop.database.writing() as db:
        frozen, _ = patch_of_burn(db, burn_id, patch)
        process = PROCESSES[frozen["process"]]
        scores = read_scores(Fields(document), process)
        face = deciding_face(process)
        burn_table.put_reading(db, burn_id, patch, face, edit, scores.document(), by.id, shop.now())
        log_trial(db, shop, by, trial_table.trial(db, frozen["trial_id"]), "scored")
        stored = burn_table.reading(db, burn_id, patch, face)
        assert stored is not None
        return stored


def _measured(data: bytes) -> tuple[str, int, int]:
    """Media type and size of a photo, after reading all of it: a torn file is found now, not later."""
    try:
        with Image.open(io.BytesIO(data), formats=tuple(MEDIA_TYPES)) as image:
            if image.width * image.height > MOST_PIXELS:
                raise InvalidInput(
                    f"This photo has {image.width} x {image.height} pixels; more than {MOST_PIXELS // 10**6} million.",
                    "photo",
                )
            image.load()
            return MEDIA_TYPES[image.format or ""], image.width, image.height
    except UnidentifiedImageError as error:
        raise InvalidInput("This is no photo I can read; take a JPEG or PNG.", "photo") from error
    except (OSError, SyntaxError, Image.DecompressionBombError) as error:
        raise InvalidInput("This photo is damaged or cut short; take it again.", "photo") from error


def attach_photo(shop: Shop, by: Member, burn_id: int, face: str, data: bytes) -> Row:
    """Keep a photo of one face of a burned plate, untouched, under its SHA-256."""
    require(by, "member", "add photos")
    if face not in ("front", "back"):
        raise InvalidInput("A plate has a front and a back.", "face", face)
    if not data:
        raise InvalidInput("The photo is empty.", "photo")
    if len(data) > LARGEST_PHOTO_BYTES:
        raise InvalidInput(f"A photo has at most {LARGEST_PHOTO_BYTES // 2**20} MiB.", "photo", len(data))
    media_type, width, height = _measured(data)
    with shop.database.reading() as db:
        trial_id = burn_table.burn(db, burn_id)["trial_id"]
    sha256 = shop.photos.add(data)
    photo = {"sha256": sha256, "media_type": media_type, "bytes": len(data), "width": width, "height": height}
    with shop.database.writing() as db:
        burn_table.add_photo(db, photo, by.id, shop.now())
        burn_table.attach_photo(db, burn_id, face, sha256, by.id, shop.now())
        log_trial(db, shop, by, trial_table.trial(db, trial_id), "added a photo to")
    return {"face": face, "sha256": sha256, "width": width, "height": height}


def photo(shop: Shop, sha256: str) -> tuple[Row, bytes]:
    with shop.database.reading() as db:
        row = burn_table.photo(db, sha256)
    return row, shop.photos.path(sha256).read_bytes()
