"""Reading a plate from its photographs, without a shop."""

from __future__ import annotations

from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.errors import InvalidInput
from rezept.core.photo.around import around_sheet
from rezept.core.photo.blank import Blank, blank_in
from rezept.core.photo.by_cuts import is_cut
from rezept.core.photo.card import CARD_TEXT, PLAIN_CURVE, CardRead, ground_lab_by_card, read_card
from rezept.core.photo.figures import figures_of
from rezept.core.photo.find import by_code, by_corners, by_outline, drawn_nearer, sheet_mm
from rezept.core.photo.flat import FINEST_MM, Photographed
from rezept.core.photo.laid import LAY_UNDER, ONE_SIDE, Laid, NotFound
from rezept.core.photo.measure import measure
from rezept.core.photo.readings import FaceRead, readings
from rezept.core.photo.score import gone_pieces
from rezept.core.plan import Plate
from rezept.core.plan.elements import box_corners
from rezept.core.plan.marks import code_text
from rezept.core.reading import PLACE_DOUBTFUL
from rezept.formats.flat_picture import flattened
from rezept.formats.photo_file import Code, Picture, read_photo

Floats = NDArray[np.float64]
OUR_CODES = "REZEPT:"
LEAST_PIXELS = 120_000
# Pixels to the millimetre below which a picture that was made smaller is looked at as fine as it is.
COARSE_PX_MM = 4.2


def plate_codes(picture: Picture, small_ones: bool) -> list[Code]:
    """The codes of plates in a picture, their corners in its pixels; others have nothing to say here.

    small_ones : where there is none look once more, as fine as the photograph is
    """
    codes = [code for code in picture.codes if code.text.startswith(OUR_CODES) and code.text != CARD_TEXT]
    if codes or not small_ones or picture.factor == 1:
        return codes
    smaller = picture.rgb.shape[1] / picture.finer.rgb.shape[1]
    return [replace(code, corners=(code.corners + 0.5) * smaller - 0.5) for code in plate_codes(picture.finer, False)]


def card_in(picture: Picture) -> CardRead | None:
    """The reference card, where there is one in the picture that can be trusted."""
    corners = next((code.corners for code in picture.codes if code.text == CARD_TEXT), None)
    return None if corners is None else read_card(picture.rgb, corners)


def blank_of(picture: Picture) -> Blank:
    """The piece beside the reference card in a picture, looked at as finely as the photograph is.

    Raises
    ------
    InvalidInput : there is no card, or no piece that is told from the ground
    """
    corners = next((code.corners for code in picture.codes if code.text == CARD_TEXT), None)
    if corners is None:
        raise InvalidInput(
            "The reference card is not to be seen in this photo: lay it beside the piece, its code up.", "photo"
        )
    fine = picture.finer
    finer = fine.rgb.shape[1] / picture.rgb.shape[1]
    return blank_in(fine.rgb, (corners + 0.5) * finer - 0.5)


def outline_in(data: bytes) -> dict[str, Any]:
    """The corners of the piece in a photo and its holes, mm from the lower left of the box around it, to a tenth."""
    blank = blank_of(read_photo(data, "photo"))
    low = blank.corners.min(axis=0)
    holes = blank.holes - [*low, 0.0]
    return {"outline": (blank.corners - low).round(1).tolist(), "holes": holes.round(1).tolist()}


def _our_code(plate: Plate, picture: Picture, face: str) -> Code | None:
    """The plate's code in the picture.

    Raises
    ------
    InvalidInput : there is another plate's code, or two
    """
    coded = any(mark.kind == "qr" for mark in plate.marks)
    ours = plate_codes(picture, small_ones=coded and face == "front")
    if not ours:
        return None
    if len(ours) > 1:
        raise InvalidInput("There are two plates in this photo; take them one by one.", face)
    if plate.trial.code and ours[0].text != code_text(plate.trial.code):
        raise InvalidInput(
            f"This photo shows {ours[0].text.removeprefix(OUR_CODES)}, and the plate is {plate.trial.code}.", face
        )
    if face == "back":
        raise InvalidInput("This is the front: the plate's code is on it.", face)
    return ours[0]


def find_plate(plate: Plate, picture: Picture, face: str, other: Laid | None = None) -> Laid:
    """Where the plate lies in a picture of one face; what the `other` face has shown of sheet and openings helps."""
    if picture.size[0] * picture.size[1] < LEAST_PIXELS:
        raise InvalidInput("This photo is too small to measure anything in it.", face)
    try:
        code = _our_code(plate, picture, face)
        if code is not None and any(mark.kind == "qr" for mark in plate.marks):
            return by_code(plate, picture.grey, picture.rgb, code.corners)
        return by_outline(plate, picture.grey, picture.rgb, face == "back", other)
    except NotFound as error:
        raise InvalidInput(str(error), face) from error


