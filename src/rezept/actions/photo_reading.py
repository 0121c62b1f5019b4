"""Reading a plate from its photographs, without a shop."""

from __future__ import annotations

from typing import Any

import numpy as np

from rezept.core.errors import InvalidInput
from rezept.core.photo.find import Laid, NotFound, by_code, by_outline
from rezept.core.photo.measure import flatten, measure
from rezept.core.photo.readings import FaceRead, readings
from rezept.core.plan import Plate, plan, read_trial
from rezept.core.plan.marks import code_text
from rezept.formats.photo_file import Code, Picture, read_codes, read_photo


def plate_from(document: Any) -> Plate:
    """The plate of a plate file, planned again from the trial inside it."""
    if not isinstance(document, dict) or document.get("format") != "rezept-plate" or "trial" not in document:
        raise InvalidInput("This is not a plate file: its format should be 'rezept-plate'.", "format")
    return plan(read_trial(document["trial"]))


def _our_code(plate: Plate, codes: list[Code], face: str) -> Code | None:
    """The plate's code in the picture.

    Raises
    ------
    InvalidInput : there is another plate's code, or two
    """
    ours = [code for code in codes if code.text.startswith("REZEPT:")]
    if not ours:
        return None
    if len(ours) > 1:
        raise InvalidInput("There are two plates in this photo; take them one by one.", face)
    if plate.trial.code and ours[0].text != code_text(plate.trial.code):
        raise InvalidInput(
            f"This photo shows {ours[0].text.removeprefix('REZEPT:')}, and the plate is {plate.trial.code}.", face
        )
    return ours[0]


def _laid(plate: Plate, picture: Picture, face: str) -> Laid:
    grey = picture.grey()
    try:
        if face == "front":
            code = _our_code(plate, read_codes(picture), face)
            if code is not None and any(mark.kind == "qr" for mark in plate.marks):
                return by_code(plate, grey, picture.rgb, code.corners)
        return by_outline(plate, grey, picture.rgb, mirrored=face == "back")
    except NotFound as error:
        raise InvalidInput(str(error), face) from error


def read_face(plate: Plate, data: bytes, face: str) -> FaceRead:
    """Find, flatten and measure one face; its pose is in pixels of the photograph itself."""
    picture = read_photo(data, face)
    laid = _laid(plate, picture, face)
    measured = measure(plate, flatten(picture.rgb, laid.pose, plate.width_mm, plate.height_mm))
    pose = laid.pose.scaled(picture.factor)
    whole = type(pose)(np.asarray(pose.matrix / pose.matrix[2, 2], np.float64), pose.bow, picture.size)
    return FaceRead(face, Laid(whole, laid.found_by, laid.residual_mm, laid.doubts), measured)


def read_plate(plate: Plate, photos: dict[str, bytes]) -> tuple[dict[str, Any], list[str]]:
    """The readings of a plate from the photographs of its faces, and what could not be read.

    Raises
    ------
    InvalidInput : none of them can be read
    """
    faces: list[FaceRead] = []
    failed: list[InvalidInput] = []
    for face, data in photos.items():
        try:
            faces.append(read_face(plate, data, face))
        except InvalidInput as error:
            failed.append(error)
    if not faces:
        raise failed[0]
    return readings(plate, faces), [error.sentence for error in failed]
