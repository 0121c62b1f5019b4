"""Reading a photograph that is kept, and scoring its burn anew by what was read.

Reading loads much of SciPy and takes about a second, so what reads is imported when it is first needed.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from typing import TYPE_CHECKING, cast

from rezept.actions.commands.joining import join_evidence
from rezept.actions.open_shop import Shop
from rezept.actions.queries.photos import photo_scores, picture_of, plate_of_burn, pose_of
from rezept.actions.queries.steps import asked_step
from rezept.core.errors import InvalidInput, NotFound
from rezept.core.plan import Plate
from rezept.core.reading import RULE
from rezept.formats.photo_file import Picture
from rezept.store import photos as photo_table
from rezept.store import readings as reading_table
from rezept.store.photos import PhotoRow
from rezept.store.rows import Row

if TYPE_CHECKING:
    from rezept.core.photo.laid import FoundBy, Laid
    from rezept.core.photo.readings import FaceRead

Progress = Callable[[float], None]


def unheard(share: float) -> None:
    """Progress nobody listens to."""


def read_photo_of(
    shop: Shop,
    photo_id: int,
    corners: list[dict[str, float]] | None = None,
    progress: Progress = unheard,
    again: bool = False,
) -> None:
    """Read a photo that is kept; what cannot be read is noted with its reason.

    corners : places somebody pointed at, as ``x_mm y_mm`` on the plate and ``x_px y_px`` in the upright photo
    again : it was read before, and where somebody laid it by hand it lies

    What somebody lays by hand while a photo is being read stays: nothing found without them is kept then.
    """
    by_hand = corners is not None
    with shop.database.reading() as db:
        photo = photo_table.photo(db, photo_id)
        plate = plate_of_burn(db, photo["burn_id"])
        front = photo_table.read_by(photo_table.photos_of(db, photo["burn_id"])).get("front")
        seen = photo_table.figures(db, front["id"]) if front and photo["face"] == "back" else {}
    try:
        picture = picture_of(shop, photo["sha256"])
        if photo["width"] == 0:
            with shop.database.writing() as db:
                photo_table.set_size(db, photo["sha256"], *picture.size)
        progress(0.4)
        front = front if photo["face"] == "back" else None
        if again and photo["found_by"] == "corners":
            corners = _pointed_at(plate, photo)
        face = _read(picture, photo, plate, _as_laid(plate, front, seen) if front else None, corners)
        progress(0.9)
    except (InvalidInput, NotFound) as error:
        if corners is not None:
            raise
        with shop.database.writing() as db:
            if not _laid_meanwhile(db, photo):
                photo_table.keep_trouble(db, photo_id, error.sentence)
        return
    laid = face.laid
    row = {
        "found_by": laid.found_by,
        "residual_mm": laid.residual_mm,
        "matrix": laid.pose.matrix.tolist(),
        "k1": laid.pose.k1,
        "sheet_mm": None if laid.sheet_mm is None else laid.sheet_mm.tolist(),
        "card": int(face.card),
        "doubts": list(laid.doubts),
        "rule": RULE,
    }
    elements = plate.elements
    figures = [{"patch": patch, **face.figures.row(i)} for i, patch in enumerate(elements.ids) if elements.burn[i]]
    with shop.database.writing() as db:
        if not by_hand and _laid_meanwhile(db, photo):
            return
        photo_table.keep_read(db, photo_id, row, figures)
        score_anew(shop, db, photo["burn_id"], plate)


def _laid_meanwhile(db: sqlite3.Connection, begun: PhotoRow) -> bool:
    """Whether somebody laid a photo by hand since reading it had begun."""
    now = photo_table.photo(db, begun["id"])
    return now["edit"] != begun["edit"] and now["found_by"] == "corners"


def _as_laid(plate: Plate, photo: PhotoRow, figures: dict[str, Row]) -> Laid:
    """How a photo that was read before lies, as far as that helps to lay the other face."""
    import numpy as np

    from rezept.core.photo.laid import Laid

    burning = [patch for patch, burns in zip(plate.elements.ids, plate.elements.burn, strict=True) if burns]
    opened = [figures.get(patch, {}).get("open") for patch in burning]
    return Laid(
        pose_of(photo),
        cast("FoundBy", photo["found_by"]),
        photo["residual_mm"] or 0.0,
        tuple(photo["doubts"]),
        None if photo["sheet_mm"] is None else np.array(photo["sheet_mm"]),
        None if None in opened or not opened else np.array(opened, float),
    )


def _pointed_at(plate: Plate, photo: PhotoRow) -> list[dict[str, float]]:
    """The plate's corners where somebody laid them."""
    from rezept.core.photo.handles import plate_corners

    places = plate_corners(plate)
    pixels = pose_of(photo).to_pixels(places)
    return [
        {"x_mm": x_mm, "y_mm": y_mm, "x_px": x_px, "y_px": y_px}
        for (x_mm, y_mm), (x_px, y_px) in zip(places.tolist(), pixels.tolist(), strict=True)
    ]


def _read(
    picture: Picture,
    photo: PhotoRow,
    plate: Plate,
    other: Laid | None,
    corners: list[dict[str, float]] | None,
) -> FaceRead:
    import numpy as np

    from rezept.actions.queries.photo_reading import find_by_corners, find_finely, measure_face

    if corners is not None:
        mm, pixels = (np.array([[one[x], one[y]] for one in corners]) for x, y in (("x_mm", "y_mm"), ("x_px", "y_px")))
        laid = find_by_corners(plate, picture, photo["face"], mm, pixels)
    else:
        picture, laid = find_finely(plate, picture, photo["face"], other)
    return measure_face(plate, picture, photo["face"], laid)


def score_anew(shop: Shop, db: sqlite3.Connection, burn_id: int, plate: Plate) -> None:
    """Keep the scores that follow from the photos a burn is read by now: of what its trial set out to do."""
    rows = photo_scores(db, plate, photo_table.read_by(photo_table.photos_of(db, burn_id)))
    reading_table.put_photo_values(
        db, burn_id, asked_step(db, burn_id).read_as, plate.trial.process.deciding_face, rows, shop.now()
    )
    join_evidence(db, shop, burn_id)
