"""Reading a photograph that is kept, and scoring its burn anew by what was read.

Reading loads much of SciPy and takes about a second, so what reads is imported when it is first needed.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, cast

from rezept.actions.commands.joining import join_evidence
from rezept.actions.open_shop import Shop
from rezept.actions.queries.photos import photo_scores, picture_of, plate_of_burn, pose_of
from rezept.core.errors import InvalidInput, NotFound
from rezept.core.plan import Plate
from rezept.core.process import PROCESSES, Face
from rezept.core.reading import RULE
from rezept.formats.photo_file import Picture
from rezept.store import burns as burn_table
from rezept.store import photos as photo_table
from rezept.store import readings as reading_table
from rezept.store import trials as trial_table
from rezept.store.photos import PhotoRow
from rezept.store.rows import Row
from rezept.store.trials import RevisionStep

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
        steps = trial_table.steps_of(db, burn_table.burn(db, photo["burn_id"])["revision_id"])
        cut = next((one for one in steps if PROCESSES[one["process"]].passes_through), None)
        plate = plate.by_cut()
        front = photo_table.read_by(photo_table.photos_of(db, photo["burn_id"])).get("front")
        as_cut = 1 if cut is None else cut["read_as"]
        seen = photo_table.figures(db, front["id"], as_cut) if front and photo["face"] == "back" else {}
    try:
        picture = picture_of(shop, photo["sha256"])
        if photo["width"] == 0:
            with shop.database.writing() as db:
                photo_table.set_size(db, photo["sha256"], *picture.size)
        progress(0.4)
        front = front if photo["face"] == "back" else None
        if again and photo["found_by"] == "corners":
            corners = _pointed_at(plate, photo)
        picture, laid = _found(picture, photo, plate, _as_laid(plate, front, seen) if front else None, corners)
        faces = _measured(picture, photo, plate, steps, laid)
        progress(0.9)
    except (InvalidInput, NotFound) as error:
        if corners is not None:
            raise
        with shop.database.writing() as db:
            if not _laid_meanwhile(db, photo):
                photo_table.keep_trouble(db, photo_id, error.sentence)
        return
    face = next(iter(faces.values()))
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
    figures = [
        {"patch": patch, "step": step, **of_step.figures.row(i)}
        for step, of_step in faces.items()
        for i, patch in enumerate(elements.ids)
        if elements.burn[i]
    ]
    with shop.database.writing() as db:
        if not by_hand and _laid_meanwhile(db, photo):
            return
        photo_table.keep_read(db, photo_id, row, figures)
        score_anew(shop, db, photo["burn_id"])


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


def _found(
    picture: Picture,
    photo: PhotoRow,
    plate: Plate,
    other: Laid | None,
    corners: list[dict[str, float]] | None,
) -> tuple[Picture, Laid]:
    """Where the plate lies, and the picture in which it does."""
    import numpy as np

    from rezept.actions.queries.photo_reading import find_by_corners, find_finely

    if corners is not None:
        mm, pixels = (np.array([[one[x], one[y]] for one in corners]) for x, y in (("x_mm", "y_mm"), ("x_px", "y_px")))
        return picture, find_by_corners(plate, picture, photo["face"], mm, pixels)
    return find_finely(plate, picture, photo["face"], other)


def _measured(
    picture: Picture, photo: PhotoRow, plate: Plate, steps: Sequence[RevisionStep], laid: Laid
) -> dict[int, FaceRead]:
    """What a photo shows, by the steps under which it is read; that of a back of what goes through only."""
    from rezept.actions.queries.photo_reading import measure_face

    read = {one["read_as"]: plate.of_step(one["read_as"] - 1) for one in steps}
    seen = {step: of for step, of in read.items() if photo["face"] in of.trial.process.faces} or read
    return {step: measure_face(of, picture, photo["face"], laid) for step, of in seen.items()}


def score_anew(shop: Shop, db: sqlite3.Connection, burn_id: int) -> None:
    """Keep the scores that follow from the photos a burn is read by now, of every step that is read by itself."""
    plate = plate_of_burn(db, burn_id)
    read_by = photo_table.read_by(photo_table.photos_of(db, burn_id))
    steps = trial_table.steps_of(db, burn_table.burn(db, burn_id)["revision_id"])
    for as_step in dict.fromkeys(one["read_as"] for one in steps):
        of_step = plate.of_step(as_step - 1)
        rows = photo_scores(db, of_step, as_step, read_by, gone=_gone(db, steps, as_step, read_by))
        face = of_step.trial.process.deciding_face
        reading_table.put_photo_values(db, burn_id, as_step, face, rows, shop.now())
    join_evidence(db, shop, burn_id)


def _gone(
    db: sqlite3.Connection, steps: Sequence[RevisionStep], as_step: int, read_by: dict[Face, PhotoRow]
) -> frozenset[str]:
    """Patches whose piece is no longer in its place where the front was photographed: what stayed on it is not seen."""
    cuts = [one["read_as"] for one in steps if PROCESSES[one["process"]].passes_through]
    front = read_by.get("front")
    if front is None or as_step in cuts:
        return frozenset()
    from rezept.core.photo.score import gone_pieces

    gone: frozenset[str] = frozenset()
    for cut in cuts:
        rows = photo_table.figures(db, front["id"], cut)
        gone |= gone_pieces(list(rows), [row["open"] for row in rows.values()])
    return gone
