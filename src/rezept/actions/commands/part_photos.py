"""Photos of the part in the hand: its edge, as an eye judges it."""

from __future__ import annotations

from rezept.actions.commands.photos import forget, refuse_no_photo
from rezept.actions.commands.trial_log import log_trial
from rezept.actions.members import Member, require
from rezept.actions.open_shop import Shop
from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.photos import picture_of
from rezept.core.errors import InvalidInput, Refused
from rezept.store import burns as burn_table
from rezept.store import part_photos as part_table
from rezept.store import photos as photo_table
from rezept.store import trials as trial_table


def add_part_photo(shop: Shop, by: Member, burn_id: int, patch: str, data: bytes) -> int:
    """Keep a photo of the part a patch was cut as; returns its id.

    Raises
    ------
    InvalidInput : it is no photo, or there is no such patch; Refused : nothing of this process comes out of its sheet
    """
    require(by, "member", "add photos")
    refuse_no_photo(data)
    with shop.database.reading() as db:
        burn = burn_table.burn(db, burn_id)
        plate = frozen_plate(db, burn["revision_id"])
    if not plate.trial.process.passes_through:
        raise Refused("Only what is cut through comes out as a part.", "patch", patch)
    if patch not in plate.elements.ids:
        raise InvalidInput(f"The plate has no patch {patch}.", "patch", patch)
    sha256 = shop.photos.add(data)
    try:
        picture = picture_of(shop, sha256)
    except InvalidInput:
        forget(shop, sha256)
        raise
    width, height = picture.size
    file = {"sha256": sha256, "media_type": picture.media_type, "bytes": len(data), "width": width, "height": height}
    with shop.database.writing() as db:
        photo_table.add_file(db, file, by.id, shop.now())
        log_trial(db, shop, by, trial_table.trial(db, burn["trial_id"]), f"added a photo of {patch} to")
        return part_table.add(db, burn_id, patch, sha256, by.id, shop.now())


def remove_part_photo(shop: Shop, by: Member, photo_id: int, removed: bool) -> None:
    """Take a photo of a part away, or bring it back."""
    require(by, "member", "add photos")
    with shop.database.writing() as db:
        photo = part_table.one(db, photo_id)
        part_table.remove(db, photo_id, removed)
        trial = trial_table.trial(db, burn_table.burn(db, photo["burn_id"])["trial_id"])
        log_trial(db, shop, by, trial, f"{'took away' if removed else 'brought back'} a photo of {photo['patch']} of")
