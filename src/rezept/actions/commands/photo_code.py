"""Which burn and which face a photograph shows: by the plate's code, or by what is missing of it."""

from __future__ import annotations

import re

from rezept.actions.open_shop import Shop
from rezept.actions.queries.frozen import frozen_plate
from rezept.actions.queries.photos import plate_of_burn
from rezept.actions.queries.previews import plate_code
from rezept.core.errors import InvalidInput, WhichOne
from rezept.formats.photo_file import Picture
from rezept.store import burns as burn_table
from rezept.store import photos as photo_table
from rezept.store import trials as trial_table

_CODE = re.compile(r"REZEPT:(?P<code>[0-9A-Z]+-T(?P<number>\d{1,9})\.(?P<revision>\d{1,9}))")


def coded_burn(shop: Shop, picture: Picture, thought: int | None, face: str | None) -> int | None:
    """The burn of the plate whose code is in the picture; None where there is no code.

    thought : which burn it is thought to be of; a plate that was burned several times carries one code on all
    face : which it is thought to show; there is no code on the back

    Raises
    ------
    InvalidInput : two plates, another shop's, or one that was never burned
    WhichOne : it was burned several times, and nobody has said which this is
    """
    from rezept.actions.queries.photo_reading import plate_codes

    codes = plate_codes(picture, small_ones=face != "back")
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
        # A plate that grew beside what was burned still bears the code of that.
        ours = [burn for burn in burns if frozen_plate(db, burn["revision_id"]).trial.code == code]
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


def face_without_code(shop: Shop, burn_id: int) -> str:
    """Which face a photo without a code shows: the back where the plate has a code that should be seen on its front."""
    with shop.database.reading() as db:
        plate = plate_of_burn(db, burn_id)
        photos = photo_table.photos_of(db, burn_id)
    if any(mark.kind == "qr" for mark in plate.marks):
        return "back"
    front_there = any(photo["face"] == "front" for photo in photos)
    return "back" if front_there and plate.trial.process.passes_through else "front"
