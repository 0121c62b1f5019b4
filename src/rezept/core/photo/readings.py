"""The readings of a plate from its photographs, as `rezept-readings` has them."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from rezept.core.photo.figures import Figures, written
from rezept.core.photo.laid import Laid, place_doubted
from rezept.core.photo.score import Scored, scored
from rezept.core.plan import Plate
from rezept.core.reading import FORMAT, PLACE_DOUBTFUL, SCORED, SCORED_SOMETIMES, VERSION

UNSCORED = {**dict.fromkeys(SCORED), "confidence": None}
# A place that may be wrong halves what the scores there are worth.
DOUBTED = 0.5


@dataclass(frozen=True)
class FaceRead:
    """One face as it was read; `laid` in pixels of the photograph itself.

    card : the reference card was in the picture and undid the camera's tone curve
    """

    face: str
    laid: Laid
    figures: Figures
    card: bool = False

    def document(self) -> dict[str, Any]:
        pose = self.laid.pose
        return {
            "face": self.face,
            "residual_mm": round(self.laid.residual_mm, 4),
            "found_by": self.laid.found_by,
            "transform": pose.matrix.tolist(),
            "distortion": pose.k1,
            "card": self.card,
            "doubts": list(self.laid.doubts),
        }


def _whole(value: float) -> int | None:
    return None if np.isnan(value) else int(value)


def score_row(scores: Scored, i: int, doubted: bool) -> dict[str, Any]:
    """One patch's scores, None where there is none."""
    sure = scores.confidence[i] * (DOUBTED if doubted else 1.0)
    said = {key: _whole(getattr(scores, key)[i]) for key in SCORED}
    # What marks on a material usually do is not said of each.
    said |= {key: value for key in SCORED_SOMETIMES if (value := _whole(getattr(scores, key)[i])) is not None}
    return said | {"confidence": written(sure, 3)}


def readings(plate: Plate, faces: Sequence[FaceRead], gone: Collection[str] = ()) -> dict[str, Any]:
    """The document of everything that was read of the step a plate is judged by. A cut is decided by its back; what no
    face shows is null, and so is what was on pieces that are `gone`."""
    by_face: Mapping[str, FaceRead] = {one.face: one for one in faces}
    front, back = (by_face[face].figures if face in by_face else None for face in ("front", "back"))
    face = plate.trial.process.deciding_face
    decided = by_face.get(face)
    scores = scored(plate, front, back)
    seen = front or back
    assert seen is not None
    doubted = decided is not None and place_doubted(decided.laid.doubts)
    patches = []
    for i, patch in enumerate(plate.elements.ids):
        burned = bool(plate.elements.burn[i])
        flags = [*seen.flags[i], *(decided.figures.flags[i] if decided else ())]
        if burned and doubted:
            flags.append(PLACE_DOUBTFUL)
        if burned and decided is None:
            flags.append(f"{face}_not_seen")
        figures = seen.row(i)
        patches.append(
            {
                "id": patch,
                "face": face,
                "burned": burned,
                **(UNSCORED if patch in gone else score_row(scores, i, doubted)),
                "tags": [],
                "by": "photo",
                "note": "",
                **{key: figures[key] for key in ("ratio", "lightness", "a", "b", "contrast", "lightness_unsure")},
                "evenness_measured": figures["evenness"],
                "soot_measured": figures["soot"],
                **{key: figures[key] for key in ("banding", "edge_mm", "halo_mm")},
                "open_front": written(front.open[i]) if front else None,
                "open_back": written(back.open[i]) if back else None,
                "open_outline": written(back.open_outline[i]) if back else None,
                "outline_unsure": written(back.outline_unsure[i]) if back else None,
                "bridge_mm": written(back.bridge_mm[i]) if back else None,
                "kerf_mm": (back or seen).row(i)["kerf_mm"] if plate.trial.process.passes_through else None,
                "flags": list(dict.fromkeys(flags)) if burned else [],
            }
        )
    return {
        "format": FORMAT,
        "version": VERSION,
        "plate": plate.document(),
        **({} if len(plate.trial.steps) == 1 else {"step": plate.trial.step.name}),
        "faces": [one.document() for one in faces],
        "patches": patches,
    }