def find_finely(plate: Plate, picture: Picture, face: str, other: Laid | None = None) -> tuple[Picture, Laid]:
    """Where the plate lies, and the picture in which it does: as fine as the photograph is where that is needed."""
    laid = find_plate(plate, picture, face, other)
    middle = np.array([plate.width_mm / 2, plate.height_mm / 2])
    if picture.factor == 1 or laid.pose.px_per_mm(middle) >= COARSE_PX_MM:
        return picture, laid
    finer = picture.finer
    grey = None if is_cut(plate) else finer.grey
    return finer, drawn_nearer(plate, grey, finer.rgb, laid, finer.rgb.shape[1] / picture.rgb.shape[1])


def find_by_corners(plate: Plate, picture: Picture, face: str, mm: Floats, pixels: Floats) -> Laid:
    """Where the plate lies by places somebody pointed at, in pixels of the photograph itself."""
    try:
        return by_corners(plate, picture.grey, picture.rgb, mm, (pixels + 0.5) / picture.factor - 0.5)
    except NotFound as error:
        raise InvalidInput(str(error), face) from error


def measure_face(plate: Plate, picture: Picture, face: str, laid: Laid) -> FaceRead:
    """Flatten and measure a face that was found; its pose is in pixels of the photograph itself from now on."""
    card = card_in(picture)
    curve = PLAIN_CURVE if card is None else card.curve
    size = plate.width_mm, plate.height_mm
    if plate.trial.process.passes_through:
        # Of a cut only outlines and insides are looked at, not all of the plate.
        sheet = sheet_mm(plate) if laid.sheet_mm is None else laid.sheet_mm
        around = around_sheet(picture.rgb, laid.pose, sheet, size)
        measured, ground = measure(plate, Photographed(picture.rgb, laid.pose, curve, FINEST_MM), around)
    else:
        measured, ground = measure(plate, flattened(picture.rgb, laid.pose, *size, curve=curve))
    figures = figures_of(plate, measured, None if card is None else ground_lab_by_card(ground))
    shown = laid.pose.shows(box_corners(plate.elements.boxes)).all(axis=1)
    figures = figures.without(plate.elements.burn & ~shown, "outside")
    if ONE_SIDE in laid.doubts and laid.doubtful is not None:
        doubtful = np.zeros(len(plate.elements.burn), bool)
        doubtful[plate.elements.burn] = laid.doubtful
        figures = figures.flagged(doubtful, PLACE_DOUBTFUL)
    # A picture that was halved may have lost an odd pixel.
    pose = replace(laid.pose.scaled(picture.factor), size=picture.size)
    doubts = (*laid.doubts, LAY_UNDER) if measured.below_alike.any() else laid.doubts
    return FaceRead(face, replace(laid, pose=pose, doubts=doubts), figures, card is not None)


def read_face(plate: Plate, data: bytes, face: str, other: Laid | None = None) -> FaceRead:
    """Find, flatten and measure one face; `other` is the other face, where that was found already."""
    picture, laid = find_finely(plate, read_photo(data, face), face, other)
    return measure_face(plate, picture, face, laid)


def read_plate(plate: Plate, photos: dict[str, bytes]) -> tuple[dict[str, Any], list[str]]:
    """The readings of the step a plate is judged by from the photographs of its faces, and what could not be read.

    Raises
    ------
    InvalidInput : none of them can be read
    """
    faces: list[FaceRead] = []
    failed: list[InvalidInput] = []
    with ThreadPoolExecutor(len(photos) or 1) as pool:
        decoding = {face: pool.submit(read_photo, data, face) for face, data in photos.items()}
        measuring: list[Future[FaceRead]] = []
        other: Laid | None = None
        gone: frozenset[str] = frozenset()
        laid_by = plate.by_cut()
        # The front first: the outline it shows helps to lay the back. It is measured while the back is looked for.
        for face in sorted(photos, reverse=True):
            try:
                picture, laid = find_finely(laid_by, decoding[face].result(), face, other)
            except InvalidInput as error:
                failed.append(error)
                continue
            other = laid
            if face not in plate.trial.process.faces:
                continue
            if (
                face == "front"
                and laid_by.trial.judged != plate.trial.judged
                and not plate.trial.process.passes_through
            ):
                figures = measure_face(laid_by, picture, face, laid).figures
                gone = gone_pieces(plate.elements.ids, [figures.row(i)["open"] for i in range(len(plate.elements))])
            measuring.append(pool.submit(measure_face, plate, picture, face, laid))
        faces = [one.result() for one in measuring]
    if failed and not faces:
        raise failed[0]
    if not faces:
        raise InvalidInput("What stays on the sheet is read from a photo of its front.", "front")
    return readings(plate, faces, gone), [error.sentence for error in failed]
