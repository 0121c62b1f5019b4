"""The readings of a plate from its photographs, as `rezept-readings` has them."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rezept.core.photo.find import Laid
from rezept.core.photo.measure import Measured
from rezept.core.photo.score import ground_of, scored
from rezept.core.plan import Plate
from rezept.core.reading import deciding_face

FORMAT = "rezept-readings"
VERSION = 1
Floats = NDArray[np.float64]


@dataclass(frozen=True)
class FaceRead:
    """One face as it was read; `laid` in pixels of the photograph itself."""

    face: str
    laid: Laid
    measured: Measured

    def document(self) -> dict[str, Any]:
        pose = self.laid.pose
        return {
            "face": self.face,
            "residual_mm": round(self.laid.residual_mm, 4),
            "found_by": self.laid.found_by,
            "transform": pose.matrix.tolist(),
            "distortion": pose.bow,
            "doubts": list(self.laid.doubts),
        }


def _number(value: float, digits: int = 4) -> float | None:
    return None if math.isnan(value) else round(float(value), digits)


def _whole(value: float) -> int | None:
    return None if math.isnan(value) else int(value)


def readings(plate: Plate, faces: Sequence[FaceRead]) -> dict[str, Any]:
    """The document of everything that was read. A cut is decided by its back; what no face shows is null."""
    by_face: Mapping[str, FaceRead] = {one.face: one for one in faces}
    deciding = by_face.get(deciding_face(plate.trial.process)) or faces[0]
    seen = by_face.get("front") or faces[0]
    scores = {one.face: scored(plate, one.measured) for one in faces}
    decided, looked = scores[deciding.face], scores[seen.face]
    cut = plate.trial.process.key == "cut"
    assumed = ["ground_assumed"] if ground_of(plate)[1] else []
    patches = []
    for i, patch in enumerate(plate.ids):
        burned = bool(plate.burn[i])
        doubtful = ["place_doubtful"] if deciding.laid.doubts else []
        guessed = ["back_not_seen"] if cut and deciding.face != "back" else []
        patches.append(
            {
                "id": patch,
                "face": deciding.face,
                "burned": burned,
                "through": _whole(decided.through[i]) if cut and deciding.face == "back" else None,
                "char": None,
                "soot": None,
                "darkness": _whole(decided.darkness[i]),
                "evenness": _whole(decided.evenness[i]),
                "tags": [],
                "by": "photo",
                "confidence": _number(decided.confidence[i] * (0.5 if doubtful else 1.0), 3),
                "note": "",
                "ratio": _number(seen.measured.luminance[i]),
                "lightness": _number(looked.lab[i, 0], 2),
                "a": _number(looked.lab[i, 1], 2),
                "b": _number(looked.lab[i, 2], 2),
                "contrast": _number(looked.contrast[i], 2),
                "evenness_measured": _number(seen.measured.spread[i] / max(seen.measured.luminance[i], 1e-6)),
                "open_front": _number(by_face["front"].measured.open_inside[i]) if "front" in by_face else None,
                "open_back": _number(by_face["back"].measured.open_inside[i]) if "back" in by_face else None,
                "kerf_mm": None,
                "halo_mm": None,
                "flags": [*assumed, *doubtful, *guessed] if burned else [],
            }
        )
    return {
        "format": FORMAT,
        "version": VERSION,
        "plate": plate.document(),
        "faces": [one.document() for one in faces],
        "patches": patches,
    }
